import { availableParallelism } from 'node:os'
import { Piscina } from 'piscina'
import { shipOne, type ShipOrder, type ShipAnswer } from './shipOne.ts'

/** Builds figures and writes them, as many at a time as there are cores. */
export interface CrowdWorkers {
  ship(order: Omit<ShipOrder, 'kits'>): Promise<ShipAnswer>
  close(): Promise<void>
}

/** A thread takes about a second to start: fewer figures are built where we are. */
const WORTH_THREADS = 12

/** @param kits folders that each thread reads for itself */
export function openWorkers(kits: string[], figures: number): CrowdWorkers {
  const cores = availableParallelism()
  if (figures < WORTH_THREADS || cores < 2) {
    // one after another: each holds a whole figure in memory
    let last: Promise<unknown> = Promise.resolve()
    const ship = (order: Omit<ShipOrder, 'kits'>) => {
      const next = last.then(() => shipOne({ ...order, kits }))
      // whoever asked is told by `next`; here it only has to be over
      last = next.catch(() => undefined)
      return next
    }
    return { ship, close: () => Promise.resolve() }
  }
  const threads = new Piscina<ShipOrder, ShipAnswer>({
    filename: new URL('../bin/thread.mjs', import.meta.url).href,
    minThreads: 1,
    maxThreads: Math.min(cores, 8),
  })
  return {
    ship: (order) => threads.run({ ...order, kits }),
    close: () => threads.destroy(),
  }
}

import { availableParallelism } from 'node:os'
import { Piscina } from 'piscina'
import { shipOne, type ShipOrder, type ShipAnswer } from './shipOne.ts'

/** Builds figures and writes them, as many at a time as there are cores. */
export interface CrowdWorkers {
  ship(order: Omit<ShipOrder, 'kits'>): Promise<ShipAnswer>
  close(): Promise<void>
}

/**
 * A thread reads kits and warms up for itself, which takes as long as some hundred figures (on two cores 13.6 s and 0.03 s
 * a figure in threads, 6.7 s and 0.06 s without): fewer are built where we are.
 */
const WORTH_THREADS = 150
/** More threads than this want more memory than they save time. */
const MOST_THREADS = 8

/**
 * @param kits    folders that each thread reads for itself
 * @param threads how many of them; as it is worth it if absent
 */
export function openWorkers(kits: string[], figures: number, threads = worthIt(figures)): CrowdWorkers {
  if (threads < 2) {
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
  const pool = new Piscina<ShipOrder, ShipAnswer>({
    filename: new URL('../bin/thread.mjs', import.meta.url).href,
    minThreads: 1,
    maxThreads: threads,
  })
  return {
    ship: (order) => pool.run({ ...order, kits }),
    close: () => pool.destroy(),
  }
}

const worthIt = (figures: number) => (figures < WORTH_THREADS ? 1 : Math.min(availableParallelism(), MOST_THREADS))

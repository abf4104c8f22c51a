import { availableParallelism } from 'node:os'
import { setFlagsFromString } from 'node:v8'
import { Piscina } from 'piscina'
import type { Kits } from '@idle-tinker/core'
import { openShipper, type ShipAnswer, type ShipOne, type ShipOrder } from './shipOne.ts'

/** Builds figures and writes them, as many at a time as there are cores. */
export interface CrowdWorkers {
  ship: ShipOne
  close(): Promise<void>
}

/**
 * Each thread warms up for itself: 50 figures take as long in two threads as where we are (5.2 to 5.6 s), 100 take 6.6 to
 * 7.5 s instead of 7.9 to 8.7. Fewer than this are built where we are.
 */
const WORTH_THREADS = 80
/** How threads run that build hundreds of figures, each by the same long way that is walked in some 40 ms. */
const ENGINE = [
  // a tenth of a figure's time went into optimizing what was not hot enough to be worth it, in every thread anew
  '--interrupt-budget=400000',
  '--always-sparkplug',
  // what is optimized of a function made on the way is lost when all memory is cleared up: not every 30 figures (with what
  // is usual, crowds of 500 take half as long again)
  '--initial-old-space-size=128',
]
/**
 * How much a thread makes before it clears up what was made last, MB: three halves of 32. A figure makes some 15, so that
 * it is gone when that is cleared up: what is met by it twice grows old, and is cleared up with all memory alone.
 */
const YOUNG = 96
const THREAD = new URL('../bin/thread.mjs', import.meta.url)
/** More threads than this want more memory than they save time. */
const MOST_THREADS = 8

/**
 * @param kits    what the figures are made of; each thread gets them as they are
 * @param threads how many of them; as it is worth it if absent
 * @param file    what a thread runs
 */
export function openWorkers(kits: Kits, figures: number, threads = worthIt(figures), file = THREAD): CrowdWorkers {
  // a thread without a figure would start for nothing
  const count = Math.min(threads, figures)
  if (count < 2) {
    let shipper: Promise<ShipOne> | undefined
    // one after another: each holds a whole figure in memory
    let last: Promise<unknown> = Promise.resolve()
    const ship = (order: ShipOrder) => {
      const next = last.then(async () => (await (shipper ??= openShipper(kits)))(order))
      // whoever asked is told by `next`; here it only has to be over
      last = next.catch(() => undefined)
      return next
    }
    return { ship, close: () => Promise.resolve() }
  }
  // what is set holds for threads that start from now on
  for (const flag of ENGINE) setFlagsFromString(flag)
  // all at once: they start while it is still chosen who is in the crowd
  const pool = new Piscina<ShipOrder, ShipAnswer>({
    filename: file.href,
    minThreads: count,
    maxThreads: count,
    workerData: kits,
    resourceLimits: { maxYoungGenerationSizeMb: YOUNG },
  })
  let fault: Error | undefined
  // a thread that cannot start has no order yet by which it could be told
  pool.on('error', (error: Error) => {
    fault ??= error
    void pool.destroy()
  })
  return {
    ship: (order) =>
      pool.run(order).catch((error: unknown) => {
        // what had to wait was given up for it
        throw fault ?? error
      }),
    close: () => pool.destroy(),
  }
}

const worthIt = (figures: number) => (figures < WORTH_THREADS ? 1 : Math.min(availableParallelism(), MOST_THREADS))

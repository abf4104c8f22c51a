import { Bench } from 'tinybench'

/** How long one call takes: half of the calls took longer, and one in twenty. */
export interface Times {
  ms: number
  p95: number
}

/** How often those that are compared take turns, and for how long each, milliseconds. */
const TURNS = 30
const TURN = 50

/**
 * Works measured by turns: a shared machine is now twice as slow as a moment ago, and what is measured a second later
 * would be told a ratio that is the machine's. Each gets a short turn after the other, many times over.
 *
 * @returns the times of each over all turns; `ratioTo(i)` is the median over the turns of the first work's time by that
 *   of work i in the same turn
 */
export async function sideBySide(
  works: readonly (() => unknown)[],
): Promise<{ times: Times[]; ratioTo: (work: number) => number }> {
  for (const work of works) await turn(work, 4 * TURN)
  const turns: Times[][] = []
  for (let n = 0; n < TURNS; n++) {
    const taken: Times[] = []
    for (const work of works) taken.push(await turn(work, TURN))
    turns.push(taken)
  }
  return {
    times: works.map((_, i) => ({
      ms: median(turns.map((taken) => taken[i]!.ms)),
      p95: median(turns.map((taken) => taken[i]!.p95)),
    })),
    ratioTo: (work) => median(turns.map((taken) => taken[0]!.ms / taken[work]!.ms)),
  }
}

/** A work alone, for so long. */
export async function turn(work: () => unknown, time: number): Promise<Times> {
  const bench = new Bench({ time, warmup: false, iterations: 2, throws: true })
  bench.add('work', work)
  await bench.run()
  const { latency } = bench.tasks[0]!.result as unknown as { latency: { p50: number; p95?: number; p99: number } }
  return { ms: latency.p50, p95: latency.p95 ?? latency.p99 }
}

function median(values: number[]): number {
  const sorted = values.toSorted((a, b) => a - b)
  return sorted[sorted.length >> 1]!
}

import { wrap, type Remote } from 'comlink'
import type { Workshop } from './protocol'

const started: Partial<Record<'bench' | 'crowd', Remote<Workshop>>> = {}

/** The two workers: one for the figure under the hand, one for everything that comes in numbers. */
export function workshop(name: 'bench' | 'crowd'): Remote<Workshop> {
  started[name] ??= wrap<Workshop>(
    new Worker(new URL('./workshop.worker.ts', import.meta.url), { type: 'module', name }),
  )
  return started[name]
}

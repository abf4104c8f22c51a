import type { TestProject } from 'vitest/node'
import { startWorkshop } from '../workshop.ts'

export type Kept = Record<
  'figure' | 'mix' | 'target' | 'kept' | 'motion' | 'pose' | 'clip' | 'picks',
  { id: string; content: object }[]
>

declare module 'vitest' {
  interface ProvidedContext {
    address: string
    /** Its database, as a mysql:// address. */
    database: string
    /** The kits as they were sown: id to hash. */
    kits: Record<string, string>
    /** The documents as they were sown. */
    sown: Kept
  }
}

/** One workshop for all journeys; each of them finds it as it was sown (see `Journey.begin`). */
export default async function setup(project: TestProject): Promise<() => Promise<void>> {
  const workshop = await startWorkshop()
  const list = async <T>(path: string) => (await (await fetch(`${workshop.address}/api/${path}`)).json()) as T
  const of = async (kind: string) => list<{ id: string; content: object }[]>(`documents/${kind}`)
  project.provide('address', workshop.address)
  project.provide('database', workshop.database)
  project.provide(
    'kits',
    Object.fromEntries((await list<{ id: string; hash: string }[]>('kits')).map((k) => [k.id, k.hash])),
  )
  project.provide('sown', {
    figure: await of('figure'),
    mix: await of('mix'),
    target: await of('target'),
    kept: await of('kept'),
    motion: await of('motion'),
    pose: await of('pose'),
    clip: await of('clip'),
    picks: await of('picks'),
  })
  return () => workshop.stop()
}

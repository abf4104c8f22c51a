import { mkdtempSync, readdirSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { By, until } from 'selenium-webdriver'
import type { TestProject } from 'vitest/node'
import { startWorkshop } from '../workshop.ts'
import { openChromium } from './chromium.ts'

export type Kept = Record<
  'figure' | 'mix' | 'target' | 'kept' | 'motion' | 'pose' | 'clip' | 'picks',
  { id: string; content: object }[]
>

declare module 'vitest' {
  interface ProvidedContext {
    address: string
    /** A profile of the browser that has been at the workshop once. */
    profile: string
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
  const profile = await visited(workshop.address).catch(async (error: unknown) => {
    await workshop.stop()
    throw error
  })
  project.provide('profile', profile)
  return async () => {
    rmSync(profile, { recursive: true, force: true })
    await workshop.stop()
  }
}

/** Visits a workshop once, so that no journey has to wait for what every browser fetches and compiles at its first visit. */
async function visited(address: string): Promise<string> {
  const profile = mkdtempSync(join(tmpdir(), 'visited-'))
  const driver = await openChromium(profile, profile)
  try {
    // what is compiled is kept from the second time on
    for (let visit = 0; visit < 2; visit++) {
      await driver.get(`${address}/bench`)
      await driver.wait(until.elementLocated(By.css('[data-test="gauge-triangles"]')), 120_000)
    }
  } finally {
    await driver.quit()
  }
  // whose it was
  for (const file of readdirSync(profile)) if (file.startsWith('Singleton')) rmSync(join(profile, file))
  return profile
}

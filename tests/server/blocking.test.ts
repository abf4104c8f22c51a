import { randomBytes } from 'node:crypto'
import { zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { freePort } from '../../scripts/mariadb.mjs'
import { ask, crowdOf, maren, save, useWorkshop, type Row } from './api.ts'

/** The server never stands still longer than this, whatever it is sent, ms. */
const MOST = 50
let port = 0

beforeAll(async () => {
  port = await freePort()
  process.env.TINKER_LOOP_PORT = String(port)
  process.env.NODE_OPTIONS = `--import ${new URL('watchLoop.mjs', import.meta.url).href}`
})
useWorkshop()
beforeAll(() => void delete process.env.NODE_OPTIONS)
afterAll(() => void delete process.env.TINKER_LOOP_PORT)

/** How long the server has stood still at most since this was asked last, ms. */
const stood = async () => Number(await (await fetch(`http://127.0.0.1:${port}`)).text())

/**
 * How long the server stands still while something is done, ms: the least of some tries, as what it does
 * itself is the same every time, and clearing up memory may fall into one of them.
 */
async function standsStill(work: () => Promise<unknown>, tries = 3): Promise<number> {
  let least = Infinity
  for (let i = 0; i < tries; i++) {
    await new Promise((resolve) => setTimeout(resolve, 100))
    await stood()
    await work()
    least = Math.min(least, await stood())
    if (least < MOST) break
  }
  return least
}

const many = (n: number) => Array.from({ length: n }, (_, i) => ({ ...maren.content, name: `Quay ${i + 1}` }))
const zipped = (manifest: unknown, more: Record<string, Uint8Array> = {}) =>
  zipSync({ 'kit.json': new TextEncoder().encode(JSON.stringify(manifest)), ...more })

describe('the server answers all the while', () => {
  const cases: Record<string, () => Promise<unknown>> = {
    'it takes an order of two thousand figures, works on it and is told to stop': async () => {
      const { body, status } = await ask('/api/shipments', 'POST', crowdOf(many(2000)))
      expect(status).toBe(202)
      const { id } = body as { id: string }
      for (let i = 0; i < 100; i++) {
        if (((await ask(`/api/jobs/${id}`)).body as { done: number }).done > 1) break
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
      await ask(`/api/jobs/${id}/cancel`, 'POST')
    },
    'it makes and keeps the files of a crowd': async () => {
      const { id } = (await ask('/api/shipments', 'POST', crowdOf(many(20)))).body as { id: string }
      // how long it takes is not what is asked here
      for (let i = 0; i < 1200; i++) {
        const { state } = (await ask(`/api/jobs/${id}`)).body as { state: string }
        if (state === 'done') return
        await new Promise((resolve) => setTimeout(resolve, 50))
      }
      throw new Error('the job did not end')
    },
    'it refuses an order of three million empty figures': async () => {
      const text = JSON.stringify(crowdOf([])).replace('"recipes":[]', `"recipes":[${'{},'.repeat(3_000_000)}{}]`)
      expect((await ask('/api/shipments', 'POST', text)).status).toBe(422)
    },
    'it keeps a mix with its pinned figures': async () => {
      const [mix] = (await ask('/api/documents/mix')).body as Row<object>[]
      const pins = Object.fromEntries(many(1000).map((recipe, i) => [i, recipe]))
      const { status } = await ask(
        `/api/documents/mix/${mix!.id}`,
        'PUT',
        save(mix!.version, { ...mix!.content, pins }),
      )
      expect(status).toBe(200)
    },
    'it refuses a body of nested brackets': async () => {
      expect((await ask('/api/documents/mix', 'POST', '['.repeat(2_000_000))).status).toBe(400)
    },
    'it takes in a kit': async () => {
      const files = kitFiles('saltwick-folk')
      const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as object
      const zip = zipSync({
        ...Object.fromEntries(files),
        'kit.json': new TextEncoder().encode(
          JSON.stringify({ ...manifest, id: 'borrowed', kitVersion: `1.0.${Date.now() % 1000}` }),
        ),
      })
      expect((await ask('/api/kits?replace=true', 'POST', zip)).status).toBe(200)
    },
    'it refuses a kit of 650,000 empty parts': async () => {
      const parts = Array.from({ length: 650_000 }, () => ({}))
      expect((await ask('/api/kits', 'POST', zipped({ id: 'empty', parts }))).status).toBe(422)
    },
    'it refuses sixty megabytes of noise': async () => {
      expect((await ask('/api/kits', 'POST', new Uint8Array(randomBytes(60 << 20)))).status).toBe(422)
    },
    'it lists three hundred figures': async () => {
      for (let i = ((await ask('/api/documents/figure')).body as unknown[]).length; i < 300; i++)
        await ask('/api/documents/figure', 'POST', { ...maren.content, name: `Quay ${i}` })
      await stood()
      expect(((await ask('/api/documents/figure')).body as unknown[]).length).toBe(300)
    },
  }
  for (const [what, work] of Object.entries(cases))
    it(`while ${what}`, async () => {
      const time = await standsStill(work)
      expect(time).toBeLessThan(MOST)
    })

  it('and the watch sees it when it stands still', async () => {
    await stood()
    // however long a busy machine makes it wait for them
    expect(Number(await (await fetch(`http://127.0.0.1:${port}/100`)).text())).toBeGreaterThan(MOST)
  })
})

import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import type { Picks } from '@idle-tinker/core'
import { DressedFigure, Wardrobe, type ReadFile } from '../../packages/runtime/src/index.ts'
import { demoTarget, KITS_FOLDER } from '../../packages/core/src/testing/demoKits.ts'
import type { PackageReport } from '../../server/jobs/buildPicksTask.ts'
import { ask, save, useWorkshop, workshop, type Row } from './api.ts'

useWorkshop()

const loft = JSON.parse(readFileSync(join(KITS_FOLDER, 'lantern-tide/sail-loft.picks.json'), 'utf8')) as Picks
/** The second body alone, with two slots: built in seconds. */
const few: Picks = {
  ...loft,
  bodies: loft.bodies
    .slice(1)
    .map((b) => ({ ...b, slots: b.slots.filter((s) => ['eyes', 'neck'].includes(s.slot)), looks: [] })),
}
const target = demoTarget('near')

interface Job {
  state: string
  done: number
  result: PackageReport | null
  error: { code: string }[] | null
}

async function ended(id: string): Promise<Job> {
  for (let i = 0; i < 600; i++) {
    const job = (await ask(`/api/jobs/${id}`)).body as Job
    if (job.state !== 'waiting' && job.state !== 'running') return job
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error('the job did not end')
}
const order = async (picks: unknown) =>
  (await ask('/api/jobs/picks', 'POST', { picks, target })) as { status: number; body: { id: string } }

describe('picks on the server', () => {
  it('are documents of the workshop, with versions; what is none is refused', async () => {
    const { body } = await ask('/api/documents/picks')
    const [own] = body as Row<Picks>[]
    expect(own!.content).toEqual(loft)
    const changed = await ask(
      `/api/documents/picks/${own!.id}`,
      'PUT',
      save(own!.version, { ...loft, name: 'The loft' }),
    )
    expect(changed.status).toBe(200)
    expect((await ask(`/api/documents/picks/${own!.id}`, 'PUT', save(own!.version, loft))).status).toBe(409)
    expect((await ask('/api/documents/picks', 'POST', { ...loft, id: 'other', version: 9 })).status).toBe(422)
  })

  it('are built into a package that a game can open from here', async () => {
    const { status, body } = await order(few)
    expect(status).toBe(202)
    const events = await fetch(`${workshop.address}/api/jobs/${body.id}/events`)
    expect(await events.text()).toContain('"state":"done"')
    const job = await ended(body.id)
    expect([job.state, job.error]).toEqual(['done', null])
    const [ottern] = job.result!.bodies
    expect(ottern).toMatchObject({ id: 'ottern', over: [], tooMuch: [], unreachable: [], bare: [] })

    const read: ReadFile = async (path) => {
      const answer = await fetch(`${workshop.address}/api/jobs/${body.id}/files/${path}`)
      if (!answer.ok) throw new Error(String(answer.status))
      return answer.arrayBuffer()
    }
    const { wardrobe, told } = await Wardrobe.open(read)
    expect(told).toEqual([])
    const { figure } = await DressedFigure.open(wardrobe!, 'ottern')
    const triangles = ottern!.costs.find((c) => c.measure === 'triangles')!
    expect(figure!.costs.triangles).toBeGreaterThanOrEqual(triangles.least)
    expect(figure!.costs.triangles).toBeLessThanOrEqual(triangles.most)
    // and the zip holds what the routes give
    const zip = unzipSync(
      new Uint8Array(await (await fetch(`${workshop.address}/api/jobs/${body.id}/file`)).arrayBuffer()),
    )
    expect(Object.keys(zip)).toContain('package.json')
    expect(new Uint8Array((await read('ottern/neck.glb')) as ArrayBuffer)).toEqual(zip['ottern/neck.glb'])
    for (const odd of ['nothing.glb', '..%2f..%2fpackage.json', 'constructor', ''])
      expect((await ask(`/api/jobs/${body.id}/files/${odd}`)).status).toBe(404)
  })

  it('that cannot be built say why; an order that is none is refused', async () => {
    const start = {
      ...few,
      bodies: few.bodies.map((b) => ({ ...b, slots: b.slots.map((s) => ({ ...s, start: 'gone' })) })),
    }
    const { body } = await order(start)
    const job = await ended(body.id)
    expect([job.state, job.error!.map((p) => p.code)]).toEqual(['failed', ['start-unknown', 'start-unknown']])
    expect((await order({ ...few, version: 7 })).status).toBe(422)
    expect((await ask('/api/jobs/picks', 'POST', { picks: few })).status).toBe(422)
    expect((await ask('/api/jobs/picks', 'POST', '{"picks":')).status).toBe(400)
  })

  it('stop being built when they are canceled, though the work has no pause', async () => {
    const { body } = await order(loft)
    for (let i = 0; i < 300; i++) {
      const job = (await ask(`/api/jobs/${body.id}`)).body as Job
      if (job.state === 'running') break
      await new Promise((resolve) => setTimeout(resolve, 50))
    }
    await ask(`/api/jobs/${body.id}/cancel`, 'POST')
    expect((await ended(body.id)).state).toBe('canceled')
    // the next one need not wait for all of it: a step takes seconds, all of it most of a minute
    const before = Date.now()
    const next = await order(few)
    expect((await ended(next.body.id)).state).toBe('done')
    expect(Date.now() - before).toBeLessThan(45_000)
  })
})

import { randomBytes, randomUUID } from 'node:crypto'
import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { partIn, checkShipped, setPart } from '@idle-tinker/core'
import { ShippedFile } from '../../packages/core/src/ship/ShippedFile.ts'
import pointing from '../fixtures/clips/v1-pointing.clip.json'
import stroll from '../fixtures/motions/v1-quay-stroll.motion.json'
import { getBlob, putBlob } from '../../server/db/blobs.ts'
import { addJob, cancelJob, forgetJobs, getJob, putBackJob, requeueJobs, takeJob } from '../../server/db/jobs.ts'
import { database, select } from '../../server/db/pool.ts'
import type { ShipmentReport } from '../../server/jobs/shipmentReport.ts'
import { ask, crowdOf, maren, useWorkshop, workshop, type Figure } from './api.ts'

useWorkshop()

describe('blobs and jobs in the database', () => {
  it('keep bytes by content hash in chunks', async () => {
    const bytes = randomBytes(2_500_000)
    const hash = await putBlob(bytes)
    expect(await putBlob(bytes)).toBe(hash)
    expect((await getBlob(hash))!.equals(bytes)).toBe(true)
    expect(await select('SELECT COUNT(*) AS n FROM blob_chunks WHERE hash = ?', [hash])).toEqual([{ n: 3 }])
    expect(await getBlob('0'.repeat(64))).toBeNull()
  })

  it('give a waiting job to one taker only, and again after a restart', async () => {
    const id = await addJob('test-kind', '{"recipes":[]}', 1)
    const taken = await Promise.all([takeJob(), takeJob()])
    expect(taken.filter((t) => t?.id === id)).toHaveLength(1)
    expect(await requeueJobs()).toBeGreaterThanOrEqual(1)
    expect((await getJob(id))!.state).toBe('waiting')
    expect(await cancelJob(id)).toBe(true)
    expect(await cancelJob(id)).toBe(false)
    await database().query('DELETE FROM jobs WHERE id = ?', [id])
  })
})

describe('shipping a crowd', () => {
  const recipes = (n: number) =>
    Array.from({ length: n }, (_, i) => ({
      ...structuredClone(maren.content),
      name: `Quay ${i + 1}`,
      sliders: { build: i / n },
    }))
  const input = (n: number) => crowdOf(recipes(n), { pattern: '{name}-{target}' })

  async function wait(id: string) {
    for (let i = 0; i < 300; i++) {
      const job = (await ask(`/api/jobs/${id}`)).body as {
        state: string
        result: ShipmentReport
        error: unknown
      }
      if (job.state !== 'waiting' && job.state !== 'running') return job
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error('the job did not end')
  }

  it('makes a zip of checked GLBs in a worker thread, with progress as events', async () => {
    const { status, body } = await ask('/api/shipments', 'POST', input(3))
    expect(status).toBe(202)
    const { id } = body as { id: string }
    const events = await fetch(`${workshop.address}/api/jobs/${id}/events`)
    expect(events.headers.get('content-type')).toContain('text/event-stream')
    const seen = await events.text()
    expect(seen).toContain('"state":"done"')
    const job = await wait(id)
    expect(job.state).toBe('done')
    expect(job.result).toMatchObject({ files: 5, stayed: 0 })
    expect(job.result.pieces[0]!.figures).toHaveLength(3)
    expect(job.result.pieces[0]!.figures.every((r) => r.triangles <= 900)).toBe(true)
    const zip = unzipSync(new Uint8Array(await (await fetch(`${workshop.address}/api/jobs/${id}/file`)).arrayBuffer()))
    expect(Object.keys(zip).sort()).toEqual([
      ...['crowd.csv', 'crowd.json', 'quay-1-crowd.glb', 'quay-2-crowd.glb', 'quay-3-crowd.glb'],
    ])
    const table = JSON.parse(new TextDecoder().decode(zip['crowd.json'])) as {
      mix: null
      target: { id: string }
      variants: { file: string; costs: { bones: number }; nearest: { index: number; distance: number } }[]
    }
    expect(table.mix).toBeNull()
    expect(table.target.id).toBe('crowd')
    expect(table.variants.map((v) => v.file)).toEqual(['quay-1-crowd.glb', 'quay-2-crowd.glb', 'quay-3-crowd.glb'])
    // builds 0, 1/3, 2/3: the middle one is nearest to both its neighbours
    expect(table.variants.map((v) => v.nearest.index)).toEqual([1, 0, 1])
    expect(table.variants.every((v) => v.nearest.distance > 0 && v.costs.bones === 22)).toBe(true)
    const { facts, problems } = await checkShipped(zip['quay-2-crowd.glb']!)
    expect(problems).toEqual([])
    expect(facts).toMatchObject({ bones: 22, clips: ['Idle', 'Walk'] })
  })

  it('takes motions and clips of keys along beside the clips of its kits; one that cannot be read is refused', async () => {
    const { body } = await ask('/api/shipments', 'POST', { ...input(2), motions: [stroll], keyed: [pointing] })
    const { id } = body as { id: string }
    expect((await wait(id)).state).toBe('done')
    const zip = unzipSync(new Uint8Array(await (await fetch(`${workshop.address}/api/jobs/${id}/file`)).arrayBuffer()))
    const names = new ShippedFile(zip['quay-2-crowd.glb']!).clips().map((c) => c.name)
    expect(names).toEqual(['Idle', 'Walk', pointing.name, stroll.name])
    const odd = await ask('/api/shipments', 'POST', { ...input(1), motions: [{ ...stroll, data: '' }] })
    expect(odd.status).toBe(422)
    const late = await ask('/api/shipments', 'POST', { ...input(1), keyed: [{ ...pointing, duration: 0.2 }] })
    expect(late.status).toBe(422)
  })

  it('tells what is wrong with a recipe and makes no file', async () => {
    const [first] = recipes(1)
    const bad = { ...first!, ...setPart(first!, 'hat', { ...partIn(first!, 'hat')!, id: 'gone' }) }
    const order = crowdOf([bad])
    const { id } = (await ask('/api/shipments', 'POST', order)).body as { id: string }
    const job = await wait(id)
    expect(job.state).toBe('failed')
    expect(JSON.stringify(job.error)).toContain('gone')
    expect((await ask(`/api/jobs/${id}/file`)).status).toBe(404)
    const none = crowdOf([])
    expect((await ask('/api/shipments', 'POST', none)).status).toBe(422)
  })

  it('can be canceled', async () => {
    const { id } = (await ask('/api/shipments', 'POST', input(60))).body as { id: string }
    expect((await ask(`/api/jobs/${id}/cancel`, 'POST')).body).toMatchObject({ state: 'canceled' })
    expect((await wait(id)).state).toBe('canceled')
    expect((await ask(`/api/jobs/${randomUUID()}/cancel`, 'POST')).status).toBe(404)
  })

  it('stops the work itself when it is canceled, and leaves no file', async () => {
    const { id } = (await ask('/api/shipments', 'POST', input(1000))).body as { id: string }
    const done = async () => ((await ask(`/api/jobs/${id}`)).body as { done: number }).done
    for (let i = 0; i < 200 && (await done()) < 2; i++) await new Promise((resolve) => setTimeout(resolve, 50))
    const blobs = async () => Number((await select<{ n: number }>('SELECT COUNT(*) AS n FROM blobs'))[0]!.n)
    const before = await blobs()
    await ask(`/api/jobs/${id}/cancel`, 'POST')
    // the next order begins as soon as the thread is free: a thousand figures take longer than this on the fastest machine, one does not on the slowest
    const begin = Date.now()
    const { id: next } = (await ask('/api/shipments', 'POST', input(1))).body as { id: string }
    expect((await wait(next)).state).toBe('done')
    expect(Date.now() - begin).toBeLessThan(25_000)
    const full = await ask('/api/shipments', 'POST', input(1))
    await wait((full.body as { id: string }).id)
    expect(await ask(`/api/jobs/${id}`)).toMatchObject({ body: { state: 'canceled', resultHash: null } })
    // the same single figure twice: one file
    expect(await blobs()).toBe(before + 1)
  })

  it('of a kind that nobody knows fails in words', async () => {
    const id = await addJob('weave-nets', '{}', 1)
    await wait(((await ask('/api/shipments', 'POST', input(1))).body as { id: string }).id)
    expect((await wait(id)).error).toMatchObject([{ code: 'job-unknown' }])
  })

  it('that has ended with the workshop three times is not begun again', async () => {
    const id = await addJob('weave-nets', '{}', 1)
    const set = (state: string, attempts: number) =>
      database().query('UPDATE jobs SET state = ?, attempts = ? WHERE id = ?', [state, attempts, id])
    await set('running', 2)
    expect(await requeueJobs()).toBe(1)
    expect((await getJob(id))!.state).toBe('waiting')
    await set('running', 3)
    expect(await requeueJobs()).toBe(0)
    expect(await getJob(id)).toMatchObject({ state: 'failed', error: [{ code: 'job-given-up' }] })
    // stopped on purpose, it has not been an attempt
    await set('running', 3)
    await putBackJob(id)
    expect(await select('SELECT state, attempts FROM jobs WHERE id = ?', [id])).toEqual([
      { state: 'waiting', attempts: 2 },
    ])
    await database().query('UPDATE jobs SET state = ?, changed_at = NOW() - INTERVAL 8 DAY WHERE id = ?', [
      'failed',
      id,
    ])
    expect(await forgetJobs()).toBe(1)
    expect(await getJob(id)).toBeNull()
  })

  it('goes on after the server has been stopped in the middle of it', async () => {
    const { id } = (await ask('/api/shipments', 'POST', input(12))).body as { id: string }
    for (let i = 0; i < 200 && ((await ask(`/api/jobs/${id}`)).body as { done: number }).done < 2; i++)
      await new Promise((resolve) => setTimeout(resolve, 50))
    expect((await ask(`/api/jobs/${id}`)).body).toMatchObject({ state: 'running', total: 12 })
    await workshop.restart()
    const job = await wait(id)
    expect(job.state).toBe('done')
    expect(job.result.pieces[0]!.figures).toHaveLength(12)
    const zip = unzipSync(new Uint8Array(await (await fetch(`${workshop.address}/api/jobs/${id}/file`)).arrayBuffer()))
    expect(Object.keys(zip)).toHaveLength(14)
  })

  it('works off several orders one after another, each with its own files', async () => {
    const orders = await Promise.all(
      [1, 2, 3].map(async (n) => (await ask('/api/shipments', 'POST', { ...input(n), pattern: `${n}-{number}` })).body),
    )
    for (const [i, { id }] of (orders as { id: string }[]).entries()) {
      expect((await wait(id)).error).toBeNull()
      const file = await fetch(`${workshop.address}/api/jobs/${id}/file`)
      const names = Object.keys(unzipSync(new Uint8Array(await file.arrayBuffer()))).filter((n) => n.endsWith('.glb'))
      expect(names).toHaveLength(i + 1)
      expect(names.every((name) => name.startsWith(`${i + 1}-`))).toBe(true)
    }
  })

  it('of two bodies keeps both apart in its table', async () => {
    const figures = (await ask('/api/documents/figure')).body as Figure[]
    const ottern = figures.find((f) => f.content.body.id === 'ottern')!
    const { id } = (await ask('/api/shipments', 'POST', crowdOf([...recipes(2), ottern.content]))).body as {
      id: string
    }
    expect((await wait(id)).state).toBe('done')
    const file = await fetch(`${workshop.address}/api/jobs/${id}/file`)
    const zip = unzipSync(new Uint8Array(await file.arrayBuffer()))
    const table = JSON.parse(new TextDecoder().decode(zip['crowd.json'])) as { variants: { nearest: unknown }[] }
    expect(table.variants.map((v) => v.nearest !== null)).toEqual([true, true, false])
  })

  it('refuses orders whose mix, pattern or target is none', async () => {
    const mixed = { parcels: [{ kind: 'crowd', name: 'Odd', mix: { name: 'none' } }] }
    for (const wrong of [
      ...[mixed, { pattern: '{hat}' }, { folders: '{constructor}/{target}' }, { targets: [{ id: 'x' }] }],
      ...[{ lods: 'yes' }, { formats: ['fbx'] }, { parcels: [] }, { parcels: [{ kind: 'boat' }] }],
    ]) {
      const answer = await ask('/api/shipments', 'POST', { ...input(1), ...wrong })
      expect(answer.status).toBe(422)
      expect(answer.type).toContain('application/problem+json')
      expect(JSON.stringify(answer.body)).toContain(Object.keys(wrong)[0])
    }
  })
})

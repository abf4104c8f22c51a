import { unzipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { checkShipped, contentHash, type Mix } from '@idle-tinker/core'
import { demoTarget } from '../../packages/core/src/testing/demoKits.ts'
import { addJob, listJobs, requeueJobs } from '../../server/db/jobs.ts'
import { keepPiece, listPieces } from '../../server/db/jobPieces.ts'
import { getBlob, sweepBlobs } from '../../server/db/blobs.ts'
import { database, select } from '../../server/db/pool.ts'
import type { ShipmentAbout, ShipmentOrder } from '../../server/jobs/shipmentOrder.ts'
import type { ShipmentReport } from '../../server/jobs/shipmentReport.ts'
import { ask, maren, shipmentOf, useWorkshop, workshop, type Figure, type Row } from './api.ts'

useWorkshop()

interface Listed {
  id: string
  state: string
  about: ShipmentAbout
  files: number | null
  bytes: number | null
  stayed: number | null
}

const [crowd, far] = [demoTarget('crowd'), demoTarget('far')]
const figures = async () => (await ask('/api/documents/figure')).body as Figure[]
const mixes = async () => (await ask('/api/documents/mix')).body as Row<Mix>[]
const listed = async () => (await ask('/api/shipments')).body as Listed[]
const order = (more: Partial<ShipmentOrder> = {}) =>
  shipmentOf([{ kind: 'figure', of: maren.id, recipe: maren.content }], more)

async function wait(id: string) {
  for (let i = 0; i < 600; i++) {
    const job = (await ask(`/api/jobs/${id}`)).body as {
      state: string
      result: ShipmentReport | null
      error: { code: string; where: string }[] | null
    }
    if (job.state !== 'waiting' && job.state !== 'running') return job
    await new Promise((resolve) => setTimeout(resolve, 100))
  }
  throw new Error('the shipment did not end')
}

const send = async (o: object) => {
  const { status, body } = await ask('/api/shipments', 'POST', o)
  expect([status, body]).toMatchObject([202, {}])
  return (body as { id: string }).id
}
const fileOf = async (id: string) => {
  const answer = await fetch(`${workshop.address}/api/jobs/${id}/file`)
  return { name: answer.headers.get('content-disposition'), bytes: new Uint8Array(await answer.arrayBuffer()) }
}

describe('a shipment', () => {
  it('of figures and a crowd for two targets lies in folders by its pattern, and says what is in it', async () => {
    const [first, second] = await figures()
    const [mix] = await mixes()
    const small = { ...mix!.content, count: 3 }
    const id = await send(
      order({
        parcels: [
          { kind: 'figure', of: first!.id, recipe: first!.content },
          { kind: 'figure', of: second!.id, recipe: second!.content },
          { kind: 'crowd', of: mix!.id, name: small.name, mix: small },
        ],
        ...{ targets: [crowd, far], folders: '{target}/{crowd}', formats: ['glb', 'bvh'] },
      }),
    )
    const job = await wait(id)
    expect(job.error).toBeNull()
    const { name, bytes } = await fileOf(id)
    expect(name).toContain('for-the-quay.zip')
    const files = unzipSync(bytes)
    const paths = Object.keys(files)
    for (const { id: target } of [crowd, far]) {
      const own = paths.filter((p) => p.startsWith(`${target}/`))
      // two figures by themselves, three in the crowd's folder beside its tables
      expect(own.filter((p) => /^[^/]+\/[^/]+\.glb$/.test(p))).toHaveLength(2)
      expect(own.filter((p) => /^[^/]+\/quay-at-noon\/[^/]+\.glb$/.test(p))).toHaveLength(3)
      expect(own).toEqual(expect.arrayContaining(['json', 'csv'].map((e) => `${target}/quay-at-noon/crowd.${e}`)))
      expect(own.some((p) => p.endsWith('-walk.bvh'))).toBe(true)
    }
    const read = await checkShipped(files[paths.find((p) => /^crowd\/[^/]+\.glb$/.test(p))!]!)
    expect(read.problems).toEqual([])
    const list = JSON.parse(new TextDecoder().decode(files['shipment.json'])) as ShipmentReport['pieces']
    expect(list.map((p) => [p.name, p.target])).toEqual(
      [crowd, far].flatMap((t) => [first!.content.name, second!.content.name, small.name].map((n) => [n, t.name])),
    )
    for (const piece of list) for (const { file } of piece.figures) expect(paths).toContain(file)
    // in the list, by what it was then
    const row = (await listed()).find((r) => r.id === id)!
    expect(row).toMatchObject({ state: 'done', files: paths.length - 1, bytes: bytes.length, stayed: 0 })
    expect(row.about.parcels[0]).toEqual({
      ...{ kind: 'figure', name: first!.content.name, of: first!.id, hash: contentHash(first!.content) },
    })
    expect(Object.keys(row.about.kits)).toContain('saltwick-folk')
    // nothing of the way there is left
    expect(await listPieces(id)).toEqual([])
  })

  it('leaves without what cannot go, and says what stayed; where nothing can, it is refused', async () => {
    const gone = { ...maren.content, name: 'Nobody', body: { ...maren.content.body, id: 'nobody' } }
    const parcels = [
      { kind: 'figure' as const, recipe: gone },
      { kind: 'figure' as const, recipe: maren.content },
    ]
    const job = await wait(await send(order({ parcels })))
    expect(job.state).toBe('done')
    expect(job.result).toMatchObject({ files: 1, stayed: 1, pieces: [{ name: 'Nobody', files: 0 }, { files: 1 }] })
    expect(job.result!.pieces[0]!.problems.map((p) => p.severity)).toContain('error')
    const none = await wait(await send(order({ parcels: parcels.slice(0, 1), targets: [crowd, far] })))
    expect(none.state).toBe('failed')
    expect(none.error!.map((p) => p.where).join()).toContain(`Nobody, ${far.name}`)
  })

  it('says in the list that a figure left without a format it cannot have, and what workshop made it', async () => {
    const job = await wait(await send(order({ formats: ['glb', 'vrm'], targets: [far] })))
    expect(job.result).toMatchObject({ stayed: 0, partly: 1 })
    const [row] = await listed()
    expect(row).toMatchObject({ stayed: 0, partly: 1 })
    expect(row!.about.workshop).toMatch(/^\d+\.\d+\.\d+$/)
  })

  it('of more than a machine can hold is refused in words', async () => {
    const mix = { ...(await mixes())[0]!.content, count: 1000 }
    const parcels = Array.from({ length: 11 }, () => ({ kind: 'crowd' as const, name: 'Many', mix }))
    const { status, body } = await ask('/api/shipments', 'POST', order({ parcels }))
    expect([status, JSON.stringify(body).includes('11,000 figures')]).toEqual([422, true])
  })

  it('of two that would be called alike ships the first, and tells', async () => {
    const twice = [maren, maren].map(({ content }) => ({ kind: 'figure' as const, recipe: content }))
    const job = await wait(await send(order({ parcels: twice })))
    expect(job.result).toMatchObject({ files: 1, stayed: 1 })
    expect(job.result!.pieces[1]!.problems.at(-1)).toMatchObject({ code: 'names-clash' })
  })

  it('goes on after what was made, when it was stopped in the middle', async () => {
    const recipes = Array.from({ length: 12 }, (_, i) => ({ ...maren.content, name: `Quay ${i + 1}` }))
    const parcels = recipes.map((recipe) => ({ kind: 'figure' as const, recipe }))
    const id = await send(order({ parcels, formats: ['glb', 'dae'] }))
    for (let i = 0; i < 400 && (await listPieces(id)).length < 2; i++) await new Promise((r) => setTimeout(r, 20))
    await workshop.restart()
    const kept = await listPieces(id)
    expect(kept.length).toBeGreaterThanOrEqual(2)
    expect(kept.length).toBeLessThan(12)
    expect(await getBlob(kept[0]!.hash!)).not.toBeNull()
    // what was kept is taken, not made again: another file under its number is in the end
    const job = await wait(id)
    expect(job.result).toMatchObject({ stayed: 0 })
    expect(job.result!.pieces.map((p) => p.name)).toEqual(recipes.map((r) => r.name))
    expect(Object.keys(unzipSync((await fileOf(id)).bytes)).filter((n) => n.endsWith('.glb'))).toHaveLength(12)
    expect(await listPieces(id)).toEqual([])
  })

  it('takes up what lies beside it, and makes again what has lost its file', async () => {
    const parcels = [1, 2].map((n) => ({ kind: 'figure' as const, recipe: { ...maren.content, name: `Quay ${n}` } }))
    const id = await send(order({ parcels }))
    const made = await wait(id)
    const [one] = made.result!.pieces
    // the same again, its first piece there already, told of otherwise; its second without its file
    const text = JSON.stringify(await (await fetch(`${workshop.address}/api/jobs/${id}/order`)).json())
    const next = await addJob('ship', text, 2, { name: 'Again' })
    await keepPiece(next, 0, null, { ...one, name: 'Kept', files: 0, problems: [] })
    await keepPiece(next, 1, new Uint8Array([1, 2, 3]), { ...one, name: 'Lost' })
    const [, { hash }] = (await listPieces(next)) as [unknown, { hash: string }]
    await database().query('DELETE FROM blobs WHERE hash = ?', [hash])
    await send(order())
    const job = await wait(next)
    expect(job.result!.pieces.map((p) => p.name)).toEqual(['Kept', 'Quay 2'])
    expect(job.result).toMatchObject({ stayed: 1 })
  })

  it('leaves nothing of the way there when it is canceled', async () => {
    const parcels = Array.from({ length: 40 }, (_, i) => ({
      ...{ kind: 'figure' as const, recipe: { ...maren.content, name: `Quay ${i + 1}` } },
    }))
    const id = await send(order({ parcels }))
    for (let i = 0; i < 400 && (await listPieces(id)).length < 1; i++) await new Promise((r) => setTimeout(r, 20))
    await ask(`/api/jobs/${id}/cancel`, 'POST')
    // the next one begins when it has ended
    await wait(await send(order()))
    expect(await listPieces(id)).toEqual([])
    expect((await listed()).find((r) => r.id === id)).toMatchObject({ state: 'canceled', files: null })
    expect((await ask(`/api/jobs/${id}/file`)).status).toBe(404)
  })

  it('that was ordered by an earlier workshop is made as it was asked for', async () => {
    const old = { name: 'Pair', recipes: [maren.content], mix: null, target: crowd, pattern: '{name}-{target}', lods: false } // prettier-ignore
    const id = await addJob('ship-crowd', JSON.stringify(old), 1)
    await send(order())
    expect((await wait(id)).state).toBe('done')
    const { name, bytes } = await fileOf(id)
    expect(name).toContain('crowd.zip')
    expect(Object.keys(unzipSync(bytes)).sort()).toEqual(['crowd.csv', 'crowd.json', 'maren-quill-crowd.glb'])
    // it says nothing of itself: it is in no list
    expect((await listed()).some((r) => r.id === id)).toBe(false)
  })

  it('made in the browser is kept with its file, and forgotten when it is told so', async () => {
    const piece = {
      ...{ kind: 'figure', name: 'Maren Quill', target: crowd.name, files: 1, bytes: 3, withheld: false },
      ...{ passed: ['It stands.'], problems: [], figures: [] },
    }
    const file = { name: 'maren-quill.glb', base64: Buffer.from([1, 2, 3]).toString('base64') }
    const { status, body } = await ask('/api/shipments/kept', 'POST', { order: order(), pieces: [piece], file })
    expect(status).toBe(201)
    const { id } = body as { id: string }
    expect((await listed())[0]).toMatchObject({ id, state: 'done', files: 1, bytes: 3, stayed: 0 })
    expect(await fileOf(id)).toEqual({
      name: 'attachment; filename="maren-quill.glb"',
      bytes: new Uint8Array([1, 2, 3]),
    })
    await sweepBlobs(0)
    expect((await fileOf(id)).bytes).toHaveLength(3)
    // a recipe by itself has two endings
    const recipe = await ask('/api/shipments/kept', 'POST', { order: order(), pieces: [piece], file: { ...file, name: 'maren-quill.recipe.json' } }) // prettier-ignore
    expect(recipe.status).toBe(201)
    expect((await ask(`/api/jobs/${(recipe.body as { id: string }).id}`, 'DELETE')).status).toBe(204)
    for (const name of ['../x.glb', 'a"b.glb', 'x.glb\r\nset-cookie: a', ''])
      expect((await ask('/api/shipments/kept', 'POST', { order: order(), pieces: [piece], file: { ...file, name } })).status).toBe(422) // prettier-ignore
    expect((await ask(`/api/jobs/${id}`, 'DELETE')).status).toBe(204)
    expect((await ask(`/api/jobs/${id}`)).status).toBe(404)
    expect(await select('SELECT hash FROM blobs WHERE bytes = 3')).toEqual([])
    expect((await ask(`/api/jobs/${id}`, 'DELETE')).status).toBe(404)
  })

  it('that is over has nothing of the way there after the next start', async () => {
    const id = await addJob('ship', '{}', 1, { name: 'Stopped' })
    await keepPiece(id, 0, new Uint8Array([4, 5, 6]), {})
    await database().query("UPDATE jobs SET state = 'canceled' WHERE id = ?", [id])
    await requeueJobs()
    expect(await listPieces(id)).toEqual([])
    await sweepBlobs(0)
    expect(await select('SELECT hash FROM blobs WHERE bytes = 3')).toEqual([])
  })

  it('that is not over cannot be forgotten', async () => {
    const parcels = [{ kind: 'crowd' as const, name: 'Long', mix: { ...(await mixes())[0]!.content, count: 200 } }]
    const id = await send(order({ parcels }))
    expect((await ask(`/api/jobs/${id}`, 'DELETE')).status).toBe(409)
    await ask(`/api/jobs/${id}/cancel`, 'POST')
    expect((await ask(`/api/jobs/${id}`, 'DELETE')).status).toBe(204)
    expect((await listJobs('ship', 100)).some((r) => r.id === id)).toBe(false)
  })
})

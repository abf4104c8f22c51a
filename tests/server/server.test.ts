import { randomBytes, randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { request } from 'node:http'
import { unzipSync, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkShipped, partIn, setPart, type Mix, type Recipe, type Target } from '@idle-tinker/core'
import { demoTarget, kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { getBlob, putBlob } from '../../server/db/blobs.ts'
import { cancelJob, addJob, getJob, requeueJobs, takeJob } from '../../server/db/jobs.ts'
import { migrate } from '../../server/db/migrate.ts'
import { closeDatabase, database, select } from '../../server/db/pool.ts'
import { startWorkshop, type TestWorkshop } from '../workshop.ts'

interface Figure {
  id: string
  name: string
  version: number
  recipe: Recipe
}

let workshop: TestWorkshop
let maren: Figure

async function ask(
  path: string,
  method = 'GET',
  body?: unknown,
  headers: Record<string, string> = {},
): Promise<{ status: number; type: string; body: unknown }> {
  const init: RequestInit = { method, headers: { 'content-type': 'application/json', ...headers } }
  if (body !== undefined)
    init.body = typeof body === 'string' || body instanceof Uint8Array ? (body as BodyInit) : JSON.stringify(body)
  const answer = await fetch(`${workshop.address}${path}`, init)
  const text = await answer.text()
  let parsed: unknown = text
  try {
    parsed = JSON.parse(text)
  } catch {
    // not every answer is JSON
  }
  return { status: answer.status, type: answer.headers.get('content-type') ?? '', body: parsed }
}

/** A request with any Host header, which fetch does not allow. */
function askAs(host: string, headers: Record<string, string> = {}): Promise<number> {
  const { port } = new URL(workshop.address)
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port, path: '/api/figures', headers: { host, ...headers } }, (answer) => {
      answer.resume()
      resolve(answer.statusCode ?? 0)
    })
      .on('error', reject)
      .end()
  })
}

beforeAll(async () => {
  workshop = await startWorkshop()
  process.env.TINKER_DB = workshop.database
  maren = ((await ask('/api/figures')).body as Figure[])[0]!
})

afterAll(async () => {
  await closeDatabase()
  await workshop.stop()
})

describe('a fresh workshop', () => {
  it('holds Lantern Tide with Maren Quill first', async () => {
    expect(maren.name).toBe('Maren Quill')
    expect((await ask('/api/mixes')).body).toHaveLength(3)
    expect((await ask('/api/kits')).body).toHaveLength(2)
  })

  it('applies no migration twice and seeds nothing twice', async () => {
    expect(await migrate(`${process.cwd()}/server/db/migrations`)).toEqual([])
    await workshop.restart()
    expect((await ask('/api/figures')).body).toHaveLength(7)
  })

  it('serves kit files with their content hash, and nothing outside the kit', async () => {
    const answer = await fetch(`${workshop.address}/api/kits/saltwick-folk/parts/mug.glb`)
    expect(new Uint8Array(await answer.arrayBuffer())).toEqual(kitFiles('saltwick-folk').get('parts/mug.glb'))
    const again = await fetch(`${workshop.address}/api/kits/saltwick-folk/parts/mug.glb`, {
      headers: { 'if-none-match': answer.headers.get('etag')! },
    })
    expect(again.status).toBe(304)
    expect((await ask('/api/kits/saltwick-folk/..%2f..%2fpassword')).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/kits/saltwick-folk/gone.glb')).status).toBe(404)
  })
})

describe('figures', () => {
  it('are made, saved with a version each time, deleted and brought back', async () => {
    const made = (await ask('/api/figures', 'POST', { ...maren.recipe, name: 'Odd twin' })).body as Figure
    expect(made.version).toBe(1)
    const saved = await ask(`/api/figures/${made.id}`, 'PUT', {
      version: 1,
      recipe: { ...made.recipe, sliders: { build: 0.5 } },
    })
    expect(saved.body).toMatchObject({ version: 2, recipe: { sliders: { build: 0.5 } } })
    expect(await select('SELECT version FROM figure_versions WHERE figure_id = ? ORDER BY version', [made.id])).toEqual(
      [{ version: 1 }, { version: 2 }],
    )
    expect((await ask(`/api/figures/${made.id}`, 'DELETE')).status).toBe(200)
    expect((await ask(`/api/figures/${made.id}`)).status).toBe(404)
    expect(((await ask('/api/figures?deleted=true')).body as Figure[]).map((f) => f.id)).toContain(made.id)
    expect((await ask(`/api/figures/${made.id}/restore`, 'POST')).body).toMatchObject({ version: 2 })
  })

  it('of an older version are taken, and given back as of today; so are those that lie in their rows', async () => {
    const old = JSON.parse(
      readFileSync(new URL('../fixtures/v1/documents/odd-pellow.recipe.json', import.meta.url), 'utf8'),
    ) as { parts: Record<string, { id: string }> }
    const made = await ask('/api/figures', 'POST', old)
    expect(made.status).toBe(201)
    const { id, recipe } = made.body as Figure
    expect(recipe.version).toBe(2)
    const wore = Object.entries(old.parts).map(([slot, part]) => [slot, part.id])
    expect(recipe.parts.map((p) => [p.slot, p.part.id]).sort()).toEqual(wore.sort())
    // as an older workshop left it
    await database().query('UPDATE figures SET recipe = ? WHERE id = ?', [JSON.stringify(old), id])
    expect(((await ask(`/api/figures/${id}`)).body as Figure).recipe).toEqual(recipe)
    // a row that is no recipe at all costs only itself
    const before = ((await ask('/api/figures')).body as Figure[]).length
    await database().query('UPDATE figures SET recipe = ? WHERE id = ?', ['{"format":"nothing"}', id])
    expect((await ask(`/api/figures/${id}`)).status).toBe(404)
    expect((await ask('/api/figures')).body).toHaveLength(before - 1)
    await database().query('DELETE FROM figures WHERE id = ?', [id])
  })

  it('are never overwritten silently: the second of two saves is told', async () => {
    const made = (await ask('/api/figures', 'POST', maren.recipe)).body as Figure
    const saves = await Promise.all(
      [1, 2].map((n) =>
        ask(`/api/figures/${made.id}`, 'PUT', { version: 1, recipe: { ...made.recipe, name: `Save ${n}` } }),
      ),
    )
    expect(saves.map((s) => s.status).sort()).toEqual([200, 409])
    const refused = saves.find((s) => s.status === 409)!
    expect(refused.type).toContain('application/problem+json')
    expect(refused.body).toMatchObject({ status: 409, title: 'Changed elsewhere' })
  })

  it('keep a picture, and only a PNG', async () => {
    expect((await ask(`/api/figures/${maren.id}/picture`, 'PUT', randomBytes(20))).status).toBe(422)
    const png = Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47]), randomBytes(40)])
    expect((await ask(`/api/figures/${maren.id}/picture`, 'PUT', png)).status).toBe(200)
    const answer = await fetch(`${workshop.address}/api/figures/${maren.id}/picture`)
    expect(Buffer.from(await answer.arrayBuffer())).toEqual(png)
  })
})

describe('mixes', () => {
  interface Row {
    version: number
    mix: Mix
  }
  const noon = async () => ((await ask('/api/mixes')).body as Row[]).find((m) => m.mix.id === 'quay-at-noon')!

  it('are saved over the version that was seen, with pins and places made anew', async () => {
    const { version, mix } = await noon()
    const next = { ...mix, seed: 77, rerolls: [3, 5], pins: { 2: maren.recipe } }
    const saved = await ask('/api/mixes/quay-at-noon', 'PUT', { version, mix: next })
    expect(saved.body).toEqual({ version: version + 1 })
    expect((await noon()).mix).toEqual(next)
    expect((await ask('/api/mixes/quay-at-noon', 'PUT', { version, mix })).status).toBe(409)
    expect((await noon()).mix.seed).toBe(77)
    await ask('/api/mixes/quay-at-noon', 'PUT', { version: version + 1, mix })
  })

  it('take the pins of a whole crowd', async () => {
    const { version, mix } = await noon()
    const pins = Object.fromEntries(Array.from({ length: 240 }, (_, i) => [String(i), maren.recipe]))
    expect((await ask('/api/mixes/quay-at-noon', 'PUT', { version, mix: { ...mix, pins } })).status).toBe(200)
    await ask('/api/mixes/quay-at-noon', 'PUT', { version: version + 1, mix })
  })

  it.each([
    ['another id than the address', (m: Mix) => ({ ...m, id: 'other' })],
    ['a count that is none', (m: Mix) => ({ ...m, count: 0 })],
    ['a seed that is no number', (m: Mix) => ({ ...m, seed: 'x' })],
    ['a pin that is no recipe', (m: Mix) => ({ ...m, pins: { 1: {} } })],
    ['a place that is no number', (m: Mix) => ({ ...m, pins: { first: maren.recipe } })],
  ])('with %s are refused and stay as they were', async (_name, change) => {
    const before = await noon()
    const answer = await ask('/api/mixes/quay-at-noon', 'PUT', { version: before.version, mix: change(before.mix) })
    expect(answer.status).toBe(422)
    expect(await noon()).toEqual(before)
  })
})

describe('bad input', () => {
  it.each([
    ['broken JSON', '{"format":', 400],
    ['a wrong schema', { format: 'x' }, 422],
    ['an unknown member', { ...({} as Recipe), extra: true }, 422],
    ['nothing at all', '', 400],
  ])('as %s is answered with a problem document and changes nothing', async (_name, body, status) => {
    const before = (await ask('/api/figures')).body
    const answer = await ask('/api/figures', 'POST', body)
    expect(answer.status).toBe(status)
    expect(answer.type).toContain('application/problem+json')
    expect(answer.body).toMatchObject({ status, detail: expect.any(String), problems: expect.any(Array) })
    expect((await ask('/api/figures')).body).toEqual(before)
  })

  it('names the place of a slider that is no number', async () => {
    const text = JSON.stringify(maren.recipe).replace('"sliders":{', '"sliders":{"stoop":"NaN",')
    const answer = await ask('/api/figures', 'POST', text)
    expect(answer.status).toBe(422)
    expect((answer.body as { problems: { where: string }[] }).problems[0]!.where).toBe('body/sliders/stoop')
  })

  it('larger than allowed is refused', async () => {
    expect((await ask('/api/figures', 'POST', `"${'x'.repeat(300 << 10)}"`)).status).toBe(413)
  })

  it('larger than allowed is refused even when its length is not said beforehand', async () => {
    const { port } = new URL(workshop.address)
    const status = await new Promise<number>((resolve, reject) => {
      const sent = request(
        { host: '127.0.0.1', port, path: '/api/figures', method: 'POST', headers: { 'transfer-encoding': 'chunked' } },
        (answer) => {
          answer.resume()
          resolve(answer.statusCode ?? 0)
        },
      )
      sent.on('error', reject)
      for (let i = 0; i < 12; i++) sent.write('x'.repeat(32 << 10))
      sent.end()
    })
    expect(status).toBe(413)
    expect((await ask('/api/health')).status).toBe(200)
  })

  it('as a method that a route does not know is refused', async () => {
    expect((await ask('/api/figures', 'DELETE')).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/nowhere')).status).toBe(404)
  })

  it('never shows a stack or a statement in its answer', async () => {
    for (const [path, method, body] of [
      ['/api/figures', 'POST', '{'],
      ['/api/figures/1', 'GET', undefined],
      ['/api/mixes/quay-at-noon', 'PUT', { version: 1 }],
      ['/api/jobs', 'POST', { name: 'x' }],
      ['/api/kits', 'POST', 'x'],
    ] as const) {
      const text = JSON.stringify((await ask(path, method, body)).body)
      expect(text).not.toMatch(/SELECT|INSERT|node_modules|\bat \w+ \(/)
    }
  })

  it('in an address is refused', async () => {
    for (const id of ['1', '../x', "' OR 1=1", randomUUID()])
      expect((await ask(`/api/figures/${encodeURIComponent(id)}`)).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/figures')).status).toBe(200)
  })

  it('from another host or page is refused', async () => {
    expect(await askAs('evil.example')).toBe(403)
    expect(await askAs(new URL(workshop.address).host, { origin: 'http://evil.example' })).toBe(403)
    expect(await askAs(new URL(workshop.address).host, { origin: workshop.address })).toBe(200)
  })
})

describe('targets', () => {
  const own = (): Target => ({ ...demoTarget('near'), id: 'my-game', name: 'My game' })

  it('of the scenario are there, the finest first', async () => {
    const targets = (await ask('/api/targets')).body as { target: Target }[]
    expect(targets.map((t) => t.target.id)).toEqual(['near', 'standard', 'crowd', 'far'])
  })

  it('are added, saved with a version, and deleted; two of one id are told', async () => {
    expect((await ask('/api/targets', 'POST', own())).status).toBe(201)
    expect((await ask('/api/targets', 'POST', own())).status).toBe(409)
    const changed = { ...own(), convention: { ...own().convention, unit: 0.01, up: '+z' } }
    const save = { version: 1, target: changed }
    expect((await ask('/api/targets/my-game', 'PUT', save)).body).toMatchObject({ version: 2 })
    expect((await ask('/api/targets/my-game', 'PUT', save)).status).toBe(409)
    expect((await ask('/api/targets/other', 'PUT', save)).status).toBe(422)
    const all = (await ask('/api/targets')).body as { target: Target }[]
    expect(all.at(-1)!.target).toEqual(changed)
    expect((await ask('/api/targets/my-game', 'DELETE')).status).toBe(204)
    expect((await ask('/api/targets/my-game', 'DELETE')).status).toBe(404)
    expect((await ask('/api/targets', 'POST', { ...own(), limits: {} })).status).toBe(422)
  })
})

describe('adding a kit', () => {
  const small = () => {
    const files = kitFiles('tide-creatures')
    const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as { id: string; parts: unknown[] }
    return { files, manifest: { ...manifest, id: 'borrowed-tide' } }
  }
  it('takes a zip and serves it', async () => {
    const { files, manifest } = small()
    const zip = zipSync({
      ...Object.fromEntries([...files].map(([p, b]) => [`tide/${p}`, b])),
      'tide/kit.json': new TextEncoder().encode(JSON.stringify(manifest)),
    })
    expect((await ask('/api/kits', 'POST', zip)).body).toMatchObject({ id: 'borrowed-tide', problems: [] })
    expect(((await ask('/api/kits')).body as { id: string }[]).map((k) => k.id)).toContain('borrowed-tide')
  })

  it('takes a newer version in place of the old one, and figures made before go on', async () => {
    const { files, manifest } = small()
    const zip = zipSync({
      ...Object.fromEntries(files),
      'kit.json': new TextEncoder().encode(JSON.stringify({ ...manifest, kitVersion: '1.1.0' })),
    })
    const before = ((await ask('/api/kits')).body as unknown[]).length
    expect((await ask('/api/kits', 'POST', zip)).body).toMatchObject({ id: 'borrowed-tide', problems: [] })
    expect((await ask('/api/kits')).body).toHaveLength(before)
    const served = (await ask('/api/kits/borrowed-tide/kit.json')).body as { kitVersion: string }
    expect(served.kitVersion).toBe('1.1.0')
    const recipe = { ...maren.recipe, name: 'Reed', body: { ...maren.recipe.body, kit: 'borrowed-tide', id: 'ottern' } }
    const made = await ask('/api/figures', 'POST', { ...recipe, parts: [], sliders: {} })
    expect(made.status).toBe(201)
    await ask(`/api/figures/${(made.body as Figure).id}`, 'DELETE')
  })

  it.each([
    ['no zip', () => new Uint8Array([1, 2, 3])],
    ['0 bytes', () => new Uint8Array()],
    ['a zip without a kit', () => zipSync({ 'a.txt': new Uint8Array([1]) })],
    [
      'a kit whose body is cut off',
      () => {
        const { files, manifest } = small()
        return zipSync({
          ...Object.fromEntries(files),
          'kit.json': new TextEncoder().encode(JSON.stringify({ ...manifest, id: 'cut' })),
          'bodies/ottern.glb': files.get('bodies/ottern.glb')!.slice(0, 900),
        })
      },
    ],
  ])('refuses %s and adds nothing', async (_name, make) => {
    const before = ((await ask('/api/kits')).body as unknown[]).length
    const answer = await ask('/api/kits', 'POST', make())
    expect(answer.status).toBe(422)
    expect(answer.type).toContain('application/problem+json')
    expect((await ask('/api/kits')).body).toHaveLength(before)
  })
})

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
    const id = await addJob('test-kind', { recipes: [] }, 1)
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
  const target = demoTarget('crowd')
  const input = (n: number) => ({
    name: 'Pair',
    recipes: Array.from({ length: n }, (_, i) => ({
      ...structuredClone(maren.recipe),
      name: `Quay ${i + 1}`,
      sliders: { build: i / n },
    })),
    mix: null,
    target,
    pattern: '{name}-{target}',
    lods: false,
  })

  async function wait(id: string) {
    for (let i = 0; i < 300; i++) {
      const job = (await ask(`/api/jobs/${id}`)).body as {
        state: string
        result: { triangles: number }[]
        error: unknown
      }
      if (job.state !== 'waiting' && job.state !== 'running') return job
      await new Promise((resolve) => setTimeout(resolve, 100))
    }
    throw new Error('the job did not end')
  }

  it('makes a zip of checked GLBs in a worker thread, with progress as events', async () => {
    const { status, body } = await ask('/api/jobs', 'POST', input(3))
    expect(status).toBe(202)
    const { id } = body as { id: string }
    const events = await fetch(`${workshop.address}/api/jobs/${id}/events`)
    expect(events.headers.get('content-type')).toContain('text/event-stream')
    const seen = await events.text()
    expect(seen).toContain('"state":"done"')
    const job = await wait(id)
    expect(job.state).toBe('done')
    expect(job.result.every((r) => r.triangles <= 900)).toBe(true)
    const zip = unzipSync(new Uint8Array(await (await fetch(`${workshop.address}/api/jobs/${id}/file`)).arrayBuffer()))
    expect(Object.keys(zip).sort()).toEqual(['crowd.json', 'quay-1-crowd.glb', 'quay-2-crowd.glb', 'quay-3-crowd.glb'])
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

  it('tells what is wrong with a recipe and makes no file', async () => {
    const bad = input(1)
    const [first] = bad.recipes
    Object.assign(first!, setPart(first!, 'hat', { ...partIn(first!, 'hat')!, id: 'gone' }))
    const { id } = (await ask('/api/jobs', 'POST', bad)).body as { id: string }
    const job = await wait(id)
    expect(job.state).toBe('failed')
    expect(JSON.stringify(job.error)).toContain('gone')
    expect((await ask(`/api/jobs/${id}/file`)).status).toBe(404)
    expect((await ask('/api/jobs', 'POST', { ...input(1), recipes: [] })).status).toBe(422)
  })

  it('can be canceled', async () => {
    const { id } = (await ask('/api/jobs', 'POST', input(60))).body as { id: string }
    expect((await ask(`/api/jobs/${id}/cancel`, 'POST')).body).toMatchObject({ state: 'canceled' })
    expect((await wait(id)).state).toBe('canceled')
    expect((await ask(`/api/jobs/${randomUUID()}/cancel`, 'POST')).status).toBe(404)
  })

  it('goes on after the server has been stopped in the middle of it', async () => {
    const { id } = (await ask('/api/jobs', 'POST', input(12))).body as { id: string }
    for (let i = 0; i < 200 && ((await ask(`/api/jobs/${id}`)).body as { done: number }).done < 2; i++)
      await new Promise((resolve) => setTimeout(resolve, 50))
    expect((await ask(`/api/jobs/${id}`)).body).toMatchObject({ state: 'running', total: 12 })
    await workshop.restart()
    const job = await wait(id)
    expect(job.state).toBe('done')
    expect(job.result).toHaveLength(12)
    const zip = unzipSync(new Uint8Array(await (await fetch(`${workshop.address}/api/jobs/${id}/file`)).arrayBuffer()))
    expect(Object.keys(zip)).toHaveLength(13)
  })

  it('works off several orders one after another, each with its own files', async () => {
    const orders = await Promise.all(
      [1, 2, 3].map(async (n) => (await ask('/api/jobs', 'POST', { ...input(n), pattern: `${n}-{number}` })).body),
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
    const figures = (await ask('/api/figures')).body as Figure[]
    const ottern = figures.find((f) => f.recipe.body.id === 'ottern')!
    const { id } = (
      await ask('/api/jobs', 'POST', { ...input(2), recipes: [...input(2).recipes, ottern.recipe], pattern: '{name}' })
    ).body as { id: string }
    expect((await wait(id)).state).toBe('done')
    const file = await fetch(`${workshop.address}/api/jobs/${id}/file`)
    const zip = unzipSync(new Uint8Array(await file.arrayBuffer()))
    const table = JSON.parse(new TextDecoder().decode(zip['crowd.json'])) as { variants: { nearest: unknown }[] }
    expect(table.variants.map((v) => v.nearest !== null)).toEqual([true, true, false])
  })

  it('refuses orders whose mix, pattern or target is none', async () => {
    for (const wrong of [{ mix: { name: 'none' } }, { pattern: '' }, { target: { id: 'x' } }, { lods: 'yes' }]) {
      const answer = await ask('/api/jobs', 'POST', { ...input(1), ...wrong })
      expect(answer.status).toBe(422)
      expect(answer.type).toContain('application/problem+json')
      expect(JSON.stringify(answer.body)).toContain(Object.keys(wrong)[0])
    }
  })
})

import { randomBytes, randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { request } from 'node:http'
import { unzipSync, zipSync } from 'fflate'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { checkShipped, partIn, setPart, type Mix, type Recipe, type Target } from '@idle-tinker/core'
import { demoTarget, kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { getBlob, putBlob, sweepBlobs } from '../../server/db/blobs.ts'
import { addJob, cancelJob, forgetJobs, getJob, putBackJob, requeueJobs, takeJob } from '../../server/db/jobs.ts'
import { thinVersions } from '../../server/db/documents.ts'
import { migrate } from '../../server/db/migrate.ts'
import { closeDatabase, database, select } from '../../server/db/pool.ts'
import { startWorkshop, type TestWorkshop } from '../workshop.ts'

interface Row<T> {
  id: string
  name: string
  version: number
  content: T
}
type Figure = Row<Recipe>

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

/** What a save sends; `after` names attempts whose answers were lost. */
function save(version: number, content: unknown, after: string[] = []) {
  return { version, content, token: randomUUID(), after }
}

/** A request with any Host header, which fetch does not allow. */
function askAs(host: string, headers: Record<string, string> = {}, path = '/api/documents/figure'): Promise<number> {
  const { port } = new URL(workshop.address)
  return new Promise((resolve, reject) => {
    request({ host: '127.0.0.1', port, path, headers: { host, ...headers } }, (answer) => {
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
  maren = ((await ask('/api/documents/figure')).body as Figure[])[0]!
})

afterAll(async () => {
  await closeDatabase()
  await workshop.stop()
})

describe('a fresh workshop', () => {
  it('holds Lantern Tide with Maren Quill first', async () => {
    expect(maren.name).toBe('Maren Quill')
    expect((await ask('/api/documents/mix')).body).toHaveLength(3)
    expect((await ask('/api/kits')).body).toHaveLength(2)
  })

  it('applies no migration twice and seeds nothing twice', async () => {
    expect(await migrate(`${process.cwd()}/server/db/migrations`)).toEqual([])
    await workshop.restart()
    expect((await ask('/api/documents/figure')).body).toHaveLength(7)
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
    const made = (await ask('/api/documents/figure', 'POST', { ...maren.content, name: 'Odd twin' })).body as Figure
    expect(made.version).toBe(1)
    const saved = await ask(
      `/api/documents/figure/${made.id}`,
      'PUT',
      save(1, { ...made.content, sliders: { build: 0.5 } }),
    )
    expect(saved.body).toMatchObject({ version: 2, content: { sliders: { build: 0.5 } } })
    expect(await select('SELECT version FROM document_versions WHERE id = ? ORDER BY version', [made.id])).toEqual([
      { version: 1 },
      { version: 2 },
    ])
    expect((await ask(`/api/documents/figure/${made.id}`, 'DELETE')).status).toBe(204)
    expect((await ask(`/api/documents/figure/${made.id}`)).status).toBe(404)
    expect(((await ask('/api/documents/figure?deleted=true')).body as Figure[]).map((f) => f.id)).toContain(made.id)
    expect((await ask(`/api/documents/figure/${made.id}/restore`, 'POST')).body).toMatchObject({ version: 2 })
  })

  it('of an older version are taken, and given back as of today; so are those that lie in their rows', async () => {
    const old = JSON.parse(
      readFileSync(new URL('../fixtures/v1/documents/odd-pellow.recipe.json', import.meta.url), 'utf8'),
    ) as { parts: Record<string, { id: string }> }
    const made = await ask('/api/documents/figure', 'POST', old)
    expect(made.status).toBe(201)
    const { id, content: recipe } = made.body as Figure
    expect(recipe.version).toBe(2)
    const wore = Object.entries(old.parts).map(([slot, part]) => [slot, part.id])
    expect(recipe.parts.map((p) => [p.slot, p.part.id]).sort()).toEqual(wore.sort())
    // as an older workshop left it
    await database().query('UPDATE documents SET content = ? WHERE id = ?', [JSON.stringify(old), id])
    expect(((await ask(`/api/documents/figure/${id}`)).body as Figure).content).toEqual(recipe)
    // a row that is no recipe at all costs only itself
    const before = ((await ask('/api/documents/figure')).body as Figure[]).length
    await database().query('UPDATE documents SET content = ? WHERE id = ?', ['{"format":"nothing"}', id])
    expect((await ask(`/api/documents/figure/${id}`)).status).toBe(404)
    expect((await ask('/api/documents/figure')).body).toHaveLength(before - 1)
    await database().query('DELETE FROM documents WHERE id = ?', [id])
  })

  it('are never overwritten silently: the second of two saves is told', async () => {
    const made = (await ask('/api/documents/figure', 'POST', maren.content)).body as Figure
    const saves = await Promise.all(
      [1, 2].map((n) =>
        ask(`/api/documents/figure/${made.id}`, 'PUT', save(1, { ...made.content, name: `Save ${n}` })),
      ),
    )
    expect(saves.map((s) => s.status).sort()).toEqual([200, 409])
    const refused = saves.find((s) => s.status === 409)!
    expect(refused.type).toContain('application/problem+json')
    expect(refused.body).toMatchObject({ status: 409, title: 'Changed elsewhere' })
  })

  it('do not conflict with a save of their own whose answer was lost', async () => {
    const made = (await ask('/api/documents/figure', 'POST', maren.content)).body as Figure
    const at = `/api/documents/figure/${made.id}`
    const lost = save(1, { ...made.content, name: 'Lost' })
    expect((await ask(at, 'PUT', lost)).status).toBe(200)
    // the answer never came: the same person saves again over the version they know of
    expect((await ask(at, 'PUT', save(1, { ...made.content, name: 'Stranger' }))).status).toBe(409)
    const again = await ask(at, 'PUT', save(1, { ...made.content, name: 'Again' }, [randomUUID(), lost.token]))
    expect(again.body).toMatchObject({ version: 3, name: 'Again' })
    // once another window has saved, it is a conflict all the same
    expect((await ask(at, 'PUT', save(3, { ...made.content, name: 'Other window' }))).status).toBe(200)
    expect((await ask(at, 'PUT', save(1, { ...made.content, name: 'Late' }, [lost.token]))).status).toBe(409)
    expect((await ask(at, 'PUT', save(4, made.content, ['no token']))).status).toBe(422)
    await ask(at, 'DELETE')
  })

  it('keep a picture, and only a PNG', async () => {
    expect((await ask(`/api/documents/figure/${maren.id}/picture`, 'PUT', randomBytes(20))).status).toBe(422)
    const png = Buffer.concat([Buffer.from([0x89, 0x50, 0x4e, 0x47]), randomBytes(40)])
    expect((await ask(`/api/documents/figure/${maren.id}/picture`, 'PUT', png)).status).toBe(200)
    const answer = await fetch(`${workshop.address}/api/documents/figure/${maren.id}/picture`)
    expect(Buffer.from(await answer.arrayBuffer())).toEqual(png)
  })
})

describe('mixes', () => {
  const at = '/api/documents/mix/quay-at-noon'
  const noon = async () => (await ask(at)).body as Row<Mix>

  it('are saved over the version that was seen, with pins and places made anew', async () => {
    const { version, content: mix } = await noon()
    const next = { ...mix, seed: 77, rerolls: [3, 5], pins: { 2: maren.content } }
    const saved = await ask(at, 'PUT', save(version, next))
    expect(saved.body).toMatchObject({ version: version + 1 })
    expect((await noon()).content).toEqual(next)
    expect((await ask(at, 'PUT', save(version, mix))).status).toBe(409)
    expect((await noon()).content.seed).toBe(77)
    await ask(at, 'PUT', save(version + 1, mix))
  })

  it('take the pins of a whole crowd', async () => {
    const { version, content: mix } = await noon()
    const pins = Object.fromEntries(Array.from({ length: 240 }, (_, i) => [String(i), maren.content]))
    expect((await ask(at, 'PUT', save(version, { ...mix, pins }))).status).toBe(200)
    await ask(at, 'PUT', save(version + 1, mix))
  })

  it('are made, put away and brought back, as everything that is kept', async () => {
    const { content: mix } = await noon()
    const own = { ...mix, id: 'Quay-At-Noon', name: 'Capitals' }
    expect((await ask('/api/documents/mix', 'POST', mix)).status).toBe(409)
    expect((await ask('/api/documents/mix', 'POST', own)).status).toBe(422)
    const mine = { ...mix, id: 'my-crowd', name: 'My crowd' }
    expect((await ask('/api/documents/mix', 'POST', mine)).status).toBe(201)
    expect((await ask('/api/documents/mix/my-crowd', 'DELETE')).status).toBe(204)
    expect(((await ask('/api/documents/mix')).body as Row<Mix>[]).map((m) => m.id)).not.toContain('my-crowd')
    // its name stays taken while it can be brought back
    expect((await ask('/api/documents/mix', 'POST', mine)).status).toBe(409)
    expect((await ask('/api/documents/mix/my-crowd/restore', 'POST')).body).toMatchObject({ content: mine })
    await database().query("DELETE FROM documents WHERE id = 'my-crowd'")
    expect((await ask('/api/documents/kit')).status).toBe(404)
    expect((await ask('/api/documents/constructor')).status).toBe(404)
  })

  it.each([
    ['another id than the address', (m: Mix) => ({ ...m, id: 'other' })],
    ['a count that is none', (m: Mix) => ({ ...m, count: 0 })],
    ['a seed that is no number', (m: Mix) => ({ ...m, seed: 'x' })],
    ['a pin that is no recipe', (m: Mix) => ({ ...m, pins: { 1: {} } })],
    ['a place that is no number', (m: Mix) => ({ ...m, pins: { first: maren.content } })],
  ])('with %s are refused and stay as they were', async (_name, change) => {
    const before = await noon()
    const answer = await ask(at, 'PUT', save(before.version, change(before.content)))
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
    const before = (await ask('/api/documents/figure')).body
    const answer = await ask('/api/documents/figure', 'POST', body)
    expect(answer.status).toBe(status)
    expect(answer.type).toContain('application/problem+json')
    expect(answer.body).toMatchObject({ status, detail: expect.any(String), problems: expect.any(Array) })
    expect((await ask('/api/documents/figure')).body).toEqual(before)
  })

  it('names the place of a slider that is no number', async () => {
    const text = JSON.stringify(maren.content).replace('"sliders":{', '"sliders":{"stoop":"NaN",')
    const answer = await ask('/api/documents/figure', 'POST', text)
    expect(answer.status).toBe(422)
    expect((answer.body as { problems: { where: string }[] }).problems[0]!.where).toBe('body/sliders/stoop')
  })

  it('larger than allowed is refused', async () => {
    expect((await ask('/api/documents/figure', 'POST', `"${'x'.repeat(300 << 10)}"`)).status).toBe(413)
  })

  it('larger than allowed is refused even when its length is not said beforehand', async () => {
    const { port } = new URL(workshop.address)
    const status = await new Promise<number>((resolve, reject) => {
      const sent = request(
        {
          host: '127.0.0.1',
          port,
          path: '/api/documents/figure',
          method: 'POST',
          headers: { 'transfer-encoding': 'chunked' },
        },
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
    expect((await ask('/api/documents/figure', 'DELETE')).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/nowhere')).status).toBe(404)
  })

  it('never shows a stack or a statement in its answer', async () => {
    for (const [path, method, body] of [
      ['/api/documents/figure', 'POST', '{'],
      ['/api/documents/figure/1', 'GET', undefined],
      ['/api/documents/mix/quay-at-noon', 'PUT', { version: 1 }],
      ['/api/documents/nothing', 'GET', undefined],
      ['/api/jobs', 'POST', { name: 'x' }],
      ['/api/kits', 'POST', 'x'],
    ] as const) {
      const text = JSON.stringify((await ask(path, method, body)).body)
      expect(text).not.toMatch(/SELECT|INSERT|node_modules|\bat \w+ \(/)
    }
  })

  it('in an address is refused', async () => {
    for (const id of ['1', '../x', "' OR 1=1", randomUUID()])
      expect((await ask(`/api/documents/figure/${encodeURIComponent(id)}`)).status).toBeGreaterThanOrEqual(400)
    expect((await ask('/api/documents/figure')).status).toBe(200)
  })

  it('finds every answer guarded: pages, files and the interface', async () => {
    const page = await (await fetch(`${workshop.address}/bench`)).text()
    const script = /src="(\/_nuxt\/[^"]+\.js)"/.exec(page)?.[1]
    for (const path of ['/bench', script!, '/mark.svg', '/api/kits', '/api/nowhere']) {
      const { headers } = await fetch(`${workshop.address}${path}`)
      const found = (name: string) => headers.get(name) ?? `none for ${path}`
      expect(found('content-security-policy')).toContain("default-src 'self'")
      expect(found('content-security-policy')).not.toMatch(/script-src[^;]*('unsafe-inline'|\*|http)/)
      expect(found('cross-origin-resource-policy')).toBe('same-origin')
      expect(found('permissions-policy')).toContain('camera=()')
      expect(found('x-content-type-options')).toBe('nosniff')
    }
    for (const path of ['/bench', script!, '/mark.svg']) expect(await askAs('evil.example', {}, path)).toBe(403)
  })

  it('runs with an account that has no rights beyond its own database', async () => {
    const grants = await select<Record<string, string>>('SHOW GRANTS')
    const given = grants.flatMap((g) => Object.values(g)).filter((g) => !g.startsWith('GRANT USAGE'))
    expect(given).toHaveLength(1)
    expect(given[0]).toContain('ON `tinker`.*')
    await expect(select('SELECT User FROM mysql.user')).rejects.toThrow(/denied/)
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
    const targets = (await ask('/api/documents/target')).body as Row<Target>[]
    expect(targets.map((t) => t.id)).toEqual(['near', 'standard', 'crowd', 'far'])
  })

  it('are added, saved with a version, deleted and brought back; two of one id are told', async () => {
    expect((await ask('/api/documents/target', 'POST', own())).status).toBe(201)
    expect((await ask('/api/documents/target', 'POST', own())).status).toBe(409)
    const changed = { ...own(), convention: { ...own().convention, unit: 0.01, up: '+z' } }
    const at = '/api/documents/target/my-game'
    expect((await ask(at, 'PUT', save(1, changed))).body).toMatchObject({ version: 2 })
    expect((await ask(at, 'PUT', save(1, changed))).status).toBe(409)
    expect((await ask('/api/documents/target/other', 'PUT', save(1, changed))).status).toBe(422)
    expect(((await ask('/api/documents/target')).body as Row<Target>[]).at(-1)!.content).toEqual(changed)
    expect((await ask(at, 'DELETE')).status).toBe(204)
    expect((await ask(at, 'DELETE')).status).toBe(404)
    expect((await ask(`${at}/restore`, 'POST')).body).toMatchObject({ version: 2, content: changed })
    await database().query("DELETE FROM documents WHERE id = 'my-game'")
    expect((await ask('/api/documents/target', 'POST', { ...own(), limits: {} })).status).toBe(422)
  })

  it('cannot all be deleted, also not by two windows at once', async () => {
    const ids = ((await ask('/api/documents/target')).body as Row<Target>[]).map((t) => t.id)
    for (const id of ids.slice(2)) expect((await ask(`/api/documents/target/${id}`, 'DELETE')).status).toBe(204)
    const both = await Promise.all(ids.slice(0, 2).map((id) => ask(`/api/documents/target/${id}`, 'DELETE')))
    expect(both.map((b) => b.status).sort()).toEqual([204, 409])
    expect((await ask('/api/documents/target')).body).toHaveLength(1)
    for (const id of ids) await ask(`/api/documents/target/${id}/restore`, 'POST')
    expect(((await ask('/api/documents/target')).body as Row<Target>[]).map((t) => t.id)).toEqual(ids)
  })
})

describe('what is kept', () => {
  it('by a workshop of before is taken over: figures with their versions and pictures, mixes, targets', async () => {
    const id = randomUUID()
    const folder = `${process.cwd()}/server/db/migrations`
    const old = (name: string) =>
      JSON.parse(readFileSync(new URL(`../fixtures/v1/documents/${name}`, import.meta.url), 'utf8')) as { id: string }
    for (const name of ['001-start.sql', '002-targets.sql'])
      for (const statement of readFileSync(`${folder}/${name}`, 'utf8').split(/;\s*(?:\n|$)/))
        if (/TABLE IF NOT EXISTS (figures|figure_versions|mixes|targets) /.test(statement))
          await database().query(statement)
    const [recipe, mix] = [old('odd-pellow.recipe.json'), { ...old('lantern-night.mix.json'), id: 'of-before' }]
    const [first, second] = [JSON.stringify(recipe), JSON.stringify({ ...recipe, name: 'Older Odd' })]
    await database().query(
      'INSERT INTO figures (id, name, version, recipe, place, picture, deleted_at) VALUES (?, ?, 2, ?, 99, ?, NOW())',
      [id, 'Older Odd', second, Buffer.from([1, 2, 3])],
    )
    await database().query('INSERT INTO figure_versions (figure_id, version, recipe) VALUES (?, 1, ?), (?, 2, ?)', [
      id,
      first,
      id,
      second,
    ])
    await database().query('INSERT INTO mixes (id, name, version, mix, place) VALUES (?, ?, 5, ?, 99)', [
      mix.id,
      'Of before',
      JSON.stringify(mix),
    ])
    await database().query("DELETE FROM migrations WHERE name IN ('003-documents.sql', '004-documents-moved.sql')")
    expect(await migrate(folder)).toEqual(['003-documents.sql', '004-documents-moved.sql'])
    const gone = (await ask('/api/documents/figure?deleted=true')).body as Figure[]
    expect(gone.find((f) => f.id === id)).toMatchObject({ name: 'Older Odd', version: 2, hasPicture: true })
    expect((await ask(`/api/documents/figure/${id}/restore`, 'POST')).body).toMatchObject({
      content: { version: 2, name: 'Older Odd' },
    })
    expect(await select('SELECT version FROM document_versions WHERE id = ? ORDER BY version', [id])).toEqual([
      { version: 1 },
      { version: 2 },
    ])
    expect((await ask('/api/documents/mix/of-before')).body).toMatchObject({ version: 5, content: { version: 2 } })
    await database().query('DELETE FROM documents WHERE id IN (?, ?)', [id, mix.id])
  })

  it('of versions older than a day only the last of each day stays', async () => {
    const made = (await ask('/api/documents/figure', 'POST', maren.content)).body as Figure
    for (let v = 1; v < 7; v++)
      await ask(`/api/documents/figure/${made.id}`, 'PUT', save(v, { ...made.content, name: `v${v}` }))
    // 1 to 3 three days ago, 4 and 5 two days ago, 6 and 7 today
    const ago = (days: number, from: number, to: number) =>
      database().query(
        "UPDATE document_versions SET saved_at = TIMESTAMP(CURRENT_DATE - INTERVAL ? DAY, '10:00:00') WHERE id = ? AND version BETWEEN ? AND ?",
        [days, made.id, from, to],
      )
    await ago(3, 1, 3)
    await ago(2, 4, 5)
    expect(await thinVersions()).toBe(3)
    expect(await select('SELECT version FROM document_versions WHERE id = ? ORDER BY version', [made.id])).toEqual(
      [3, 5, 6, 7].map((version) => ({ version })),
    )
    await database().query('DELETE FROM documents WHERE id = ?', [made.id])
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
    // not before the person has said so
    const asked = await ask('/api/kits', 'POST', zip)
    expect([asked.status, (asked.body as { detail: string }).detail]).toEqual([
      409,
      expect.stringContaining('version 1.0.0'),
    ])
    expect((await ask('/api/kits/borrowed-tide/kit.json')).body).toMatchObject({ kitVersion: '1.0.0' })
    expect((await ask('/api/kits?replace=true', 'POST', zip)).body).toMatchObject({ id: 'borrowed-tide', problems: [] })
    // the same again is no question
    expect((await ask('/api/kits', 'POST', zip)).status).toBe(200)
    expect((await ask('/api/kits')).body).toHaveLength(before)
    const served = (await ask('/api/kits/borrowed-tide/kit.json')).body as { kitVersion: string }
    expect(served.kitVersion).toBe('1.1.0')
    const recipe = {
      ...maren.content,
      name: 'Reed',
      body: { ...maren.content.body, kit: 'borrowed-tide', id: 'ottern' },
    }
    const made = await ask('/api/documents/figure', 'POST', { ...recipe, parts: [], sliders: {} })
    expect(made.status).toBe(201)
    await ask(`/api/documents/figure/${(made.body as Figure).id}`, 'DELETE')
  })

  it('with files of odd names is served and started with; paths differ by case', async () => {
    const { files, manifest } = small()
    const odd = { 'read me.txt': 'a', 'Read me.txt': 'b', 'notes/100 % ümlaut #1?.txt': 'c' }
    const zip = zipSync({
      ...Object.fromEntries(files),
      ...Object.fromEntries(Object.entries(odd).map(([path, text]) => [path, new TextEncoder().encode(text)])),
      'kit.json': new TextEncoder().encode(JSON.stringify({ ...manifest, id: 'odd-names' })),
    })
    expect((await ask('/api/kits', 'POST', zip)).status).toBe(200)
    await workshop.restart()
    for (const [path, text] of Object.entries(odd)) {
      const answer = await fetch(
        `${workshop.address}/api/kits/odd-names/${path.split('/').map(encodeURIComponent).join('/')}`,
      )
      expect([path, answer.status, await answer.text()]).toEqual([path, 200, text])
    }
  })

  it('is removed with its files, and comes back whole; the demo’s own stays away once it was removed', async () => {
    const { files, manifest } = small()
    const { kitVersion: _, ...rest } = manifest as { kitVersion?: string }
    const zip = zipSync({
      ...Object.fromEntries(files),
      'only-here.txt': new TextEncoder().encode('nobody else has these bytes'),
      'kit.json': new TextEncoder().encode(JSON.stringify({ ...rest, kitVersion: '9.9.9', id: 'odd-names' })),
    })
    expect((await ask('/api/kits?replace=true', 'POST', zip)).status).toBe(200)
    const ids = async () => ((await ask('/api/kits')).body as { id: string }[]).map((k) => k.id)
    const [{ hash }] = (await select<{ hash: string }>("SELECT hash FROM kit_files WHERE path = 'only-here.txt'")) as [
      { hash: string },
    ]
    expect((await ask('/api/kits/odd-names', 'DELETE')).status).toBe(204)
    expect((await ask('/api/kits/odd-names', 'DELETE')).status).toBe(404)
    expect(await ids()).not.toContain('odd-names')
    expect((await ask('/api/kits/odd-names/kit.json')).status).toBe(404)
    // fresh bytes are spared, as someone may be about to use them; others' are kept
    await sweepBlobs()
    expect(await getBlob(hash)).not.toBeNull()
    await database().query('UPDATE blobs SET created_at = created_at - INTERVAL 2 HOUR')
    expect(await sweepBlobs()).toBeGreaterThan(0)
    expect(await getBlob(hash)).toBeNull()
    expect((await ask('/api/kits/tide-creatures/kit.json')).status).toBe(200)
    expect((await ask('/api/kits/tide-creatures', 'DELETE')).status).toBe(204)
    await workshop.restart()
    expect(await ids()).not.toContain('tide-creatures')
    const demo = zipSync(Object.fromEntries(kitFiles('tide-creatures')))
    expect((await ask('/api/kits', 'POST', demo)).status).toBe(200)
    expect(await ids()).toContain('tide-creatures')
  })

  it('with the id of one of the demo is the person’s from then on: no start puts the demo’s in its place', async () => {
    const { files, manifest } = small()
    const mine = { ...manifest, id: 'tide-creatures', name: 'My tide', kitVersion: '3.0.0' }
    const zip = zipSync({
      ...Object.fromEntries(files),
      'kit.json': new TextEncoder().encode(JSON.stringify(mine)),
    })
    expect((await ask('/api/kits?replace=true', 'POST', zip)).status).toBe(200)
    await workshop.restart()
    expect((await ask('/api/kits/tide-creatures/kit.json')).body).toMatchObject({ name: 'My tide' })
    const demo = zipSync(Object.fromEntries(kitFiles('tide-creatures')))
    expect((await ask('/api/kits?replace=true', 'POST', demo)).status).toBe(200)
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
      ...structuredClone(maren.content),
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

  it('stops the work itself when it is canceled, and leaves no file', async () => {
    const { id } = (await ask('/api/jobs', 'POST', input(60))).body as { id: string }
    const done = async () => ((await ask(`/api/jobs/${id}`)).body as { done: number }).done
    for (let i = 0; i < 200 && (await done()) < 2; i++) await new Promise((resolve) => setTimeout(resolve, 50))
    const blobs = async () => Number((await select<{ n: number }>('SELECT COUNT(*) AS n FROM blobs'))[0]!.n)
    const before = await blobs()
    await ask(`/api/jobs/${id}/cancel`, 'POST')
    // the next order begins as soon as the thread is free: long before sixty figures would be made
    const begin = Date.now()
    const { id: next } = (await ask('/api/jobs', 'POST', input(1))).body as { id: string }
    expect((await wait(next)).state).toBe('done')
    const alone = Date.now() - begin
    const full = await ask('/api/jobs', 'POST', input(1))
    await wait((full.body as { id: string }).id)
    // a second for the figure that was under way, on a slow machine
    expect(alone).toBeLessThan(2 * (Date.now() - begin - alone) + 3000)
    expect(await ask(`/api/jobs/${id}`)).toMatchObject({ body: { state: 'canceled', resultHash: null } })
    // the same single figure twice: one file
    expect(await blobs()).toBe(before + 1)
  })

  it('of a kind that nobody knows fails in words', async () => {
    const id = await addJob('weave-nets', {}, 1)
    await wait(((await ask('/api/jobs', 'POST', input(1))).body as { id: string }).id)
    expect((await wait(id)).error).toMatchObject([{ code: 'job-unknown' }])
  })

  it('that has ended with the workshop three times is not begun again', async () => {
    const id = await addJob('weave-nets', {}, 1)
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
    const figures = (await ask('/api/documents/figure')).body as Figure[]
    const ottern = figures.find((f) => f.content.body.id === 'ottern')!
    const { id } = (
      await ask('/api/jobs', 'POST', { ...input(2), recipes: [...input(2).recipes, ottern.content], pattern: '{name}' })
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

import { randomBytes, randomUUID } from 'node:crypto'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { type KeptClip, type KeptPose, type Mix, type Motion, type Recipe, type Target } from '@idle-tinker/core'
import { demoTarget, kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { thinVersions } from '../../server/db/documents.ts'
import { migrate } from '../../server/db/migrate.ts'
import { change, database, select, transaction } from '../../server/db/pool.ts'
import { type Figure, type Row, ask, maren, save, useWorkshop, workshop } from './api.ts'

useWorkshop()

describe('a fresh workshop', () => {
  it('holds Lantern Tide with Maren Quill first', async () => {
    expect(maren.name).toBe('Maren Quill')
    expect((await ask('/api/documents/mix')).body).toHaveLength(3)
    expect((await ask('/api/kits')).body).toHaveLength(2)
  })

  it('applies no migration twice and seeds nothing twice', async () => {
    expect(await migrate(`${process.cwd()}/server/db/migrations`)).toEqual([])
    await workshop.restart()
    expect((await ask('/api/documents/figure')).body).toHaveLength(9)
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

  it('nor with any of many such saves, be they ever so many; late ones go over none that came after them', async () => {
    const made = (await ask('/api/documents/figure', 'POST', maren.content)).body as Figure
    const at = `/api/documents/figure/${made.id}`
    const writer = randomUUID()
    const nth = (n: number, after: string[]) => ({
      ...save(1, { ...made.content, name: `Save ${n}` }, after),
      token: `${writer}.${n}`,
    })
    // the first is kept and its answer lost; of hundreds that follow none arrives, but the last
    expect((await ask(at, 'PUT', nth(1, []))).status).toBe(200)
    expect((await ask(at, 'PUT', nth(400, [`${writer}.399`]))).body).toMatchObject({ version: 3, name: 'Save 400' })
    // one that was held up on its way comes in now
    expect((await ask(at, 'PUT', nth(399, [`${writer}.398`]))).status).toBe(409)
    // another writer is another, whatever its numbers
    expect((await ask(at, 'PUT', nth(401, [`${randomUUID()}.900`]))).status).toBe(409)
    expect((await ask(at, 'PUT', nth(401, [`${writer}.x`]))).status).toBe(422)
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

describe('two at once', () => {
  it('that wait for each other are both done: the one the database undid is done again', async () => {
    const [a, b] = ((await ask('/api/documents/figure')).body as Figure[]).map((f) => f.id)
    let runs = 0
    const lock = (first: string, second: string) =>
      transaction(async (on) => {
        runs++
        for (const id of [first, second]) {
          await select("SELECT version FROM documents WHERE kind = 'figure' AND id = ? FOR UPDATE", [id], on)
          // both hold their first before either asks for its second
          if (id === first) await new Promise((resolve) => setTimeout(resolve, 200))
        }
        return `${first} ${second}`
      })
    expect(await Promise.all([lock(a!, b!), lock(b!, a!)])).toEqual([`${a} ${b}`, `${b} ${a}`])
    expect(runs).toBe(3)
  })

  it('leave nothing half done where a fault is no deadlock', async () => {
    const before = (await ask(`/api/documents/figure/${maren.id}`)).body as Figure
    let runs = 0
    const broken = transaction(async (on) => {
      runs++
      await change("UPDATE documents SET name = 'Half' WHERE kind = 'figure' AND id = ?", [maren.id], on)
      throw new Error('in the middle')
    })
    await expect(broken).rejects.toThrow('in the middle')
    expect(runs).toBe(1)
    expect(((await ask(`/api/documents/figure/${maren.id}`)).body as Figure).name).toBe(before.name)
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

describe('targets', () => {
  const own = (): Target => ({ ...demoTarget('near'), id: 'my-game', name: 'My game' })

  it('of the scenario are there, the finest first', async () => {
    const targets = (await ask('/api/documents/target')).body as Row<Target>[]
    expect(targets.map((t) => t.id)).toEqual(['near', 'standard', 'crowd', 'far', 'mirror'])
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

describe('clips of keys', () => {
  const pointing = JSON.parse(
    readFileSync(new URL('../fixtures/clips/v1-pointing.clip.json', import.meta.url), 'utf8'),
  ) as KeptClip
  const at = '/api/documents/clip'

  it('are kept with every step to go back to, changed by one window at a time, put away and brought back', async () => {
    const made = await ask(at, 'POST', pointing)
    expect([made.status, (made.body as Row<KeptClip>).content]).toEqual([201, pointing])
    const { id } = made.body as Row<KeptClip>
    const shorter = { ...pointing, poses: pointing.poses.slice(0, 2) }
    expect((await ask(`${at}/${id}`, 'PUT', save(1, shorter))).body).toMatchObject({ version: 2 })
    expect((await ask(`${at}/${id}`, 'PUT', save(1, pointing))).status).toBe(409)
    expect(((await ask(`${at}/${id}/versions`)).body as unknown[]).length).toBeGreaterThan(0)
    expect((await ask(`${at}/${id}`, 'DELETE')).status).toBe(204)
    expect((await ask(`${at}/${id}/restore`, 'POST')).body).toMatchObject({ content: shorter })
    await database().query('DELETE FROM documents WHERE id = ?', [id])
  })

  it.each<[string, object]>([
    ['keys in no order', { poses: [...pointing.poses].reverse() }],
    ['a turn that is none', { poses: [{ ...pointing.poses[0]!, turns: { head: [2, 0, 0, 0] } }] }],
    [
      'more keys than are kept',
      { poses: Array.from({ length: 301 }, (_, i) => ({ ...pointing.poses[0]!, at: i / 10 })) },
    ],
    ['no end', { duration: null }],
  ])('with %s are refused', async (_, change) => {
    expect((await ask(at, 'POST', { ...pointing, ...change })).status).toBe(422)
  })
})

describe('motions', () => {
  const stroll = JSON.parse(
    readFileSync(new URL('../fixtures/motions/v1-quay-stroll.motion.json', import.meta.url), 'utf8'),
  ) as Motion
  const at = '/api/documents/motion'

  it('are kept as they came, changed by one window at a time, put away and brought back; their many bytes are kept once', async () => {
    const made = await ask(at, 'POST', stroll)
    expect([made.status, (made.body as Row<Motion>).content]).toEqual([201, stroll])
    const { id } = made.body as Row<Motion>
    expect((await ask(`${at}/${id}`, 'PUT', save(1, { ...stroll, loop: 'once' }))).body).toMatchObject({ version: 2 })
    expect((await ask(`${at}/${id}`, 'PUT', save(1, { ...stroll, loop: 'round' }))).status).toBe(409)
    // there is nothing to go back to
    expect((await ask(`${at}/${id}/versions`)).status).toBe(404)
    const kept = await select<{ n: number }>('SELECT COUNT(*) AS n FROM document_versions WHERE id = ?', [id])
    expect(Number(kept[0]!.n)).toBe(0)
    expect((await ask(`${at}/${id}`, 'DELETE')).status).toBe(204)
    expect((await ask(at)).body).toEqual([])
    expect((await ask(`${at}/${id}/restore`, 'POST')).body).toMatchObject({ content: { ...stroll, loop: 'once' } })
    await database().query('DELETE FROM documents WHERE id = ?', [id])
  })

  it.each<[string, object]>([
    ['data that is cut off', { data: stroll.data.slice(0, -40) }],
    ['more frames than there are', { frames: stroll.frames + 1 }],
    ['a joint that hangs on itself', { joints: stroll.joints.map((j, i) => ({ ...j, parent: i })) }],
    ['a match of nothing', { match: { format: 'idle-tinker-match' } }],
  ])('with %s are refused', async (_, change) => {
    expect((await ask(at, 'POST', { ...stroll, ...change })).status).toBe(422)
    expect((await ask(at)).body).toEqual([])
  })
})

describe('poses', () => {
  const reaching = JSON.parse(
    readFileSync(new URL('../fixtures/poses/v1-reaching.pose.json', import.meta.url), 'utf8'),
  ) as KeptPose
  const at = '/api/documents/pose'

  it('are kept with what they were before, changed by one window at a time, put away and brought back', async () => {
    const made = await ask(at, 'POST', reaching)
    expect([made.status, (made.body as Row<KeptPose>).content]).toEqual([201, reaching])
    const { id } = made.body as Row<KeptPose>
    const higher = { ...reaching, root: [0, 0.1, 0] }
    expect((await ask(`${at}/${id}`, 'PUT', save(1, higher))).body).toMatchObject({ version: 2, content: higher })
    expect((await ask(`${at}/${id}`, 'PUT', save(1, reaching))).status).toBe(409)
    expect((await ask(`${at}/${id}/versions`)).status).toBe(200)
    expect((await ask(`${at}/${id}`, 'DELETE')).status).toBe(204)
    expect((await ask(at)).body).toEqual([])
    expect((await ask(`${at}/${id}/restore`, 'POST')).body).toMatchObject({ content: higher })
    await ask(`${at}/${id}`, 'DELETE')
  })

  it.each<[string, object]>([
    ['a turn that is none', { turns: { head: [0, 0, 0, 0] } }],
    ['a built-in name', { turns: JSON.parse('{"__proto__": [0, 0, 0, 1]}') as object }],
    ['no plan', { plan: '' }],
    ['a root that is no number', { root: [0, null, 0] }],
  ])('with %s are refused', async (_, change) => {
    expect((await ask(at, 'POST', { ...reaching, ...change })).status).toBe(422)
    expect((await ask(at)).body).toEqual([])
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
    expect((await ask('/api/documents/mix/of-before')).body).toMatchObject({ version: 5, content: { version: 3 } })
    await database().query('DELETE FROM documents WHERE id IN (?, ?)', [id, mix.id])
  })

  it('of versions older than a day only the last of each day stays, and the last two hundred whatever their age', async () => {
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
    expect(await thinVersions()).toBe(0)
    await database().query('UPDATE documents SET version = version + 199 WHERE id = ?', [made.id])
    // the last 200 would begin with version 6
    expect(await thinVersions()).toBe(3)
    expect(await select('SELECT version FROM document_versions WHERE id = ? ORDER BY version', [made.id])).toEqual(
      [3, 5, 6, 7].map((version) => ({ version })),
    )
    await database().query('DELETE FROM documents WHERE id = ?', [made.id])
  })

  it('tells what a document was with each save, as far back as there is room', async () => {
    const made = (await ask('/api/documents/figure', 'POST', maren.content)).body as Figure
    const address = `/api/documents/figure/${made.id}`
    for (let v = 1; v < 4; v++) await ask(address, 'PUT', save(v, { ...made.content, name: `v${v}` }))
    const names = async () => ((await ask(`${address}/versions`)).body as Recipe[]).map(({ name }) => name)
    expect(await names()).toEqual([maren.name, 'v1', 'v2', 'v3'])
    // one that is too large to be sent along with the newer ones, and with it what is older
    await database().query(
      "UPDATE document_versions SET content = CONCAT('[\"', REPEAT('x', 4194304), '\"]') WHERE id = ? AND version = 2",
      [made.id],
    )
    expect(await names()).toEqual(['v2', 'v3'])
    await database().query(
      `INSERT INTO document_versions (kind, id, version, content)
       SELECT kind, id, 10 + seq, content FROM document_versions JOIN seq_1_to_300 WHERE id = ? AND version = 4`,
      [made.id],
    )
    expect(await names()).toHaveLength(201)
    await ask(address, 'DELETE')
    expect((await ask(`${address}/versions`)).status).toBe(404)
    expect((await ask('/api/documents/figure/nobody/versions')).status).toBe(404)
  })
})

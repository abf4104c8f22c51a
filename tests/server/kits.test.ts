import { isDeepStrictEqual } from 'node:util'
import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { readKit, unpack, type Kit, type Read } from '@idle-tinker/core'
import { kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { meadowKit } from '../../packages/core/src/testing/meadowKit.ts'
import { getBlob, sweepBlobs } from '../../server/db/blobs.ts'
import { database, select } from '../../server/db/pool.ts'
import { maren, type Figure, ask, useWorkshop, workshop } from './api.ts'

useWorkshop()

describe('adding a kit', () => {
  const small = () => {
    const files = kitFiles('tide-creatures')
    const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as {
      id: string
      kitVersion: string
      parts: unknown[]
    }
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
      'kit.json': new TextEncoder().encode(JSON.stringify({ ...manifest, kitVersion: '99.1.0' })),
    })
    const before = ((await ask('/api/kits')).body as unknown[]).length
    // not before the person has said so
    const asked = await ask('/api/kits', 'POST', zip)
    expect([asked.status, (asked.body as { detail: string }).detail]).toEqual([
      409,
      expect.stringContaining(`version ${manifest.kitVersion}`),
    ])
    expect((await ask('/api/kits/borrowed-tide/kit.json')).body).toMatchObject({ kitVersion: manifest.kitVersion })
    expect((await ask('/api/kits?replace=true', 'POST', zip)).body).toMatchObject({ id: 'borrowed-tide', problems: [] })
    // the same again is no question
    expect((await ask('/api/kits', 'POST', zip)).status).toBe(200)
    expect((await ask('/api/kits')).body).toHaveLength(before)
    const served = (await ask('/api/kits/borrowed-tide/kit.json')).body as { kitVersion: string }
    expect(served.kitVersion).toBe('99.1.0')
    const recipe = {
      ...maren.content,
      name: 'Reed',
      body: { ...maren.content.body, kit: 'borrowed-tide', id: 'ottern' },
    }
    const made = await ask('/api/documents/figure', 'POST', { ...recipe, parts: [], sliders: {} })
    expect(made.status).toBe(201)
    await ask(`/api/documents/figure/${(made.body as Figure).id}`, 'DELETE')
  })

  it('is given to a page of the same build as the server has read it, and as no other', async () => {
    const list = async () => (await ask('/api/kits')).body as { id: string; hash: string }[]
    const { hash } = (await list()).find((k) => k.id === 'borrowed-tide')!
    const [, build] = /buildId:"([^"]+)"/.exec(await (await fetch(workshop.address)).text())!
    const reading = (id: string, of: string, by = build) =>
      fetch(`${workshop.address}/api/readings/${id}/${of}?by=${by}`)
    const { files, manifest } = small()
    const json = new TextEncoder().encode(JSON.stringify({ ...manifest, kitVersion: '99.1.0' }))
    const read = await readKit(new Map([...files, ['kit.json', json]]))
    const given = await reading('borrowed-tide', hash)
    expect([given.status, given.headers.get('cache-control')]).toEqual([200, 'private, max-age=31536000, immutable'])
    expect(isDeepStrictEqual(unpack(new Uint8Array(await given.arrayBuffer())), read)).toBe(true)
    const refused = async (answer: Promise<Response>) => [
      (await answer).status,
      (await answer).headers.get('cache-control'),
    ]
    expect(await refused(reading('borrowed-tide', hash, 'other'))).toEqual([409, null])
    expect(await refused(reading('borrowed-tide', 'f'.repeat(64)))).toEqual([404, null])
    expect(await refused(reading('nobody-s', hash))).toEqual([404, null])
    expect(await refused(reading('Odd!', hash))).toEqual([400, null])
    // once it is another it is no more what it was
    const zip = zipSync({
      ...Object.fromEntries(files),
      'kit.json': new TextEncoder().encode(JSON.stringify(manifest)),
    })
    expect((await ask('/api/kits?replace=true', 'POST', zip)).status).toBe(200)
    expect((await reading('borrowed-tide', hash)).status).toBe(404)
    const now = (await list()).find((k) => k.id === 'borrowed-tide')!.hash
    const anew = await Promise.all([0, 1, 2].map(async () => (await reading('borrowed-tide', now)).arrayBuffer()))
    const { value } = unpack(new Uint8Array(anew[0]!)) as Read<Kit>
    expect(value!.manifest.kitVersion).toBe(manifest.kitVersion)
    expect(anew.every((other) => Buffer.from(other).equals(Buffer.from(anew[0]!)))).toBe(true)
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
    // it can be brought back, until it is forgotten for good
    expect((await ask('/api/kit-versions')).body).toMatchObject([{ id: 'odd-names', kitVersion: '9.9.9' }])
    const [{ number }] = (await ask('/api/kit-versions/odd-names')).body as [{ number: number }]
    expect((await ask(`/api/kit-versions/odd-names/${number}/restore`, 'POST')).status).toBe(200)
    expect(await ids()).toContain('odd-names')
    expect((await ask('/api/kit-versions/odd-names', 'DELETE')).status).toBe(404)
    expect((await ask('/api/kits/odd-names', 'DELETE')).status).toBe(204)
    expect((await ask('/api/kit-versions/odd-names', 'DELETE')).status).toBe(204)
    expect((await ask('/api/kit-versions')).body).toEqual([])
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

  describe('that is changed file by file', () => {
    const json = (value: object) => new TextEncoder().encode(JSON.stringify(value))
    const changes = async (files: Record<string, Uint8Array>, over: string | null, id = 'edited') => {
      const headers: Record<string, string> = over === null ? {} : { 'if-match': `"${over}"` }
      const body = zipSync(files) as Uint8Array<ArrayBuffer>
      const answer = await fetch(`${workshop.address}/api/kits/${id}/changes`, { method: 'POST', body, headers })
      return { status: answer.status, body: (await answer.json()) as { hash: string; detail?: string } }
    }
    const hashNow = async () =>
      ((await ask('/api/kits')).body as { id: string; hash: string }[]).find((k) => k.id === 'edited')!.hash
    const manifest = { ...small().manifest, id: 'edited' }

    it('keeps what it was, goes back to it, and takes nothing made from another state', async () => {
      const { files } = small()
      const zip = zipSync({ ...Object.fromEntries(files), 'kit.json': json(manifest) })
      expect((await ask('/api/kits', 'POST', zip)).status).toBe(200)
      const first = await hashNow()
      const second = await changes({ 'kit.json': json({ ...manifest, name: 'Edited', kitVersion: '1.0.1' }) }, first)
      expect([second.status, second.body.hash]).toEqual([200, await hashNow()])
      expect(second.body.hash).not.toBe(first)
      expect((await ask('/api/kits/edited/kit.json')).body).toMatchObject({ name: 'Edited' })
      // all its other files are there as before
      const served = ((await ask('/api/kits')).body as { id: string; files: unknown[] }[]).find(
        (k) => k.id === 'edited',
      )!
      expect(served.files).toHaveLength(files.size)
      // somebody with a page from before
      const late = await changes({ 'kit.json': json({ ...manifest, name: 'Late' }) }, first)
      expect([late.status, late.body.detail]).toEqual([409, expect.stringContaining('another window')])
      // two at once: one of them
      const both = await Promise.all(
        ['One', 'Other'].map((name) => changes({ 'kit.json': json({ ...manifest, name }) }, second.body.hash)),
      )
      expect(both.map((b) => b.status).sort()).toEqual([200, 409])
      const versions = (await ask('/api/kit-versions/edited')).body as { number: number; hash: string }[]
      expect(versions.map((v) => v.hash)).toEqual([second.body.hash, first])
      expect((await ask(`/api/kit-versions/edited/${versions[1]!.number}/restore`, 'POST')).status).toBe(200)
      expect(await hashNow()).toBe(first)
      expect((await ask('/api/kits/edited/kit.json')).body).toEqual(manifest)
      expect((await ask('/api/kit-versions/edited')).body).toHaveLength(3)
      expect((await ask('/api/kit-versions/edited/999/restore', 'POST')).status).toBe(404)
      expect((await ask('/api/kit-versions/nobody')).status).toBe(404)
    })

    it('refuses what would be no kit, another id, and a change of nothing known', async () => {
      const over = await hashNow()
      expect((await changes({ 'kit.json': json({ ...manifest, parts: 7 }) }, over)).status).toBe(422)
      expect((await changes({ 'kit.json': json({ ...manifest, id: 'other' }) }, over)).body.detail).toContain(
        '“edited”',
      )
      expect((await changes({ 'a.txt': new Uint8Array([1]) }, over)).status).toBe(422)
      expect((await changes({ 'kit.json': json(manifest) }, null)).status).toBe(428)
      expect((await changes({ 'kit.json': json(manifest) }, over, 'nobody')).status).toBe(404)
      expect(await hashNow()).toBe(over)
      expect((await ask('/api/kits/edited', 'DELETE')).status).toBe(204)
      expect((await ask('/api/kit-versions/edited', 'DELETE')).status).toBe(204)
    })

    it('keeps the last twenty states', async () => {
      const files = await meadowKit()
      const small = { ...(JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as object), id: 'edited' }
      const zip = zipSync({ ...Object.fromEntries(files), 'kit.json': json(small) })
      expect((await ask('/api/kits', 'POST', zip)).status).toBe(200)
      for (let n = 1; n <= 22; n++)
        expect(
          (await changes({ 'kit.json': json({ ...small, kitVersion: `2.0.${n}` }) }, await hashNow())).status,
        ).toBe(200)
      const versions = (await ask('/api/kit-versions/edited')).body as { kitVersion: string }[]
      expect([versions.length, versions[0]!.kitVersion, versions.at(-1)!.kitVersion]).toEqual([20, '2.0.21', '2.0.2'])
    })
  })

  it.each([
    ['no zip', () => new Uint8Array([1, 2, 3])],
    ['0 bytes', () => new Uint8Array()],
    ['a zip without a kit', () => zipSync({ 'a.txt': new Uint8Array([1]) })],
    [
      'a kit whose bodies are cut off',
      () => {
        const { files, manifest } = small()
        const bodyFiles = [...files.keys()].filter((file) => file.startsWith('bodies/'))
        return zipSync({
          ...Object.fromEntries(files),
          'kit.json': new TextEncoder().encode(JSON.stringify({ ...manifest, id: 'cut' })),
          ...Object.fromEntries(bodyFiles.map((file) => [file, files.get(file)!.slice(0, 900)])),
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

import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { KeptKits } from '@idle-tinker/kept'
import { Readers } from '../../server/jobs/readers.ts'

/** A kit of nothing but its description. */
const BARE = {
  ...{ format: 'idle-tinker-kit', version: 2, id: 'bare', name: 'Bare', kitVersion: '1.0.0' },
  ...{ bodies: [], slots: [], parts: [], colorRegions: [], palettes: [], clips: [] },
}

let folder: string
let file: string
let readers: Readers
beforeEach(() => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-readers-'))
  file = join(folder, 'worker.mjs')
  // the first byte says what becomes of a file: it takes for ever, fills memory, fails, or is read
  writeFileSync(
    file,
    `export async function openKit({ zip: [what] }) {
       if (what === 1) for (;;);
       if (what === 2) { const all = []; for (;;) all.push(Array.from({ length: 1000 }, (_, i) => ({ i }))) }
       if (what === 3) throw new Error('odd')
       return { kit: { id: 'k' + what }, problems: [] }
     }
     export async function packKit(files) {
       if (files.has('slow')) for (;;);
       return { hash: 'read', packed: new Uint8Array(files.size), whole: true }
     }
     export function readBody({ what, kind, body }) {
       if (body[0] === 'x') for (;;);
       return { value: { what, kind, size: body.length }, refusal: null }
     }`,
  )
  readers = new Readers(file, { time: 1200, memory: 64 })
})
afterEach(async () => {
  await readers.close()
  rmSync(folder, { recursive: true, force: true })
})
const open = (what: number) => readers.openKit(Uint8Array.of(what))

describe('reading what comes from elsewhere', () => {
  it('refuses what takes too long, and reads the next one', async () => {
    const [slow, next] = await Promise.all([open(1), open(7)])
    expect([slow.kit, slow.problems.map((p) => p.code)]).toEqual([null, ['kit-slow']])
    expect(next.kit!.id).toBe('k7')
  })

  it('refuses what takes too much memory, and the server lives on', async () => {
    await readers.close()
    // on a busy machine it takes some seconds to fill it
    readers = new Readers(file, { time: 30_000, memory: 64 })
    const heavy = await open(2)
    expect(heavy.problems[0]!.code).toBe('kit-heavy')
    expect((await open(8)).kit!.id).toBe('k8')
  })

  it('keeps nobody else waiting while it reads', async () => {
    const start = performance.now()
    let longest = 0
    let last = start
    const beat = setInterval(() => {
      longest = Math.max(longest, performance.now() - last)
      last = performance.now()
    }, 5)
    await open(1)
    clearInterval(beat)
    expect(performance.now() - start).toBeGreaterThan(1000)
    // a thread starts meanwhile; the reading itself would have been more than a second
    expect(longest).toBeLessThan(400)
  })

  it('packs a kit that was read before without its files, and gives up on one that takes too long', async () => {
    const kit = new Map([['kit.json', new TextEncoder().encode(JSON.stringify(BARE))]])
    const kept = await (await KeptKits.beside(pathToFileURL(file).href)).readAnew(kit)
    expect(await readers.packKit(kept.hash, () => Promise.reject(new Error('asked for')))).toEqual({
      ...{ hash: kept.hash, whole: true },
      packed: Buffer.from(kept.packed!),
    })
    const files = (...names: string[]) => Promise.resolve(new Map(names.map((name) => [name, new Uint8Array()])))
    const [slow, next] = await Promise.all([
      readers.packKit('a', () => files('slow')),
      readers.packKit('b', () => files('one', 'two')),
    ])
    expect(slow).toBeNull()
    expect([next!.hash, next!.packed.length]).toEqual(['read', 2])
    await expect(readers.packKit('c', () => Promise.reject(new Error('gone')))).rejects.toThrow('gone')
  })

  it('passes on a fault that is none of the file', async () => {
    await expect(open(3)).rejects.toThrow('odd')
    expect((await open(9)).kit!.id).toBe('k9')
  })

  it('has long texts read in a thread, past a kit that takes its time; what takes too long itself is refused', async () => {
    const text = (first: string) => first + ' '.repeat(40_000)
    const kit = open(1)
    // the one thread is on its way or busy
    await new Promise((resolve) => setTimeout(resolve, 200))
    const start = performance.now()
    expect((await readers.readBody('save', 'mix', text('{'))).value).toEqual({
      what: 'save',
      kind: 'mix',
      size: 40_001,
    })
    // the kit is refused a second later; a thread that starts takes a part of one
    expect(performance.now() - start).toBeLessThan(1000)
    expect((await kit).problems[0]!.code).toBe('kit-slow')
    const { value, refusal } = await readers.readBody('row', 'mix', text('x'))
    expect([value, refusal]).toMatchObject([null, { status: 422, problems: [] }])
    // a short one is read here, by the readers there really are
    expect((await readers.readBody('document', 'mix', '[')).refusal).toMatchObject({ status: 400, title: 'Not JSON' })
  })
})

import {
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { pathToFileURL } from 'node:url'
import { isDeepStrictEqual } from 'node:util'
import { afterEach, beforeEach, describe, expect, it } from 'vitest'
import { kitHash, readKit, unpack } from '@idle-tinker/core'
import { kitFiles } from '../../core/src/testing/demoKits.ts'
import { KeptKits } from './KeptKits.ts'

let folder: string
beforeEach(() => void (folder = mkdtempSync(join(tmpdir(), 'tinker-kept-'))))
afterEach(() => rmSync(folder, { recursive: true, force: true }))

const files = kitFiles('tide-creatures')
/** A kit of the kind, small: nothing but its description. */
const bare = (name: string) => {
  const description = { format: 'idle-tinker-kit', version: 2, id: 'bare', name, kitVersion: '1.0.0' }
  const lists = { bodies: [], slots: [], parts: [], colorRegions: [], palettes: [], clips: [] }
  return new Map([['kit.json', new TextEncoder().encode(JSON.stringify({ ...description, ...lists }))]])
}
const keptIn = () => readdirSync(folder).sort()

describe('a kit that was read before', () => {
  it('is the kit its files are: every number of it', async () => {
    const read = await new KeptKits(folder, 'a').readKit(files)
    expect(keptIn()).toHaveLength(1)
    const kept = await new KeptKits(folder, 'a').readKit(files)
    expect(kept).not.toBe(read)
    // millions of numbers: an assertion of the tests' own takes seconds
    expect(isDeepStrictEqual(kept, read)).toBe(true)
  })

  it('is taken from where it lies, not read', async () => {
    await new KeptKits(folder, 'a').readKit(bare('Bare'))
    const [name] = keptIn()
    const [bytes, other] = [readFileSync(join(folder, name!)), await new KeptKits(folder, 'b').readKit(bare('Other'))]
    expect(other.value!.manifest.name).toBe('Other')
    // what lies under the name of one is given for it, if it is whole
    writeFileSync(
      join(folder, name!),
      readFileSync(
        join(
          folder,
          keptIn().find((n) => n !== name)!,
        ),
      ),
    )
    expect((await new KeptKits(folder, 'a').readKit(bare('Bare'))).value!.manifest.name).toBe('Other')
    writeFileSync(join(folder, name!), bytes)
    expect((await new KeptKits(folder, 'a').readKit(bare('Bare'))).value!.manifest.name).toBe('Bare')
  })

  it('is another for another file in it, and for another reader', async () => {
    await new KeptKits(folder, 'a').readKit(bare('Bare'))
    await new KeptKits(folder, 'b').readKit(bare('Bare'))
    await new KeptKits(folder, 'a').readKit(bare('Bars'))
    const more = [...bare('Bare'), ['notes.txt', new Uint8Array()] as const]
    await new KeptKits(folder, 'a').readKit(new Map(more))
    expect(keptIn()).toHaveLength(4)
    // in whatever order they come
    await new KeptKits(folder, 'a').readKit(new Map(more.reverse()))
    expect(keptIn()).toHaveLength(4)
  })

  it('is read anew, and kept anew, where what lies there is not what was written', async () => {
    await new KeptKits(folder, 'a').readKit(bare('Bare'))
    const path = join(folder, keptIn()[0]!)
    const whole = readFileSync(path)
    const flipped = Uint8Array.from(whole, (b, i) => (i === whole.length - 9 ? b ^ 1 : b))
    for (const odd of [
      new Uint8Array(),
      whole.subarray(0, 63),
      whole.subarray(0, 64),
      whole.subarray(0, whole.length - 1),
      flipped,
    ]) {
      writeFileSync(path, odd)
      expect((await new KeptKits(folder, 'a').readKit(bare('Bare'))).value!.manifest.name).toBe('Bare')
      expect(readFileSync(path).equals(whole)).toBe(true)
    }
  })

  it('is read once by one process, and whole by several at once', async () => {
    const one = new KeptKits(folder, 'a')
    const [first, second] = await Promise.all([one.readKit(bare('Bare')), one.readKit(bare('Bare'))])
    expect(first).toBe(second)
    // but not for ever all that were
    const again = () => one.readKit(bare('Bare'))
    const before = await again()
    for (let i = 0; i < 7; i++) await one.readKit(bare(`Bare ${i}`))
    expect(await again()).toBe(before)
    for (let i = 0; i < 8; i++) await one.readKit(bare(`Bare ${i}`))
    expect(await again()).not.toBe(before)
    for (const name of keptIn()) rmSync(join(folder, name))
    const reads = await Promise.all(
      [new KeptKits(folder, 'a'), new KeptKits(folder, 'a')].map((kits) => kits.readKit(bare('Bare'))),
    )
    expect(reads[0]).toStrictEqual(reads[1])
    expect(keptIn()).toHaveLength(1)
  })

  it('is given packed, as it was read, by the hash of its files', async () => {
    const one = new KeptKits(folder, 'a')
    const hash = await kitHash(files)
    expect(await one.packedKit(hash)).toBeNull()
    const fresh = await one.readAnew(files)
    expect(fresh.hash).toBe(hash)
    expect(isDeepStrictEqual(unpack(fresh.packed!), await readKit(files))).toBe(true)
    expect(isDeepStrictEqual(fresh.read, unpack(fresh.packed!))).toBe(true)
    expect(Buffer.from((await new KeptKits(folder, 'a').packedKit(hash))!).equals(fresh.packed!)).toBe(true)
    expect(await new KeptKits(folder, 'b').packedKit(hash)).toBeNull()
    expect(await one.packedKit(await kitHash(bare('Bare')))).toBeNull()
    // one that is refused says why, and is not kept
    const wrong = new Map([['kit.json', new TextEncoder().encode('{')]])
    const refused = await one.readAnew(wrong)
    expect([refused.read.problems.map(({ code }) => code), refused.packed]).toEqual([['json'], null])
    expect(await one.packedKit(await kitHash(wrong))).toBeNull()
  })

  it('is not kept when it is refused, nor where nothing can be written', async () => {
    const wrong = new Map([['kit.json', new TextEncoder().encode('{')]])
    expect((await new KeptKits(folder, 'a').readKit(wrong)).problems.map(({ code }) => code)).toEqual(['json'])
    expect(keptIn()).toEqual([])
    const blocked = join(folder, 'file')
    writeFileSync(blocked, 'no folder')
    expect((await new KeptKits(join(blocked, 'kits'), 'a').readKit(bare('Bare'))).value).not.toBeNull()
    expect(keptIn()).toEqual(['file'])
  })

  it('makes way for newer ones: a folder holds four dozen', async () => {
    for (let i = 0; i < 51; i++) {
      const before = new Set(keptIn())
      await new KeptKits(folder, 'a').readKit(bare(`Bare ${i}`))
      // written a minute apart
      for (const name of keptIn()) if (!before.has(name)) utimesSync(join(folder, name), 60 * i, 60 * i)
    }
    expect(keptIn()).toHaveLength(48)
    // the first three went
    const [oldest] = keptIn()
      .map((name) => statSync(join(folder, name)).mtimeMs)
      .sort((x, y) => x - y)
    expect(oldest).toBe(3 * 60_000)
    // two large ones leave no room for a third
    for (const [i, name] of keptIn().entries()) truncateSync(join(folder, name), i < 2 ? 120 << 20 : 20 << 20)
    for (const [i, name] of keptIn().entries()) utimesSync(join(folder, name), 9_000 - i, 9_000 - i)
    const large = keptIn().slice(0, 2)
    await new KeptKits(folder, 'a').readKit(bare('Bare again'))
    expect(keptIn()).toHaveLength(3)
    expect(keptIn()).toEqual(expect.arrayContaining(large))
  })

  it('lies beside a bundled program, and nowhere for one that runs from its sources', async () => {
    const program = join(folder, 'program.mjs')
    const read = async (text: string) => {
      writeFileSync(program, text)
      await (await KeptKits.beside(pathToFileURL(program).href)).readKit(bare('Bare'))
      return readdirSync(join(folder, 'kits')).length
    }
    expect(await read('1')).toBe(1)
    expect(await read('1')).toBe(1)
    // one changed letter is another program
    expect(await read('2')).toBe(2)
    await (await KeptKits.beside(import.meta.url)).readKit(bare('Bare'))
    expect(readdirSync(import.meta.dirname).sort()).toEqual(['KeptKits.test.ts', 'KeptKits.ts', 'index.ts'])
  })
})

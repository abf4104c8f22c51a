import { deflateRawSync } from 'node:zlib'
import { Zip, zipSync, type ZipInputFile } from 'fflate'
import { describe, expect, it } from 'vitest'
import { unpackKit } from './unpackKit.ts'

const text = (s: string) => new TextEncoder().encode(s)
const codes = (zip: Uint8Array) => unpackKit(zip).problems.map((p) => p.code)
const pathsOf = (files: Record<string, string>) =>
  [
    ...(unpackKit(zipSync(Object.fromEntries(Object.entries(files).map(([p, s]) => [p, text(s)])))).value?.keys() ??
      []),
  ].sort()

/** A zip with a file of so many zeros, which is packed by what is quick at it. */
function zipOfNothing(length: number): Uint8Array {
  const chunks: Uint8Array[] = []
  const zip = new Zip((_, chunk) => chunks.push(chunk))
  // nobody gets as far as its checksum
  const file: ZipInputFile = { filename: 'x.glb', size: length, crc: 0, compression: 8 }
  zip.add(file)
  file.ondata!(null, deflateRawSync(new Uint8Array(length), { level: 9 }), true)
  zip.end()
  return new Uint8Array(Buffer.concat(chunks))
}

describe('a zipped kit', () => {
  it('is found at the top or in a folder, with the files beside it', () => {
    expect(pathsOf({ 'kit.json': '{}', 'a/b.glb': 'x' })).toEqual(['a/b.glb', 'kit.json'])
    expect(pathsOf({ 'my/kit.json': '{}', 'my/b.glb': 'x', 'notes.txt': 'n' })).toEqual(['b.glb', 'kit.json'])
    expect(pathsOf({ 'ümlaut/kit.json': '{}' })).toEqual(['kit.json'])
  })

  it('is the one nearest the top, whatever order they stand in', () => {
    expect(pathsOf({ 'old/backup/kit.json': '{}', 'kit.json': '{}', 'a.glb': '' })).toContain('old/backup/kit.json')
    expect(pathsOf({ 'old/backup/kit.json': '{}', 'kit/kit.json': '{}', 'kit/a.glb': '' })).toEqual([
      'a.glb',
      'kit.json',
    ])
    expect(codes(zipSync({ 'a/kit.json': text('{}'), 'b/kit.json': text('{}') }))).toEqual(['kit-two'])
    expect(codes(zipSync({ 'readme.txt': text('hello') }))).toEqual(['kit-json-missing'])
  })

  it('that is no zip, is cut off or has one changed byte is refused in words', () => {
    const whole = zipSync({ 'kit.json': text('{"a":1}'), 'x.glb': text('hello hello hello') }, { level: 0 })
    expect(unpackKit(whole).problems).toEqual([])
    expect(codes(new Uint8Array())).toEqual(['zip-broken'])
    expect(codes(text('no zip at all, but long enough to look for a directory'))).toEqual(['zip-broken'])
    for (let cut = 1; cut < whole.length; cut += 7) expect(unpackKit(whole.slice(0, -cut)).value).toBeNull()
    const at = whole.findIndex((_, i) => new TextDecoder().decode(whole.slice(i, i + 5)) === 'hello')
    const changed = whole.slice()
    changed[at + 2]! ^= 1
    expect(codes(changed)).toEqual(['zip-damaged'])
  })

  it('that would unpack to too much is refused before it is', () => {
    const large = zipOfNothing(300 << 20)
    expect(large.length).toBeLessThan(1 << 20)
    const before = process.memoryUsage().arrayBuffers
    expect(codes(large)).toEqual(['kit-large'])
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(100 << 20)
    const many = Object.fromEntries(Array.from({ length: 6_000 }, (_, i) => [`${i}.txt`, new Uint8Array()]))
    expect(codes(zipSync({ ...many, 'kit.json': text('{}') }))).toEqual(['kit-large'])
  })

  it('whose entries all lie on the same bytes and say that they are empty is refused as well', () => {
    // 400 entries of the directory name one stored megabyte each time, and give its size as nothing
    const one = zipSync({ 'kit.json': text('{}'), 'x.glb': new Uint8Array(1 << 20).fill(7) }, { level: 0 })
    const view = new DataView(one.buffer, one.byteOffset, one.byteLength)
    const end = one.length - 22
    const start = view.getUint32(end + 16, true)
    const first = 46 + 'kit.json'.length
    const entry = one.slice(start + first, end)
    new DataView(entry.buffer).setUint32(24, 0, true)
    const directory = [one.slice(start, start + first), ...Array.from({ length: 400 }, () => entry)]
    const tail = one.slice(end)
    new DataView(tail.buffer).setUint16(8, 401, true)
    new DataView(tail.buffer).setUint16(10, 401, true)
    const zip = new Uint8Array(Buffer.concat([one.slice(0, start), ...directory, tail]))
    expect(zip.length).toBeLessThan(2 << 20)
    expect(codes(zip)).toEqual(['kit-large'])
  })
})

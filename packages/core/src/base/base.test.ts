import fc from 'fast-check'
import { Type } from '@sinclair/typebox'
import { describe, expect, it } from 'vitest'
import { canonicalJson, contentHash, fileHash } from './canonical.ts'
import { describeProblem, hasErrors, problem } from './problem.ts'
import { parseJson, validate } from './validate.ts'

describe('canonical JSON', () => {
  it('does not depend on the order of keys', () => {
    expect(canonicalJson({ b: 1, a: [2, { d: 1, c: null }] })).toBe('{"a":[2,{"c":null,"d":1}],"b":1}')
    fc.assert(
      fc.property(fc.dictionary(fc.string(), fc.jsonValue()), (object) => {
        const turned = Object.fromEntries(Object.entries(object).reverse())
        expect(contentHash(turned)).toBe(contentHash(object))
      }),
    )
  })

  it('can be read back to the same document', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(canonicalJson(JSON.parse(canonicalJson(value)))).toBe(canonicalJson(value))
      }),
    )
  })

  it('refuses what JSON cannot hold', () => {
    const round: Record<string, unknown> = {}
    round.self = round
    for (const x of [Number.NaN, Infinity, '\ud800', round]) expect(() => canonicalJson({ x })).toThrow(TypeError)
    expect(() => canonicalJson(() => 1)).toThrow(TypeError)
  })

  it('gives SHA-256 of bytes as they are', () => {
    expect(contentHash(new Uint8Array())).toBe('e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855')
  })
})

describe('the hash of a file', () => {
  it('is the one that its bytes have, however many there are and wherever they lie', async () => {
    for (const size of [0, 1, 55, 56, 63, 64, 65, 100_000]) {
      const bytes = Uint8Array.from({ length: size + 3 }, (_, i) => (i * 31) & 255).subarray(3)
      expect(await fileHash(bytes)).toBe(contentHash(bytes))
    }
    const known = 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad' // FIPS 180-2, B.1
    expect(await fileHash(new TextEncoder().encode('abc'))).toBe(known)
  })

  it('of many at once is each its own', async () => {
    const files = Array.from({ length: 30 }, (_, i) => new Uint8Array(1000 * i).fill(i))
    expect(await Promise.all(files.map(fileHash))).toEqual(files.map(contentHash))
  })
})

describe('problems', () => {
  it('name the place and the way out', () => {
    const p = problem('x', 'slots/coat', 'There is no such part.', 'Choose another.')
    expect(describeProblem(p)).toBe('slots/coat: There is no such part. Choose another.')
    expect(hasErrors([p])).toBe(true)
    expect(hasErrors([{ ...p, severity: 'warning' }])).toBe(false)
  })

  it('come out of a schema with the pointer of each fault', () => {
    const schema = Type.Object({ a: Type.Array(Type.Number()) }, { additionalProperties: false })
    const { value, problems } = validate(schema, { a: [1, 'x'], b: 2 }, 'doc')
    expect(value).toBeNull()
    expect(problems.map((p) => p.where)).toEqual(expect.arrayContaining(['doc', 'doc/a/1']))
    expect(problems.some((p) => p.message.includes('“b”'))).toBe(true)
  })

  it('takes whole characters however they are written, and no halves', () => {
    for (const text of ['{"a":"\\ud83d"}', '{"\\udc00":1}', '["\\ud83d\\ud83d\\ude00"]'])
      expect(parseJson(text, 'x').problems[0]?.message).toContain('half a character')
    expect(parseJson('["\\ud83d\\ude00"]', 'x').value).toEqual(['😀'])
    expect(parseJson(String.raw`["\\ud83d"]`, 'x').value).toEqual([String.raw`\ud83d`])
  })

  it('come out of broken JSON without an exception', () => {
    const { value, problems } = parseJson('{"a":', 'file.json')
    expect(value).toBeNull()
    expect(problems[0]).toMatchObject({ code: 'json', where: 'file.json' })
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { pack, unpack } from './packed.ts'

const again = (value: unknown) => unpack(pack(value))

describe('what is packed', () => {
  it('comes back as it was: numbers, texts, lists, maps, sets, rows of every kind', () => {
    const rows = [
      Float32Array.from([0.1, -0, NaN, Infinity]),
      Float64Array.from([Math.PI]),
      Int8Array.from([-1, 2, -3]),
      Int16Array.from([-300]),
      Int32Array.from([-70_000]),
      Uint8Array.from([255]),
      Uint16Array.from([65_535, 1]),
      Uint32Array.from([2 ** 32 - 1]),
      new Float32Array(0),
    ]
    const value = {
      rows,
      names: new Map<unknown, unknown>([
        ['café 𝄞', new Set([1, 'two'])],
        [3, new Map()],
      ]),
      odd: [undefined, null, -0, NaN, '\u2028', '</script>', { constructor: 1, toString: 'x' }],
    }
    expect(again(value)).toStrictEqual(value)
    expect(Object.is((again(value) as typeof value).odd[2], -0)).toBe(true)
  })

  it('comes back as it was, whatever it is', () => {
    const leaf = fc.oneof(
      fc.anything({ withMap: true, withSet: true, withNullPrototype: true, maxDepth: 3 }),
      fc.float32Array(),
      fc.uint16Array(),
      fc.uint8Array(),
    )
    // what is called so is taken for a prototype by whoever writes it; no document has it (base/schemas.ts)
    const fine = (value: unknown) => !fc.stringify(value).includes('__proto__')
    fc.assert(
      fc.property(fc.array(leaf, { maxLength: 6 }).filter(fine), (value) => {
        expect(again(value)).toStrictEqual(value)
      }),
      { numRuns: 300, seed: 3 },
    )
  })

  it('stands once if it stood in several places, and each row in a buffer of its own', () => {
    const row = Float32Array.from([1, 2])
    const part = { row }
    const [a, b, c, d] = again([part, part, row, new Float32Array(2)]) as [
      typeof part,
      typeof part,
      Float32Array,
      Float32Array,
    ]
    expect(a).toBe(b)
    expect(a.row).toBe(c)
    expect(c.buffer.byteLength).toBe(8)
    expect(d.buffer).not.toBe(c.buffer)
    // a piece of a longer row is no more than that piece
    expect(again(Float32Array.from([1, 2, 3]).subarray(1, 2))).toStrictEqual(Float32Array.from([2]))
  })

  it('can be taken from the middle of other bytes', () => {
    const packed = pack({ row: Float32Array.from([5]) })
    const within = new Uint8Array(packed.length + 9)
    within.set(packed, 3)
    expect(unpack(within.subarray(3, 3 + packed.length))).toStrictEqual({ row: Float32Array.from([5]) })
  })

  it('is refused where it is cut off, or of a kind that is not known', () => {
    const packed = pack({ row: Float32Array.from([1, 2, 3]), list: [1] })
    for (const end of [0, 3, 7, 8, 20, packed.length - 5, packed.length - 16])
      expect(() => unpack(packed.subarray(0, end)), String(end)).toThrow()
    expect(() => pack(new DataView(new ArrayBuffer(4)))).toThrow(TypeError)
    expect(() => pack({ run: () => 1 })).toThrow()
    expect(() => pack(new (class Kind {})())).toThrow()
  })
})

import { deflateRawSync } from 'node:zlib'
import { describe, expect, it } from 'vitest'
import { createRandom } from '../recipe/random.ts'
import { inflate } from './inflate.ts'

// what another library packed, in several blocks
const random = createRandom(3)
const bytes = Uint8Array.from({ length: 300_000 }, (_, i) => (i % 3 ? i >> 8 : random.next() * 256))
const packed = new Uint8Array(deflateRawSync(bytes))

describe('what is unpacked', () => {
  it('is what was packed, up to as much as may come of it', async () => {
    expect(Buffer.compare(await inflate(packed, bytes.length), bytes)).toBe(0)
    await expect(inflate(packed, bytes.length - 1)).rejects.toThrow('more than 299999 bytes')
    expect(await inflate(new Uint8Array(deflateRawSync(new Uint8Array())), 0)).toHaveLength(0)
  })

  it('is refused where it is damaged, cut or nothing', async () => {
    const odd = [new Uint8Array(), packed.slice(0, -6), packed.slice(0, 5), packed.map((b) => b ^ 0xff), bytes]
    for (const one of odd) await expect(inflate(one, 1e9)).rejects.toThrow()
  })

  it('is given up as soon as it is too much: of a bomb nothing but the beginning is unpacked', async () => {
    const bomb = new Uint8Array(deflateRawSync(new Uint8Array(200_000_000)))
    const before = process.memoryUsage().arrayBuffers
    await expect(inflate(bomb, 1_000_000)).rejects.toThrow('more than')
    expect(process.memoryUsage().arrayBuffers - before).toBeLessThan(50_000_000)
  })
})

import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { atlasUvs, gridFor, layoutAtlas, paintAtlas, rgbOf } from './atlas.ts'

const color = fc.integer({ min: 0, max: 0xffffff }).map((n) => `#${n.toString(16).padStart(6, '0')}`)

/** An atlas of flat colors, and the middle of each one's cell. */
function flat(swatches: string[], size: number) {
  const { layout, problems } = layoutAtlas(
    swatches.map(() => null),
    size,
  )
  const atlas = paintAtlas(
    layout,
    swatches.map((swatch) => ({ swatch, picture: null })),
  )
  const uvs = atlasUvs(layout, [...swatches.keys()], new Float32Array(swatches.length * 2), () => false)
  return { atlas, problems, middle: (i: number): [number, number] => [uvs[i * 2]!, uvs[i * 2 + 1]!] }
}

function sample(pixels: Uint8Array, size: number, [u, v]: [number, number]): number[] {
  const o = (Math.floor(v * size) * size + Math.floor(u * size)) * 4
  return [...pixels.subarray(o, o + 4)]
}

describe('an atlas', () => {
  it('shows every swatch at the middle of its cell, however many there are', () => {
    fc.assert(
      fc.property(fc.array(color, { minLength: 1, maxLength: 60 }), fc.constantFrom(64, 128, 256), (swatches, size) => {
        const { atlas, problems, middle } = flat(swatches, size)
        expect(problems).toEqual([])
        swatches.forEach((swatch, i) => expect(sample(atlas.pixels, size, middle(i))).toEqual([...rgbOf(swatch), 255]))
      }),
      { numRuns: 40 },
    )
  })

  it('is flat around the middle of a cell, so that coarser mip levels do not mix swatches', () => {
    const { atlas, middle } = flat(['#ff0000', '#00ff00', '#0000ff', '#ffffff', '#000000'], 64)
    const cell = atlas.rectangles[2]!.w
    const [u, v] = middle(2)
    for (const du of [-0.4, 0, 0.4])
      for (const dv of [-0.4, 0, 0.4])
        expect(sample(atlas.pixels, 64, [u + (du * cell) / 64, v + (dv * cell) / 64])).toEqual([0, 0, 255, 255])
  })

  it('tells when there are more swatches than it can hold apart', () => {
    expect(flat(Array<string>(300).fill('#123456'), 64).problems[0]!.code).toBe('atlas-full')
  })

  it('has the least square grid of a power of two', () => {
    expect([1, 2, 4, 5, 16, 17, 64].map(gridFor)).toEqual([1, 2, 2, 4, 4, 8, 8])
  })

  it('without swatches is one gray cell, not nothing', () => {
    const { atlas } = flat([], 64)
    expect(atlas.rectangles).toEqual([])
    expect(sample(atlas.pixels, 64, [0.5, 0.5])).toEqual([128, 128, 128, 255])
  })

  it('reads colors as they are written', () => {
    expect(rgbOf('#000000')).toEqual([0, 0, 0])
    expect(rgbOf('#e3aa80')).toEqual([0xe3, 0xaa, 0x80])
  })
})

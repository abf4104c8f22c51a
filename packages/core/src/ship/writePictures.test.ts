import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { decode, encode } from 'fast-png'
import { beforeAll, describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { readRecipe } from '../recipe/read.ts'
import { demoKit, demoTarget, KITS_FOLDER } from '../testing/demoKits.ts'
import { checkFile } from './checkFile.ts'
import { shipFormats } from './shipFormats.ts'
import { ShippedFile, type Drawn } from './ShippedFile.ts'
import { ICON_SIDE, SHEET_VIEW } from './writePictures.ts'

/* The pictures against the GLB of the same figure, whose triangles are looked at one by one. */

// with a pole in one hand, so that left is not right
const recipe = readRecipe(readFileSync(join(KITS_FOLDER, 'lantern-tide/old-berrit.recipe.json'), 'utf8')).value!
const files = new Map<string, Uint8Array>()
let drawn: Drawn
let atlas: ReturnType<typeof decode>
beforeAll(async () => {
  const kits = new Map([['saltwick-folk', await demoKit('saltwick-folk')]])
  const made = await shipFormats(new Builder(kits), kits, recipe, demoTarget('near'), ['glb', 'png', 'json'], {
    ...{ lods: false, stem: 'berrit' },
  })
  for (const { files: own, problems } of made) {
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    for (const [name, bytes] of own!) files.set(name, bytes)
  }
  drawn = new ShippedFile(files.get('berrit.glb')!).drawn()[0]!
  atlas = decode(files.get('berrit.png')!)
})

/** From ahead, from its left, from behind, from its right. */
const TURNS = [0, 90, 180, -90] as const
/** Right, up and towards who looks, from a figure's side; a second time, by hand. */
const SIDES = {
  0: ([x, y, z]: number[]) => [x!, y!, z!],
  90: ([x, y, z]: number[]) => [-z!, y!, x!],
  180: ([x, y, z]: number[]) => [-x!, y!, -z!],
  [-90]: ([x, y, z]: number[]) => [z!, y!, -x!],
}

describe('the pictures of a figure', () => {
  it('show four sides of it, as large as each other, where its vertices are', () => {
    const { width, height, data } = decode(files.get('berrit-sheet.png')!)
    expect([width, height]).toEqual([SHEET_VIEW * 4, SHEET_VIEW])
    const scales = TURNS.map((turn, nth) => {
      const box = { left: Infinity, right: -Infinity, top: Infinity, bottom: -Infinity }
      for (let y = 0; y < height; y++)
        for (let x = 0; x < SHEET_VIEW; x++) {
          if (data[(y * width + nth * SHEET_VIEW + x) * 4 + 3]! < 128) continue
          box.left = Math.min(box.left, x)
          box.right = Math.max(box.right, x + 1)
          box.top = Math.min(box.top, y)
          box.bottom = Math.max(box.bottom, y + 1)
        }
      const low = [Infinity, Infinity]
      const high = [-Infinity, -Infinity]
      for (let v = 0; v < drawn.positions.length; v += 3)
        SIDES[turn]([...drawn.positions.subarray(v, v + 3)])
          .slice(0, 2)
          .forEach((n, k) => {
            low[k] = Math.min(low[k]!, n)
            high[k] = Math.max(high[k]!, n)
          })
      const scale = (box.bottom - box.top) / (high[1]! - low[1]!)
      // pixels are counted whole: one at each side
      expect(Math.abs((box.right - box.left) / scale - (high[0]! - low[0]!)) * scale).toBeLessThan(3)
      return scale
    })
    for (const scale of scales) expect(scale / scales[0]!).toBeCloseTo(1, 2)
  })

  it('have the colors of its own triangles, the nearest in front', () => {
    const { width, data } = decode(files.get('berrit-sheet.png')!)
    for (const [nth, turn] of TURNS.entries()) {
      const places = Array.from({ length: drawn.positions.length / 3 }, (_, v) =>
        SIDES[turn]([...drawn.positions.subarray(v * 3, v * 3 + 3)]),
      )
      const middle = [0, 1].map((k) => (Math.max(...places.map((p) => p[k]!)) + Math.min(...places.map((p) => p[k]!))) / 2) // prettier-ignore
      const rows = Array.from({ length: SHEET_VIEW }, (_, y) => y).filter((y) =>
        Array.from({ length: SHEET_VIEW }, (_, x) => data[(y * width + nth * SHEET_VIEW + x) * 4 + 3]!).some((a) => a > 128),
      ) // prettier-ignore
      const tall = Math.max(...places.map((p) => p[1]!)) - Math.min(...places.map((p) => p[1]!))
      const scale = rows.length / tall
      let same = 0
      let looked = 0
      for (let y = 20; y < SHEET_VIEW; y += 17)
        for (let x = 20; x < SHEET_VIEW; x += 17) {
          const o = (y * width + nth * SHEET_VIEW + x) * 4
          if (data[o + 3]! < 255) continue
          const at = [middle[0]! + (x + 0.5 - SHEET_VIEW / 2) / scale, middle[1]! - (y + 0.5 - SHEET_VIEW / 2) / scale]
          const color = nearest(places, at)
          if (!color) continue
          looked++
          // lit and shaded it is darker, in all three alike
          const [seen, own] = [[...data.subarray(o, o + 3)], color].map((c) => c.map((n) => n / Math.max(1, ...c)))
          if (seen!.every((n, k) => Math.abs(n - own![k]!) < 0.06)) same++
        }
      expect(looked, String(turn)).toBeGreaterThan(60)
      // where two triangles meet in a pixel it is of both
      expect(same / looked, String(turn)).toBeGreaterThan(0.85)
    }
  })

  it('are an icon and its colors beside that, and are looked at again', async () => {
    const icon = decode(files.get('berrit-icon.png')!)
    expect([icon.width, icon.height]).toEqual([ICON_SIDE, ICON_SIDE])
    const rim = Array.from({ length: ICON_SIDE }, (_, i) => [icon.data[i * 4 + 3], icon.data[i * ICON_SIDE * 4 + 3]])
    expect(rim.flat().every((alpha) => alpha === 0)).toBe(true)
    for (const name of ['berrit.png', 'berrit-sheet.png', 'berrit-icon.png'])
      expect(await checkFile(files.get(name)!, name)).toMatchObject({ problems: [] })
    const flat = (fill: number[]) =>
      new Uint8Array(encode({ width: 4, height: 4, channels: 4, depth: 8, data: Uint8Array.from({ length: 64 }, (_, i) => fill[i % 4]!) })) // prettier-ignore
    const told = async (bytes: Uint8Array) => (await checkFile(bytes, 'a.png')).problems.map((p) => p.message)
    expect(await told(flat([9, 9, 9, 0]))).toEqual(['The picture is empty.'])
    expect(await told(flat([0, 0, 0, 255]))).toEqual(['The picture is all black.'])
    expect(await told(files.get('berrit-icon.png')!.slice(0, 900))).toEqual([
      expect.stringContaining('The picture cannot be read'),
    ])
  })

  it('come with the recipe, which is read as the figure it is', async () => {
    const bytes = files.get('berrit.recipe.json')!
    expect(readRecipe(new TextDecoder().decode(bytes)).value).toEqual(recipe)
    expect((await checkFile(bytes, 'berrit.recipe.json')).passed.join()).toContain('Old Berrit')
    // whatever words are in it
    const named = new TextEncoder().encode(new TextDecoder().decode(bytes).replace('"Old Berrit"', '"asset"'))
    expect(await checkFile(named, 'asset.recipe.json')).toMatchObject({
      problems: [],
      passed: [expect.stringContaining('“asset”')],
    })
    const torn = new TextEncoder().encode(new TextDecoder().decode(bytes).replace('"version": 2', '"version": 99'))
    expect((await checkFile(torn, 'berrit.recipe.json')).problems).not.toEqual([])
  })
})

/** The color of the triangle nearest to who looks at a place, from the atlas. */
function nearest(places: readonly number[][], [x, y]: readonly number[]): number[] | null {
  let best = -Infinity
  let color: number[] | null = null
  const { triangles, uvs } = drawn
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => places[triangles[t + k]!]!) as [number[], number[], number[]]
    const area = (b[0]! - a[0]!) * (c[1]! - a[1]!) - (b[1]! - a[1]!) * (c[0]! - a[0]!)
    if (area <= 0) continue
    const wb = ((x! - a[0]!) * (c[1]! - a[1]!) - (y! - a[1]!) * (c[0]! - a[0]!)) / area
    const wc = ((b[0]! - a[0]!) * (y! - a[1]!) - (b[1]! - a[1]!) * (x! - a[0]!)) / area
    const wa = 1 - wb - wc
    if (wa < 0 || wb < 0 || wc < 0) continue
    const depth = wa * a[2]! + wb * b[2]! + wc * c[2]!
    if (depth <= best) continue
    best = depth
    const [u, v] = [0, 1].map(
      (k) => [wa, wb, wc].reduce((sum, w, i) => sum + w * uvs![triangles[t + i]! * 2 + k]!, 0) * atlas.width,
    )
    const o = (Math.floor(v!) * atlas.width + Math.floor(u!)) * 4
    color = [...atlas.data.subarray(o, o + 3)]
  }
  return color
}

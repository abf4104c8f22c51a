import { describe, expect, it } from 'vitest'
import { loadProver } from '@idle-tinker/core'
import { lookFromText, settle, Wardrobe, type Assembly, type BodyEntry, type Piece } from '@idle-tinker/runtime'
import { kits, manifestOf, readerOf, smallPackage } from '../../runtime/src/testing/smallPackage.ts'
import { Uncovered } from './showsOpen.ts'
import { MOST, showsThrough } from './showsThrough.ts'
import { tryOnLooks } from './tryOnLooks.ts'

const built = await smallPackage()
const prover = await loadProver()

/** A sheet of 10 by 10 squares of a centimetre, at a height of its own everywhere, facing up or down. */
function sheet(heightAt: (x: number, y: number) => number, up = true) {
  const position: number[] = []
  const index: number[] = []
  for (let y = 0; y <= 10; y++) for (let x = 0; x <= 10; x++) position.push(x / 100, heightAt(x, y), y / 100)
  for (let y = 0; y < 10; y++)
    for (let x = 0; x < 10; x++) {
      const [a, b, c, d] = [y * 11 + x, y * 11 + x + 1, (y + 1) * 11 + x, (y + 1) * 11 + x + 1]
      const two = [a, c, b, b, c, d]
      index.push(...(up ? two : two.reverse()))
    }
  return { position, index }
}

/** Sheets as if they were pieces: the first is option 0, the second 1. */
function put(...sheets: ReturnType<typeof sheet>[]): Assembly {
  const position = sheets.flatMap((s) => s.position)
  const runs: Assembly['runs'] = []
  const index = sheets.flatMap((s, i) => {
    const from = runs.at(-1)?.to ?? 0
    runs.push({ option: i, from, to: from + s.index.length })
    return s.index.map((v) => v + i * 121)
  })
  const mesh = { corners: position.length / 3, position: Float32Array.from(position), index: Uint32Array.from(index) }
  return { mesh, runs } as unknown as Assembly
}
const GROWN = 1.75
/** The second lies over the first. */
const over = (option: number) => option + 1
const through = (assembly: Assembly, most = MOST) => [
  ...showsThrough(assembly, over, GROWN, undefined, most)[0]!.places.values(),
]

describe('what shows through', () => {
  const flat = sheet(() => 0.02)

  it('is what stands out of what lies over it, by how much it does', () => {
    expect(
      through(
        put(
          sheet(() => 0.01),
          flat,
        ),
      ),
    ).toEqual([])
    const bump = through(
      put(
        sheet((x, y) => (x === 5 && y === 5 ? 0.026 : 0.01)),
        flat,
      ),
    )
    expect(bump.length).toBe(1)
    expect(bump[0]).toBeCloseTo(0.006, 4)
    // all of it: every corner and every middle
    expect(
      through(
        put(
          sheet(() => 0.025),
          flat,
        ),
      ).length,
    ).toBe(121 + 200)
  })

  it('is not what nobody sees, what stands far out on purpose, what faces away, or what only lies under', () => {
    expect(
      through(
        put(
          sheet(() => 0.021),
          flat,
        ),
      ),
    ).toEqual([])
    expect(
      through(
        put(
          sheet(() => 0.05),
          flat,
        ),
      ),
    ).toEqual([])
    expect(
      through(
        put(
          sheet(() => 0.05),
          flat,
        ),
        4 * MOST,
      ).length,
    ).toBe(121 + 200)
    expect(
      through(
        put(
          sheet(() => 0.025, false),
          flat,
        ),
      ),
    ).toEqual([])
    const none = showsThrough(
      put(
        sheet(() => 0.025),
        flat,
      ),
      (o) => (o === 1 ? null : 1),
      GROWN,
    )
    expect(none).toEqual([])
    // twice as tall a figure may have twice as much of it unseen
    const tall = showsThrough(
      put(
        sheet(() => 0.0235),
        flat,
      ),
      over,
      GROWN * 2,
    )[0]!
    expect(tall.places.size).toBe(0)
  })
})

describe('what is open', () => {
  const body = { bones: [], morphs: [] } as unknown as BodyEntry
  /** A sheet as a piece; the body's is hidden by option 0. */
  function piece(option: number | null, { position, index }: ReturnType<typeof sheet>): Piece {
    const count = position.length / 3
    const none = new Uint16Array(0)
    const all = Uint16Array.from({ length: count }, (_, i) => i)
    const patches = [{ from: 0, to: index.length, hiddenBy: option === null ? [0] : [] }]
    return {
      ...{ option, count, positions: Float32Array.from(position), joints: new Uint16Array(count * 4) },
      ...{ weights: new Float32Array(count * 4), uvs: new Float32Array(count * 2), regions: new Uint16Array(count) },
      ...{ first: all, welds: none, ground: none, morphs: [], fits: [] },
      levels: [
        {
          ...{ corners: all, shades: new Uint8Array(count), softness: new Uint8Array(count) },
          ...{ triangles: Uint16Array.from(index), patches },
        },
      ],
    }
  }
  function open(lower: ReturnType<typeof sheet>, upper: ReturnType<typeof sheet>) {
    const uncovered = new Uncovered(body)
    uncovered.dress([piece(null, lower), piece(0, upper)])
    return [...uncovered.open([]).values()]
  }
  const flat = sheet(() => 0)
  /** Twice as wide as the one beneath, around the same middle. */
  const wide = (y: number) => {
    const { position, index } = sheet(() => y)
    return { position: position.map((v, i) => (i % 3 === 1 ? v : v * 3 - 0.1)), index }
  }

  it('is what is left out beneath something and can be seen past it, and nothing else', () => {
    expect(open(flat, wide(0.02))).toEqual([{ inner: null, outer: 0, places: new Map() }])
    // a window of 3 by 3 cm over its middle
    const { position, index } = wide(0.02)
    const squares = Array.from({ length: 100 }, (_, i) => i).filter((i) => i !== 44)
    const window = { position, index: squares.flatMap((i) => index.slice(i * 6, i * 6 + 6)) }
    const [{ places } = { places: new Map<number, number>() }] = open(flat, window)
    const area = [...places.values()].reduce((sum, a) => sum + a, 0)
    // as much as the window, seen aslant from eight sides: at most 3 cm beside it on each
    expect([area > 0.0009, area < 0.0081]).toEqual([true, true])
    const [x, z] = [0, 2].map((k) => {
      const at = [...places.keys()].flatMap((t) => flat.index.slice(t, t + 3).map((v) => flat.position[v * 3 + k]!))
      return [Math.min(...at), Math.max(...at)]
    })
    for (const [low, high] of [x!, z!])
      expect([low! >= -0.001, high! < 0.09, high! - low! > 0.03]).toEqual([true, true, true])
  })

  it('is not what has come out through what covers it: that is seen in its place', () => {
    expect(
      open(
        sheet(() => 0.03),
        wide(0.02),
      )[0]!.places.size,
    ).toBe(0)
    // far behind it there is nothing to be seen
    expect(
      open(
        sheet(() => 0.2),
        wide(0.02),
      )[0]!.places.size,
    ).toBe(200)
  })
})

describe('trying on every pair of parts', () => {
  it('finds where a part shrinks away from what is left out beneath it', async () => {
    const sound = (await Wardrobe.open(readerOf(built.files))).wardrobe!
    const broken = (await Wardrobe.open(readerOf(built.files))).wardrobe!
    const body = broken.manifest.bodies[0]!
    const open = await broken.openBody(body)
    const shirt = body.options.findIndex((o) => o.id === 'saltwick-folk/shirt-work')
    const { pieces } = await broken.fit(open, { parts: { top: body.options[shirt]!.id } })
    const belly = body.morphs.findIndex((m) => m.name === 'belly up')
    // with the belly the shirt is drawn up by a hand
    const { moves } = pieces.find((p) => p.option === shirt)!.morphs.find((m) => m.morph === belly)!
    moves.values.forEach((v, i) => i % 3 === 1 && (moves.values[i] = v + 0.2))
    const seen = async (wardrobe: Wardrobe) => {
      const { open } = await tryOnLooks(wardrobe, body, kits, prover)
      return open
        .filter((h) => h.inner === null && h.outer === 'saltwick-folk/shirt-work')
        .reduce((s, h) => s + h.area, 0)
    }
    expect(await seen(broken)).toBeGreaterThan((await seen(sound)) + 0.01)
  })

  it('puts on looks that can be worn, in which every two parts are', async () => {
    const { wardrobe } = await Wardrobe.open(readerOf(built.files))
    const body = wardrobe!.manifest.bodies[0]!
    const done: number[] = []
    const tried = await tryOnLooks(wardrobe!, body, kits, prover, { progress: (share) => done.push(share) })
    expect(tried.body).toBe('human')
    expect(tried.looks).toBe(done.length * 3)
    expect(done).toEqual([...done].sort((a, b) => a - b))
    const possible = body.slots.flatMap((a, i) =>
      body.slots.slice(i + 1).flatMap((b) => a.options.flatMap((x) => b.options.map((y) => [x, y]))),
    )
    expect(tried.pairs).toBeGreaterThan(possible.length * 0.8)
    expect(tried.pairs).toBeLessThanOrEqual(possible.length)
    expect(tried.triples).toBe(undefined)
    // three at a time there are more looks, in which some lie on each other
    const more = await tryOnLooks(wardrobe!, body, kits, prover, { triples: true })
    expect([more.pairs, more.triples! > 3, more.looks > tried.looks]).toEqual([tried.pairs, true, true])
    for (const { text, depth } of tried.worst) {
      const { look, told } = lookFromText(manifestOf(built), text)
      expect([told, settle(body, look, () => true).told]).toEqual([[], []])
      expect(depth).toBeLessThanOrEqual(MOST * 1.3)
    }
  })

  it('finds a part that grows through another with a slider', async () => {
    const sound = (await Wardrobe.open(readerOf(built.files))).wardrobe!
    const broken = (await Wardrobe.open(readerOf(built.files))).wardrobe!
    const body = broken.manifest.bodies[0]!
    // the shirt swells three times as much with the belly as the body does; the coat over it does not
    const open = await broken.openBody(body)
    const shirt = body.options.findIndex((o) => o.id === 'saltwick-folk/shirt-work')
    const { pieces } = await broken.fit(open, { parts: { top: body.options[shirt]!.id } })
    const belly = body.morphs.findIndex((m) => m.name === 'belly up')
    const { moves } = pieces.find((p) => p.option === shirt)!.morphs.find((m) => m.morph === belly)!
    moves.values.forEach((v, i) => (moves.values[i] = v * 1.25))
    const depths = async (wardrobe: Wardrobe) => {
      const { worst } = await tryOnLooks(wardrobe, body, kits, prover)
      const own = worst.filter((w) => w.inner === 'saltwick-folk/shirt-work')
      return own.reduce((places, w) => places + w.places, 0)
    }
    expect(await depths(broken)).toBeGreaterThan((await depths(sound)) + 10)
  })
})

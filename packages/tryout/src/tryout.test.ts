import { describe, expect, it } from 'vitest'
import { loadProver } from '@idle-tinker/core'
import { lookFromText, settle, Wardrobe, type Assembly } from '@idle-tinker/runtime'
import { kits, manifestOf, readerOf, smallPackage } from '../../runtime/src/testing/smallPackage.ts'
import { MOST, showsThrough } from './showsThrough.ts'
import { tryPairs } from './tryPairs.ts'

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

describe('trying on every pair of parts', () => {
  it('puts on looks that can be worn, in which every two parts are', async () => {
    const { wardrobe } = await Wardrobe.open(readerOf(built.files))
    const body = wardrobe!.manifest.bodies[0]!
    const done: number[] = []
    const tried = await tryPairs(wardrobe!, body, kits, prover, (share) => done.push(share))
    expect(tried.body).toBe('human')
    expect(tried.looks).toBe(done.length * 3)
    expect(done).toEqual([...done].sort((a, b) => a - b))
    const possible = body.slots.flatMap((a, i) =>
      body.slots.slice(i + 1).flatMap((b) => a.options.flatMap((x) => b.options.map((y) => [x, y]))),
    )
    expect(tried.pairs).toBeGreaterThan(possible.length * 0.8)
    expect(tried.pairs).toBeLessThanOrEqual(possible.length)
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
      const { worst } = await tryPairs(wardrobe, body, kits, prover)
      const own = worst.filter((w) => w.inner === 'saltwick-folk/shirt-work')
      return own.reduce((places, w) => places + w.places, 0)
    }
    expect(await depths(broken)).toBeGreaterThan((await depths(sound)) + 10)
  })
})

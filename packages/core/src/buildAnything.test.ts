import fc from 'fast-check'
import { beforeAll, describe, expect, it } from 'vitest'
import { contentHash } from './base/canonical.ts'
import { Builder, type Figure } from './build.ts'
import { reducerReady } from './budget/reduceMesh.ts'
import { newRecipe } from './recipe/defaults.ts'
import { clearPart, rename, setColor, setLock, setSlider } from './recipe/edits.ts'
import { partIn, partsIn } from './recipe/instances.ts'
import { readRecipe } from './recipe/read.ts'
import { resolveRecipe } from './recipe/resolve.ts'
import type { Recipe } from './recipe/schema.ts'
import { dressInPalette, shuffleAll, shuffleSlot } from './recipe/shuffle.ts'
import { demoKit, TARGETS } from './testing/demoKits.ts'
import { even } from './testing/even.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const bases = [
  [folk, 'human'],
  [tide, 'ottern'],
] as const
const target = (id: string) => TARGETS.find((t) => t.id === id)!

beforeAll(() => reducerReady)

/** Anyone's figure: one of the bodies, shuffled by some seed. */
const anyone = fc
  .tuple(fc.nat(1), fc.nat(2 ** 30))
  .map(([which, seed]) => shuffleAll(newRecipe(bases[which]![0], bases[which]![1], 'Anyone'), kits, seed))

function max(values: ArrayLike<number>): number {
  let most = 0
  for (let i = 0; i < values.length; i++) most = Math.max(most, values[i]!)
  return most
}

function sound(figure: Figure, influences: number): void {
  const { mesh, skeleton } = figure
  const points = mesh.positions.length / 3
  for (const v of mesh.positions) if (!Number.isFinite(v)) throw new Error('a place that is no number')
  for (const v of mesh.normals) if (!Number.isFinite(v)) throw new Error('a normal that is no number')
  expect(max(mesh.cornerPoints)).toBeLessThan(points)
  expect(max(mesh.indices)).toBeLessThan(mesh.cornerPoints.length)
  expect(max(mesh.regions)).toBeLessThan(mesh.regionNames.length)
  const worn = new Set(mesh.cornerPoints)
  for (const p of worn) {
    let [sum, used] = [0, 0]
    for (let k = 0; k < 4; k++) {
      const w = mesh.weights[p * 4 + k]!
      sum += w
      if (w === 0) continue
      used++
      if (!(mesh.joints[p * 4 + k]! < skeleton.bones.length)) throw new Error('a joint that is no bone')
    }
    // told only when wrong: there are tens of thousands of points
    if (!(Math.abs(sum - 1) < 5e-5) || used > influences) expect([p, sum, used]).toEqual([p, 1, influences])
  }
  const lowest = [...worn].reduce((m, p) => Math.min(m, mesh.positions[p * 3 + 1]!), Infinity)
  expect(Math.abs(lowest)).toBeLessThan(0.2)
}

describe('any figure that shuffling makes', () => {
  it('is a sound recipe and builds without an error', () => {
    const builder = new Builder(kits)
    fc.assert(
      fc.property(anyone, (recipe) => {
        expect(readRecipe(recipe).problems).toEqual([])
        const { figure, problems } = builder.build(recipe, target('near'))
        expect(problems.filter((p) => p.severity === 'error')).toEqual([])
        sound(figure!, 4)
      }),
      { numRuns: 20 },
    )
  })

  it('comes under the limit of a crowd with everything it needs', () => {
    const builder = new Builder(kits)
    fc.assert(
      fc.property(anyone, (recipe) => {
        const { figure } = builder.build(recipe, target('crowd'), { reduce: true })
        sound(figure!, 2)
        expect(figure!.costs.triangles).toBeLessThanOrEqual(900)
        expect(figure!.costs.drawCalls).toBe(1)
        expect(figure!.pieces.find((p) => p.slot === 'eyes')!.triangles.reduce((a, b) => b - a)).toBeGreaterThan(0)
      }),
      { numRuns: 12 },
    )
  })

  it('has eyes, and a body that is there', () => {
    const builder = new Builder(kits)
    fc.assert(
      fc.property(anyone, (recipe) => {
        expect(partIn(recipe, 'eyes')).toBeDefined()
        const body = builder.build(recipe, target('near')).figure!.pieces[0]!
        expect(body.slot).toBe('body')
        expect(body.triangles[1] - body.triangles[0]).toBeGreaterThan(100)
      }),
      { numRuns: 15 },
    )
  })

  it('wears nothing that rules out something else it wears', () => {
    fc.assert(
      fc.property(anyone, (recipe) => {
        const codes = resolveRecipe(recipe, kits).problems.map((p) => p.code)
        expect(codes).not.toContain('part-excluded')
        expect(codes).not.toContain('part-other-body')
      }),
      { numRuns: 60 },
    )
  })
})

describe('any run of edits', () => {
  const slots = folk.manifest.slots.map((s) => s.id)
  const sliders = folk.bodies.get('human')!.def.sliders
  type Edit = (r: Recipe) => Recipe
  const edit: fc.Arbitrary<Edit> = fc.oneof(
    fc.tuple(fc.constantFrom(...sliders), fc.oneof(even(-1.2, 1.2), fc.double())).map(
      ([s, v]): Edit =>
        (r) =>
          setSlider(r, s.id, v, s),
    ),
    fc.constantFrom(...slots).map(
      (slot): Edit =>
        (r) =>
          clearPart(r, slot),
    ),
    fc.tuple(fc.constantFrom(...slots), fc.boolean()).map(
      ([slot, on]): Edit =>
        (r) =>
          setLock(r, slot, on),
    ),
    fc.tuple(fc.constantFrom(...slots), fc.nat()).map(
      ([slot, seed]): Edit =>
        (r) =>
          shuffleSlot(r, kits, slot, seed),
    ),
    fc.nat().map(
      (seed): Edit =>
        (r) =>
          shuffleAll(r, kits, seed),
    ),
    fc.tuple(fc.constantFrom(...folk.manifest.palettes), fc.nat()).map(
      ([palette, seed]): Edit =>
        (r) =>
          dressInPalette(r, kits, palette, seed),
    ),
    fc.string().map(
      (name): Edit =>
        (r) =>
          rename(r, name),
    ),
    fc.constantFrom('coat', 'hair', 'skin').map(
      (region): Edit =>
        (r) =>
          setColor(r, region, '#0a0b0c'),
    ),
  )

  it('leaves a valid recipe that builds, and never touches the one before', () => {
    const builder = new Builder(kits)
    fc.assert(
      fc.property(fc.array(edit, { maxLength: 25 }), (edits) => {
        let recipe = newRecipe(folk, 'human', 'Edited')
        for (const change of edits) {
          const before = contentHash(recipe)
          const next = change(recipe)
          expect(contentHash(recipe)).toBe(before)
          recipe = next
        }
        expect(readRecipe(recipe).problems).toEqual([])
        expect(builder.build(recipe, target('near')).figure).not.toBeNull()
      }),
      { numRuns: 15 },
    )
  })

  it('of shuffles leaves locked slots as they are', () => {
    fc.assert(
      fc.property(anyone, fc.subarray(slots), fc.nat(), (start, locked, seed) => {
        if (start.body.id !== 'human') return
        const recipe = { ...start, locks: locked }
        const next = shuffleAll(recipe, kits, seed)
        for (const slot of locked) expect(partsIn(next, slot)).toEqual(partsIn(recipe, slot))
      }),
    )
  })

  it('of palettes leaves what is the person’s own', () => {
    fc.assert(
      fc.property(fc.constantFrom(...folk.manifest.palettes), fc.nat(), (palette, seed) => {
        const recipe = { ...newRecipe(folk, 'human', 'x'), colors: { skin: '#102030', hair: '#405060' } }
        const next = dressInPalette(recipe, kits, palette, seed)
        expect(next.colors.skin).toBe('#102030')
        expect(next.colors.hair).toBe('#405060')
        expect(Object.keys(next.colors).length).toBeGreaterThan(4)
      }),
    )
  })
})

describe('anything at all as a recipe', () => {
  it('is read or refused with problems that name a place, never thrown', () => {
    fc.assert(
      fc.property(fc.oneof(fc.jsonValue(), fc.string()), (input) => {
        const { value, problems } = readRecipe(typeof input === 'string' ? input : (input as unknown))
        expect(value === null).toBe(problems.length > 0)
        for (const p of problems) expect(p.where.length).toBeGreaterThan(0)
      }),
    )
  })

  it('with odd numbers and names builds what can be built', () => {
    const builder = new Builder(kits)
    const odd = fc.constantFrom(Number.NaN, Infinity, -Infinity, 1e9, -3, 0.2)
    fc.assert(
      fc.property(odd, odd, fc.string(), (a, b, id) => {
        const recipe: Recipe = {
          ...newRecipe(folk, 'human', 'Odd'),
          sliders: { build: a, stature: b, [id || 'x']: 0.5 },
        }
        recipe.parts.push({
          id: 'hat',
          slot: 'hat',
          part: { kit: 'saltwick-folk', kitVersion: '1.0.0', id: id || 'x' },
        })
        const { figure, problems } = builder.build(recipe, target('near'))
        sound(figure!, 4)
        expect(problems.length).toBeGreaterThan(0)
      }),
      { numRuns: 20 },
    )
  })
})

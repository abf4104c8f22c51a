import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { newRecipe, partReference } from './defaults.ts'
import { clearPart, rename, setColor, setLock, setPart, setSlider, setSliders } from './edits.ts'
import { partIn } from './instances.ts'
import { createRandom } from './random.ts'
import { readRecipe, readTarget, recipeHash } from './read.ts'
import { resolveRecipe } from './resolve.ts'
import { areExclusive, shuffleAll, shuffleShape, shuffleSlot } from './shuffle.ts'
import { sidesOf } from './symmetry.ts'
import { even } from '../testing/even.ts'

const kit = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([kit, tide].map((k) => [k.manifest.id, k]))
const maren = dressed(kit, 'human', MAREN)

describe('a recipe', () => {
  it('is a document that reads back as it was', () => {
    const { value, problems } = readRecipe(JSON.stringify(maren))
    expect(problems).toEqual([])
    expect(recipeHash(value!)).toBe(recipeHash(maren))
  })

  it.each([
    ['text that is no JSON', '{', 'json'],
    ['another format', '{"format":"x"}', 'format'],
    ['a newer version', JSON.stringify({ ...maren, version: 9 }), 'newer'],
    ['an unknown member', JSON.stringify({ ...maren, extra: 1 }), 'schema'],
    ['a color that is none', JSON.stringify({ ...maren, colors: { coat: 'blue' } }), 'schema'],
    ['a slider far out of range', JSON.stringify({ ...maren, sliders: { build: 9 } }), 'schema'],
  ])('is refused as %s', (_name, text, code) => {
    const { value, problems } = readRecipe(text)
    expect(value).toBeNull()
    expect(problems[0]!.code).toBe(code)
  })

  it('comes with targets that are valid themselves', () => {
    for (const target of TARGETS) expect(readTarget(target).problems).toEqual([])
  })
})

describe('edits', () => {
  const slider = kit.bodies.get('human')!.def.sliders[0]!
  it('return the same recipe when nothing changes, and never touch the old one', () => {
    const frozen = JSON.stringify(maren)
    expect(setPart(maren, 'hat', partIn(maren, 'hat')!)).toBe(maren)
    expect(clearPart(maren, 'beard')).toBe(maren)
    expect(rename(maren, '  ')).toBe(maren)
    expect(setSlider(maren, slider.id, Number.NaN, slider)).toBe(maren)
    expect(setColor(setColor(maren, 'coat', '#112233'), 'coat', '#112233').colors).toEqual({ coat: '#112233' })
    clearPart(maren, 'hat')
    setLock(maren, 'hat', true)
    expect(JSON.stringify(maren)).toBe(frozen)
  })

  it('hold sliders within their range and leave out those at rest', () => {
    fc.assert(
      fc.property(fc.oneof(even(-2, 2), fc.double({ noNaN: true })), (v) => {
        const next = setSlider(maren, slider.id, v, slider)
        const value = next.sliders[slider.id] ?? slider.default
        expect(value).toBeGreaterThanOrEqual(slider.min)
        expect(value).toBeLessThanOrEqual(slider.max)
      }),
    )
    const out = setSlider(setSlider(maren, slider.id, 0.5, slider), slider.id, 0, slider)
    expect(slider.id in out.sliders).toBe(false)
  })

  it('of several sliders at once come to the same as one after another', () => {
    const { sliders } = kit.bodies.get('human')!.def
    const random = createRandom(7)
    for (let round = 0; round < 50; round++) {
      const values = Object.fromEntries(
        sliders.filter(() => random.next() < 0.5).map((s): [string, number] => [s.id, random.between(-1.5, 1.5)]),
      )
      const single = sliders.reduce((r, s) => (s.id in values ? setSlider(r, s.id, values[s.id]!, s) : r), maren)
      expect(setSliders(maren, values, sliders)).toEqual(single)
    }
    expect(setSliders(maren, {}, sliders)).toBe(maren)
    expect(setSliders(maren, { [slider.id]: Number.NaN, 'not-there': 1 }, sliders)).toBe(maren)
  })
})

describe('shuffling', () => {
  it('is the same for the same seed and leaves locked slots alone', () => {
    const locked = setLock(maren, 'over', true)
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e9 }), (seed) => {
        const a = shuffleAll(locked, kits, seed)
        expect(a).toEqual(shuffleAll(locked, kits, seed))
        expect(partIn(a, 'over')).toEqual(partIn(maren, 'over'))
        expect(
          resolveRecipe(a, kits).problems.filter((p) => p.severity === 'error' || p.code === 'part-excluded'),
        ).toEqual([])
      }),
      { numRuns: 60 },
    )
  })

  it('changes as much as its strength says: nothing, a little, or all that it draws', () => {
    expect(shuffleAll(maren, kits, 7, 0)).toEqual(maren)
    const changed = (strength: number) => {
      let [parts, shape] = [0, 0]
      for (let seed = 0; seed < 40; seed++) {
        const next = shuffleAll(maren, kits, seed, strength)
        expect(next).toEqual(shuffleAll(maren, kits, seed, strength))
        expect(
          resolveRecipe(next, kits).problems.filter((p) => p.severity === 'error' || p.code === 'part-excluded'),
        ).toEqual([])
        const worn = (r: typeof maren) => new Set(r.parts.map((p) => `${p.slot} ${p.part.id}`))
        parts += [...worn(next)].filter((p) => !worn(maren).has(p)).length
        for (const s of kit.bodies.get('human')!.def.sliders)
          shape += Math.abs(sidesOf(next, s)[0] - sidesOf(maren, s)[0])
      }
      return { parts, shape }
    }
    const [little, half, all] = [changed(0.15), changed(0.5), changed(1)]
    // of so many draws the means lie within a fifth of what the strength asks for
    expect(little.parts / all.parts).toBeGreaterThan(0.1)
    expect(little.parts / all.parts).toBeLessThan(0.2)
    expect(half.parts / all.parts).toBeGreaterThan(0.4)
    expect(half.parts / all.parts).toBeLessThan(0.6)
    expect(little.shape / all.shape).toBeCloseTo(0.15, 1)
    expect(half.shape / all.shape).toBeCloseTo(0.5, 1)
  })

  it('of one region leaves all else as it is', () => {
    const { sliders, sliderGroups } = kit.bodies.get('human')!.def
    for (const { id, moves } of sliderGroups) {
      const next = shuffleShape(maren, kits, id, 5)
      expect({ ...next, sliders: {} }).toEqual({ ...maren, sliders: {} })
      for (const s of sliders) if (s.group !== id) expect(sidesOf(next, s)).toEqual(sidesOf(maren, s))
      // a face is no shape
      const own = sliders.filter((s) => s.group === id)
      const moved = own.filter((s) => String(sidesOf(next, s)) !== String(sidesOf(maren, s))).length
      expect(moved / own.length, id).toBeGreaterThanOrEqual(moves ? 0 : 0.75)
      if (moves) expect(moved).toBe(0)
    }
    expect(shuffleShape(maren, kits, 'gone', 5)).toBe(maren)
  })

  it('of one slot always brings another part', () => {
    for (let seed = 0; seed < 30; seed++)
      expect(partIn(shuffleSlot(maren, kits, 'hair', seed), 'hair')!.id).not.toBe('hair-braid')
  })

  it('draws evenly enough from its random numbers', () => {
    const random = createRandom(5)
    const mean = Array.from({ length: 4000 }, () => random.next()).reduce((s, v) => s + v, 0) / 4000
    expect(mean).toBeGreaterThan(0.48)
    expect(mean).toBeLessThan(0.52)
    expect(() => random.pick([])).toThrow(RangeError)
  })
})

describe('resolving', () => {
  const codes = (recipe: typeof maren) => resolveRecipe(recipe, kits).problems.map((p) => p.code)
  it('fills required slots and finds nothing wrong with a sound recipe', () => {
    const { value, problems } = resolveRecipe({ ...maren, parts: [] }, kits)
    expect(problems).toEqual([])
    expect(value!.parts.map((p) => p.slot).sort()).toEqual(['brows', 'eyes'])
  })

  it('tells of an unknown kit, body or part and goes on without it', () => {
    expect(codes({ ...maren, body: { ...maren.body, kit: 'gone' } })).toEqual(['kit-unknown'])
    expect(codes({ ...maren, body: { ...maren.body, id: 'gone' } })).toEqual(['body-unknown'])
    expect(codes(setPart(maren, 'hat', { ...partIn(maren, 'hat')!, id: 'gone' }))).toEqual(['part-unknown'])
  })

  it('refuses a part made for another body plan', () => {
    const mixed = setPart(maren, 'hat', partReference(tide, 'horns-coral'))
    expect(codes(mixed)).toEqual(['part-other-slot'])
    const otter = newRecipe(tide, 'ottern', 'Eel')
    const worn = setPart(otter, 'eyes', partReference(kit, 'eyes-open'))
    expect(codes(worn)).toContain('part-other-body')
  })

  it('leaves off what does not go together, and holds sliders that are not numbers or too large', () => {
    const rival = setPart(maren, 'belt', partReference(kit, 'belt-wide'))
    expect(areExclusive(kit.parts.get('belt-wide')!.def, kit.parts.get('coat-quay')!.def)).toBe(true)
    expect(codes(rival)).toEqual(['part-excluded'])
    expect(codes({ ...maren, sliders: { build: Number.NaN } })).toEqual(['slider-nan'])
    const held = resolveRecipe({ ...maren, sliders: { build: 1.7 } }, kits)
    expect(held.value!.sliders.build).toBe(1)
    expect(held.problems[0]).toMatchObject({ code: 'slider-range', severity: 'warning' })
    expect(codes({ ...maren, sliders: { wings: 1 } })).toEqual(['slider-unknown'])
  })

  it('does not draw what another part covers', () => {
    const { value } = resolveRecipe(dressed(kit, 'human', ['waders', 'clogs']), kits)
    expect(value!.parts.some((p) => p.slot === 'feet')).toBe(false)
  })
})

import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { drawArchetypes, drawValue } from './archetypes.ts'
import { newRecipe } from './defaults.ts'
import { partIn } from './instances.ts'
import { createRandom, scatterSeed } from './random.ts'
import { shuffleAll } from './shuffle.ts'
import { sidesOf } from './symmetry.ts'

const kit = await demoKit('saltwick-folk')
const kits = new Map([[kit.manifest.id, kit]])
const { def } = kit.bodies.get('human')!
const plain = newRecipe(kit, 'human', 'Anybody')
const people = Array.from({ length: 400 }, (_, seed) => shuffleAll(plain, kits, seed + 1))
const value = (r: typeof plain, id: string) =>
  sidesOf(
    r,
    def.sliders.find((s) => s.id === id)!,
  )[0]

describe('archetypes', () => {
  it('are all drawn, also from small seeds that follow each other, and blend where their set says so', () => {
    const first = new Map<string, number>()
    for (let seed = 1; seed <= 400; seed++) {
      const drawn = drawArchetypes(def, createRandom(scatterSeed(seed)))
      expect(drawn.length).toBe(3)
      const [person, face, other] = drawn
      expect(person!.share).toBe(1)
      expect(face!.share).toBeGreaterThan(other!.share)
      expect(face!.archetype).not.toBe(other!.archetype)
      for (const { archetype } of [person!, face!]) first.set(archetype.id, (first.get(archetype.id) ?? 0) + 1)
    }
    const all = def.archetypes!.flatMap((s) => s.archetypes)
    // nine people and seven faces: 44 and 57 each on average, five standard deviations allowed
    for (const { id } of all) expect(first.get(id) ?? 0, id).toBeGreaterThan(12)
  })

  it('stray as far as they say, and no farther than the slider goes', () => {
    const slider = def.sliders.find((s) => s.id === 'muscle')!
    const docker = def.archetypes![0]!.archetypes.find((a) => a.id === 'docker')!
    const random = createRandom(3)
    const values = Array.from({ length: 2000 }, () => drawValue(slider, [{ archetype: docker, share: 1 }], random))
    const [mean, spread] = docker.sliders.muscle!
    const middle = values.reduce((s, v) => s + v, 0) / values.length
    const off = Math.sqrt(values.reduce((s, v) => s + (v - middle) ** 2, 0) / values.length)
    expect(middle).toBeCloseTo(mean, 1)
    expect(off).toBeGreaterThan(spread * 0.85)
    expect(off).toBeLessThan(spread * 1.1)
    for (const v of values) expect(Math.abs(v)).toBeLessThanOrEqual(1)
  })

  it('make people one believes in: no bearded child, no young stoop, grey hair with age', () => {
    const children = people.filter((p) => value(p, 'years') < -0.5)
    const old = people.filter((p) => value(p, 'years') > 0.5)
    expect(children.length).toBeGreaterThan(15)
    expect(old.length).toBeGreaterThan(30)
    for (const child of children) {
      expect(partIn(child, 'beard')).toBeUndefined()
      expect(partIn(child, 'left-leg')).toBeUndefined()
      expect(Math.abs(value(child, 'stoop'))).toBeLessThan(0.4)
    }
    const greys = new Set(['#9b9690', '#e4e0d6', '#b8b2a8'])
    expect(old.filter((p) => greys.has(p.colors.hair!)).length / old.length).toBeGreaterThan(0.9)
    expect(children.filter((p) => greys.has(p.colors.hair!))).toEqual([])
  })

  it('are everybody’s: creatures are drawn around their own', async () => {
    const tide = await demoKit('tide-creatures')
    const { def: ottern } = tide.bodies.get('ottern')!
    const years = ottern.sliders.find((s) => s.id === 'years')!
    const all = Array.from({ length: 150 }, (_, seed) =>
      shuffleAll(newRecipe(tide, 'ottern', 'Anybody'), new Map([[tide.manifest.id, tide]]), seed + 1),
    )
    const [pups, old] = [-1, 1].map((end) => all.filter((r) => sidesOf(r, years)[0] * end > 0.5))
    expect(pups!.length).toBeGreaterThan(10)
    expect(old!.length).toBeGreaterThan(10)
    for (const pup of pups!) for (const slot of ['right-hand', 'vest', 'bag']) expect(partIn(pup, slot)).toBeUndefined()
    // now and then a trader is as old as an elder
    const mild = old!.filter((one) => partIn(one, 'eyes')!.id === 'eyes-mild')
    expect(mild.length / old!.length).toBeGreaterThan(0.8)
  })

  it('leave a lock, and what a weak shuffle leaves, as it was', () => {
    const locked = { ...people[0]!, locks: ['hat', 'hair'] }
    for (let seed = 1; seed < 30; seed++) {
      const next = shuffleAll(locked, kits, seed)
      for (const slot of ['hat', 'hair']) expect(partIn(next, slot)).toEqual(partIn(locked, slot))
    }
    const little = shuffleAll(people[0]!, kits, 9, 0.1)
    for (const { id } of def.sliders)
      expect(Math.abs(value(little, id) - value(people[0]!, id))).toBeLessThanOrEqual(0.21)
  })
})

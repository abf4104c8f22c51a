import { beforeAll, describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import { newRecipe, TARGETS } from '../recipe/defaults.ts'
import { resolveRecipe } from '../recipe/resolve.ts'
import { demoKit, kitFiles } from '../testing/demoKits.ts'
import { createPortraitist, TWIN_DISTANCE } from './distance.ts'
import { readMix, type Mix } from './mix.ts'
import { selectCrowd } from './selectCrowd.ts'

const kit = await demoKit('saltwick-folk')
const kits = new Map([[kit.manifest.id, kit]])
const mix = readMix(new TextDecoder().decode(kitFiles('lantern-tide').get('quay-at-noon.mix.json'))).value as Mix
beforeAll(() => reducerReady)

describe('a mix', () => {
  it('becomes the same crowd for the same seed, and another for another', () => {
    const a = selectCrowd(mix, kit)
    expect(a.variants).toHaveLength(60)
    expect(selectCrowd(mix, kit)).toEqual(a)
    expect(selectCrowd({ ...mix, seed: 2 }, kit).variants.map((v) => v.recipe.parts)).not.toEqual(a.variants.map((v) => v.recipe.parts))
  })

  it('meets its shares to the figure', () => {
    const { variants } = selectCrowd(mix, kit)
    for (const [slot, choices] of Object.entries(mix.slots)) {
      const total = choices.reduce((s, c) => s + c.share, 0)
      for (const { part, share } of choices) {
        const n = variants.filter((v) => (v.recipe.parts[slot]?.id ?? null) === part).length
        if (part !== null && mix.atMostOnce.includes(part)) expect(n, part).toBeLessThanOrEqual(1)
        else if (!choices.some((c) => c.part !== null && mix.atMostOnce.includes(c.part))) expect(Math.abs(n - (share / total) * 60), `${slot} ${part}`).toBeLessThanOrEqual(2)
      }
    }
  })

  it('keeps sliders in their ranges and makes only sound recipes without twins', () => {
    const { variants, twins } = selectCrowd(mix, kit)
    expect(twins).toEqual([])
    for (const { recipe } of variants) {
      for (const [id, value] of Object.entries(recipe.sliders)) {
        expect(value).toBeGreaterThanOrEqual(mix.sliders[id]![0] - 1e-3)
        expect(value).toBeLessThanOrEqual(mix.sliders[id]![1] + 1e-3)
      }
      expect(resolveRecipe(recipe, kits).problems.filter((p) => p.severity === 'error')).toEqual([])
    }
  })

  it('is more varied than drawing blindly', () => {
    const painter = createPortraitist(kit, 'human')
    const nearest = (m: Mix) => {
      const { variants } = selectCrowd(m, kit)
      return Math.min(...variants.map((v) => v.nearest.distance))
    }
    expect(nearest(mix)).toBeGreaterThan(TWIN_DISTANCE)
    const twice = newRecipe(kit, 'human', 'a')
    expect(painter.distance(painter.portrait(twice), painter.portrait(twice))).toBe(0)
  })

  it('tells of twins when there is too little to choose from', () => {
    const poor: Mix = { ...mix, count: 12, slots: {}, sliders: { nose: [0, 0.1] }, palettes: [] }
    const { twins, problems, variants } = selectCrowd(poor, kit)
    expect(variants).toHaveLength(12)
    expect(twins.length).toBeGreaterThan(0)
    expect(problems.map((p) => p.code)).toContain('twins')
  })

  it('leaves pinned variants where they are', () => {
    const first = selectCrowd(mix, kit)
    const pinned = new Map([[0, first.variants[0]!.recipe], [17, first.variants[17]!.recipe]])
    const next = selectCrowd({ ...mix, seed: 99 }, kit, { pinned })
    expect(next.variants).toHaveLength(60)
    for (const [i, recipe] of pinned) {
      expect(next.variants[i]!.recipe).toEqual(recipe)
      expect(next.variants[i]!.pinned).toBe(true)
    }
    expect(next.variants.filter((v) => v.pinned)).toHaveLength(2)
  })

  it('names what is wrong with it', () => {
    const codes = (m: Mix) => selectCrowd(m, kit).problems.map((p) => p.code)
    expect(codes({ ...mix, body: { ...mix.body, id: 'gone' } })).toContain('body-unknown')
    expect(codes({ ...mix, slots: { nowhere: [{ part: null, share: 1 }] } })).toContain('slot-unknown')
    expect(codes({ ...mix, slots: { hat: [{ part: 'gone', share: 1 }] } })).toContain('part-unknown')
    expect(codes({ ...mix, sliders: { build: [1, -1] } })).toContain('slider-range')
    expect(codes({ ...mix, palettes: [{ id: 'gone', share: 1 }] })).toContain('palette-unknown')
    expect(readMix({ ...mix, count: 0 }).problems[0]!.where).toBe('mix/count')
  })

  it('gives variants that all come under their limit', () => {
    const builder = new Builder(kits)
    const crowd = TARGETS.find((t) => t.id === 'crowd')!
    for (const { recipe } of selectCrowd(mix, kit).variants.slice(0, 16)) {
      const { figure } = builder.build(recipe, crowd, { reduce: true })
      expect(figure!.costs.triangles).toBeLessThanOrEqual(900)
      expect(figure!.costs.vertices).toBeLessThanOrEqual(2700)
    }
  })
})

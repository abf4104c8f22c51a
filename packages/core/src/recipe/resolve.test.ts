import { describe, expect, it } from 'vitest'
import type { Kit, PartModel } from '../kit/Kit.ts'
import type { PartDef } from '../kit/schema.ts'
import { demoKit } from '../testing/demoKits.ts'
import { newRecipe, partReference } from './defaults.ts'
import { addPart, adoptVersions, setPart } from './edits.ts'
import { resolveRecipe } from './resolve.ts'
import type { Recipe, Reference } from './schema.ts'

const folk = await demoKit('saltwick-folk')

/** The folk kit with some of its parts changed. */
function kitWith(changes: Record<string, Partial<PartDef>>): Kit {
  const parts = new Map(
    [...folk.parts].map(([id, part]): [string, PartModel] => [
      id,
      changes[id] ? { ...part, def: { ...part.def, ...changes[id] } as PartDef } : part,
    ]),
  )
  return { ...folk, parts }
}
const wearing = (...ids: string[]): Recipe => {
  return ids.reduce(
    (r, id) => setPart(r, folk.parts.get(id)!.def.slot, partReference(folk, id)),
    newRecipe(folk, 'human', 'Test'),
  )
}
/** The recipe with something else said of the part in a slot. */
const saying = (recipe: Recipe, slot: string, part: Partial<Reference>): Recipe => ({
  ...recipe,
  parts: recipe.parts.map((p) => (p.slot === slot ? { ...p, part: { ...p.part, ...part } } : p)),
})
const resolve = (recipe: Recipe, kit = folk) => {
  const { value, problems } = resolveRecipe(recipe, new Map([[kit.manifest.id, kit]]))
  return { ids: value?.parts.map((p) => p.part.def.id) ?? null, problems, value }
}

describe('what a part needs', () => {
  it('is told when it is missing, by id', () => {
    const kit = kitWith({ 'coat-quay': { requires: ['shirt-work'] } })
    const { ids, problems } = resolve(wearing('coat-quay'), kit)
    expect(ids).toContain('coat-quay')
    expect(problems).toMatchObject([{ code: 'part-requires', severity: 'warning', where: 'recipe/parts/over' }])
    expect(resolve(wearing('coat-quay', 'shirt-work'), kit).problems).toEqual([])
  })

  it('may be any part with a tag', () => {
    const kit = kitWith({ mug: { requires: ['warm'] }, jersey: { tags: ['warm'] } })
    expect(resolve(wearing('mug'), kit).problems.map((p) => p.code)).toEqual(['part-requires'])
    expect(resolve(wearing('mug', 'jersey'), kit).problems).toEqual([])
  })
})

describe('a recipe of another version of its kit', () => {
  const old = (): Recipe => {
    const recipe = wearing('coat-quay', 'trousers')
    const parts = recipe.parts.map((p) => ({ ...p, part: { ...p.part, kitVersion: '0.9.0' } }))
    return { ...recipe, body: { ...recipe.body, kitVersion: '0.9.0' }, parts }
  }

  it('is built all the same, and told once', () => {
    const { ids, problems } = resolve(old())
    expect(ids).toEqual(resolve(wearing('coat-quay', 'trousers')).ids)
    expect(problems).toMatchObject([
      { code: 'kit-other-version', severity: 'warning', where: 'recipe/body/kitVersion' },
    ])
    expect(problems[0]!.message).toContain('0.9.0')
  })

  it('is told at the part where only a part is older', () => {
    const recipe = saying(wearing('coat-quay'), 'over', { kitVersion: '0.9.0' })
    expect(resolve(recipe).problems.map((p) => p.where)).toEqual(['recipe/parts/over/part/kitVersion'])
  })

  it('is one of this version once it has been edited', () => {
    const versions = new Map([[folk.manifest.id, folk.manifest.kitVersion]])
    const adopted = adoptVersions(old(), versions)
    expect(adopted).toEqual(wearing('coat-quay', 'trousers'))
    expect(adoptVersions(adopted, versions)).toBe(adopted)
    const foreign = old()
    expect(adoptVersions(foreign, new Map([['another', '3.0.0']]))).toBe(foreign)
  })
})

describe('parts that do not go together', () => {
  it('leave off the later one, whichever of them says so', () => {
    for (const kit of [
      kitWith({ trousers: { excludes: ['boots-sea'] } }),
      kitWith({ 'boots-sea': { excludes: ['trousers'] } }),
    ]) {
      const { ids, problems } = resolve(wearing('trousers', 'boots-sea'), kit)
      expect(ids).toContain('trousers')
      expect(ids).not.toContain('boots-sea')
      expect(problems).toMatchObject([{ code: 'part-excluded', severity: 'warning' }])
    }
  })

  it('may be named by a tag', () => {
    const kit = kitWith({ 'coat-quay': { excludes: ['bulky'] }, basket: { tags: ['bulky'] } })
    expect(resolve(wearing('coat-quay', 'basket'), kit).problems.map((p) => p.code)).toContain('part-excluded')
  })
})

describe('a part that covers a slot', () => {
  it('keeps what is there from being drawn, without a word, and gives it back when it goes', () => {
    const kit = kitWith({ headscarf: { covers: ['hair'] } })
    const both = resolve(wearing('hair-bob', 'headscarf'), kit)
    expect(both.ids).not.toContain('hair-bob')
    expect(both.problems).toEqual([])
    expect(resolve(wearing('hair-bob'), kit).ids).toContain('hair-bob')
  })
})

describe('slots that are never empty', () => {
  it('are filled with the body’s own part', () => {
    const { ids } = resolve({ ...wearing(), parts: [] })
    expect(ids).toEqual(expect.arrayContaining(['eyes-open', 'brows-straight']))
  })

  it('are filled as well when what was there is unknown', () => {
    const { ids, problems } = resolve(saying(wearing(), 'eyes', { id: 'gone' }))
    expect(ids).toContain('eyes-open')
    expect(problems).toMatchObject([{ code: 'part-unknown', where: 'recipe/parts/eyes/part/id' }])
  })
})

describe('a part in the wrong slot', () => {
  it('is refused with the slot where it belongs', () => {
    const recipe = setPart(wearing(), 'hat', partReference(folk, 'trousers'))
    const { ids, problems } = resolve(recipe)
    expect(ids).not.toContain('trousers')
    expect(problems[0]).toMatchObject({ code: 'part-other-slot', where: 'recipe/parts/hat' })
    expect(problems[0]!.message).toContain('legs')
  })
})

describe('sliders', () => {
  it('come out complete, within their ranges, each fault told once', () => {
    const { value, problems } = resolve({
      ...wearing(),
      sliders: { build: 3, stature: Number.NaN, stoop: -0.4, wings: 1 },
    })
    expect(Object.keys(value!.sliders)).toEqual(folk.bodies.get('human')!.def.sliders.map((s) => s.id))
    expect(value!.sliders).toMatchObject({ build: 1, stature: 0, stoop: -0.4 })
    expect(problems.map((p) => [p.code, p.where]).sort()).toEqual([
      ['slider-nan', 'recipe/sliders/stature'],
      ['slider-range', 'recipe/sliders/build'],
      ['slider-unknown', 'recipe/sliders/wings'],
    ])
  })
})

describe('colors', () => {
  it('are the recipe’s, else the kit’s, else a gray that stands out as missing', () => {
    const { value } = resolve({ ...wearing(), colors: { coat: '#010203' } })
    expect(value!.colorOf('coat')).toBe('#010203')
    expect(value!.colorOf('hair')).toBe(folk.manifest.colorRegions.find((c) => c.id === 'hair')!.color)
    expect(value!.colorOf('nowhere')).toBe('#9a9a9a')
  })
})

describe('the order of parts and keys', () => {
  const recipe = wearing('boots-sea', 'hat-brimmed', 'trousers', 'shirt-work', 'belt-wide', 'coat-quay')
  const turned: Recipe = {
    ...recipe,
    parts: [...recipe.parts].reverse(),
    sliders: { build: 0.2, stature: 0.4 },
    colors: { hair: '#000000', coat: '#111111' },
  }

  it('of parts is that of the kit’s slots, whatever the recipe’s', () => {
    const slots = folk.manifest.slots.map((s) => s.id)
    const order = resolve(turned).value!.parts.map((p) => slots.indexOf(p.slot))
    expect(order).toEqual([...order].sort((a, b) => a - b))
    expect(resolve(recipe).ids).toEqual(resolve(turned).ids)
  })

  it('does not decide which of two parts that rule each other out stays', () => {
    // a belt and the coat over it exclude each other: the coat comes first in the kit
    for (const r of [recipe, turned, { ...recipe, parts: [...recipe.parts].sort((a, b) => (a.id < b.id ? 1 : -1)) }]) {
      const { ids, problems } = resolve(r)
      expect(ids).toContain('coat-quay')
      expect(ids).not.toContain('belt-wide')
      expect(problems).toMatchObject([{ code: 'part-excluded', where: 'recipe/parts/belt' }])
    }
  })
})

describe('a default that is ruled out', () => {
  it('stays, since its slot is never empty; what rules it out is left off, and told', () => {
    const kit = kitWith({ 'hat-tall': { excludes: ['eyes-open'] } })
    const { ids, problems } = resolve(wearing('hat-tall'), kit)
    expect(ids).toContain('eyes-open')
    expect(ids).not.toContain('hat-tall')
    expect(problems).toMatchObject([{ code: 'part-excluded', where: 'recipe/parts/hat' }])
  })

  it('of two parts in one slot only as many stay as it holds', () => {
    const two = addPart(wearing('mug'), 'left-hand', partReference(folk, 'fish'))
    const { ids, problems } = resolve(two)
    expect(ids!.filter((id) => ['mug', 'fish'].includes(id))).toEqual(['mug'])
    expect(problems).toMatchObject([{ code: 'slot-full', where: 'recipe/parts/left-hand-2' }])
    const roomy = {
      ...folk,
      manifest: {
        ...folk.manifest,
        slots: folk.manifest.slots.map((s) => (s.id === 'left-hand' ? { ...s, most: 2 } : s)),
      },
    }
    expect(resolve(two, roomy).ids!.filter((id) => ['mug', 'fish'].includes(id))).toEqual(['mug', 'fish'])
    expect(resolve(two, roomy).problems).toEqual([])
  })
})

import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { blend, takeColors, takeShape } from './blend.ts'
import { newRecipe } from './defaults.ts'
import { describeChange } from './describeChange.ts'
import { isHeld, setColor, setHeld, setSlider } from './edits.ts'
import { readRecipe } from './read.ts'
import { dressInPalette, shuffleAll } from './shuffle.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([['saltwick-folk', folk]])
const body = folk.bodies.get('human')!.def
const [group, other] = ['nose', 'legs'].map((id) => body.sliderGroups.find((g) => g.id === id) ?? body.sliderGroups[1]!)
const plain = newRecipe(folk, 'human', 'Ada')
const inGroup = (id: string) => body.sliders.filter((s) => s.group === id)
const values = (r: typeof plain, id: string) => inGroup(id).map((s) => r.sliders[s.id] ?? s.default)
const held = setHeld(setHeld(setColor(plain, 'coat', '#123456'), 'groups', group!.id, true), 'colors', 'coat', true)

describe('what is held', () => {
  it('is kept in the recipe, and leaves no trace when it is let go', () => {
    expect(readRecipe(held).problems).toEqual([])
    expect([isHeld(held, 'groups', group!.id), isHeld(held, 'colors', 'coat'), isHeld(held, 'colors', 'hair')]).toEqual(
      [true, true, false],
    )
    expect(setHeld(held, 'groups', group!.id, true)).toBe(held)
    const let_go = setHeld(setHeld(held, 'groups', group!.id, false), 'colors', 'coat', false)
    expect(let_go).toEqual(setColor(plain, 'coat', '#123456'))
    expect(describeChange(plain, setHeld(plain, 'groups', group!.id, true), kits)).toBe(`${group!.name} locked`)
    expect(describeChange(setHeld(plain, 'colors', 'coat', true), plain, kits)).toBe('Coat unlocked')
  })

  it('is left alone by shuffling, while all else comes out as it would without', () => {
    for (let seed = 1; seed < 12; seed++) {
      const [free, kept] = [shuffleAll(setColor(plain, 'coat', '#123456'), kits, seed), shuffleAll(held, kits, seed)]
      expect(values(kept, group!.id)).toEqual(values(plain, group!.id))
      expect(values(free, group!.id)).not.toEqual(values(plain, group!.id))
      expect(values(kept, other!.id)).toEqual(values(free, other!.id))
      expect(kept.parts).toEqual(free.parts)
      expect(kept.colors.coat).toBe('#123456')
      expect({ ...kept.colors, coat: '' }).toEqual({ ...free.colors, coat: '' })
    }
    const colored = folk.manifest.palettes.map((p) => dressInPalette(held, kits, p, 3).colors.coat)
    expect(new Set(colored)).toEqual(new Set(['#123456']))
  })

  it('is left alone by blending, and by taking shape or colors', () => {
    const slider = inGroup(group!.id)[0]!
    const their = setColor(setSlider(plain, slider.id, slider.max, slider), 'coat', '#ffffff')
    for (const made of [blend(held, their, kits, 1), blend(held, their, kits, 0.4), takeShape(held, their, kits)])
      expect(values(made, group!.id)).toEqual(values(plain, group!.id))
    for (const made of [blend(held, their, kits, 1), blend(held, their, kits, 0.4), takeColors(held, their)])
      expect(made.colors.coat).toBe('#123456')
    // asked for by its name it is taken all the same
    expect(values(takeShape(held, their, kits, group!.id), group!.id)).not.toEqual(values(plain, group!.id))
  })
})

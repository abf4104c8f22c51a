import { describe, expect, it } from 'vitest'
import { USUAL_SPRING } from '../motion/springs.ts'
import { newRecipe, referenceTo } from '../recipe/defaults.ts'
import { setPart } from '../recipe/edits.ts'
import type { Recipe } from '../recipe/schema.ts'
import { setSprings, swingingChains } from '../recipe/springs.ts'
import { demoKit } from '../testing/demoKits.ts'
import { choicesOf } from './choicesOf.ts'
import {
  addPickBody,
  addReadyLook,
  changePickPart,
  changePickSlot,
  keepLook,
  movePart,
  movePickSlot,
  offerPart,
  removePickBody,
} from './editPicks.ts'
import { limbsOffered } from './limbsOffered.ts'
import { lookOfFigure } from './lookOfFigure.ts'
import { newPickBody, newPicks } from './newPicks.ts'
import { readPicks, type Picks } from './picks.ts'

const kits = new Map([await demoKit('saltwick-folk'), await demoKit('tide-creatures')].map((k) => [k.manifest.id, k]))
const human = { kit: 'saltwick-folk', id: 'human' }
const start = newPicks(kits, human, { id: 'mine', name: 'Mine' })
const slotOf = (picks: Picks, id: string) => picks.bodies[0]!.slots.find((s) => s.slot === id)

/** Every edit leaves picks that are read as they are, and that the kits have nothing against. */
function sound(picks: Picks): Picks {
  expect(readPicks(JSON.stringify(picks))).toEqual({ value: picks, problems: [] })
  for (const body of picks.bodies) expect(choicesOf(body, kits).problems).toEqual([])
  return picks
}

describe('new picks', () => {
  it('of every body of every kit are sound as they are', () => {
    for (const [kit, { manifest }] of kits)
      for (const { id, name } of manifest.bodies) sound(newPicks(kits, { kit, id }, { id: 'mine', name }))
    expect(() => newPicks(kits, { kit: 'saltwick-folk', id: 'nobody' }, { id: 'a', name: 'A' })).toThrow(RangeError)
  })
})

describe('changes of picks', () => {
  it('offer parts and take them back; what begins with one that is gone begins otherwise', () => {
    expect(slotOf(start, 'eyes')).toMatchObject({ start: 'eyes-open', needed: true })
    const without = sound(offerPart(start, 'human', 'eyes', 'eyes-open', false))
    expect(slotOf(without, 'eyes')!.start).toBe(slotOf(without, 'eyes')!.parts[0]!.part)
    const back = sound(offerPart(without, 'human', 'eyes', 'eyes-open', true))
    expect(slotOf(back, 'eyes')!.parts.at(-1)).toEqual({ part: 'eyes-open' })
    // its number is the one it had
    expect(back.codes).toEqual(start.codes)
    expect(offerPart(start, 'human', 'eyes', 'eyes-open', true)).toBe(start)
    const hats = slotOf(start, 'hat')!.parts.map((p) => p.part)
    const none = hats.reduce((now, part) => offerPart(now, 'human', 'hat', part, false), start)
    expect(slotOf(sound(none), 'hat')).toBeUndefined()
  })

  it('say what has to be earned, what is never empty, and what to begin with', () => {
    const earned = changePickPart(start, 'human', 'hat', 'hat-tall', { earned: 'ball' })
    expect(slotOf(sound(earned), 'hat')!.parts.find((p) => p.part === 'hat-tall')!.earned).toBe('ball')
    expect(changePickPart(earned, 'human', 'hat', 'hat-tall', { earned: '' })).toEqual(start)
    const needed = sound(changePickSlot(start, 'human', 'hat', { needed: true }))
    expect(slotOf(needed, 'hat')!.start).toBe(slotOf(start, 'hat')!.parts[0]!.part)
    const other = sound(changePickSlot(needed, 'human', 'hat', { start: 'cap-knit' }))
    expect(slotOf(other, 'hat')!.start).toBe('cap-knit')
    expect(changePickSlot(start, 'nobody', 'hat', { needed: true })).toBe(start)
  })

  it('add bodies under names of their own, and leave one', () => {
    const two = sound(addPickBody(start, newPickBody(kits, human)))
    expect(two.bodies.map((b) => b.id)).toEqual(['human', 'human-2'])
    const one = removePickBody(two, 'human')
    expect(one.bodies.map((b) => b.id)).toEqual(['human-2'])
    expect(removePickBody(one, 'human-2')).toBe(one)
  })

  it('keep looks that players wear, as picks write them', () => {
    const worn = { hat: 'saltwick-folk/cap-knit', hair: null }
    const look = {
      body: 'human',
      parts: worn,
      sliders: { stature: 0.5 },
      colors: { hair: '#8a4a24' },
      expression: null,
    }
    const kept = sound(keepLook(sound(keepLook(start, look)), { ...look, expression: 'glad' }))
    expect(kept.bodies[0]!.looks).toEqual([
      {
        id: 'look-1',
        name: 'Look 1',
        parts: { hat: 'cap-knit', hair: null },
        sliders: look.sliders,
        colors: look.colors,
      },
      expect.objectContaining({ id: 'look-2', expression: 'glad' }),
    ])
    const [, second] = kept.bodies[0]!.looks!
    const freed = { ...kept, bodies: [{ ...kept.bodies[0]!, looks: [second!] }] }
    // the number of one that is there is not taken again
    expect(keepLook(freed, look).bodies[0]!.looks!.map((l) => l.id)).toEqual(['look-2', 'look-3'])
    expect(keepLook(start, { ...look, body: 'nobody' })).toBe(start)
  })

  it('name, tag and order parts, and order slots; nothing is written of what is said no more', () => {
    const hats = (picks: Picks) => slotOf(picks, 'hat')!.parts.map((p) => p.part)
    const [first, second] = hats(start)
    const down = sound(movePart(start, 'human', 'hat', first!, 1))
    expect(hats(down).slice(0, 2)).toEqual([second, first])
    expect(down.codes).toEqual(start.codes)
    expect(movePart(down, 'human', 'hat', first!, -1)).toEqual(start)
    expect(movePart(start, 'human', 'hat', first!, -1)).toBe(start)
    expect(movePart(start, 'human', 'hat', 'nothing', 1)).toBe(start)
    const said = sound(changePickPart(start, 'human', 'hat', first!, { name: 'Lid', tags: ['warm', 'old'] }))
    expect(slotOf(said, 'hat')!.parts[0]).toEqual({ part: first, name: 'Lid', tags: ['warm', 'old'] })
    expect(changePickPart(said, 'human', 'hat', first!, { name: '', tags: [] })).toEqual(start)
    const slots = (picks: Picks) => picks.bodies[0]!.slots.map((s) => s.slot)
    const up = sound(movePickSlot(start, 'human', slots(start)[1]!, -1))
    expect(slots(up).slice(0, 2)).toEqual([slots(start)[1], slots(start)[0]])
    expect(movePickSlot(start, 'human', slots(start).at(-1)!, 1)).toBe(start)
  })

  it('have springs for chains of the body and of what is offered', () => {
    const ids = limbsOffered(start.bodies[0]!, kits).map((l) => l.id)
    expect(ids).toContain('hair-braid-braid')
    expect(limbsOffered(offerPart(start, 'human', 'hair', 'hair-braid', false).bodies[0]!, kits).length).toBe(
      ids.length - 1,
    )
    const chain = swingingChains(limbsOffered(start.bodies[0]!, kits)).find((c) =>
      c.limbs.includes('hair-braid-braid'),
    )!
    const swings = setSprings(start.bodies[0]!, chain.limbs, USUAL_SPRING)
    expect(sound({ ...start, bodies: [swings] }).bodies[0]!.springs).toEqual({ 'hair-braid-braid': USUAL_SPRING })
    expect(setSprings(swings, chain.limbs, null)).toEqual(start.bodies[0])
  })
})

describe('a figure as a look', () => {
  const body = start.bodies[0]!
  const figure = (change: (recipe: Recipe) => Recipe) =>
    lookOfFigure(body, change(newRecipe(kits.get('saltwick-folk')!, 'human', 'Odd Pellow')), kits)!
  const wear = (recipe: Recipe, slot: string, id: string) =>
    setPart(recipe, slot, referenceTo(kits, { kit: 'saltwick-folk', id }))

  it('has what is offered of it, and names what is not', () => {
    const { look, left } = figure((r) => ({
      ...wear(wear(r, 'hat', 'cap-knit'), 'top', 'shirt-work'),
      ...{ sliders: { stature: 0.2, legs: [0.1, 0.3] }, colors: { hair: body.colors.hair!.swatches[1]! } },
    }))
    expect(look).toMatchObject({ name: 'Odd Pellow', parts: { hat: 'cap-knit', top: 'shirt-work', eyes: 'eyes-open' } })
    expect(look.parts.over).toBe(null)
    expect(look.sliders.stature).toBe(0.2)
    expect(look.colors.hair).toBe(body.colors.hair!.swatches[1])
    // nobody nudges in a game, nor puts parts elsewhere
    const [hat] = wear(newRecipe(kits.get('saltwick-folk')!, 'human', 'A'), 'hat', 'cap-knit').parts.filter(
      (p) => p.slot === 'hat',
    )
    const nudge = { topology: '0'.repeat(32), points: [1], offsets: [0, 0, 1] }
    const own = figure((r) => ({ ...r, parts: [...r.parts, { ...hat!, layer: 3 }], nudges: [nudge] }))
    expect([own.look.parts.hat, own.left]).toEqual(['cap-knit', ['Knit cap as it was put there', 'what was nudged']])
    // a player has one value for both sides
    expect(left).toEqual([expect.stringMatching(/leg/i)])
    sound(addReadyLook(start, 'human', look))
    const less = offerPart(start, 'human', 'hat', 'cap-knit', false).bodies[0]!
    const told = lookOfFigure(less, wear(newRecipe(kits.get('saltwick-folk')!, 'human', 'A'), 'hat', 'cap-knit'), kits)!
    expect([told.look.parts.hat, told.left.length]).toEqual([null, 1])
  })

  it('keeps to limits and swatches, and tells what it loses by them', () => {
    const stature = body.sliders.find((s) => s.slider === 'stature')!
    const { look, left } = figure((r) => ({ ...r, sliders: { stature: 1 }, colors: { hair: '#123456' } }))
    expect([look.sliders.stature, look.colors.hair]).toEqual([stature.max, body.colors.hair!.start])
    expect(left.length).toBe(2)
    expect(left[1]).toContain('#123456')
    expect(lookOfFigure(body, newRecipe(kits.get('tide-creatures')!, 'ottern', 'A'), kits)).toBe(null)
  })
})

import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { choicesOf } from './choicesOf.ts'
import { addPickBody, changePickSlot, earnPart, keepLook, offerPart, removePickBody } from './editPicks.ts'
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
    const earned = earnPart(start, 'human', 'hat', 'hat-tall', 'ball')
    expect(slotOf(sound(earned), 'hat')!.parts.find((p) => p.part === 'hat-tall')!.earned).toBe('ball')
    expect(earnPart(earned, 'human', 'hat', 'hat-tall', '')).toEqual(start)
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
})

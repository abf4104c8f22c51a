import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { demoKit, wear } from '../testing/demoKits.ts'
import { newRecipe, referenceTo } from './defaults.ts'
import { describeChange } from './describeChange.ts'
import { clearPart, placePart, rename, setColor, setLock, setPart } from './edits.ts'
import { shuffleAll } from './shuffle.ts'
import { evenOut, setSide } from './symmetry.ts'

const kit = await demoKit('saltwick-folk')
const kits = new Map([[kit.manifest.id, kit]])
const def = kit.manifest.bodies[0]!
const plain = newRecipe(kit, def.id, 'Ida')
const slider = (id: string) => def.sliders.find((s) => s.id === id)!
const said = (after: typeof plain, before = plain) => describeChange(before, after, kits)

describe('what a step is called', () => {
  it('names the one thing that has changed', () => {
    expect(said(rename(plain, 'Bo'))).toBe('Named “Bo”')
    expect(said(wear(plain, kit, 'cap-knit'))).toBe('Headwear: Knit cap')
    const worn = wear(plain, kit, 'cap-knit')
    expect(said(clearPart(worn, 'hat'), worn)).toBe('Headwear: off')
    expect(said(placePart(worn, worn.parts.find((p) => p.slot === 'hat')!.id, { turn: [0, 9, 0] }), worn)).toBe(
      'Knit cap sits otherwise',
    )
    const wide = setSide(plain, slider('shoulders'), 'both', 0.4)
    expect(said(wide)).toBe('Shoulders: more wide')
    expect(said(setSide(wide, slider('shoulders'), 'right', 0.1), wide)).toBe('Shoulders, right: more narrow')
    expect(said(plain, wide)).toBe('Shoulders: as it was made')
    expect(said(setLock(plain, 'hat', true))).toBe('Headwear locked')
    expect(said(plain, setLock(plain, 'hat', true))).toBe('Headwear unlocked')
    const [region] = kit.manifest.colorRegions
    expect(said(setColor(plain, region!.id, '#123456'))).toBe(`${region!.name}: another color`)
  })

  it('counts where there are several, and knows an evening out', () => {
    const both = setSide(setSide(plain, slider('shoulders'), 'left', 0.4), slider('ears'), 'right', 0.4)
    expect(said(both)).toBe('2 sliders')
    expect(said(evenOut(both, def.sliders), both)).toBe('Evened out')
    expect(said(rename(setColor(both, 'x', '#123456'), 'Bo'))).toBe('Named “Bo”, 2 sliders, x: another color')
    expect(said(shuffleAll(plain, kits, 5))).toMatch(/^\d+ parts, \d+ sliders, \d+ colors$/)
  })

  it('goes by ids where a kit is not here, and says when there is nothing to see', () => {
    expect(said(plain)).toBe('Nothing seen')
    const part = { ...referenceTo(kits, { kit: kit.manifest.id, id: 'cap-knit' }), kit: 'elsewhere' }
    expect(said(setPart(plain, 'crest', part))).toBe('crest: cap-knit')
    expect(describeChange(plain, { ...plain, sliders: { tail: 0.5 } }, kits)).toBe('tail')
    expect(describeChange(plain, wear(plain, kit, 'cap-knit'), new Map())).toBe('hat: cap-knit')
    expect(said({ ...plain, body: { ...plain.body, id: 'ottern' } })).toContain('Body: ottern')
  })

  it('never is silent about a change, whatever was shuffled', () => {
    fc.assert(
      fc.property(fc.integer(), fc.integer(), (a, b) => {
        const [one, other] = [shuffleAll(plain, kits, a), shuffleAll(plain, kits, b)]
        const name = said(other, one)
        expect(name === 'Nothing seen').toBe(JSON.stringify(one) === JSON.stringify(other))
        expect(name.length).toBeLessThan(120)
      }),
      { numRuns: 60 },
    )
  })
})

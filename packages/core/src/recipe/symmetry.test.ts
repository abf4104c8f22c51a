import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { newRecipe } from './defaults.ts'
import { evenOut, mirroredLandmark, setSide, sidesOf, unevenSliders } from './symmetry.ts'
import { even } from '../testing/even.ts'

const kit = await demoKit('saltwick-folk')
const def = kit.manifest.bodies[0]!
const plain = newRecipe(kit, def.id, 'Ida')
const [first, second] = def.sliders as [(typeof def.sliders)[number], (typeof def.sliders)[number]]
const value = even(-1.5, 1.5)
const side = fc.constantFrom('left', 'right', 'both')

describe('the two sides of a figure', () => {
  it('are set apart or together, within the slider', () => {
    const left = setSide(plain, first, 'left', 0.4)
    expect(left.sliders).toEqual({ [first.id]: [0.4, 0] })
    expect(setSide(left, first, 'right', 5).sliders).toEqual({ [first.id]: [0.4, 1] })
    expect(setSide(left, first, 'right', 0.4).sliders).toEqual({ [first.id]: 0.4 })
    expect(setSide(left, first, 'both', 0.2).sliders).toEqual({ [first.id]: 0.2 })
    expect(setSide(left, first, 'left', 0).sliders).toEqual({})
    expect(setSide(left, first, 'left', 0.4)).toBe(left)
    expect(setSide(left, first, 'left', NaN)).toBe(left)
  })

  it('are told where they differ, and made alike in the middle or after one of them', () => {
    const uneven = setSide(setSide(setSide(plain, first, 'left', 0.4), second, 'right', -0.6), second, 'left', 0.2)
    expect(unevenSliders(uneven, def.sliders)).toEqual([first, second])
    const value = (r: typeof plain) => [first, second].map((s) => sidesOf(r, s))
    expect(value(evenOut(uneven, def.sliders))).toEqual([
      [0.2, 0.2],
      [-0.2, -0.2],
    ])
    expect(value(evenOut(uneven, def.sliders, 'left'))).toEqual([
      [0.4, 0.4],
      [0.2, 0.2],
    ])
    expect(value(evenOut(uneven, def.sliders, 'right'))).toEqual([
      [0, 0],
      [-0.6, -0.6],
    ])
    expect(evenOut(plain, def.sliders)).toBe(plain)
  })

  it('whatever is set, only that side of that slider changes; evened out nothing differs', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ s: fc.nat(def.sliders.length - 1), side, value }), { maxLength: 12 }),
        (edits) => {
          let recipe = plain
          for (const edit of edits) {
            const slider = def.sliders[edit.s]!
            const before = recipe
            recipe = setSide(recipe, slider, edit.side, edit.value)
            for (const other of def.sliders) {
              const [left, right] = sidesOf(before, other)
              const now = sidesOf(recipe, other)
              if ((other !== slider || edit.side === 'right') && now[0] !== left) expect(now[0], other.id).toBe(left)
              if ((other !== slider || edit.side === 'left') && now[1] !== right) expect(now[1], other.id).toBe(right)
            }
          }
          expect(unevenSliders(evenOut(recipe, def.sliders), def.sliders)).toEqual([])
        },
      ),
      { numRuns: 200 },
    )
  })
})

describe('the counterpart of a landmark', () => {
  it('is found by its place', () => {
    expect(mirroredLandmark(def, 'leftKnee')).toBe('rightKnee')
    expect(mirroredLandmark(def, 'rightDeltoid')).toBe('leftDeltoid')
    expect(mirroredLandmark(def, 'crown')).toBe('crown')
    expect(mirroredLandmark(def, 'gone')).toBeUndefined()
    const alone = { landmarks: def.landmarks.filter((l) => l.id !== 'rightKnee') }
    expect(mirroredLandmark(alone, 'leftKnee')).toBeUndefined()
  })
})

import { describe, expect, it } from 'vitest'
import { movementsOf, shapeSlidersOf } from '../kit/movements.ts'
import { demoKit } from '../testing/demoKits.ts'
import { blend, takeFace, takeShape } from './blend.ts'
import { newRecipe } from './defaults.ts'
import { describeChange } from './describeChange.ts'
import { setSliders } from './edits.ts'
import { expressionOf, isFaceAtRest, setExpression, setFace } from './expressions.ts'
import { sidesOf } from './symmetry.ts'
import { shuffleAll } from './shuffle.ts'

const kit = await demoKit('saltwick-folk')
const kits = new Map([[kit.manifest.id, kit]])
const body = kit.bodies.get('human')!.def
const plain = newRecipe(kit, 'human', 'Somebody')
const named = (id: string) => body.expressions!.find((e) => e.id === id)!

describe('an expression', () => {
  it('sets every movement, and nothing of the shape', () => {
    const shaped = setSliders(plain, { nose: 0.6, blink: 1 }, body.sliders)
    const glad = setExpression(shaped, body, 'glad')
    for (const slider of movementsOf(body)) {
      const told = named('glad').values[slider.id] ?? 0
      const [left, right] = typeof told === 'number' ? [told, told] : told
      expect(sidesOf(glad, slider)[0], slider.id).toBeCloseTo(left, 3)
      expect(sidesOf(glad, slider)[1], slider.id).toBeCloseTo(right, 3)
    }
    expect(glad.sliders.nose).toBe(0.6)
    expect(glad.sliders.blink).toBeUndefined()
  })

  it('is found again with its strength, and no other is taken for it', () => {
    for (const expression of body.expressions!)
      for (const strength of [1, 0.35]) {
        const found = expressionOf(setExpression(plain, body, expression.id, strength), body)
        expect(found?.expression.id).toBe(expression.id)
        expect(found?.strength).toBeCloseTo(strength, 2)
      }
  })

  it('has no name once it has been changed by hand, nor at rest', () => {
    const glad = setExpression(plain, body, 'glad')
    expect(expressionOf(setSliders(glad, { 'brow-down': 0.5 }, body.sliders), body)).toBeNull()
    expect(expressionOf(plain, body)).toBeNull()
    expect(isFaceAtRest(plain, body)).toBe(true)
    expect(isFaceAtRest(glad, body)).toBe(false)
    expect(setFace(glad, body, [])).toEqual(plain)
  })

  it('lies half way between two, within what each movement can do', () => {
    const half = setFace(plain, body, [
      { expression: named('glad'), share: 0.5 },
      { expression: named('shouting'), share: 0.5 },
    ])
    const jaw = body.sliders.find((s) => s.id === 'jaw-open')!
    const of = (id: string) => named(id).values['jaw-open'] as number
    expect(sidesOf(half, jaw)[0]).toBeCloseTo((of('glad') + of('shouting')) / 2, 2)
    const twice = setFace(plain, body, [{ expression: named('shouting'), share: 2 }])
    for (const slider of movementsOf(body)) expect(Math.max(...sidesOf(twice, slider))).toBeLessThanOrEqual(slider.max)
  })

  it('that a body does not have is refused', () => {
    expect(() => setExpression(plain, body, 'sour')).toThrow(RangeError)
  })

  it('is one step with a name', () => {
    const glad = setExpression(plain, body, 'glad', 0.8)
    expect(describeChange(plain, glad, kits)).toBe('Face: Glad')
    expect(describeChange(glad, plain, kits)).toBe('Face: at rest')
    const blink = setSliders(glad, { blink: 0.4 }, body.sliders)
    expect(describeChange(glad, blink, kits)).toBe('Lids: more shut')
    const odd = setSliders(glad, { blink: 0.4, pucker: 0.4 }, body.sliders)
    expect(describeChange(glad, odd, kits)).toBe('Face: by hand')
  })

  it('stays through shuffling and taking a shape; is blended, and taken by itself', () => {
    const glad = setExpression(plain, body, 'glad')
    const face = (r: typeof plain) => movementsOf(body).map((s) => sidesOf(r, s))
    expect(face(shuffleAll(glad, kits, 5))).toEqual(face(glad))
    const other = setSliders(setExpression(plain, body, 'grim'), { nose: 0.5 }, body.sliders)
    const shape = takeShape(glad, other, kits)
    expect(face(shape)).toEqual(face(glad))
    expect(shape.sliders.nose).toBe(0.5)
    const faced = takeFace(glad, other, kits)
    expect(face(faced)).toEqual(face(other))
    expect(faced.sliders.nose).toBeUndefined()
    expect(face(blend(glad, other, kits, 1))).toEqual(face(other))
  })

  it('leaves shape and movements apart: each slider is one or the other', () => {
    const [shape, moving] = [shapeSlidersOf(body), movementsOf(body)]
    expect(shape.length + moving.length).toBe(body.sliders.length)
    expect(shape.length).toBeGreaterThanOrEqual(68)
    expect(moving.length).toBeGreaterThan(15)
  })
})

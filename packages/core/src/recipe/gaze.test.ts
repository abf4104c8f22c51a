import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { newRecipe } from './defaults.ts'
import { canLook, lookTo } from './gaze.ts'
import { sidesOf } from './symmetry.ts'

const kit = await demoKit('saltwick-folk')
const body = kit.bodies.get('human')!.def
const plain = newRecipe(kit, 'human', 'Somebody')
const of = (r: typeof plain, id: string) =>
  sidesOf(
    r,
    body.sliders.find((s) => s.id === id)!,
  )

describe('where somebody looks', () => {
  it('turns the eyes to their left and up, and no farther than they go', () => {
    const some = lookTo(plain, body, 16, -11)
    expect(of(some, 'gaze-side')).toEqual([0.5, 0.5])
    expect(of(some, 'gaze-up')).toEqual([-0.5, -0.5])
    const far = lookTo(some, body, -170, 90)
    expect(of(far, 'gaze-side')).toEqual([-1, -1])
    expect(of(far, 'gaze-up')).toEqual([1, 1])
    expect(lookTo(far, body, 0, 0)).toEqual(plain)
  })

  it('turns one eye alone: crossed and wandering looks', () => {
    const crossed = lookTo(lookTo(plain, body, -20, 0, 'left'), body, 20, 0, 'right')
    const [left, right] = of(crossed, 'gaze-side')
    expect(left).toBeLessThan(-0.5)
    expect(right).toBeGreaterThan(0.5)
  })

  it('leaves a body alone whose eyes do not turn', () => {
    const blind = { ...body, expressions: [] }
    expect(canLook(body)).toBe(true)
    expect(canLook(blind)).toBe(false)
    expect(lookTo(plain, blind, 20, 20)).toBe(plain)
  })
})

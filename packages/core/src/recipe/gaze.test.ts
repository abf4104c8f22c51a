import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { newRecipe } from './defaults.ts'
import { setFace } from './expressions.ts'
import { canLook, lookExpressions, lookShares, lookTo } from './gaze.ts'
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

  it('is so much of the expressions of looking, which bring eyes where turning them does', () => {
    const named = body.expressions!.filter((e) => e.preset?.startsWith('look')).map((e) => e.id)
    expect(
      lookExpressions(body)
        .map((e) => e.id)
        .sort(),
    ).toEqual(named.sort())
    for (const [toLeft, up] of [
      [16, -11],
      [-8, 22],
      [-90, 0],
      [0, 0],
    ] as const) {
      const shares = Object.entries(lookShares(body, toLeft, up)).map(([id, share]) => ({
        ...{ expression: body.expressions!.find((e) => e.id === id)!, share },
      }))
      const [faced, looked] = [setFace(plain, body, shares), lookTo(plain, body, toLeft, up)]
      for (const id of ['gaze-side', 'gaze-up'])
        of(faced, id).forEach((v, i) => expect(v, `${id} ${toLeft} ${up}`).toBeCloseTo(of(looked, id)[i]!, 6))
    }
    expect(lookShares({ expressions: [] }, 10, 10)).toEqual({})
  })

  it('leaves a body alone whose eyes do not turn', () => {
    const blind = { ...body, expressions: [] }
    expect(canLook(body)).toBe(true)
    expect(canLook(blind)).toBe(false)
    expect(lookTo(plain, blind, 20, 20)).toBe(plain)
  })
})

import { describe, expect, it } from 'vitest'
import { prepareBody } from '../body/PreparedBody.ts'
import type { PartModel } from '../kit/Kit.ts'
import type { Morph } from '../mesh/Mesh.ts'
import { demoKit, instances, shapeOf } from '../testing/demoKits.ts'
import { assembleOutfit, dressOutfit } from './outfit.ts'

const folk = await demoKit('saltwick-folk')
const body = prepareBody(folk.bodies.get('human')!)
const jersey = folk.parts.get('jersey')!
const at = (positions: Float32Array, p: number, k: number) => positions[p * 3 + k]!
const count = jersey.mesh.positions.length / 3
/** The points farthest to the figure's left and right: well outside of where halves fade. */
const [leftmost, rightmost] = [1, -1].map((side) =>
  Array.from({ length: count }, (_, p) => p).reduce((a, b) =>
    side * at(jersey.mesh.positions, b, 0) > side * at(jersey.mesh.positions, a, 0) ? b : a,
  ),
) as [number, number]

/** The jersey with a morph target of its own: both outermost points rise by 5 cm, nothing else moves. */
function withOwn(name: string): PartModel {
  const own: Morph = {
    name,
    points: Uint32Array.from([leftmost, rightmost].sort((a, b) => a - b)),
    deltas: Float32Array.of(0, 0.05, 0, 0, 0.05, 0),
  }
  return { ...jersey, hash: `jersey with ${name}`, mesh: { ...jersey.mesh, morphs: [own] } }
}

/** How far every point of the jersey moves, metres upward, when sliders go from rest to these. */
function rise(part: PartModel, sliders: Parameters<typeof shapeOf>[1]): Float32Array {
  const outfit = assembleOutfit(
    body,
    instances(folk, ['jersey']).map((i) => ({ ...i, part })),
  )
  const layer = outfit.layers[0]!
  const shaped = (values: typeof sliders) => {
    const { active, positions } = shapeOf(body, values)
    dressOutfit({ ...outfit, layers: [{ ...layer, onBody: null }] }, positions, active)
    return layer.positions.slice()
  }
  const [from, to] = [shaped({}), shaped(sliders)]
  return Float32Array.from({ length: count }, (_, p) => at(to, p, 1) - at(from, p, 1))
}
const most = (moves: Float32Array) => Math.max(...moves.map(Math.abs))

describe('a part with a morph target of its own', () => {
  it('moves by that and not by the tie when the slider of that name plays', () => {
    const moves = rise(withOwn('belly+'), { belly: 1 })
    expect(moves[leftmost]).toBeCloseTo(0.05, 5)
    expect(moves[rightmost]).toBeCloseTo(0.05, 5)
    moves[leftmost] = moves[rightmost] = 0
    expect(most(moves)).toBe(0)
    // and the jersey as it ships does move
    expect(most(rise(jersey, { belly: 1 }))).toBeGreaterThan(0.001)
  })

  it('follows all other sliders as before', () => {
    const sliders = { stature: 0.6, chest: 0.5 }
    expect(rise(withOwn('belly+'), sliders)).toEqual(rise(jersey, sliders))
  })

  it('is halved as the body is when left and right differ', () => {
    const moves = rise(withOwn('belly+'), { belly: [1, 0.4] })
    expect(moves[leftmost]).toBeCloseTo(0.05, 5)
    expect(moves[rightmost]).toBeCloseTo(0.02, 5)
  })

  it('that has another name plays never', () => {
    expect(rise(withOwn('wag'), { belly: [1, 0.4] })).toEqual(rise(jersey, { belly: [1, 0.4] }))
  })
})

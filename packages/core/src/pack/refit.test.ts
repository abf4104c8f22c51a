import { Triangle, Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { prepareBody } from '../body/PreparedBody.ts'
import { activeDeltas, applyDeltas, shapeLandmarks } from '../body/shapeBody.ts'
import { Builder } from '../build.ts'
import { bindPart, deltaOf } from '../dress/bindPart.ts'
import type { BodyModel, Kit, PartModel } from '../kit/Kit.ts'
import { readKit } from '../kit/readKit.ts'
import { connectedPieces } from '../mesh/adjacency.ts'
import { boundsOf, pointTriangles } from '../mesh/Mesh.ts'
import { newRecipe, partReference } from '../recipe/defaults.ts'
import { setPart } from '../recipe/edits.ts'
import { newTarget } from '../recipe/target.ts'
import { demoKit } from '../testing/demoKits.ts'
import { refitPart } from './refit.ts'
import { worstEnd } from './refitFit.ts'
import { refitKit } from './refitKit.ts'
import { oneIn } from '../testing/thorough.ts'

let kits: Map<string, Kit>
let folk: Kit
let tide: Kit
let human: BodyModel
let ottern: BodyModel
beforeAll(async () => {
  ;[folk, tide] = [await demoKit('saltwick-folk'), await demoKit('tide-creatures')]
  kits = new Map([folk, tide].map((kit) => [kit.manifest.id, kit]))
  human = folk.bodies.get('human')!
  ottern = tide.bodies.get('ottern')!
})

/** The human body as its sliders shape it, as if somebody else had made it: and where its parts really lie then. */
function shaped(sliders: Record<string, number>) {
  const body = prepareBody(human)
  const active = activeDeltas(body, sliders)
  const positions = new Float32Array(human.mesh.positions.length)
  applyDeltas(human.mesh.positions, active, positions)
  const landmarks = new Float32Array(body.landmarks.length)
  shapeLandmarks(body, active, landmarks)
  const model: BodyModel = {
    ...human,
    hash: `${human.hash} ${JSON.stringify(sliders)}`,
    mesh: { ...human.mesh, positions },
    def: {
      ...human.def,
      landmarks: human.def.landmarks.map((l, i) => ({
        ...l,
        at: [landmarks[i * 3]!, landmarks[i * 3 + 1]!, landmarks[i * 3 + 2]!],
      })),
    },
  }
  const truth = (part: PartModel) => {
    const bound = bindPart(body, part)
    const out = new Float32Array(bound.rest.length)
    applyDeltas(
      bound.rest,
      active.map(({ delta, weight }) => ({ delta: deltaOf(bound, delta), weight })),
      out,
    )
    return out
  }
  return { model, truth }
}

const apart = (a: Float32Array, b: Float32Array, p: number) =>
  Math.hypot(...[0, 1, 2].map((k) => a[p * 3 + k]! - b[p * 3 + k]!))

const WORN = [
  'coat-quay',
  'jersey',
  'smock',
  'skirt-work',
  'trousers',
  'boots-sea',
  'belt-rope',
  'shawl',
  'hat-brimmed',
  'hair-bob',
]

/**
 * How much of a closed surface's whole view a point has around it: over a half within it (winding number by solid
 * angles, van Oosterom & Strackee 1983). Shares nothing with how clothes are pushed out.
 */
function winding(positions: Float32Array, triangles: Uint32Array, at: readonly number[]): number {
  let sum = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => [0, 1, 2].map((i) => positions[triangles[t + k]! * 3 + i]! - at[i]!)) as [
      number[],
      number[],
      number[],
    ]
    const [x, y, z] = [Math.hypot(...a), Math.hypot(...b), Math.hypot(...c)]
    const dot = (u: number[], v: number[]) => u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!
    const volume =
      a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) +
      a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) +
      a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!)
    sum += 2 * Math.atan2(volume, x * y * z + dot(a, b) * z + dot(b, c) * x + dot(c, a) * y)
  }
  return sum / (4 * Math.PI)
}

function shareWithin(body: BodyModel, positions: Float32Array): number {
  const triangles = pointTriangles(body.mesh)
  let within = 0
  const count = positions.length / 3
  for (let p = 0; p < count; p += 3)
    if (winding(body.mesh.positions, triangles, [...positions.subarray(p * 3, p * 3 + 3)]) > 0.5) within += 3
  return within / count
}

/** How far a part's points lie off a body's surface, by every triangle of it and nothing of the refit's. */
function gaps(positions: Float32Array, { mesh }: BodyModel): number[] {
  const indices = pointTriangles(mesh)
  const at = (p: number, from: Float32Array) => new Vector3().fromArray(from, p * 3)
  const triangles = Array.from({ length: indices.length / 3 }, (_, t) => {
    const [a, b, c] = [0, 1, 2].map((k) => at(indices[t * 3 + k]!, mesh.positions))
    return new Triangle(a, b, c)
  })
  const near = new Vector3()
  return Array.from({ length: positions.length / 3 }, (_, p) => {
    const point = at(p, positions)
    return Math.min(...triangles.map((t) => t.closestPointToPoint(point, near).distanceTo(point)))
  })
}

describe('a part that is carried over, adjusted by hand', () => {
  const mean = (list: readonly number[]) => list.reduce((a, b) => a + b, 0) / list.length
  const middle = (positions: Float32Array, k: number) => mean([...positions].filter((_, i) => i % 3 === k))

  it('lies farther off by as much as was said, or nearer, and not in the body', () => {
    const part = folk.parts.get('jersey')!
    const plain = refitPart(part, human, ottern)!
    const rest = gaps(plain.positions, ottern)
    /** How much farther off the middle one of its points lies than without. */
    const further = (looser: number) => {
      const now = gaps(refitPart(part, human, ottern, { looser })!.positions, ottern)
      return now.map((gap, p) => gap - rest[p]!).sort((a, b) => a - b)[now.length >> 1]!
    }
    // under the arms there is less room, and what is brought nearer stays out of the skin
    expect(further(0.03)).toBeGreaterThan(0.026)
    expect(further(0.03)).toBeLessThan(0.031)
    expect(further(-0.01)).toBeLessThan(-0.003)
    expect(refitPart(part, human, ottern, { looser: 0.03 })!.report.within).toBeLessThanOrEqual(plain.report.within)
  })

  it('goes up, to the front, and grows about its own middle', () => {
    const part = folk.parts.get('hat-brimmed')!
    const plain = refitPart(part, human, ottern)!.positions
    const moved = refitPart(part, human, ottern, { higher: 0.1, further: 0.05 })!.positions
    expect(middle(moved, 1) - middle(plain, 1)).toBeCloseTo(0.1, 1)
    expect(middle(moved, 2) - middle(plain, 2)).toBeGreaterThan(0.03)
    const wide = (positions: Float32Array) => boundsOf(positions).max[0] - boundsOf(positions).min[0]
    const larger = refitPart(part, human, ottern, { larger: 1.5 })!.positions
    expect(wide(larger) / wide(plain)).toBeGreaterThan(1.4)
    expect(wide(larger) / wide(plain)).toBeLessThan(1.6)
  })
})

describe('a part carried to another body', () => {
  // measured over the whole shelf: mean 0.8 to 4.3 mm, 95 of 100 points within 2.4 to 11.0 mm
  it.each([
    [{ stature: 1 }, 1.5],
    [{ stature: -1, heft: 0.6 }, 5],
    [{ sex: 1 }, 3],
    [{ muscle: 1, build: 1 }, 5],
    [{ years: -1 }, 6],
  ] as [Record<string, number>, number][])('of %o lies where its sliders would have brought it', (sliders, most) => {
    const { model, truth } = shaped(sliders)
    const off: number[] = []
    for (const id of oneIn(2, WORN)) {
      const part = folk.parts.get(id)!
      const { positions } = refitPart(part, human, model)!
      const right = truth(part)
      for (let p = 0; p < right.length / 3; p++) off.push(apart(positions, right, p) * 1000)
    }
    off.sort((a, b) => a - b)
    expect(off.reduce((a, b) => a + b) / off.length).toBeLessThan(most)
    expect(off[Math.floor(off.length * 0.95)]!).toBeLessThan(most * 3)
  })

  it('that is the same stays where it is', () => {
    const { model } = shaped({})
    for (const id of ['coat-quay', 'hat-brimmed', 'eyes-open', 'oar']) {
      const part = folk.parts.get(id)!
      const { positions, report } = refitPart(part, human, model)!
      const { rest } = bindPart(prepareBody(human), part)
      for (let p = 0; p < rest.length / 3; p++) expect(apart(positions, rest, p)).toBeLessThan(1e-4)
      expect([report.moved.most < 1e-4, report.doubtful, report.within]).toEqual([true, [], 0])
    }
  })

  it('of quite another build lies on it: round its trunk and arms, out of its skin', () => {
    for (const [id, from, to, most] of [
      ['coat-quay', human, ottern, 0.06],
      ['jersey', human, ottern, 0.06],
      ['smock', human, ottern, 0.06],
      ['scarf-striped', ottern, human, 0.06],
    ] as const) {
      const part = (folk.parts.get(id) ?? tide.parts.get(id))!
      const { positions, report } = refitPart(part, from, to)!
      expect(positions.every(Number.isFinite)).toBe(true)
      // rims that turn in lay in the body before as well
      const before = shareWithin(from, bindPart(prepareBody(from), part).rest)
      expect(shareWithin(to, positions), id).toBeLessThan(before + most)
      expect(report.moved.mean).toBeGreaterThan(0.1)
      const [own, its] = [boundsOf(positions), boundsOf(to.mesh.positions)]
      // it goes about the trunk: as wide as that at least, and hardly above the head or below the ground
      expect(own.max[1]).toBeLessThan(its.max[1] + 0.05)
      expect(own.min[1]).toBeGreaterThan(its.min[1] - 0.05)
    }
    // where it lay before, a fifth of it would be within the other body, or it would hang above it
    const coat = folk.parts.get('coat-quay')!
    expect(boundsOf(coat.mesh.positions).max[1]).toBeGreaterThan(boundsOf(ottern.mesh.positions).max[1])
  })

  it('keeps the form of buttons', () => {
    const part = folk.parts.get('coat-quay')!
    const { positions } = refitPart(part, human, ottern)!
    const triangles = pointTriangles(part.mesh)
    const { pieceOf, count } = connectedPieces(triangles, positions.length / 3)
    let small = 0
    for (let piece = 0; piece < count; piece++) {
      const points = [...pieceOf.keys()].filter((p) => pieceOf[p] === piece)
      const { min, max } = boundsOf(points.flatMap((p) => [...part.mesh.positions.subarray(p * 3, p * 3 + 3)]))
      if (points.length < 4 || Math.hypot(...max.map((v, k) => v - min[k]!)) > 0.05) continue
      small++
      const ratios = points.slice(1).map((p) => {
        const far = (list: Float32Array) =>
          Math.hypot(...[0, 1, 2].map((k) => list[p * 3 + k]! - list[points[0]! * 3 + k]!))
        return far(positions) / far(part.mesh.positions)
      })
      expect(Math.max(...ratios) / Math.min(...ratios)).toBeLessThan(1.001)
      expect(ratios[0]!).toBeGreaterThan(0.6)
    }
    expect(small).toBeGreaterThan(3)
  })

  it('is looked at where sliders are at their ends', () => {
    const end = worstEnd(human, folk.parts.get('jersey')!)!
    expect(human.def.sliders.map((s) => s.id)).toContain(end.slider)
    expect(end.within).toBeLessThan(0.2)
    expect(worstEnd({ ...human, def: { ...human.def, sliders: [] } }, folk.parts.get('jersey')!)).toBeNull()
  })
})

describe('a kit of parts carried over', () => {
  const HUMAN = { kit: 'saltwick-folk', id: 'human' }
  const OTTERN = { kit: 'tide-creatures', id: 'ottern' }
  const order = (ids: readonly string[]) => ({
    ...{ id: 'shore', name: 'Shore', from: HUMAN, to: OTTERN },
    parts: ids.map((id) => ({ kit: 'saltwick-folk', id })),
  })

  it('reads, brings the slots that are lacking, and dresses the other body in its colors, light and moves', async () => {
    const ids = ['coat-quay', 'hat-brimmed', 'scarf', 'eyes-open', 'oar']
    const { value, problems } = await refitKit(kits, order(ids))
    expect(problems).toEqual([])
    expect(value!.parts.map((p) => p.part.id)).toEqual(ids)
    const { value: kit, problems: faults } = await readKit(value!.files)
    expect(faults).toEqual([])
    // the ottern has slots for neck, eyes and hands of its own
    expect(kit!.manifest.slots.map((s) => s.id).sort()).toEqual(['hat', 'over'])
    let recipe = newRecipe(tide, 'ottern', 'Dressed')
    for (const { def } of kit!.parts.values()) recipe = setPart(recipe, def.slot, partReference(kit!, def.id))
    const all = new Map([...kits, ['shore', kit!]])
    const { figure, problems: told } = new Builder(all).build(recipe, newTarget('any', 'Any'))
    expect(told.filter((p) => p.severity === 'error')).toEqual([])
    expect(figure!.pieces.map((p) => p.id)).toEqual(expect.arrayContaining(ids))
    for (const id of ids) {
      const [made, own] = [kit!.parts.get(id)!.mesh, folk.parts.get(id)!.mesh]
      expect(made.indices.length).toBe(own.indices.length)
      expect([...new Set(made.regionNames)].sort()).toEqual([...new Set(own.regionNames)].sort())
      const total = (list: ArrayLike<number>) => Array.from(list).reduce((a, b) => a + b, 0)
      expect(total(made.shades)).toBeCloseTo(total(own.shades), -2)
      expect(made.morphs.map((m) => m.name).sort()).toEqual(own.morphs.map((m) => m.name).sort())
    }
    // what is held lies about the hand that holds it
    const oar = boundsOf(kit!.parts.get('oar')!.mesh.positions)
    expect(oar.min.every((v, k) => v < 0.1 && oar.max[k]! > -0.1)).toBe(true)
  })

  it('tells what cannot be carried over, and is none where nothing can', async () => {
    const { value, problems } = await refitKit(kits, order(['peg-leg', 'nothing', 'jersey']))
    expect(problems.map((p) => [p.code, p.severity, p.where])).toEqual([
      ['refit-cannot', 'warning', 'saltwick-folk/peg-leg'],
      ['refit-cannot', 'warning', 'saltwick-folk/nothing'],
    ])
    expect(value!.parts).toHaveLength(1)
    const none = await refitKit(kits, order(['peg-leg']))
    expect([none.value, none.problems.at(-1)!.code]).toEqual([null, 'refit-none'])
    const nowhere = await refitKit(kits, { ...order(['jersey']), to: { kit: 'no', id: 'body' } })
    expect(nowhere.problems.map((p) => p.code)).toEqual(['body-unknown'])
    const strange = await refitKit(kits, { ...order(['jersey']), from: OTTERN })
    expect(strange.problems[0]!.message).toContain('not made for “Ottern”')
    // legs in other places, bones of other names
    const wader = await refitKit(kits, { ...order(['jersey']), to: { kit: 'tide-creatures', id: 'lampstrider' } })
    expect(wader.problems.every((p) => p.severity !== 'error') || wader.value === null).toBe(true)
  })
})

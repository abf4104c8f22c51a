import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import type { DrawnChain } from '../autorig/drawnChains.ts'
import type { Point } from '../autorig/landmarks.ts'
import { DETAIL_LEVELS } from '../kit/plan.ts'
import { readKit } from '../kit/readKit.ts'
import { newRecipe } from '../recipe/defaults.ts'
import { createWorldPose, poseOfTurns, skinPoints, solveForward } from '../rig/Pose.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { BEASTS, beast, tubes } from '../testing/beasts.ts'
import { alone, folk, kits, near, seen } from '../testing/boneless.ts'
import { givenBy, landmarkFile, readLandmarkFile } from './landmarkFile.ts'
import { rigKit, type RigOrder } from './rigPack.ts'
import { learnSlots } from './sortPieces.ts'

const human = learnSlots(kits, folk.bodies.get('human')!)
const given = { up: 'y', front: 'z', unit: 'm' } as const

/** Of a spider's legs the four of one side, from the trunk to the ground. */
const LEGS = [0.3, 0.1, -0.1, -0.3].map((z): Point[] => [
  [0.12, 0.3, z * 0.6],
  [0.35, 0.5, z * 1.2],
  [0.6, 0.25, z * 1.8],
  [0.66, 0.02, z * 2],
])
const mirror = (way: readonly Point[]) => way.map(([x, y, z]): Point => [-x, y, z])
const thick = (way: readonly Point[], by: number) => way.map((p): [...Point, number] => [...p, by])
const spider = tubes([
  [
    [0, 0.3, -0.5, 0.12],
    [0, 0.34, -0.3, 0.34],
    [0, 0.3, 0, 0.26],
    [0, 0.3, 0.3, 0.18],
  ],
  ...LEGS.flatMap((leg) => [thick(leg, 0.06), thick(mirror(leg), 0.06)]),
])
const TRUNK: DrawnChain = { kind: 'trunk', mirrored: false, points: [[0, 0.3, -0.15], [0, 0.3, 0.1], [0, 0.3, 0.3]] } // prettier-ignore
const CHAINS: DrawnChain[] = [...LEGS.map((points): DrawnChain => ({ kind: 'leg', mirrored: true, points })), TRUNK]

const WAY = Array.from({ length: 12 }, (_, i): Point => [Math.sin(i * 0.9) * 0.08, 0.05, 1 - i * 0.18])
const snake = tubes([WAY.map((p, i): [...Point, number] => [...p, 0.1 - i * 0.006])])

async function bodyOf(order: RigOrder) {
  const made = await rigKit(order, human, kits, { id: 'mine', name: 'Mine' })
  if (!made.value) return { made, all: kits, kit: null }
  const read = await readKit(made.value)
  expect(read.problems).toEqual([])
  const kit = read.value!
  return { made, kit, all: new Map([...kits, ['mine', kit]]) }
}

describe('a figure whose chains are drawn by hand', () => {
  it('is said to be one: it has no two legs and not four', () => {
    for (const piece of [spider, snake]) {
      const { survey, codes } = seen(alone(piece), given)
      expect(survey).toMatchObject({ build: 'other', landmarks: [] })
      expect(codes).toContain('rig-plan')
    }
  })

  it('of eight legs stands on them, bends them by themselves, and ships', async () => {
    const { survey } = seen(alone(spider), given)
    const { kit, all, made } = await bodyOf({ ...survey!, chains: CHAINS })
    expect(made.problems).toEqual([])
    const { plan } = kit!.bodies.get('figure')!
    const legs = plan.limbs.filter((l) => l.kind === 'leg')
    expect(legs.map((l) => l.id).sort()).toEqual(
      ['', '2', '3', '4'].flatMap((n) => [`leftLeg${n}`, `rightLeg${n}`]).sort(),
    )
    expect(legs.every((l) => l.pole![1] > 0.5)).toBe(true)
    expect(plan.ground).toHaveLength(8)
    expect(plan.pairs).toHaveLength(12)
    const recipe = newRecipe(kit!, 'figure', 'Mine')
    const { bytes, figure, problems } = await shipFigure(new Builder(all), all, recipe, near, { lods: false })
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    const names = new ShippedFile(bytes!).nodes.map((n) => n.name)
    const upper = legs.find((l) => l.id === 'leftLeg2')!.bones[0]!
    expect(names).toContain(upper)
    // a leg that is raised takes its own points along, and no other's
    const { bones } = figure!.skeleton
    const world = solveForward(bones, poseOfTurns(bones, { [upper]: [0, 0, 40] }), createWorldPose(bones))
    const posed = new Float32Array(figure!.mesh.positions.length)
    skinPoints(bones, world, figure!.mesh.positions, figure!.mesh.joints, figure!.mesh.weights, posed)
    // the second leg is between these, from front to back
    let [own, others] = [0, 0]
    for (let p = 0; p < posed.length; p += 3) {
      const [x, y, z] = figure!.mesh.positions.subarray(p, p + 3) as unknown as Point
      if (y > 0.1) continue
      const rise = Math.hypot(...[0, 1, 2].map((k) => posed[p + k]! - figure!.mesh.positions[p + k]!))
      if (x > 0 && z > 0.05 && z < 0.3) own = Math.max(own, rise)
      else others = Math.max(others, rise)
    }
    expect(own).toBeGreaterThan(0.3)
    expect(others).toBeLessThan(0.005)
  })

  it('has fewer bones the farther it is, each leg one at least, and none that nothing hangs on', async () => {
    const { survey } = seen(alone(spider), given)
    const { kit, all } = await bodyOf({ ...survey!, chains: CHAINS })
    const { plan } = kit!.bodies.get('figure')!
    const recipe = newRecipe(kit!, 'figure', 'Mine')
    const counts = DETAIL_LEVELS.map((detail) => {
      const { figure } = new Builder(all).build(recipe, { ...near, detail })
      const { bones } = figure!.skeleton
      const held = new Set(
        [...figure!.mesh.joints].filter((_, i) => figure!.mesh.weights[i]! > 0.5).map((b) => bones[b]!.name),
      )
      for (const leg of plan.limbs.filter((l) => l.kind === 'leg'))
        expect([detail, leg.id, leg.bones.some((b) => held.has(b))]).toEqual([detail, leg.id, true])
      return bones.length
    })
    expect(counts).toEqual([...counts].sort((a, b) => a - b))
    expect(counts[0]).toBeLessThan(plan.bones.length)
    // every bone there is, and more that twist
    expect(counts.at(-1)).toBeGreaterThanOrEqual(plan.bones.length)
  })

  it('of none is a trunk that bends along its length', async () => {
    const { survey } = seen(alone(snake), given)
    const trunk: DrawnChain = { kind: 'trunk', mirrored: false, points: WAY.slice(5, 9) }
    const ahead: DrawnChain = { kind: 'neck', mirrored: false, points: WAY.slice(0, 6).toReversed() }
    const tail: DrawnChain = { kind: 'tail', mirrored: false, points: WAY.slice(8) }
    const { kit, all } = await bodyOf({ ...survey!, chains: [tail, ahead, trunk] })
    const recipe = newRecipe(kit!, 'figure', 'Mine')
    const { problems, figure } = await shipFigure(new Builder(all), all, recipe, near, { lods: false })
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    expect(figure!.skeleton.bones).toHaveLength(11)
    expect(figure!.skeleton.bones[0]!.parent).toBe(-1)
    expect(kit!.bodies.get('figure')!.plan.limbs.map((l) => [l.kind, l.bones.length])).toEqual([
      ['tail', 3],
      ['neck', 5],
    ])
  })

  it('adds a tail and ears to what has landmarks, as limbs of the body; they hang on the nearest bone', async () => {
    const { survey } = seen(alone(beast(BEASTS.bear!).piece), given)
    const ear: Point[] = [[-0.11, 0.98, 0.92], [-0.14, 1.05, 0.92], [-0.15, 1.13, 0.92]] // prettier-ignore
    const tail: Point[] = [[0, 0.85, -0.6], [0, 0.82, -0.7], [0, 0.78, -0.78]] // prettier-ignore
    const chains: DrawnChain[] = [
      { kind: 'ear', mirrored: true, points: ear },
      { kind: 'tail', mirrored: false, points: tail },
    ]
    const { kit } = await bodyOf({ ...survey!, chains })
    const body = kit!.bodies.get('figure')!
    expect(body.plan.id).toBe('quadruped')
    expect(body.def.limbs!.map((l) => [l.id, l.side, l.bones.length])).toEqual([
      ['rightEar', 'right', 2],
      ['leftEar', 'left', 2],
      ['tail', undefined, 2],
    ])
    const parentOf = (id: string) =>
      body.bones.find((b) => b.name === body.def.limbs!.find((l) => l.id === id)!.bones[0])
    expect(parentOf('leftEar')!.parent).toBe('head')
    expect(parentOf('tail')!.parent).toBe('hips')
  })

  it('is refused in words where chains are none, are two trunks, or have too few places', async () => {
    const { survey } = seen(alone(spider), given)
    const code = async (chains: DrawnChain[], order = survey!) =>
      (await bodyOf({ ...order, chains })).made.problems.map((p) => p.code)
    expect(await code([])).toEqual(['chain-trunk'])
    expect(await code([TRUNK, TRUNK])).toEqual(['chain-trunk'])
    expect(await code([TRUNK, { kind: 'leg', mirrored: true, points: LEGS[0]!.slice(0, 3) }])).toEqual(['chain-places'])
    const still: Point[] = [[0, 0.3, 0.3], [0, 0.3, 0.3]] // prettier-ignore
    expect(await code([TRUNK, { kind: 'tail', mirrored: false, points: still }])).toEqual(['chain-still'])
    const dog = seen(alone(beast(BEASTS.dog!).piece), given).survey!
    expect(await code([TRUNK], dog)).toEqual(['chain-trunk'])
  })

  it('goes into a file with its chains, and comes from one', () => {
    const { survey } = seen(alone(spider), given)
    const text = JSON.stringify(landmarkFile({ ...survey!, chains: CHAINS }))
    const { value } = readLandmarkFile(text)
    const rounded = CHAINS.map((c) => ({
      ...c,
      points: c.points.map((p) => p.map((v) => expect.closeTo(v, 4) as number)),
    }))
    expect(value!.chains).toEqual(rounded)
    expect(givenBy(value!)).toMatchObject({ legs: 0 })
    // drawn over, whatever is seen of it
    expect(seen(alone(beast(BEASTS.dog!).piece), { ...given, legs: 0 })).toMatchObject({
      survey: { build: 'other', landmarks: [] },
      codes: [],
    })
    const odd = { ...value!, chains: [{ ...CHAINS[0]!, kind: 'wheel' }] }
    expect(readLandmarkFile(odd).problems[0]!.code).toBe('schema')
  })
})

import { Matrix4, Quaternion, Euler, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { prepareBody } from '../body/PreparedBody.ts'
import type { Kit, PartModel } from '../kit/Kit.ts'
import { demoKit } from '../testing/demoKits.ts'
import { bindPart } from './bindPart.ts'

/*
 * Cloth in strong poses, skinned here with matrices of this test's own: no edge of any garment is
 * drawn out like a web.
 */

type Turns = Record<string, [x: number, y: number, z: number]>

const deg = (x: number, y: number, z: number) => [x, y, z].map((d) => (d * Math.PI) / 180) as [number, number, number]
const both = (bone: string, [x, y, z]: [number, number, number]): Turns => ({
  [`left${bone}`]: deg(x, y, z),
  [`right${bone}`]: deg(x, -y, -z),
})

const pair = (bone: string, x: number): Turns => both(bone, [x, 0, 0])

/** What waders and hoppers do at their strongest. */
const ON_FOUR: Record<string, Turns> = {
  'a long step': {
    leftHindUpperLeg: deg(-45, 0, 0),
    rightHindUpperLeg: deg(40, 0, 0),
    leftForeUpperLeg: deg(40, 0, 0),
    rightForeUpperLeg: deg(-45, 0, 0),
  },
  'a leap': { ...pair('HindUpperLeg', 55), ...pair('HindLowerLeg', -60), ...pair('ForeUpperLeg', -45) },
  'head down': { neckBase: deg(50, 0, 0), neckMiddle: deg(40, 10, 0), head: deg(-20, 0, 10) },
  'mouth open': { jaw: deg(22, 0, 0), head: deg(-12, 0, 0) },
  'tail about': { tail1: deg(0, 40, 0), tail2: deg(0, 40, 0) },
}

const UPRIGHT: Record<string, Turns> = {
  'a deep step': {
    leftUpperLeg: deg(-70, 0, 0),
    leftLowerLeg: deg(80, 0, 0),
    rightUpperLeg: deg(40, 0, 0),
    rightLowerLeg: deg(30, 0, 0),
  },
  'a wide stance': both('UpperLeg', [0, 0, 38]),
  sitting: { ...both('UpperLeg', [-88, 0, 6]), ...both('LowerLeg', [88, 0, 0]) },
  'arms forward': both('UpperArm', [0, -80, 0]),
  'arms up': both('UpperArm', [0, 0, 75]),
  'head down': { head: deg(35, 0, 0), neck: deg(20, 0, 0), spine: deg(20, 0, 0) },
}

/** Where every point of a part is in a pose. */
function posed(kit: Kit, bodyId: string, part: PartModel, turns: Turns): Vector3[] {
  const body = prepareBody(kit.bodies.get(bodyId)!)
  const { rest, joints, weights, bones } = bindPart(body, part)
  const world: Matrix4[] = []
  body.model.bones.forEach((bone, i) => {
    const at = new Vector3(...body.model.def.landmarks.find((l) => l.id === bone.name)!.at)
    const turn = new Matrix4().makeRotationFromQuaternion(
      new Quaternion().setFromEuler(new Euler(...(turns[bone.name] ?? [0, 0, 0]))),
    )
    const local = new Matrix4()
      .makeTranslation(at)
      .multiply(turn)
      .multiply(new Matrix4().makeTranslation(at.clone().negate()))
    const parent = body.model.bones.findIndex((b) => b.name === bone.parent)
    world[i] = parent < 0 ? local : world[parent]!.clone().multiply(local)
  })
  // the part's own bones keep still on what they hang from
  const names = body.model.bones.map((b) => b.name)
  for (const { name, parent } of bones) {
    world.push(world[names.indexOf(parent!)]!)
    names.push(name)
  }
  return Array.from({ length: rest.length / 3 }, (_, p) => {
    const sum = new Vector3()
    for (let k = 0; k < 4; k++)
      sum.addScaledVector(
        new Vector3().fromArray(rest, p * 3).applyMatrix4(world[joints[p * 4 + k]!]!),
        weights[p * 4 + k]!,
      )
    return sum
  })
}

/** Edges shorter than this are stitches: what they are drawn out to cannot be seen, metres. */
const STITCH = 0.006

function worstStretch(kit: Kit, bodyId: string, part: PartModel, turns: Turns): number {
  const body = prepareBody(kit.bodies.get(bodyId)!)
  const { rest, triangles } = bindPart(body, part)
  const now = posed(kit, bodyId, part, turns)
  const at = (p: number) => new Vector3().fromArray(rest, p * 3)
  let worst = 0
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!]
      worst = Math.max(worst, now[a]!.distanceTo(now[b]!) / Math.max(STITCH, at(a).distanceTo(at(b))))
    }
  return worst
}

const [folk, tide] = [await demoKit('saltwick-folk'), await demoKit('tide-creatures')]
const worn = (
  [
    [folk, 'human'],
    [tide, 'ottern'],
    [tide, 'lampstrider'],
    [tide, 'gulper'],
  ] as const
).flatMap(([kit, body]) =>
  [...kit.parts.values()]
    .filter((p) => p.def.how === 'worn' && p.def.bodies.includes(body))
    .map((p) => [p.def.id, kit, body, p] as const),
)

describe('in strong poses', () => {
  it.each(worn)('%s stretches no edge more than five times', (_id, kit, body, part) => {
    const poses = kit.bodies.get(body)!.plan.id === 'biped' ? UPRIGHT : ON_FOUR
    for (const [name, turns] of Object.entries(poses))
      expect(worstStretch(kit, body, part, turns), name).toBeLessThan(5)
  })

  it('a web between the legs would be seen: each trouser leg given to both', () => {
    const trousers = folk.parts.get('trousers-rolled')!
    const body = prepareBody(folk.bodies.get('human')!)
    const bound = bindPart(body, trousers)
    const bone = (name: string) => body.model.bones.findIndex((b) => b.name === name)
    const kept = { joints: bound.joints.slice(), weights: bound.weights.slice() }
    // as the nearest skin has it where the legs are close: half of either
    for (let p = 0; p < bound.rest.length / 3; p += 3)
      if (bound.rest[p * 3 + 1]! < 0.55 && bound.rest[p * 3]! > 0) {
        bound.joints.set([bone('leftLowerLeg'), bone('rightLowerLeg'), 0, 0], p * 4)
        bound.weights.set([0.5, 0.5, 0, 0], p * 4)
      }
    expect(worstStretch(folk, 'human', trousers, UPRIGHT['a wide stance']!)).toBeGreaterThan(5)
    bound.joints.set(kept.joints)
    bound.weights.set(kept.weights)
  })
})

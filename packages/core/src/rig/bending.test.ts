import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import { poseAt } from '../motion/Clip.ts'
import type { Recipe } from '../recipe/schema.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { bendClip } from '../motion/bendClip.ts'
import { bendScores } from './bending.ts'
import { createWorldPose, solveForward } from './Pose.ts'
import type { Bone, Skeleton } from './Skeleton.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = demoTarget('near')

type V3 = [number, number, number]
const boneAt = (name: string, parent: number, at: V3, tail: V3): Bone => ({
  name,
  parent,
  at,
  tail,
  turn: [0, 0, 0, 1],
})
const twoBones: Skeleton = {
  ...{ detail: 'near', limbs: [], pairs: [], fold: Uint16Array.of(0, 1) },
  bones: [boneAt('lower', -1, [0, -1, 0], [0, 0, 0]), boneAt('upper', 0, [0, 0, 0], [0, 1, 0])],
}

/** A band about the joint, a tenth high either way, of which every point takes such a share of the upper bone's turn. */
function band(share: number): Pick<Mesh, 'positions' | 'indices' | 'cornerPoints' | 'joints' | 'weights'> {
  const AROUND = 24
  const positions: number[] = []
  const indices: number[] = []
  for (let i = 0; i < AROUND; i++) {
    const a = (i / AROUND) * 2 * Math.PI
    for (const y of [-0.1, 0.1]) positions.push(Math.sin(a), y, Math.cos(a))
    const next = ((i + 1) % AROUND) * 2
    indices.push(i * 2, next, i * 2 + 1, i * 2 + 1, next, next + 1)
  }
  const points = AROUND * 2
  return {
    positions: Float32Array.from(positions),
    indices: Uint32Array.from(indices),
    cornerPoints: Uint32Array.from({ length: points }, (_, i) => i),
    joints: Uint16Array.from({ length: points * 4 }, (_, i) => (i % 4 === 0 ? 1 : 0)),
    weights: Float32Array.from({ length: points * 4 }, (_, i) => [share, 1 - share, 0, 0][i % 4]!),
  }
}

describe('a bending score', () => {
  it('is what blending half of a turn of 50 degrees comes to: what is across the axis shrinks by the cosine of a half', () => {
    const [joint, ...others] = bendScores(band(0.5), twoBones)
    expect(others).toEqual([])
    const shrunk = Math.cos((25 * Math.PI) / 180)
    // two of three directions shrink: so does the volume, twice; and so do most of the edges
    const expected = 100 * shrunk * shrunk * shrunk
    expect(joint!.name).toBe('upper')
    expect(joint!.score).toBeCloseTo(expected, 0)
    expect(joint!.worst.volume).toBeCloseTo(shrunk * shrunk, 3)
    expect(joint!.worst.stretch).toBeCloseTo(1 / shrunk - 1, 3)
  })

  it('is none where nothing bends, and better the less is lost', () => {
    expect(bendScores(band(1), twoBones)).toEqual([])
    expect(bendScores(band(0), twoBones)).toEqual([])
    const [tenth, half] = [0.1, 0.5].map((share) => bendScores(band(share), twoBones)[0]!.score)
    expect(tenth!).toBeGreaterThan(half!)
  })

  it('takes all that hangs from a bone along with it', () => {
    const third = boneAt('tip', 1, [0, 0.5, 0], [0, 1, 0])
    const three = { ...twoBones, bones: [...twoBones.bones, third] }
    const mesh = band(0.5)
    const onTip = { ...mesh, joints: mesh.joints.map((j) => (j === 1 ? 2 : 0)) }
    const of = (list: ReturnType<typeof bendScores>) => list.find((s) => s.name === 'upper')?.score
    expect(of(bendScores(onTip, three))).toBe(of(bendScores(mesh, twoBones)))
  })

  it('is offered as a clip that bends that joint alone, as far as was said, and comes back', () => {
    const clip = bendClip(twoBones.bones, 1, { axis: 'x', degrees: 50 })
    const world = createWorldPose(twoBones.bones)
    const tipAt = (time: number) => {
      solveForward(twoBones.bones, poseAt(clip, time), world)
      return [...world.turns.subarray(4, 8)]
    }
    expect(tipAt(0)).toEqual([0, 0, 0, 1])
    const [x, , , w] = tipAt(clip.duration / 2)
    expect((2 * Math.atan2(x!, w!) * 180) / Math.PI).toBeCloseTo(50, 3)
    expect([...world.turns.subarray(0, 4)]).toEqual([0, 0, 0, 1])
  })
})

/** Every point on the bone nearest to it: the simplest weights there are. */
function onNearestBone(mesh: Mesh, bones: readonly Bone[]): Mesh {
  const count = mesh.positions.length / 3
  const joints = new Uint16Array(count * 4)
  const weights = new Float32Array(count * 4)
  for (let p = 0; p < count; p++) {
    const at = mesh.positions.subarray(p * 3, p * 3 + 3)
    const far = bones.map((b) => {
      const way = b.tail.map((v, k) => v - b.at[k]!)
      const from = b.at.map((v, k) => at[k]! - v)
      const length = way.reduce((s, v) => s + v * v, 0)
      const t = length > 0 ? Math.min(1, Math.max(0, way.reduce((s, v, k) => s + v * from[k]!, 0) / length)) : 0
      return from.reduce((s, v, k) => s + (v - t * way[k]!) ** 2, 0)
    })
    joints[p * 4] = far.indexOf(Math.min(...far))
    weights[p * 4] = 1
  }
  return { ...mesh, joints, weights }
}

describe('the weights of our bodies', () => {
  it.each<[string, Recipe]>([
    ['a person', dressed(folk, 'human', [])],
    ['a dressed one', dressed(folk, 'human', MAREN)],
    ['a heavy one', dressed(folk, 'human', [], { heft: 1, belly: 1 })],
    ['a child', dressed(folk, 'human', [], { years: -1 })],
    ['an ottern', dressed(tide, 'ottern', [])],
    ['a lampstrider', dressed(tide, 'lampstrider', [])],
    ['a gulper', dressed(tide, 'gulper', [])],
  ])('bend %s better than nearest-bone weights at every joint', (_name, recipe) => {
    const { mesh, skeleton } = new Builder(kits).build(recipe, near).figure!
    const ours = bendScores(mesh, skeleton)
    const theirs = new Map(bendScores(onNearestBone(mesh, skeleton.bones), skeleton).map((s) => [s.name, s.score]))
    expect(ours.length).toBeGreaterThan(15)
    for (const { name, score } of ours) expect(score, name).toBeGreaterThan(theirs.get(name) ?? 0)
    // worst first, and what is told of the worst bend is no better than the mean
    expect(ours.map((s) => s.score)).toEqual(ours.map((s) => s.score).sort((a, b) => a - b))
    for (const { score, worst } of ours) expect(worst.score).toBeLessThanOrEqual(score)
  })
})

import { Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import { setEase, setKey } from '../motion/keys/editKeys.ts'
import { newClip, type KeptClip } from '../motion/keys/keptClip.ts'
import { keepPose } from '../motion/poses/keptPose.ts'
import { movePose } from '../motion/poses/movePose.ts'
import { poseRig } from '../motion/poses/PoseRig.ts'
import { setExpression } from '../recipe/expressions.ts'
import type { Target } from '../recipe/target.ts'
import { restPose } from '../rig/Pose.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { shipCarried } from './carryClips.ts'
import { shipFigure } from './shipFigure.ts'
import { ShippedFile } from './ShippedFile.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const builder = new Builder(kits)
const { limits, ...near } = demoTarget('near')
/** So much that nothing is reduced: points of two files are the same. */
const wide: Target = { ...near, limits: { ...limits, triangles: 60_000 }, keepExpressions: 'all', keepClips: ['walk'] }
const maren = dressed(folk, 'human', MAREN)
/** Nothing lies on her that would be kept clear of a face that moves. */
const bare = dressed(folk, 'human', [])
const { plan, def } = folk.bodies.get('human')!
const { skeleton } = builder.build(maren, wide).figure!
const rig = poseRig(skeleton, plan)
const rest = restPose(rig.bones)
const glad = def.expressions!.find((e) => e.preset === 'happy')!

/** At rest with her own face, then with a hand at a place, glad; in a second. */
const [HAND, AT] = ['end-leftHand', [0.5, 1.4, 0.25]] as const
const raised = movePose(rig, rest, { handle: HAND, to: AT }, { pinned: new Set(), mirrored: false, free: true })
const keyOf = (pose: typeof rest) => {
  const { turns, root } = keepPose(pose, rig, { name: 'x', plan: plan.id })
  return { turns, root }
}
let clip: KeptClip = { ...newClip('Look there', plan.id), duration: 1, loop: false }
clip = setKey(clip, 'poses', 0, keyOf(rest), 'even')
clip = setKey(clip, 'poses', 1, keyOf(raised))
clip = setKey(clip, 'faces', 0, { shares: {} }, 'even')
clip = setKey(clip, 'faces', 1, { shares: { [glad.id]: 1 } })

beforeAll(() => reducerReady)

async function shipped(target: Target, keyed: readonly KeptClip[] = [clip], recipe = maren) {
  const made = await shipCarried(builder, kits, recipe, target, [], { lods: target.lods.length > 0, own: true, keyed })
  expect(made.problems.filter((p) => p.severity === 'error')).toEqual([])
  expect(await glbFaults(made.bytes!)).toEqual([])
  const file = new ShippedFile(made.bytes!)
  return { file, made, codes: made.problems.map((p) => p.code), own: file.clips().find((c) => c.name === 'Look there') }
}

describe('a clip of keys in a file', () => {
  it('stands beside those of the kit, and brings the hand where its pose has it', async () => {
    const { file, own } = await shipped(wide)
    expect(file.clips().map((c) => c.name)).toEqual(['Walk', 'Look there'])
    expect(own!.duration).toBeCloseTo(1)
    const hand = file.nodes.findIndex((n) => n.name === 'leftHand')
    const at = new Vector3().setFromMatrixPosition(file.at({ clip: own!, time: 1 }).world[hand]!)
    expect(at.distanceTo(new Vector3(...AT))).toBeLessThan(0.003)
  })

  it('moves the face as the figure has it with that expression, point by point', async () => {
    const { file, own } = await shipped(wide, [clip], bare)
    const [body] = file.drawn()
    const other = await shipFigure(
      builder,
      kits,
      setExpression(bare, def, glad.id),
      { ...wide, keepExpressions: [] },
      { lods: false },
    )
    const there = new ShippedFile(other.bytes!)
    const [asGlad] = there.drawn()
    expect(asGlad!.positions).toHaveLength(body!.positions.length)
    // the hand is elsewhere: faces are compared at rest, by the weights of that moment
    const still = file.at()
    const end = { world: still.world, weights: file.at({ clip: own!, time: 1 }).weights }
    const [from, to, wanted] = [file.posed(body!, still), file.posed(body!, end), there.posed(asGlad!, there.at())]
    const far = (a: Float64Array, b: Float64Array) => Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))
    expect(far(from, wanted)).toBeGreaterThan(0.004)
    // what is written of a move is a fiftieth of a millimetre at least
    expect(far(to, wanted)).toBeLessThan(1e-4)
    const half = { world: still.world, weights: file.at({ clip: own!, time: 0.5 }).weights }
    const middle = from.map((v, i) => (v + wanted[i]!) / 2)
    expect(far(file.posed(body!, half), middle)).toBeLessThan(1e-4)
  })

  it('goes through reduction, other rates and levels of detail', async () => {
    const lods = demoTarget('near').lods
    const small: Target = {
      ...wide,
      limits,
      lods,
      keepExpressions: [glad.id, 'grim'],
      motion: { rate: 10 },
      keepSliders: ['belly'],
    }
    const { file, own } = await shipped(small)
    const faces = own!.channels.filter((c) => c.path === 'weights')
    expect(faces.map((c) => c.node)).toEqual([file.drawn()[0]!.node])
    const mesh = file.json.meshes![0]! as { extras?: { targetNames: string[] } }
    const names = mesh.extras!.targetNames
    expect(names.length).toBeGreaterThan(2)
    const { values } = faces[0]!
    const last = [...values.slice(-names.length)]
    expect(Object.fromEntries(names.map((n, i) => [n, last[i]])).happy).toBe(1)
    expect(last.filter((v) => v !== 0)).toHaveLength(1)
  })

  it('tells what the target does not keep, the body has not, and what is for others; the rest goes', async () => {
    const bare = await shipped({ ...wide, keepExpressions: [] })
    expect(bare.codes).toContain('face-not-kept')
    expect(bare.own!.channels.every((c) => c.path !== 'weights')).toBe(true)
    const strange = setKey(clip, 'faces', 0.5, { shares: { 'odd-face': 1 } })
    expect((await shipped(wide, [strange])).codes).toContain('face-unknown')
    const other = await shipped(wide, [{ ...clip, plan: 'hopper' }])
    expect([other.own, other.codes]).toEqual([undefined, ['clip-other-plan']])
  })

  it('has a name of its own beside others that are called alike', async () => {
    const { file } = await shipped(wide, [{ ...clip, name: 'Walk' }, setEase(clip, 'poses', 0, 'hold')])
    expect(file.clips().map((c) => c.name)).toEqual(['Walk', 'Walk 2', 'Look there'])
  })

  it('plays on another body of the plan', async () => {
    const sela = dressed(tide, 'ottern', [])
    const { own, file } = await shipped(wide, [clip], sela)
    const hand = file.nodes.findIndex((n) => n.name === 'leftHand')
    const heights = [0, 1].map((time) => file.at({ clip: own!, time }).world[hand]!.elements[13]!)
    expect(heights[1]! - heights[0]!).toBeGreaterThan(0.2)
  })
})

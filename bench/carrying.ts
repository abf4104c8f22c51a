import { Bone, BufferGeometry, Skeleton as ThreeSkeleton, SkinnedMesh } from 'three'
import { BVHLoader } from 'three/examples/jsm/loaders/BVHLoader.js'
import { retargetClip } from 'three/examples/jsm/utils/SkeletonUtils.js'
import {
  Builder,
  carryOnto,
  clipsOf,
  judgeClip,
  readBvh,
  touchingOf,
  type Clip,
  type Figure,
  type Kit,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { carryMotion } from '../packages/core/src/motion/foreign/carryMotion.ts'
import { matchMotion } from '../packages/core/src/motion/foreign/matchMotion.ts'
import { writeBvh } from '../packages/core/src/testing/bvh.ts'

/** Seconds of the motion that is carried: as in the studies. */
const SECONDS = 30

/** Half a minute of walking, sixty frames a second, of one figure onto another: our ways, and three.js' own retargeter on the same table. */
export function carryings(kits: ReadonlyMap<string, Kit>, recipe: Recipe, target: Target) {
  const figure = new Builder(kits).build(recipe, target).figure!
  const walk = clipsOf(figure, kits, recipe).find((c: Clip) => c.travel > 0)!
  const text = writeBvh(walk, figure.skeleton, { loops: Math.round(SECONDS / walk.duration), rate: 60 })
  const motion = readBvh(text, 'walk').value!
  const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  const { match } = matchMotion(motion, plan).value!
  const said = { id: 'walk', name: 'Walk', loop: false }
  const theirs = new BVHLoader().parse(text)
  const mesh = skinnedMesh(figure)
  const names = Object.fromEntries(Object.entries(match.bones))
  const none = { soles: [], flanks: null, belly: null }
  const touching = touchingOf(figure)
  return {
    seconds: SECONDS,
    alone: () => carryMotion(motion, match, figure.skeleton, none, said).value!,
    everything: () => carryMotion(motion, match, figure.skeleton, touching, said).value!,
    measured: () =>
      judgeClip(
        figure.mesh,
        figure.skeleton,
        carryOnto(motion, figure, plan, { match, loop: false }, touching).value!.clip,
        plan,
      ),
    three: () =>
      retargetClip(mesh, theirs.skeleton, theirs.clip, { names, hip: match.bones.hips!, fps: 30, scale: 0.01 }),
  }
}

function skinnedMesh({ skeleton }: Figure): SkinnedMesh {
  const bones = skeleton.bones.map(({ name, at, parent }) => {
    const bone = new Bone()
    bone.name = name
    const from = parent < 0 ? [0, 0, 0] : skeleton.bones[parent]!.at
    bone.position.set(at[0] - from[0]!, at[1] - from[1]!, at[2] - from[2]!)
    return bone
  })
  skeleton.bones.forEach(({ parent }, i) => parent >= 0 && bones[parent]!.add(bones[i]!))
  const mesh = new SkinnedMesh(new BufferGeometry())
  mesh.add(bones[0]!)
  mesh.updateMatrixWorld(true)
  mesh.bind(new ThreeSkeleton(bones))
  return mesh
}

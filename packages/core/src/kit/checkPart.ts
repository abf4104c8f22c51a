import { hasErrors, problem, type Problem, type Read } from '../base/problem.ts'
import { openLoops } from '../mesh/loops.ts'
import { pointCount, pointTriangles } from '../mesh/Mesh.ts'
import { checkPartOnBody, refOf, slotsFor } from './library.ts'
import { boneFault, DETAIL_LEVELS } from './plan.ts'
import type { BodyModel, PartBone, PartModel } from './Kit.ts'
import type { Model } from './readModel.ts'
import type { KitManifest, PartDef } from './schema.ts'

type Checked = Pick<PartModel, 'mesh' | 'paints' | 'bones' | 'skin'>

/** How near a vertex must lie to every point of a seam that the part has to meet, metres. */
const SEAM_REACH = 1e-4

/** Puts a part's model and its description together, or tells why that cannot be. */
export function checkPart(
  manifest: KitManifest,
  def: PartDef,
  model: Model,
  bodies: ReadonlyMap<string, BodyModel>,
  where: string,
): Read<Checked> {
  const problems: Problem[] = []
  const kits = new Map([[manifest.id, { manifest }]])
  for (const name of def.bodies) {
    const ref = refOf(name, manifest.id)
    // bodies of other kits are looked at when both kits are there
    if (ref.kit !== manifest.id) continue
    const body = manifest.bodies.find((b) => b.id === ref.id)
    if (!body) {
      problems.push(
        problem('body-unknown', `${where}/bodies`, `There is no body “${name}”.`, 'Name a body of the kit.'),
      )
      continue
    }
    problems.push(...checkPartOnBody({ kit: manifest.id, def }, body, slotsFor(kits, ref), where))
    if (def.how === 'replaces') problems.push(...checkSeam(def, model, bodies.get(ref.id), where))
  }
  const ownBodies = def.bodies.every((b) => refOf(b, manifest.id).kit === manifest.id)
  for (const region of model.mesh.regionNames)
    if (ownBodies && !manifest.colorRegions.some((c) => c.id === region))
      problems.push(
        problem(
          'color-region-unknown',
          def.file,
          `Its material “${region}” is not one of the kit's color regions.`,
          'Name the material after a color region.',
          'warning',
        ),
      )
  const bones = partBones(def, model, problems, where)
  problems.push(...checkLimbs(def, where))
  const own = def.how === 'worn' && def.skin === 'own'
  if (own && model.mesh.weights.every((w) => w === 0))
    problems.push(
      problem(
        'skin-missing',
        def.file,
        'It is to move by its own skin, and has none.',
        'Skin it, or leave “skin” out.',
      ),
    )
  if (hasErrors(problems)) return { value: null, problems }
  const skin = own && {
    skin: {
      names: model.joints.map((j) => j.name),
      joints: model.mesh.joints,
      weights: model.mesh.weights,
    },
  }
  return { value: { mesh: onPartBones(model, bones), paints: model.paints, bones, ...skin }, problems }
}

/** A part that replaces something must have a vertex at every point of the seam, or an edge that can be drawn on to it. */
function checkSeam(
  def: PartDef & { how: 'replaces' },
  { mesh }: Model,
  body: BodyModel | undefined,
  where: string,
): Problem[] {
  const seam = body?.def.seams.find((s) => s.id === def.seam)
  if (!seam) return []
  const gap = Math.max(0, ...seam.points.map((at) => nearestVertex(mesh.positions, at)))
  if (gap <= SEAM_REACH || openLoops(pointTriangles(mesh), pointCount(mesh)).length > 0) return []
  return [
    problem(
      'seam-open',
      `${where}/seam`,
      `The part does not meet the seam “${seam.name}”: it is ${(gap * 1000).toFixed(1)} mm away at the worst point.`,
      'Leave it open there, or give it a vertex at every point of the seam.',
    ),
  ]
}

function nearestVertex(positions: Float32Array, at: readonly number[]): number {
  let best = Infinity
  for (let p = 0; p < positions.length; p += 3)
    best = Math.min(best, Math.hypot(positions[p]! - at[0]!, positions[p + 1]! - at[1]!, positions[p + 2]! - at[2]!))
  return best
}

function partBones(def: PartDef, { joints }: Model, problems: Problem[], where: string): PartBone[] {
  const own = def.bones ?? []
  const names = new Set(own.map((b) => b.name))
  // a parent that is none of its own bones is one of the body's
  const fault = boneFault([
    { name: '', parent: null, level: DETAIL_LEVELS[0] },
    ...own.map((b) => ({ ...b, parent: b.parent !== null && names.has(b.parent) ? b.parent : '' })),
  ])
  if (fault)
    problems.push(
      problem(
        'bones-order',
        `${where}/bones`,
        `The bone “${fault.bone}” ${fault.reason}.`,
        'List each after its parent.',
      ),
    )
  return own.map((bone, i) => {
    const joint = joints.find((j) => j.name === bone.name)
    if (!joint)
      problems.push(
        problem(
          'bone-unknown',
          `${where}/bones/${i}`,
          `The model has no joint “${bone.name}”.`,
          'Skin the part to a joint of that name.',
        ),
      )
    if (bone.parent === null)
      problems.push(
        problem('bones-order', `${where}/bones/${i}`, `“${bone.name}” has no parent.`, 'Name a bone of the body.'),
      )
    return { ...bone, at: joint?.at ?? [0, 0, 0] }
  })
}

/** Limbs of a part are chains of bones that it brings itself. */
function checkLimbs({ limbs = [], bones = [] }: PartDef, where: string): Problem[] {
  const own = new Set(bones.map((b) => b.name))
  return limbs.flatMap((limb, i) => {
    const tell = (code: string, message: string, remedy: string) =>
      problem(code, `${where}/limbs/${i}`, message, remedy)
    const missing = limb.bones.filter((b) => !own.has(b))
    const told = missing.map((bone) =>
      tell('bone-unknown', `The part brings no bone “${bone}”.`, 'Name one of its own bones.'),
    )
    if (limb.kind === 'leg' || limb.kind === 'arm')
      told.push(tell('limb-kind', `A part brings no ${limb.kind}s.`, 'Call it what it moves like: a stalk, a tail.'))
    if (limb.channels.length !== 1 && limb.channels.length !== limb.bones.length)
      told.push(tell('limb-channels', 'A limb has one channel for all its bones or one for each.', 'Correct them.'))
    return told
  })
}

/** Keeps the weights on the bones that the part brings; the rest is carried over from the body. */
function onPartBones({ mesh, joints }: Model, bones: readonly PartBone[]): PartModel['mesh'] {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const weights = new Float32Array(mesh.weights.length)
  const own = new Uint16Array(mesh.joints.length)
  for (let i = 0; i < weights.length; i++) {
    const bone = mesh.weights[i]! > 0 ? index.get(joints[mesh.joints[i]!]?.name ?? '') : undefined
    if (bone === undefined) continue
    own[i] = bone
    weights[i] = mesh.weights[i]!
  }
  return { ...mesh, joints: own, weights }
}

import { hasErrors, problem, type Problem, type Read } from '../base/problem.ts'
import { areaWithin } from '../mesh/loops.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import { checkPlan } from './checkManifest.ts'
import { movementsOf } from './movements.ts'
import { planOf } from './library.ts'
import { boneFault, type Limb } from './plan.ts'
import type { BodyModel } from './Kit.ts'
import type { Model } from './readModel.ts'
import type { BodyDef, KitManifest } from './schema.ts'

type Checked = Pick<BodyModel, 'mesh' | 'paints' | 'plan' | 'bones' | 'limbs'>

/** Puts a body's model and its description together, or tells why that cannot be. */
export function checkBody(manifest: KitManifest, def: BodyDef, model: Model, where: string): Read<Checked> {
  const plan = planOf(manifest, def.plan)
  if (!plan)
    return {
      value: null,
      problems: [
        problem(
          'plan-unknown',
          `${where}/plan`,
          `There is no body plan “${def.plan}”.`,
          'Name one, or add it to plans.',
        ),
      ],
    }
  if (hasErrors(checkPlan(plan, where))) return { value: null, problems: [] } // told with the plan itself
  const problems: Problem[] = []
  const miss = (code: string, place: string, message: string, remedy: string) =>
    problems.push(problem(code, `${where}/${place}`, message, remedy))

  const landmarks = new Set(def.landmarks.map((l) => l.id))
  const bones = [...plan.bones, ...def.bones].filter((bone) => landmarks.has(bone.name))
  const root = plan.bones[0]!.name
  if (!landmarks.has(root))
    miss(
      'landmark-missing',
      'landmarks',
      `There is no landmark “${root}”.`,
      `Every skeleton of this plan starts there: add it.`,
    )
  const present = new Set(bones.map((b) => b.name))
  for (const bone of bones)
    if (bone.parent !== null && !present.has(bone.parent))
      miss(
        'landmark-missing',
        'landmarks',
        `The bone “${bone.name}” hangs from “${bone.parent}”, which has no landmark.`,
        `Add the landmark “${bone.parent}”.`,
      )
  const fault = hasErrors(problems) ? null : boneFault(bones)
  if (fault)
    miss(
      'bones-order',
      'bones',
      `The bone “${fault.bone}” ${fault.reason}.`,
      'List every bone once, each after the one it hangs from.',
    )
  checkNames(manifest, def, model, present, miss)
  checkDefaults(manifest, def, miss)
  const joints = jointsByBone(bones, model, miss, def.file)
  if (hasErrors(problems)) return { value: null, problems }
  const limbs = [...plan.limbs, ...(def.limbs ?? [])].flatMap((limb) => presentLimb(limb, present))
  return { value: { mesh: { ...model.mesh, joints }, paints: model.paints, plan, bones, limbs }, problems }
}

type Miss = (code: string, place: string, message: string, remedy: string) => void

function checkNames(manifest: KitManifest, def: BodyDef, model: Model, bones: ReadonlySet<string>, miss: Miss): void {
  const morphs = new Set(model.mesh.morphs.map((m) => m.name))
  const landmarks = new Set(def.landmarks.map((l) => l.id))
  const regions = new Set(def.regions.map((r) => r.id))
  def.sliders.forEach((slider, i) => {
    if (!def.sliderGroups.some((g) => g.id === slider.group))
      miss(
        'slider-group-unknown',
        `sliders/${i}/group`,
        `There is no slider group “${slider.group}”.`,
        'Add it to sliderGroups or choose another.',
      )
    for (const morph of [slider.up, slider.down])
      if (morph !== undefined && !morphs.has(morph))
        miss(
          'morph-missing',
          `sliders/${i}`,
          `The model has no morph target “${morph}”.`,
          'Add it to the GLB or correct the name.',
        )
    if (slider.default < slider.min || slider.default > slider.max)
      miss('slider-range', `sliders/${i}/default`, 'Its default lies outside its range.', 'Put it between min and max.')
    if (slider.pull && !landmarks.has(slider.pull.landmark))
      miss('landmark-missing', `sliders/${i}/pull`, `There is no landmark “${slider.pull.landmark}”.`, 'Name one.')
  })
  def.correctives?.forEach(({ morph, when }, i) => {
    if (!morphs.has(morph))
      miss('morph-missing', `correctives/${i}`, `The model has no morph target “${morph}”.`, 'Correct the name.')
    for (const { slider } of when)
      if (!def.sliders.some((s) => s.id === slider))
        miss('slider-unknown', `correctives/${i}`, `There is no slider “${slider}”.`, 'Name one of the body’s.')
  })
  const moving = new Set(movementsOf(def).map((s) => s.id))
  def.expressions?.forEach(({ values }, i) => {
    for (const id of Object.keys(values))
      if (!moving.has(id))
        miss(
          'slider-unknown',
          `expressions/${i}/values/${id}`,
          `There is no movement “${id}”.`,
          'Name a slider of a group that moves.',
        )
  })
  def.archetypes?.forEach(({ archetypes }, i) =>
    archetypes.forEach(({ sliders, parts, palettes }, k) => {
      const place = `archetypes/${i}/archetypes/${k}`
      for (const id of Object.keys(sliders))
        if (!def.sliders.some((s) => s.id === id))
          miss('slider-unknown', `${place}/sliders/${id}`, `There is no slider “${id}”.`, 'Name one of the body’s.')
      for (const id of Object.values(parts ?? {}).flat())
        if (id !== null && !manifest.parts.some((p) => p.id === id))
          miss('part-unknown', `${place}/parts`, `There is no part “${id}”.`, 'Name one of the kit’s.')
      for (const id of palettes ?? [])
        if (!manifest.palettes.some((p) => p.id === id))
          miss('palette-unknown', `${place}/palettes`, `There is no palette “${id}”.`, 'Name one of the kit’s.')
    }),
  )
  def.sockets.forEach((socket, i) => {
    if (!bones.has(socket.bone))
      miss('bone-unknown', `sockets/${i}`, `There is no bone “${socket.bone}”.`, 'Name a bone that has a landmark.')
  })
  const triangles = pointTriangles(model.mesh)
  def.seams.forEach(({ name, region, points, within }, i) => {
    if (!regions.has(region))
      miss('region-unknown', `seams/${i}`, `There is no region “${region}”.`, 'Name one of the body’s.')
    if (within && !areaWithin(model.mesh.positions, triangles, points, within))
      miss(
        'seam-broken',
        `seams/${i}`,
        `The points of “${name}” are no closed loop of the body's edges.`,
        'List its vertices in order, each joined to the next by an edge.',
      )
  })
  def.limbs?.forEach((limb, i) => {
    for (const bone of limb.bones)
      if (!bones.has(bone))
        miss('bone-unknown', `limbs/${i}`, `There is no bone “${bone}”.`, 'Name a bone that has a landmark.')
  })
}

function checkDefaults(manifest: KitManifest, def: BodyDef, miss: Miss): void {
  const names = new Map<string, string>()
  for (const [slot, id] of Object.entries(def.defaults)) {
    const part = manifest.parts.find((p) => p.id === id && p.slot === slot)
    if (!part || !(part.bodies.includes(def.id) || part.bodies.includes(`${manifest.id}/${def.id}`)))
      miss(
        'part-unknown',
        `defaults/${slot}`,
        `There is no part “${id}” for this slot and body.`,
        'Name a part of the kit.',
      )
    else for (const name of [id, ...part.tags]) names.set(name, slot)
  }
  for (const [slot, id] of Object.entries(def.defaults)) {
    const part = manifest.parts.find((p) => p.id === id)
    const rival = part?.excludes?.find((x) => names.has(x) && names.get(x) !== slot)
    if (rival !== undefined)
      miss(
        'defaults-exclude',
        `defaults/${slot}`,
        `“${id}” rules out “${rival}”, another default.`,
        'Choose one that does not.',
      )
  }
}

/** The model's joint numbers as numbers of bones. */
function jointsByBone(
  bones: readonly { name: string }[],
  { mesh, joints }: Model,
  miss: Miss,
  file: string,
): Uint16Array {
  const index = new Map(bones.map((b, i) => [b.name, i]))
  const unknown = new Set<string>()
  const out = Uint16Array.from(mesh.joints, (joint, i) => {
    if (mesh.weights[i] === 0) return 0
    const name = joints[joint]?.name ?? `joint ${joint}`
    const at = index.get(name)
    if (at === undefined) unknown.add(name)
    return at ?? 0
  })
  for (const name of [...unknown].slice(0, 20))
    miss(
      'bone-unknown',
      'landmarks',
      `The skin uses a bone “${name}” that has no landmark.`,
      'Add a landmark of that name.',
    )
  for (let p = 0; p < mesh.weights.length; p += 4)
    if (mesh.weights[p] === 0) {
      miss('skin-missing', 'file', `Some points of ${file} have no skin weights.`, 'Skin every vertex of the body.')
      break
    }
  return out
}

/** A limb with the bones a body has: a leg or an arm needs its first ones, a chain any. */
function presentLimb(limb: Limb, present: ReadonlySet<string>): Limb[] {
  const kept = limb.bones.map((b) => present.has(b))
  const needed = limb.kind === 'leg' ? 3 : limb.kind === 'arm' ? 2 : 1
  const jointed = limb.kind === 'leg' || limb.kind === 'arm'
  if (jointed ? !kept.slice(0, needed).every(Boolean) : !kept.some(Boolean)) return []
  const only = <T>(list: readonly T[]) => (list.length === 1 ? [...list] : list.filter((_, i) => kept[i]))
  return [{ ...limb, bones: limb.bones.filter((_, i) => kept[i]), channels: only(limb.channels) }]
}

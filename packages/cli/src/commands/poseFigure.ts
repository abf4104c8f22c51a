import {
  ARMS_AT,
  armsPose,
  blendPoses,
  Builder,
  createWorldPose,
  evenPose,
  handlePlace,
  hasErrors,
  keepPose,
  lowestIn,
  mirrorPose,
  movePose,
  poseOn,
  poseRig,
  problem,
  readPose,
  readyPosesOf,
  restPose,
  setDown,
  shipFigure,
  solveForward,
  turnOfAngles,
  type ArmsAt,
  type Pose,
  type PoseRig,
  type Problem,
  type Read,
  type ReadyPoseOn,
} from '@idle-tinker/core'
import { infoOf, readShelf, readText, writeWhole } from '../files.ts'
import { readFigure, type FigureOptions } from '../readFigure.ts'
import type { Voice } from '../Voice.ts'

export interface PoseOptions extends FigureOptions {
  out?: string
  pose?: string
  blend?: string
  move: string[]
  turn: string[]
  pin?: string[]
  both: boolean
  free: boolean
  mirror: boolean
  even?: 'left' | 'right'
  down: boolean
  name?: string
}

const refused = (
  code: string,
  where: string,
  message: string,
  remedy: string,
): { value: null; problems: Problem[] } => ({
  value: null,
  problems: [problem(code, where, message, remedy)],
})

/** Poses a figure: from a pose that is ready or was kept, moved, turned, blended; written as a pose, or as a GLB that stands so. */
export async function poseFigure(input: string, options: PoseOptions, voice: Voice): Promise<number> {
  const { value: given, problems } = await readFigure(input, options)
  let code = voice.tell(problems)
  if (!given || code !== 0) return code || 1
  const { recipe, target, kits } = given
  const builder = new Builder(kits, await readShelf())
  const { figure, problems: faults } = builder.build(recipe, target)
  code = voice.tell(faults.filter((p) => p.severity === 'error'))
  if (!figure) return code || 1
  const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
  const rig = poseRig(figure.skeleton, plan)
  const ready = readyPosesOf(figure, kits, recipe)
  const made = await makePose(rig, ready, plan.id, options)
  code = voice.tell(made.problems)
  if (!made.value) return code || 1
  const pose = options.down ? setDown(rig.bones, figure.mesh, made.value) : made.value
  const kept = keepPose(pose, figure.skeleton, {
    name: (options.name ?? `${recipe.name}, posed`).slice(0, 80),
    plan: plan.id,
  })
  const lowest = lowestIn(rig.bones, figure.mesh, pose)
  const world = solveForward(rig.bones, pose, createWorldPose(rig.bones))
  const handles = Object.fromEntries(rig.handles.map((h) => [h.id, handlePlace(rig, h, world).map(millimetres)]))
  const { out } = options
  if (out === undefined) {
    for (const { id, pose: one } of ready) voice.say(`${id}: “${one.name}”`, { id, name: one.name })
    for (const { id, name } of rig.handles)
      voice.say(`${id}: ${name}, at ${handles[id]!.join(', ')} m`, { handle: id, name, at: handles[id] })
    return code
  }
  const bytes = out.endsWith('.glb') ? await standing() : `${JSON.stringify(kept, null, 2)}\n`
  if (!bytes) return code || 1
  const written = voice.tell(await writeWhole(out, bytes))
  if (written === 0)
    voice.say(`${out}: “${kept.name}”, its lowest point ${millimetres(lowest) * 100 || 0} cm above the ground`, {
      ...{ file: out, name: kept.name, lowest: millimetres(lowest), handles },
    })
  return Math.max(code, written)

  async function standing(): Promise<Uint8Array | null> {
    const { format: _format, version: _version, ...own } = kept
    const so = { ...target, convention: { ...target.convention, rest: 'pose' as const, pose: own } }
    const shipped = await shipFigure(builder, kits, recipe, so, { lods: false })
    // what a budget says of the figure is said where it is built for it
    code = voice.tell(shipped.problems.filter((p) => p.code !== 'over-budget'))
    return shipped.bytes
  }
}

const millimetres = (metres: number) => Math.round(metres * 1000) / 1000

async function makePose(
  rig: PoseRig,
  ready: readonly ReadyPoseOn[],
  plan: string,
  options: PoseOptions,
): Promise<Read<Pose>> {
  const named = (name: string | undefined) => poseNamed(name, rig, ready, plan)
  const problems: Problem[] = []
  const start = await named(options.pose)
  if (!start.value) return start
  problems.push(...start.problems)
  let pose = start.value
  if (options.blend !== undefined) {
    const [name, given = '0.5'] = options.blend.split('=')
    const share = Number(given)
    if (given.trim() === '' || !(share >= 0 && share <= 1))
      return refused('share', options.blend, `“${given}” is no share.`, 'It goes from 0 to 1, as in sitting=0.5.')
    const other = await named(name)
    if (!other.value) return other
    pose = blendPoses(rig.bones, pose, other.value, share)
  }
  const legs = rig.limbs.flatMap((l, i) => (l.kind === 'leg' && rig.jointed[i] ? [l.id] : []))
  const limbs = rig.limbs.filter((_, i) => rig.jointed[i]).map((l) => l.id)
  const unknown = options.pin?.find((id) => id !== 'none' && !limbs.includes(id))
  if (unknown !== undefined)
    return refused('limb-unknown', unknown, `There is no limb “${unknown}”.`, `There are: ${limbs.join(', ')}.`)
  const wishes = { pinned: new Set(options.pin ?? legs), mirrored: options.both, free: options.free }
  for (const text of options.move) {
    const [handle = '', given] = text.split('=')
    const to = numbersIn(given)
    if (!rig.handles.some((h) => h.id === handle))
      return refused(
        'handle-unknown',
        text,
        `There is no handle “${handle}”.`,
        `There are: ${rig.handles.map((h) => h.id).join(', ')}.`,
      )
    if (!to)
      return refused(
        'place',
        text,
        `“${given ?? ''}” is no place.`,
        'Write three numbers in metres, as in 0.3,1.2,0.4.',
      )
    pose = movePose(rig, pose, { handle, to }, wishes)
  }
  for (const text of options.turn) {
    const [name, given] = text.split('=')
    const bone = rig.bones.findIndex((b) => b.name === name)
    const angles = numbersIn(given)
    if (bone < 0)
      return refused(
        'bone-unknown',
        text,
        `There is no bone “${name}”.`,
        `There are: ${rig.bones.map((b) => b.name).join(', ')}.`,
      )
    if (!angles)
      return refused(
        'angles',
        text,
        `“${given ?? ''}” are no angles.`,
        'Write three in degrees: nod, turn and tilt, as in 20,0,0.',
      )
    pose = movePose(rig, pose, { bone, turn: turnOfAngles(angles).toArray() }, wishes)
  }
  if (options.mirror) pose = mirrorPose(rig, pose)
  if (options.even) pose = evenPose(rig, pose, options.even)
  return { value: pose, problems }
}

function numbersIn(text: string | undefined): [number, number, number] | null {
  const numbers = (text ?? '').split(',').map((v) => (v.trim() === '' ? NaN : Number(v)))
  return numbers.length === 3 && numbers.every((v) => Math.abs(v) <= 1000)
    ? (numbers as [number, number, number])
    : null
}

/** A pose by its id in the kit, as the trade calls it, or in a file; that of rest where none is named. */
async function poseNamed(
  name: string | undefined,
  rig: PoseRig,
  ready: readonly ReadyPoseOn[],
  plan: string,
): Promise<Read<Pose>> {
  if (name === undefined || name === 'rest') return { value: restPose(rig.bones), problems: [] }
  const known = ready.find((p) => p.id === name)
  if (known) return { value: poseOn(known.pose, rig), problems: [] }
  if (Object.hasOwn(ARMS_AT, name)) {
    const value = armsPose(rig, name as ArmsAt)
    return value
      ? { value, problems: [] }
      : refused('rest-no-arms', name, 'This figure has no arms to hold out.', 'Choose another pose.')
  }
  if (!(await infoOf(name)))
    return refused(
      'pose-unknown',
      name,
      `There is no pose “${name}”, and no file.`,
      `There are: ${['rest', ...Object.keys(ARMS_AT), ...ready.map((p) => p.id)].join(', ')}.`,
    )
  const text = await readText(name)
  if (text.value === null) return { value: null, problems: text.problems }
  const read = readPose(text.value, name)
  if (!read.value || hasErrors(read.problems)) return { value: null, problems: read.problems }
  if (read.value.plan !== plan)
    return refused(
      'pose-other-plan',
      name,
      `It is for figures of another kind: “${read.value.plan}”.`,
      `Choose one for “${plan}”.`,
    )
  return { value: poseOn(read.value, rig), problems: read.problems }
}

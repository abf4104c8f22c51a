import { Euler, MathUtils, Quaternion, Vector3 } from 'three'
import { problem, type Read } from '../base/problem.ts'
import type { Bone } from '../rig/Skeleton.ts'
import { axesClash, conventionAxes } from './conventionAxes.ts'
import { framesOf, USUAL_RATE } from './frames.ts'
import { clipStems } from './names.ts'
import type { Prepared } from './prepare.ts'

/**
 * Writes each clip of a figure as BVH, with the skeleton as it stands at rest, in the unit and the axes of its target. The
 * format knows no turns at rest, so that bones are unturned, and one root: what the skeleton hangs on is in its first bone.
 *
 * @returns files by name
 */
export function writeBvh({ leaving, clips, target }: Prepared, stem: string): Read<Map<string, Uint8Array>> {
  const { convention, motion } = target
  const axes = conventionAxes(convention)
  if (!axes) return { value: null, problems: [axesClash(convention)] }
  if (clips.length === 0)
    return {
      value: null,
      problems: [problem('bvh-still', stem, 'BVH holds clips, and no clip goes along.', 'Let the target keep clips.')],
    }
  const { bones, above } = leaving
  const back = axes.turn.clone().invert()
  const order: number[] = []
  const lines = ['HIERARCHY']
  const number = ([x, y, z]: readonly number[]) => [x!, y!, z!].map((v) => String(Number(v.toFixed(6)) + 0)).join(' ')
  const away = (from: readonly number[], to: readonly number[]) =>
    number(axes.point(to[0]! - from[0]!, to[1]! - from[1]!, to[2]! - from[2]!))
  const joint = (b: number, tab: string): void => {
    const { name, parent, at, tail } = bones[b]!
    order.push(b)
    lines.push(`${tab}${parent < 0 ? 'ROOT' : 'JOINT'} ${wordOf(name)}`, `${tab}{`)
    lines.push(`${tab}\tOFFSET ${parent < 0 ? '0 0 0' : away(bones[parent]!.at, at)}`)
    const turns = 'Zrotation Xrotation Yrotation'
    lines.push(`${tab}\tCHANNELS ${parent < 0 ? `6 Xposition Yposition Zposition ${turns}` : `3 ${turns}`}`)
    const below = bones.flatMap((bone, c) => (bone.parent === b ? [c] : []))
    for (const c of below) joint(c, `${tab}\t`)
    if (below.length === 0)
      lines.push(`${tab}\tEnd Site`, `${tab}\t{`, `${tab}\t\tOFFSET ${away(at, tail)}`, `${tab}\t}`)
    lines.push(`${tab}}`)
  }
  joint(0, '')
  const skeleton = lines.join('\n')
  const files = new Map<string, Uint8Array>()
  const stems = clipStems(stem, clips)
  for (const [c, clip] of clips.entries()) {
    const { times, step, locals } = framesOf(clip, leaving, motion?.rate ?? USUAL_RATE)
    const rows = locals.map((local) => {
      const root = rootOf(local, above)
      return order
        .flatMap((b) => {
          const turn = b === 0 ? root.turn : local[above.length + b]!.turn
          const own = axes.turn.clone().multiply(turn).multiply(back)
          const { z, x, y } = new Euler().setFromQuaternion(own, 'ZXY')
          const turned = [z, x, y].map((v) => String(Number(MathUtils.radToDeg(v).toFixed(5)) + 0))
          return b === 0 ? [number(axes.point(root.at.x, root.at.y, root.at.z)), ...turned] : turned
        })
        .join(' ')
    })
    const head = ['MOTION', `Frames: ${times.length}`, `Frame Time: ${(step || 1 / USUAL_RATE).toFixed(7)}`]
    files.set(`${stems[c]!}.bvh`, new TextEncoder().encode(`${[skeleton, ...head, ...rows].join('\n')}\n`))
  }
  const astray = clips.some((c) => c.tracks.some((t) => t.path === 'translation' && t.bone > 0))
  return { value: files, problems: astray ? [placesLost(stem)] : [] }
}

const placesLost = (where: string) =>
  problem(
    'bvh-places',
    where,
    'Some bones hang on what does not carry them in this game’s skeleton; BVH cannot say where they go.',
    'Take another format for these clips.',
    'warning',
  )

/** A name in a format in which white space ends it. */
const wordOf = (name: string) => name.replace(/\s+/g, '_')

/** The first bone in the world, with all it hangs on. */
function rootOf(
  local: readonly { at: Vector3; turn: Quaternion }[],
  above: readonly Bone[],
): { at: Vector3; turn: Quaternion } {
  const [at, turn] = [new Vector3(), new Quaternion()]
  for (const own of local.slice(0, above.length + 1)) {
    at.add(own.at.clone().applyQuaternion(turn))
    turn.multiply(own.turn)
  }
  return { at, turn }
}

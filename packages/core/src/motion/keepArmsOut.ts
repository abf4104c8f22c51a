import { Quaternion, Vector3 } from 'three'
import type { Mesh } from '../mesh/Mesh.ts'
import { createWorldPose, skinPoints, solveForward, type WorldPose } from '../rig/Pose.ts'
import type { Skeleton } from '../rig/Skeleton.ts'
import { easeUp } from './easeUp.ts'
import type { Moment } from './plantFeet.ts'
import { takePoints, type Skin } from './soles.ts'
import { worldTurn } from './step.ts'

/** What of a figure can get into each other where an arm hangs: the arms below the elbow, and all but arms. */
export interface Flanks {
  arms: { limb: string; upper: number; skin: Skin }[]
  trunk: Skin & { triangles: Uint32Array }
}

/** So far outside an arm is brought, as a share of its length; and the side of the cells in which widths are kept. */
const GAP = 0.02
const CELL = 0.025
/** An arm is turned out no farther than this, radians: what needs more is where it is on purpose. */
const MOST = 0.5
const ROUNDS = 4
/** Moments of a clip that are looked at. */
const LOOKS = 12

/** The arms and the trunk of a figure as it is dressed; of what is drawn. */
export function flanksOf(mesh: Skin & Pick<Mesh, 'indices' | 'cornerPoints'>, { limbs, bones }: Skeleton): Flanks {
  const number = (name: string) => bones.findIndex((b) => b.name === name)
  const below = (top: number) => {
    const found = new Set([top])
    // parents come before their children
    bones.forEach(({ parent }, b) => found.has(parent) && found.add(b))
    return found
  }
  const whole = limbs.filter((l) => l.kind === 'arm' && l.bones.length > 2 && l.bones.every((b) => number(b) >= 0))
  const strongest = Array.from({ length: mesh.positions.length / 3 }, (_, p) => {
    let best = 0
    for (let k = 1; k < 4; k++) if (mesh.weights[p * 4 + k]! > mesh.weights[p * 4 + best]!) best = k
    return mesh.joints[p * 4 + best]!
  })
  const seen = [...new Set(mesh.cornerPoints)].sort((a, b) => a - b)
  const onArms = new Set(whole.flatMap((l) => [...below(number(l.bones[0]!))]))
  const trunk = seen.filter((p) => !onArms.has(strongest[p]!))
  const place = new Map(trunk.map((p, i) => [p, i]))
  const triangles: number[] = []
  for (let t = 0; t < mesh.indices.length; t += 3) {
    const corners = [0, 1, 2].map((k) => place.get(mesh.cornerPoints[mesh.indices[t + k]!]!))
    if (corners.every((c) => c !== undefined)) triangles.push(...corners)
  }
  return {
    arms: whole.map(({ id, bones: names }) => {
      const own = below(number(names[1]!))
      return {
        limb: id,
        upper: number(names[0]!),
        skin: takePoints(
          mesh,
          seen.filter((p) => own.has(strongest[p]!)),
        ),
      }
    }),
    trunk: { ...takePoints(mesh, trunk), triangles: Uint32Array.from(triangles) },
  }
}

/**
 * Turns arms out at the shoulder, evenly over time, where forearm or hand would lie in the flank or the thigh beside it.
 * What lies nearer the middle than halfway is there on purpose and left. Changes the moments' poses.
 */
export function keepArmsOut(skeleton: Skeleton, { arms, trunk }: Flanks, moments: Moment[], loop: boolean): void {
  const { bones } = skeleton
  const last = loop ? moments.length - 1 : moments.length
  if (last < 1 || trunk.triangles.length === 0) return
  const world = createWorldPose(bones)
  const posedTrunk = new Float32Array(trunk.positions.length)
  const looks = Array.from({ length: Math.min(LOOKS, last) }, (_, i) => Math.floor((i * last) / Math.min(LOOKS, last)))
  for (const { upper, skin } of arms) {
    if (skin.positions.length === 0) continue
    const posed = new Float32Array(skin.positions.length)
    const length = armLength(skeleton, upper, skin)
    const atLooks = looks.map((m) => {
      solveForward(bones, moments[m]!.pose, world)
      skinPoints(bones, world, skin.positions, skin.joints, skin.weights, posed)
      const frame = sideOf(skeleton, world, upper)
      if (!frame || isClear(frame, posed, trunk)) return 0
      skinPoints(bones, world, trunk.positions, trunk.joints, trunk.weights, posedTrunk)
      const widths = new Widths(frame, posedTrunk, trunk.triangles, CELL * length)
      return turnOut(frame, posed, widths, GAP * length)
    })
    if (atLooks.every((a) => a === 0)) continue
    // as much as the look before and the look after ask for: in between it may be as much
    const angles = Array.from({ length: last }, (_, m) => {
      const next = looks.findIndex((l) => l > m)
      const before = atLooks[next < 0 ? looks.length - 1 : next - 1]!
      const after = atLooks[next < 0 ? (loop ? 0 : looks.length - 1) : next]!
      return Math.max(before, after)
    })
    easeUp(angles, loop).forEach((angle, m) => {
      const { pose } = moments[m]!
      const frame = sideOf(skeleton, solveForward(bones, pose, world), upper)
      if (!frame || angle === 0) return
      const above = worldTurn(skeleton, pose, bones[upper]!.parent)
      const turn = new Quaternion().setFromAxisAngle(frame.axis, angle)
      const local = above.clone().invert().multiply(turn).multiply(above)
      local.multiply(new Quaternion().fromArray(pose.turns, upper * 4)).toArray(pose.turns, upper * 4)
    })
  }
  if (loop) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
}

/** The side of the figure an arm is on, in some pose. */
interface Side {
  shoulder: Vector3
  /** Of the middle: where widths count from. */
  middle: Vector3
  /** Level, from the middle towards the shoulder. */
  out: Vector3
  /** Turning about it takes an arm that hangs down out. */
  axis: Vector3
}

/** Null where the arm hangs from the middle itself. */
function sideOf({ bones }: Skeleton, { joints }: WorldPose, upper: number): Side | null {
  const shoulder = new Vector3().fromArray(joints, upper * 3)
  const middle = new Vector3().fromArray(joints, 0)
  // the nearest bone above it that stands apart from it
  for (let b = bones[upper]!.parent; b >= 0; b = bones[b]!.parent) {
    const out = shoulder
      .clone()
      .sub(new Vector3().fromArray(joints, b * 3))
      .setY(0)
    if (out.length() < 1e-3) continue
    out.normalize()
    return { shoulder, middle, out, axis: new Vector3(0, -1, 0).cross(out) }
  }
  return null
}

/** From the shoulder to what is farthest from it, metres. */
function armLength({ bones }: Skeleton, upper: number, { positions }: Skin): number {
  const at = new Vector3(...bones[upper]!.at)
  let far = 0
  for (let i = 0; i < positions.length; i += 3)
    far = Math.max(far, at.distanceTo(new Vector3().fromArray(positions, i)))
  return far
}

/** Whether an arm is farther out than the trunk is wide anywhere at rest, and a quarter more: nothing needs a closer look. */
function isClear({ middle, out }: Side, posed: Float32Array, trunk: Skin): boolean {
  let [widest, nearest] = [0, Infinity]
  for (let i = 0; i < trunk.positions.length; i += 3) widest = Math.max(widest, Math.abs(trunk.positions[i]!))
  for (let i = 0; i < posed.length; i += 3)
    nearest = Math.min(nearest, (posed[i]! - middle.x) * out.x + (posed[i + 2]! - middle.z) * out.z)
  return nearest > widest * 1.25
}

/** How far out a trunk goes on one side, by height and by place along it: seen from that side, in cells. */
class Widths {
  private readonly side: Side
  private readonly cell: number
  private readonly cells = new Map<number, number>()

  constructor(side: Side, positions: Float32Array, triangles: Uint32Array, cell: number) {
    this.side = side
    this.cell = cell
    const at = (p: number) => this.placeOf(positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!)
    for (let t = 0; t < triangles.length; t += 3)
      this.draw(at(triangles[t]!), at(triangles[t + 1]!), at(triangles[t + 2]!))
  }

  /** How far out, how high, how far along. */
  private placeOf(x: number, y: number, z: number): [out: number, up: number, along: number] {
    const { middle, out } = this.side
    const [dx, dz] = [x - middle.x, z - middle.z]
    return [dx * out.x + dz * out.z, y, dz * out.x - dx * out.z]
  }

  private key(up: number, along: number): number {
    return Math.floor(up / this.cell) * 65_536 + Math.floor(along / this.cell)
  }

  private draw(a: number[], b: number[], c: number[]): void {
    const { cell } = this
    const area = (b[1]! - a[1]!) * (c[2]! - a[2]!) - (c[1]! - a[1]!) * (b[2]! - a[2]!)
    const put = (up: number, along: number, out: number) => {
      const key = this.key(up, along)
      this.cells.set(key, Math.max(out, this.cells.get(key) ?? -Infinity))
    }
    // what is smaller than a cell is there with its corners
    for (const p of [a, b, c]) put(p[1]!, p[2]!, p[0]!)
    if (Math.abs(area) < 1e-12) return
    const span = (k: number) => [Math.min(a[k]!, b[k]!, c[k]!), Math.max(a[k]!, b[k]!, c[k]!)] as const
    const [[low, high], [back, front]] = [span(1), span(2)]
    for (let up = (Math.floor(low / cell) + 0.5) * cell; up <= high; up += cell)
      for (let along = (Math.floor(back / cell) + 0.5) * cell; along <= front; along += cell) {
        const u = ((up - a[1]!) * (c[2]! - a[2]!) - (c[1]! - a[1]!) * (along - a[2]!)) / area
        const v = ((b[1]! - a[1]!) * (along - a[2]!) - (up - a[1]!) * (b[2]! - a[2]!)) / area
        if (u < 0 || v < 0 || u + v > 1) continue
        put(up, along, a[0]! + u * (b[0]! - a[0]!) + v * (c[0]! - a[0]!))
      }
  }

  /** How far a place lies in, metres; 0 outside, and where it lies nearer the middle than half the width. */
  depthAt(x: number, y: number, z: number, gap: number): number {
    const [out, up, along] = this.placeOf(x, y, z)
    const width = this.cells.get(this.key(up, along))
    return width === undefined || out < width / 2 ? 0 : Math.max(0, width + gap - out)
  }
}

/** By how much an arm has to be turned out at the shoulder, radians. Turns the posed points along. */
function turnOut({ shoulder, axis }: Side, posed: Float32Array, widths: Widths, gap: number): number {
  let angle = 0
  const at = new Vector3()
  for (let round = 0; round < ROUNDS && angle < MOST; round++) {
    let more = 0
    for (let i = 0; i < posed.length; i += 3) {
      const drop = shoulder.y - posed[i + 1]!
      // what is raised to the shoulder and above is not at its side
      if (drop <= gap) continue
      const depth = widths.depthAt(posed[i]!, posed[i + 1]!, posed[i + 2]!, gap)
      if (depth > 0) more = Math.max(more, Math.atan2(depth, drop))
    }
    if (more === 0) break
    more = Math.min(more, MOST - angle)
    angle += more
    const turn = new Quaternion().setFromAxisAngle(axis, more)
    for (let i = 0; i < posed.length; i += 3)
      at.fromArray(posed, i).sub(shoulder).applyQuaternion(turn).add(shoulder).toArray(posed, i)
  }
  return angle
}

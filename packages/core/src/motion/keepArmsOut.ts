import { BufferAttribute, Matrix4, Quaternion, Vector3 } from 'three'
import { pointsInUse, type Mesh } from '../mesh/Mesh.ts'
import { createWorldPose, skinPoints, solveForward, type WorldPose } from '../rig/Pose.ts'
import { bonesBelow, type Skeleton } from '../rig/Skeleton.ts'
import { easeUp } from './easeUp.ts'
import type { Moment } from './plantFeet.ts'
import { strongestBones, takePoints, type Skin } from './soles.ts'
import { turnInWorld } from './step.ts'

/** What of a figure can get into each other where an arm hangs: the arms below the elbow, and all but arms. */
export interface Flanks {
  /** By limb: the bone at the shoulder, how long the arm is, metres, and what lies below the elbow. */
  arms: { limb: string; upper: number; length: number; skin: Skin }[]
  trunk: Skin & { triangles: Uint32Array }
}

/** So far outside an arm is brought, as a share of its length; and the side of the cells in which widths are kept. */
const GAP = 0.02
const CELL = 0.025
/** Of the trunk so much is looked at below the shoulder, in arm lengths. */
const REACH = 1.3
/** An arm is turned out no farther than this, radians: what needs more is where it is on purpose. */
const MOST = 0.5
const ROUNDS = 4
/** Moments of a clip that are looked at. */
const LOOKS = 8

/** The arms and the trunk of a figure as it is dressed; of what is drawn. */
export function flanksOf(mesh: Skin & Pick<Mesh, 'indices' | 'cornerPoints'>, { limbs, bones }: Skeleton): Flanks {
  const number = (name: string) => bones.findIndex((b) => b.name === name)
  const parents = bones.map((b) => b.parent)
  const below = (top: number) => bonesBelow(parents, top)
  const whole = limbs.filter((l) => l.kind === 'arm' && l.bones.length > 1 && l.bones.every((b) => number(b) >= 0))
  const strongest = strongestBones(mesh)
  const seen = pointsInUse(mesh)
  const onArms = new Set(whole.flatMap((l) => [...below(number(l.bones[0]!))]))
  const arms = whole.map(({ id, bones: names }) => {
    const own = below(number(names[1]!))
    const skin = takePoints(
      mesh,
      seen.filter((p) => own.has(strongest[p]!)),
    )
    const upper = number(names[0]!)
    return { limb: id, upper, length: armLength(bones[upper]!.at, skin), skin }
  })
  // what no hanging arm comes to, as heads and feet, is not looked at
  const reached = (y: number) =>
    arms.some(({ upper, length }) => y < bones[upper]!.at[1] && y > bones[upper]!.at[1] - REACH * length)
  const trunk = seen.filter((p) => !onArms.has(strongest[p]!) && reached(mesh.positions[p * 3 + 1]!))
  return { arms, trunk: { ...takePoints(mesh, trunk), triangles: trianglesAmong(trunk, mesh) } }
}

/** The triangles whose corners all lie on some points, by the places of these in their list. */
function trianglesAmong(
  points: Uint32Array,
  { joints, cornerPoints, indices }: Pick<Mesh, 'joints' | 'cornerPoints' | 'indices'>,
): Uint32Array {
  const place = new Int32Array(joints.length / 4).fill(-1)
  for (let i = 0; i < points.length; i++) place[points[i]!] = i
  const triangles = new Uint32Array(indices.length)
  let count = 0
  for (let t = 0; t < indices.length; t += 3) {
    const a = place[cornerPoints[indices[t]!]!]!
    const b = place[cornerPoints[indices[t + 1]!]!]!
    const c = place[cornerPoints[indices[t + 2]!]!]!
    if (a < 0 || b < 0 || c < 0) continue
    triangles[count++] = a
    triangles[count++] = b
    triangles[count++] = c
  }
  return triangles.slice(0, count)
}

/** From the shoulder to what is farthest from it, metres. */
function armLength(shoulder: readonly number[], { positions }: Skin): number {
  const at = new Vector3(...shoulder)
  let far = 0
  for (let i = 0; i < positions.length; i += 3)
    far = Math.max(far, at.distanceTo(new Vector3().fromArray(positions, i)))
  return far
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
  const posed = arms.map(({ skin }) => new Float32Array(skin.positions.length))
  const halves = halfWidths(trunk)
  const looks = Array.from({ length: Math.min(LOOKS, last) }, (_, i) => Math.floor((i * last) / Math.min(LOOKS, last)))
  const atLooks = looks.map((m) => {
    const lying = standUp(skeleton, solveForward(bones, moments[m]!.pose, world))
    const joints = lying ? moved(world.joints.slice(), lying.all) : world.joints
    let skinned = false
    return arms.map(({ upper, length, skin }, i) => {
      const frame = sideOf(skeleton, joints, upper)
      if (!frame || skin.positions.length === 0) return 0
      skinPoints(bones, world, skin.positions, skin.joints, skin.weights, posed[i])
      if (lying) moved(posed[i]!, lying.all)
      if (isClear(frame, posed[i]!, halves)) return 0
      if (!skinned) {
        skinPoints(bones, world, trunk.positions, trunk.joints, trunk.weights, posedTrunk)
        if (lying) moved(posedTrunk, lying.all)
      }
      skinned = true
      return turnOut(frame, posed[i]!, new Widths(frame, posedTrunk, trunk.triangles, posed[i]!, length), GAP * length)
    })
  })
  arms.forEach(({ upper }, i) => {
    const needs = atLooks.map((look) => look[i]!)
    if (needs.every((a) => a === 0)) return
    // as much as the look before and the look after ask for: in between it may be as much
    const angles = Array.from({ length: last }, (_, m) => {
      const next = looks.findIndex((l) => l > m)
      const before = needs[next < 0 ? looks.length - 1 : next - 1]!
      const after = needs[next < 0 ? (loop ? 0 : looks.length - 1) : next]!
      return Math.max(before, after)
    })
    easeUp(angles, loop).forEach((angle, m) => {
      const { pose } = moments[m]!
      if (angle === 0) return
      const lying = standUp(skeleton, solveForward(bones, pose, world))
      const frame = sideOf(skeleton, lying ? moved(world.joints.slice(), lying.all) : world.joints, upper)
      if (!frame) return
      if (lying) frame.axis.applyQuaternion(lying.back.invert())
      turnInWorld(skeleton, pose, upper, new Quaternion().setFromAxisAngle(frame.axis, angle))
    })
  })
  if (loop) moments[last]!.pose.turns.set(moments[0]!.pose.turns)
}

/** A trunk whose own up is nearer to the ground than this stands no more, and is looked at as if it stood: the cosine of 60°. */
const LIES = 0.5

/** What brings a figure that lies back up, its root to where it is at rest; null of one that stands. */
function standUp({ bones }: Skeleton, { turns, joints }: WorldPose): { back: Quaternion; all: Matrix4 } | null {
  const trunk = new Quaternion().fromArray(turns)
  if (new Vector3(0, 1, 0).applyQuaternion(trunk).y >= LIES) return null
  const back = trunk.invert()
  const root = new Vector3().fromArray(joints).applyQuaternion(back)
  return {
    back,
    all: new Matrix4().makeRotationFromQuaternion(back).setPosition(new Vector3(...bones[0]!.at).sub(root)),
  }
}

/** Moves places, xyz each, where they are kept. */
const moved = (places: Float32Array, by: Matrix4) =>
  new BufferAttribute(places, 3).applyMatrix4(by).array as Float32Array

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
function sideOf({ bones }: Skeleton, joints: Float32Array, upper: number): Side | null {
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

/** How wide a trunk is at rest, from the middle, in bands of height. */
interface HalfWidths {
  low: number
  band: number
  widest: Float32Array
}
const BANDS = 24

function halfWidths({ positions }: Skin): HalfWidths {
  let [low, high] = [Infinity, -Infinity]
  for (let i = 1; i < positions.length; i += 3) {
    low = Math.min(low, positions[i]!)
    high = Math.max(high, positions[i]!)
  }
  const band = Math.max(1e-6, (high - low) / BANDS)
  const widest = new Float32Array(BANDS + 1)
  for (let i = 0; i < positions.length; i += 3) {
    const b = Math.floor((positions[i + 1]! - low) / band)
    widest[b] = Math.max(widest[b]!, Math.abs(positions[i]!))
  }
  return { low, band, widest }
}

/** Bands to either side, and more width, that a pose may move a trunk by. */
const SWAY = { bands: 2, width: 1.25 }

/** Whether an arm is farther out than the trunk can be where it hangs: nothing needs a closer look. */
function isClear({ middle, out }: Side, posed: Float32Array, { low, band, widest }: HalfWidths): boolean {
  for (let i = 0; i < posed.length; i += 3) {
    const at = (posed[i]! - middle.x) * out.x + (posed[i + 2]! - middle.z) * out.z
    const b = Math.floor((posed[i + 1]! - low) / band)
    for (let n = Math.max(0, b - SWAY.bands); n <= Math.min(BANDS, b + SWAY.bands); n++)
      if (at < widest[n]! * SWAY.width) return false
  }
  return true
}

/** How far out a trunk goes on one side, by height and by place along it: seen from that side, in cells. */
class Widths {
  private readonly side: Side
  private readonly cell: number
  /** The first cell, and how many there are: as far as the arm comes. */
  private readonly from: { up: number; along: number }
  private readonly size: { up: number; along: number }
  private readonly cells: Float32Array

  /** @param arm what hangs there; it may be turned out yet */
  constructor(side: Side, positions: Float32Array, triangles: Uint32Array, arm: Float32Array, length: number) {
    this.side = side
    this.cell = CELL * length
    let [low, high, back, front] = [Infinity, -Infinity, Infinity, -Infinity]
    for (let i = 0; i < arm.length; i += 3) {
      const along = this.alongOf(arm[i]!, arm[i + 2]!)
      low = Math.min(low, arm[i + 1]!)
      high = Math.max(high, arm[i + 1]!)
      back = Math.min(back, along)
      front = Math.max(front, along)
    }
    const cellOf = (v: number) => Math.floor(v / this.cell)
    this.from = { up: cellOf(low), along: cellOf(back) }
    this.size = { up: cellOf(high + RISE * length) - this.from.up + 1, along: cellOf(front) - this.from.along + 1 }
    this.cells = new Float32Array(this.size.up * this.size.along).fill(-Infinity)
    const placed = new Float32Array(positions.length)
    for (let i = 0; i < positions.length; i += 3) {
      placed[i] = this.outOf(positions[i]!, positions[i + 2]!)
      placed[i + 1] = positions[i + 1]!
      placed[i + 2] = this.alongOf(positions[i]!, positions[i + 2]!)
    }
    for (let t = 0; t < triangles.length; t += 3)
      this.draw(placed, triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3)
  }

  private outOf(x: number, z: number): number {
    const { middle, out } = this.side
    return (x - middle.x) * out.x + (z - middle.z) * out.z
  }

  private alongOf(x: number, z: number): number {
    const { middle, out } = this.side
    return (z - middle.z) * out.x - (x - middle.x) * out.z
  }

  /** Where a cell is kept; -1 beyond what the arm comes to. */
  private indexOf(up: number, along: number): number {
    const [u, a] = [Math.floor(up / this.cell) - this.from.up, Math.floor(along / this.cell) - this.from.along]
    return u < 0 || a < 0 || u >= this.size.up || a >= this.size.along ? -1 : u * this.size.along + a
  }

  private put(up: number, along: number, out: number): void {
    const i = this.indexOf(up, along)
    if (i >= 0 && out > this.cells[i]!) this.cells[i] = out
  }

  private draw(p: Float32Array, a: number, b: number, c: number): void {
    const { cell, from, size } = this
    const low = Math.max(Math.min(p[a + 1]!, p[b + 1]!, p[c + 1]!), from.up * cell)
    const high = Math.min(Math.max(p[a + 1]!, p[b + 1]!, p[c + 1]!), (from.up + size.up) * cell)
    const back = Math.max(Math.min(p[a + 2]!, p[b + 2]!, p[c + 2]!), from.along * cell)
    const front = Math.min(Math.max(p[a + 2]!, p[b + 2]!, p[c + 2]!), (from.along + size.along) * cell)
    // beside what the arm comes to, or on the other side
    if (low > high || back > front || Math.max(p[a]!, p[b]!, p[c]!) <= 0) return
    // what is smaller than a cell is there with its corners
    for (const q of [a, b, c]) this.put(p[q + 1]!, p[q + 2]!, p[q]!)
    const [bu, ba] = [p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!]
    const [cu, ca] = [p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!]
    const area = bu * ca - cu * ba
    if (Math.abs(area) < 1e-12) return
    for (let up = (Math.floor(low / cell) + 0.5) * cell; up <= high; up += cell)
      for (let along = (Math.floor(back / cell) + 0.5) * cell; along <= front; along += cell) {
        const du = up - p[a + 1]!
        const da = along - p[a + 2]!
        const u = (du * ca - cu * da) / area
        const v = (bu * da - du * ba) / area
        if (u < 0 || v < 0 || u + v > 1) continue
        this.put(up, along, p[a]! + u * (p[b]! - p[a]!) + v * (p[c]! - p[a]!))
      }
  }

  /** How far a place lies in, metres; 0 outside, and where it lies nearer the middle than half the width. */
  depthAt(x: number, y: number, z: number, gap: number): number {
    const i = this.indexOf(y, this.alongOf(x, z))
    const [out, width] = [this.outOf(x, z), i < 0 ? -Infinity : this.cells[i]!]
    return out < width / 2 || width === -Infinity ? 0 : Math.max(0, width + gap - out)
  }
}

/** An arm that is turned out rises by no more than this, in its own length. */
const RISE = 0.35

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

import type { Dummy } from '../model/garment.ts'
import { Sculpt, tube, type Point } from '../model/Sculpt.ts'
import { add, along, cross, dot, scale, smoothstep, sub, unit, type V3 } from '../model/vector.ts'
import type { PartSpec } from '../folk/parts/spec.ts'

/*
 * Eyes of creatures: plates in layers under a wedge of a lid, which turns a stare into a face. Any number of them.
 */

/** One eye. */
export interface Eye {
  /** Its middle on the skin, and where it looks. */
  at: V3
  out: V3
  r: number
  /** How far the lid hangs down, in radii. */
  lid: number
  /** Radius of the iris, in radii. */
  iris: number
  /** How much the outer corner rises. */
  tilt?: number
  /** Whether its lid goes around its upper half; a wedge on the face if not. */
  hooded?: boolean
  /** Whether there is another on the right side. */
  paired?: boolean
  /** Where its pod is rooted and how it swells, root first; none if it lies on the skin. */
  pod?: { root: V3; radii: readonly number[] }
}

/** Lids and pods have the color of the skin. */
export interface EyeSkin {
  region: string
}

interface Frame {
  across: V3
  up: V3
  /** What lengths are for an eye of the usual size. */
  k: number
}

const USUAL = 2.1

function frameOf({ out, tilt = 0, r }: Eye): Frame {
  const across = unit(add(cross([0, 1, 0], out), [0, tilt, 0]))
  return { across, up: cross(unit(out), across), k: r / USUAL }
}

/** Places in an eye's own axes: across, up, and out by what its size makes of lengths. */
function placer(eye: Eye) {
  const { across, up, k } = frameOf(eye)
  const out = unit(eye.out)
  const at = (x: number, y: number, z: number) => along(along(along(eye.at, across, x), up, y), out, z * k)
  return { at, k, up, out }
}

/** Builds eyes; points carry the number of their eye as their row. */
export const buildEyes = (eyes: readonly Eye[], { region }: EyeSkin): Sculpt => {
  const all = new Sculpt()
  eyes.forEach((eye, n) => {
    const s = buildEye(eye, region)
    for (const p of s.points) p.row = n
    all.merge(eye.paired ? s.both() : s)
  })
  for (const f of all.faces) f.tag = 'head'
  return all
}

function buildEye(eye: Eye, skin: string): Sculpt {
  const s = new Sculpt()
  const { r, iris, pod } = eye
  const { at, k, out } = placer(eye)
  if (pod) {
    const end = at(0, 0, -0.2)
    const path = pod.radii.map((_, i): V3 => {
      const t = i / (pod.radii.length - 1)
      // rises from the skin, then turns to where it looks
      const straight = add(scale(pod.root, 1 - t), scale(end, t))
      return along(straight, out, -r * 0.9 * t * (1 - t))
    })
    s.merge(tube(path, [...pod.radii], 8, skin, 'head'))
  }
  const plate = (radius: number, z: number, region: string, n: number) => {
    s.region = region
    const ring = Array.from({ length: n }, (_, i) => {
      const a = (2 * Math.PI * i) / n
      return s.add(at(radius * Math.cos(a), radius * Math.sin(a), z), { spot: region })
    })
    const root = ring.map((p) => s.add(along(s.at(p), out, -1.2 * k), { spot: region }))
    s.loft(root, ring, true)
    s.points[s.cap(ring, scale(out, 0.12 * k))]!.spot = region
  }
  plate(r, 0.25, 'eye-white', 8)
  plate(r * iris, 0.55, 'iris', 7)
  plate(r * iris * 0.55, 0.8, 'pupil', 6)
  s.region = 'glint'
  s.face(
    (
      [
        [0.25, 0.3],
        [0.8, 0.3],
        [0.8, 0.85],
        [0.25, 0.85],
      ] as const
    ).map(([x, y]) => s.add(at(x * k, y * k, 1.0), { spot: 'glint' })),
  )
  s.merge(eye.hooded ? hood(eye, skin) : wedge(eye, skin))
  return s
}

/** A wedge that lies on the face above the eye; its outer end sinks into the head, which curves away there. */
function wedge(eye: Eye, region: string): Sculpt {
  const { at, k, up, out } = placer(eye)
  const { r, lid } = eye
  const s = new Sculpt()
  s.region = region
  const edge = (xs: readonly number[], y: (i: number) => number, zs: readonly number[]) =>
    xs.map((x, i) => s.add(at(x * r, r * y(i), zs[i]!), { spot: 'lid' }))
  const low = edge([-1.25, -0.4, 0.5, 1.25], (i) => 0.95 - lid + [0.1, 0.12, 0.12, 0][i]!, [0.35, 1.25, 1.1, -0.1])
  for (const p of low) s.points[p]!.spot = 'lid-edge'
  const high = edge([-1.3, -0.45, 0.5, 1.3], () => 1.35, [-0.1, 0.3, 0.1, -1])
  const back = edge([-1.2, -0.4, 0.5, 1.2], () => 0.6, [-0.9, -0.6, -0.8, -1.8])
  lashes(
    s,
    low,
    low.map((_, i) => along(along([0, 0, 0], up, -0.2 * r), out, [0, 0.12, 0.12, 0][i]! * k)),
    out,
    k,
  )
  s.loft(low, high, false)
  s.loft(back, low, false)
  s.face([back[0]!, low[0]!, high[0]!])
  s.face([high[3]!, low[3]!, back[3]!])
  return s
}

/** A hood around the upper half of the eye, sunk behind it: for eyes on pods, and where the head curves away on all sides. */
function hood(eye: Eye, region: string): Sculpt {
  const { at, k, up, out } = placer(eye)
  const { r, lid } = eye
  const s = new Sculpt()
  s.region = region
  const angles = [-8, 26, 62, 90, 118, 154, 188].map((d) => (d * Math.PI) / 180)
  const low = angles.map((a) => {
    const x = 1.12 * Math.cos(a)
    return s.add(at(x * r, r * (0.95 - lid + 0.1 - 0.06 * x * x), 1.3 - 0.9 * x * x), { spot: 'lid-edge' })
  })
  const high = angles.map((a) => s.add(at(1.2 * r * Math.cos(a), 1.26 * r * Math.sin(a), -0.1), { spot: 'lid' }))
  const back = angles.map((a) => s.add(at(r * Math.cos(a), 1.02 * r * Math.sin(a), -2.1), { spot: 'lid' }))
  lashes(
    s,
    [...low].reverse(),
    low.map(() => along(along([0, 0, 0], up, -0.16 * r), out, 0.05 * k)),
    out,
    k,
  )
  s.loft(high, low, false)
  s.loft(back, high, false)
  return s
}

/** A dark line along a lid, from left to right: all that is left of a shut eye. */
function lashes(s: Sculpt, low: readonly number[], hang: readonly V3[], out: V3, k: number): void {
  const line = low.map((p, i) => s.add(add(s.at(p), hang[i]!), { spot: 'lid-edge' }))
  // on points of its own: three faces on one edge are no surface
  const top = low.map((p) => s.add(along(s.at(p), out, 0.04 * k), { spot: 'lid-edge' }))
  s.as({ region: 'pupil' }, () => s.loft(line, top, false))
}

type Plate = readonly [x: number, y: number]

/** How lids and what lies under them move, each eye in its own axes. */
export function eyeMorphs(eyes: readonly Eye[]): { name: string; move: (p: Point) => V3 }[] {
  const ball = (p: Point) => /^(eye-white|iris|pupil|glint)$/.test(p.spot ?? '')
  const seeing = (p: Point) => /^(iris|pupil|glint)$/.test(p.spot ?? '')
  const edge = (p: Point) => p.spot === 'lid-edge'
  /** Where the lid's edge is at rest, and where it shuts. */
  const opens = ({ lid, r }: Eye) => (0.95 - lid + 0.1) * r
  const shuts = ({ r }: Eye) => -0.72 * r
  const moves: Record<string, (at: Plate, p: Point, eye: Eye, s: number) => Plate> = {
    'blink+': ([x, y], p, eye) =>
      edge(p)
        ? [x, y + (shuts(eye) - opens(eye)) * (Math.abs(x) > eye.r ? 0.5 : 1)]
        : ball(p)
          ? [x, Math.min(y, shuts(eye) - 0.1 * eye.r)]
          : [x, y],
    'squint+': ([x, y], p, { r }) => (ball(p) ? [x, Math.max(y, -0.42 * r)] : [x, y]),
    'wide+': ([x, y], p, eye) => (edge(p) ? [x, y + Math.min(0.4 * eye.r, 1.2 * eye.r - opens(eye))] : [x, y]),
    'lid-frown+': ([x, y], p, eye) =>
      edge(p)
        ? [x, y - Math.min(0.85 * eye.r, opens(eye) + 0.25 * eye.r) * smoothstep(0.9 * eye.r, -0.9 * eye.r, x)]
        : [x, y],
    'lid-sorrow+': ([x, y], p, eye) =>
      edge(p)
        ? [x, y - Math.min(0.8 * eye.r, opens(eye) + 0.25 * eye.r) * smoothstep(-0.8 * eye.r, 1.2 * eye.r, x)]
        : [x, y],
    'gaze-side+': ([x, y], p, { r }, s) => (seeing(p) ? [x + s * 0.2 * r, y] : [x, y]),
    'gaze-side-': ([x, y], p, { r }, s) => (seeing(p) ? [x - s * 0.2 * r, y] : [x, y]),
    'gaze-up+': ([x, y], p, { r }) => (seeing(p) ? [x, y + 0.16 * r] : [x, y]),
    'gaze-up-': ([x, y], p, { r }) => (seeing(p) ? [x, y - 0.18 * r] : edge(p) ? [x, y - 0.2 * r] : [x, y]),
  }
  return Object.entries(moves).map(([name, move]) => ({
    name,
    move: (p) => {
      const eye = eyes[p.row]!
      const { across, up } = frameOf(eye)
      const s = eye.paired && p.at[0] < 0 ? -1 : 1
      const rel = sub([s * p.at[0], p.at[1], p.at[2]], eye.at)
      const from: Plate = [dot(rel, across), dot(rel, up)]
      const to = move(from, p, eye, s)
      const d3 = add(scale(across, to[0] - from[0]), scale(up, to[1] - from[1]))
      return [s * d3[0], d3[1], d3[2]]
    },
  }))
}

/** Eyes worn on the head; where they lie is measured on the body they are made for. */
export function eyesPart(id: string, name: string, skin: EyeSkin, eyes: (d: Dummy) => readonly Eye[]): PartSpec {
  return {
    id,
    name,
    slot: 'eyes',
    how: 'worn',
    layer: 0,
    clearance: 0,
    binds: ['head'],
    tags: [],
    make: (d) => buildEyes(eyes(d), skin),
    morphs: (d) => eyeMorphs(eyes(d)),
  }
}

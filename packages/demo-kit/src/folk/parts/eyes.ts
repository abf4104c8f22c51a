import type { Dummy } from '../../model/garment.ts'
import { Sculpt, type Point } from '../../model/Sculpt.ts'
import { curve, smoothstep, type V3 } from '../../model/vector.ts'
import { BROWS, browMove } from '../expressions.ts'
import { fromHead, HEAD_UNIT } from '../proportions.ts'
import { onHead, type PartSpec } from './spec.ts'

/** A place on the face, head units, lifted off it. */
export function onFace(d: Dummy, x: number, y: number, lift: number): V3 {
  const [bx, by] = fromHead([x, y, 0])
  return d.front(bx, by, lift * HEAD_UNIT)
}

interface EyeSpec {
  /** Half the width and the heights above and below the middle. */
  w: number
  up: number
  down: number
  iris: number
  /** Thickness of the upper lid's line. */
  lash: number
  /** How much the outer corner is raised. */
  tilt: number
  /** How far the lid covers the iris. */
  droop?: number
}

const EYE: readonly [number, number] = [1.5, 4.68]

/** A place of the eye's own plate, head units. */
const onPlate = ({ w, tilt }: EyeSpec, x: number, y: number): [number, number] => [
  EYE[0] + x * 1.1,
  EYE[1] + y * 1.14 + (x / w) * tilt,
]

/** How far the iris goes to the side, up and down, head units. */
const GAZE = { side: 0.24, up: 0.14, down: 0.16 }
/** What shuts with the eyes cast down. */
const LOWERED = 0.3

/** How lids and iris move: along the plate, so that they stay on the face. */
function eyeMorphs(spec: EyeSpec): NonNullable<PartSpec['morphs']> {
  const { w, down } = spec
  const lid = spec.up - (spec.droop ?? 0)
  const shut = (x: number) =>
    curve(
      [
        [-1.06 * w, -0.09],
        [-0.42 * w, -down],
        [0.5 * w, -down + 0.02],
        [1.22 * w, 0],
      ],
      x,
    )
  const inner = (p: Point) => p.spot !== 'lash' && !(p.spot === 'eye-white' && p.u < 0.1)
  type Plate = readonly [number, number]
  const shutting: Move = ([x, y], p) => {
    const line = shut(x)
    if (p.spot !== 'lash') return [x, Math.min(y, line)]
    // the lash rides down on its lid, its thickness with it
    const above = y - (p.u > 0.17 ? y : lashFoot(x))
    return [x, Math.min(y, line + Math.max(0, above) * 0.8)]
  }
  type Move = (at: Plate, p: Point, side: number) => Plate
  const lashFoot = (x: number) =>
    curve(
      [
        [-w * 1.06, -0.06],
        [-w * 0.45, lid - 0.02],
        [w * 0.5, lid - 0.02],
        [w * 1.22, 0.06],
      ],
      x,
    )
  const squinting: Move = ([x, y], p) => [
    x,
    p.spot === 'lash' ? y : Math.max(y, Math.min(-down + 0.26, shut(x) + 0.26)),
  ]
  const moves: Record<string, Move> = {
    'blink+': shutting,
    'squint+': squinting,
    'wide+': ([x, y]) => [x, y + (0.16 / 1.14) * smoothstep(0, lid, y)],
    'small-iris+': ([x, y], p) => (inner(p) ? [-0.06 + (x + 0.06) * 0.8, y * 0.8] : [x, y]),
    'gaze-side+': ([x, y], p, s) => (inner(p) ? [x + (s * GAZE.side) / 1.1, y] : [x, y]),
    'gaze-side-': ([x, y], p, s) => (inner(p) ? [x - (s * GAZE.side) / 1.1, y] : [x, y]),
    'gaze-up+': ([x, y], p) => (inner(p) ? [x, Math.min(lid, y + GAZE.up / 1.14)] : [x, y]),
    'gaze-up-': ([x, y], p, s) => {
      const lowered = shutting([x, y], p, s)
      const half: Plate = [x, y + (lowered[1] - y) * LOWERED]
      return inner(p) ? [x, Math.max(-down, half[1] - GAZE.down / 1.14)] : half
    },
    // a shut eye takes back what the lower lid did
    'shut and squinting': (at, p, s) => {
      const [x, y] = squinting(at, p, s)
      return [at[0] - (x - at[0]), at[1] - (y - at[1])]
    },
    'shut and wide': ([x, y]) => [x, y - (0.16 / 1.14) * smoothstep(0, lid, y)],
  }
  return (d) =>
    Object.entries(moves).map(([name, move]) => ({
      name,
      move: (p) => {
        const s = p.at[0] >= 0 ? 1 : -1
        const [hx, hy] = [Math.abs(p.at[0]) / HEAD_UNIT, (p.at[1] - fromHead([0, 0, 0])[1]) / HEAD_UNIT]
        const x = (hx - EYE[0]) / 1.1
        const from: Plate = [x, (hy - EYE[1] - (x / w) * spec.tilt) / 1.14]
        const to = move(from, p, s)
        if (Math.hypot(to[0] - from[0], to[1] - from[1]) < 1e-4) return [0, 0, 0]
        const place = onFace(d, ...onPlate(spec, ...to), p.u)
        return [s * place[0] - p.at[0], place[1] - p.at[1], place[2] - p.at[2]]
      },
    }))
}

function eyePart(id: string, name: string, spec: EyeSpec): PartSpec {
  return onHead(id, name, 'eyes', 0, eyes(spec), { morphs: eyeMorphs(spec) })
}

/** Brows go all the way where the skull's own row goes half. */
const browMorphs: PartSpec['morphs'] = () =>
  Object.entries(BROWS).map(([id, brow]) => ({
    name: `${id}+`,
    move: (p) => {
      const d = browMove(brow, Math.abs(p.at[0]) / HEAD_UNIT)
      return [(p.at[0] >= 0 ? 1 : -1) * d[0] * HEAD_UNIT, d[1] * HEAD_UNIT, d[2] * HEAD_UNIT]
    },
  }))

function eyes(spec: EyeSpec): (d: Dummy) => Sculpt {
  return (d) => {
    const s = new Sculpt()
    s.tag = 'head'
    s.limb = 'headwear'
    const { w, up, down } = spec
    const at = (x: number, y: number, lift: number) => {
      const [hx, hy] = onPlate(spec, x, y)
      return s.add(onFace(d, hx, hy, lift), { u: lift, spot: s.region })
    }
    const lid = up - (spec.droop ?? 0)
    const plate = (region: string, outline: readonly (readonly [number, number])[], lift: number) => {
      s.region = region
      const ring = outline.map(([x, y]) => at(x, y, lift))
      // a fan keeps the plate on the curve of the face
      s.fan(
        ring,
        at(
          outline.reduce((t, [x]) => t + x, 0) / outline.length,
          outline.reduce((t, [, y]) => t + y, 0) / outline.length,
          lift,
        ),
      )
    }
    plate(
      'eye-white',
      [
        [-w, -0.05],
        [-w * 0.35, -down],
        [w * 0.45, -down],
        [w, 0.04],
        [w * 0.5, lid],
        [-w * 0.4, lid],
      ],
      0.07,
    )
    const r = spec.iris
    const ix = -0.06
    plate(
      'iris',
      [
        [ix - r, 0.02],
        [ix - r * 0.6, Math.max(-r * 0.85, -down)],
        [ix + r * 0.6, Math.max(-r * 0.85, -down)],
        [ix + r, 0.02],
        [ix + r * 0.62, Math.min(r, lid)],
        [ix - r * 0.62, Math.min(r, lid)],
      ],
      0.13,
    )
    s.region = 'pupil'
    const p = r * 0.5
    const top = Math.min(p, lid)
    s.face([at(ix - p, -p * 0.9, 0.17), at(ix + p, -p * 0.9, 0.17), at(ix + p, top, 0.17), at(ix - p, top, 0.17)])
    s.region = 'eye-white'
    s.face([at(ix + 0.06, 0.08, 0.21), at(ix + 0.24, 0.08, 0.21), at(ix + 0.24, 0.25, 0.21), at(ix + 0.06, 0.25, 0.21)])
    s.region = 'lash'
    const line: readonly (readonly [number, number])[] = [
      [-w * 1.06, -0.06],
      [-w * 0.45, lid - 0.02],
      [w * 0.5, lid - 0.02],
      [w * 1.22, 0.06],
    ]
    const low = line.map(([x, y]) => at(x, y, 0.2))
    const high = line.map(([x, y], i) => at(x * 1.04, y + spec.lash * (i === 0 ? 0.6 : i === 3 ? 1.25 : 1), 0.14))
    s.loft(low, high, false)
    return s.both()
  }
}

interface BrowSpec {
  thick: number
  inner: number
  peak: number
  outer: number
  length: number
}

const browPart = (id: string, name: string, spec: BrowSpec): PartSpec =>
  onHead(id, name, 'brows', 0, brows(spec), { morphs: browMorphs })

function brows(spec: BrowSpec): (d: Dummy) => Sculpt {
  return (d) => {
    const s = new Sculpt()
    s.region = 'brow'
    s.tag = 'head'
    s.limb = 'headwear'
    const stops = [0.62, 1.15, 1.85, 1.85 + 0.85 * spec.length].map((x, i) => ({
      x,
      y: [5.62 + spec.inner, 5.78 + (spec.inner + spec.peak) / 2, 5.92 + spec.peak, 5.66 + spec.outer][i]!,
      t: spec.thick * [0.9, 1, 0.85, 0.25][i]!,
    }))
    const row = (up: number, lift: number) => stops.map(({ x, y, t }) => s.add(onFace(d, x, y + up * t, lift)))
    const low = row(-0.5, 0.02)
    const middle = row(-0.1, 0.26)
    const high = row(0.55, 0.08)
    s.loft(low, middle, false)
    s.loft(middle, high, false)
    s.face([low[0]!, middle[0]!, high[0]!])
    return s.both()
  }
}

const EYE_PARTS: PartSpec[] = [
  eyePart('eyes-open', 'Open eyes', { w: 0.74, up: 0.36, down: 0.27, iris: 0.4, lash: 0.15, tilt: 0.05 }),
  eyePart('eyes-bright', 'Bright eyes', { w: 0.78, up: 0.43, down: 0.32, iris: 0.46, lash: 0.19, tilt: 0.09 }),
  eyePart('eyes-narrow', 'Narrow eyes', { w: 0.76, up: 0.27, down: 0.2, iris: 0.36, lash: 0.18, tilt: 0.12 }),
  eyePart('eyes-sleepy', 'Sleepy eyes', {
    w: 0.74,
    up: 0.42,
    down: 0.28,
    iris: 0.4,
    lash: 0.26,
    tilt: -0.06,
    droop: 0.2,
  }),

  browPart('brows-straight', 'Straight brows', { thick: 0.4, inner: 0, peak: 0.02, outer: 0, length: 1 }),
  browPart('brows-arched', 'Arched brows', { thick: 0.28, inner: 0.16, peak: 0.26, outer: 0.02, length: 1 }),
  browPart('brows-bushy', 'Bushy brows', { thick: 0.62, inner: -0.02, peak: 0.12, outer: -0.08, length: 1.05 }),
  browPart('brows-stern', 'Stern brows', { thick: 0.42, inner: -0.2, peak: 0.18, outer: 0.15, length: 0.95 }),
]

export default EYE_PARTS

import { halfRing, ringAround, type Chain, type Sculpt } from './Sculpt.ts'
import { along, cross, sub, unit, type V3 } from './vector.ts'

export interface BodySculpt {
  sculpt: Sculpt
  /** Joints and other named places, body units. */
  landmarks: Map<string, V3>
}

/** The numbers of an upright body, left half. */
export interface BipedSpec {
  /** Seven points from the front center to the back center, then the crotch below them. */
  hipLoop: readonly V3[]
  crotch: V3
  /** Height | half-width | front | back | squareness, from below. */
  torso: readonly (readonly [number, number, number, number, number])[]
  shoulderLoop: readonly V3[]
  necks: readonly { w: number; front: number; back: number; low: number; high: number }[]
  arm: {
    origin: V3
    axis: V3
    up: V3
    /** Along | up | down | front | back | squareness | tilt (the lower side reaches farther along). */
    rings: readonly (readonly [number, number, number, number, number, number, number])[]
  }
  /** Height | outer | inner | front | back | center x | center z | squareness, from above. */
  leg: readonly (readonly [number, number, number, number, number, number, number, number])[]
  region: (limb: string, row: number, col: number) => string
  /** Bands of the back's innermost column left open for a tail. */
  tailBands?: readonly [first: number, last: number]
}

export interface BipedEnds {
  neckTop: Chain
  wrist: Chain
  ankle: Chain
  /** Half the rim of the tail's root, top center to bottom center. */
  tailRoot: Chain
}

/**
 * Trunk, neck, arm and leg of the left half as one surface. The armhole takes two columns of the
 * two uppermost bands, so that its rim has eight points, as every ring of the limbs has.
 */
export function loftBiped(s: Sculpt, spec: BipedSpec): BipedEnds {
  const ring = (points: readonly V3[], row: number, limb: string): Chain =>
    points.map((at) => s.add(at, { limb, row, u: at[1], out: unit([at[0], 0, at[2] + 0.8]) }))
  const hip = ring(spec.hipLoop, 0, 'torso')
  const rows = [
    hip,
    ...spec.torso.map(([y, w, front, back, e], i) =>
      ring(
        halfRing(7, w, front, back, e).map((p): V3 => [p[0], y, p[2]]),
        i + 1,
        'torso',
      ),
    ),
  ]
  const shoulder = ring(spec.shoulderLoop, rows.length, 'torso')
  rows.push(shoulder)
  const chest = rows.length - 2
  const [tailFrom, tailTo] = spec.tailBands ?? [-1, -2]
  s.as({ tag: 'torso' }, () => {
    rows.slice(0, -1).forEach((row, i) => {
      const open = [...(i >= chest - 1 ? [2, 3] : []), ...(i >= tailFrom && i <= tailTo ? [5] : [])]
      s.loft(row, rows[i + 1]!, false, { row: i }, open)
    })
  })
  for (const f of s.faces) if (f.tag === 'torso') f.region = spec.region('torso', f.row, f.col)

  const necks = spec.necks.map(({ w, front, back, low, high }, i) =>
    ring(
      halfRing(7, w, front, back, 2.3).map((p, k): V3 => [p[0], low + ((high - low) * k) / 6, p[2] - 0.4]),
      i,
      'neck',
    ),
  )
  s.as({ tag: 'neck' }, () => {
    s.loft(shoulder, necks[0]!, false, { row: 0, region: spec.region('neck', 0, 0) })
    s.loft(necks[0]!, necks[1]!, false, { row: 1, region: spec.region('neck', 1, 0) })
  })

  const [belowArm, atArm] = [rows[chest - 1]!, rows[chest]!]
  let wrist: Chain = [
    shoulder[3]!,
    shoulder[2]!,
    atArm[2]!,
    belowArm[2]!,
    belowArm[3]!,
    belowArm[4]!,
    atArm[4]!,
    shoulder[4]!,
  ]
  const { origin, axis, up } = spec.arm
  const front = cross(axis, up)
  spec.arm.rings.forEach(([u, ru, rd, rf, rb, e, tilt], i) => {
    const center = along(origin, axis, u)
    const next = ringAround(center, up, front, [ru, rd, rf, rb], e, 8).map((at, k) => {
      const shear = -Math.cos((2 * Math.PI * k) / 8) * tilt
      return s.add(along(at, axis, shear), { limb: 'leftArm', row: i, u: u + shear, out: unit(sub(at, center)) })
    })
    s.loft(wrist, next, true, { row: i, tag: 'leftArm', region: spec.region('leftArm', i, 0) })
    wrist = next
  })

  const crotch = s.add(spec.crotch, { limb: 'torso', row: 0, u: spec.crotch[1], out: [0, -1, 0] })
  let ankle: Chain = [...hip, crotch]
  spec.leg.forEach(([y, outer, inner, rf, rb, cx, cz, e], i) => {
    const points = ringAround([cx, y, cz], [0, 0, 1], [1, 0, 0], [rf, rb, outer, inner], e, 8).map((at) =>
      s.add(at, { limb: 'leftLeg', row: i, u: y, out: unit(sub(at, [cx, y, cz])) }),
    )
    // start a step before the front, at the inner front, as the hip's loop does
    const next = [points[7]!, ...points.slice(0, 7)]
    s.loft(next, ankle, true, { row: i, tag: 'leftLeg', region: spec.region('leftLeg', i, 0) })
    ankle = next
  })
  const tailRoot = spec.tailBands
    ? [
        rows[tailTo + 1]![6]!,
        ...Array.from({ length: tailTo - tailFrom + 2 }, (_, k) => rows[tailTo + 1 - k]![5]!),
        rows[tailFrom]![6]!,
      ]
    : []
  return { neckTop: necks[1]!, wrist, ankle, tailRoot }
}

import { lathe, Sculpt } from '../../model/Sculpt.ts'
import { bentPath, headShell, lock, type Dummy } from '../../model/garment.ts'
import { add, cross, curve, scale, unit, type V3 } from '../../model/vector.ts'
import { fromHead } from '../proportions.ts'

/* What hair is made of: a shell cut to a hairline, curls, locks and braids. */

/** Middle of the skull, from where hair is seen. */
export const SKULL: V3 = fromHead([0, 5.2, -0.2])

/** Where hair ends: front, temple, over the ear, behind the ear, nape. */
export const hairline = (front: number, temple: number, ear: number, behind: number, nape: number) => (az: number) => {
  const a = az > 180 ? 360 - az : az
  return curve(
    [
      [0, front],
      [40, front - 3],
      [62, temple],
      [88, ear],
      [118, behind],
      [180, nape],
    ],
    a,
  )
}

export const wobble = (az: number, share: number, amount: number) =>
  amount * (0.5 * Math.sin(az * 0.087 + 1.3 + share * 2) + 0.5 * Math.sin(az * 0.157 + share * 5))

export interface HairSpec {
  edge: (az: number) => number
  thick: number
  more?: (az: number, share: number) => number
  zigzag?: number
  rows?: number
  columns?: number
}

export function hair(spec: HairSpec, details?: (s: Sculpt, d: Dummy) => void): (d: Dummy) => Sculpt {
  return (d) => {
    const s = headShell(d, SKULL, {
      region: 'hair',
      columns: spec.columns ?? 16,
      rows: spec.rows ?? 4,
      edge: spec.edge,
      zigzag: spec.zigzag ?? 5,
      thick: (az, share) =>
        spec.thick * (0.75 + 0.35 * Math.sin(Math.min(1, share) * Math.PI)) + (spec.more?.(az, share) ?? 0),
    })
    details?.(s, d)
    return s
  }
}

/** A round curl on the scalp at an azimuth and elevation, half sunk into the hair. */
export function curl(d: Dummy, azimuth: number, elevation: number, radius: number): Sculpt {
  const [a, e] = [(azimuth * Math.PI) / 180, (elevation * Math.PI) / 180]
  const out: V3 = [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)]
  const at = d.fromHead(SKULL, out, 0.5)
  const s = lathe(
    [
      [-radius * 0.6, radius * 0.75],
      [radius * 0.25, radius],
      [radius * 0.72, radius * 0.5],
    ],
    5,
    'hair',
  )
  s.tag = 'hair'
  const side = unit(cross([0.2, 1, 0.1], out))
  const up = cross(out, side)
  s.move((p) => add(at, add(add(scale(side, p[0]), scale(out, p[1])), scale(up, p[2]))))
  for (const p of s.points) p.limb = 'headwear'
  for (const f of s.faces) f.tag = 'hair'
  return s.outward()
}

/** A lock from a place on the scalp (azimuth, elevation) hanging through further ones, each with its lift. */
export function hang(
  d: Dummy,
  places: readonly (readonly [az: number, elevation: number, lift: number])[],
  width: number,
  stops = 4,
): Sculpt {
  const path = places.map(([az, el, lift]) => {
    const [a, e] = [(az * Math.PI) / 180, (el * Math.PI) / 180]
    return d.fromHead(SKULL, [Math.sin(a) * Math.cos(e), Math.sin(e), Math.cos(a) * Math.cos(e)], lift)
  })
  return lock(bentPath(path, stops), width, 'hair')
}

export function tubeOf(path: V3[], radii: number[]): Sculpt {
  const s = new Sculpt()
  s.region = 'hair'
  s.tag = 'hair'
  let last: number[] | null = null
  path.forEach((at, i) => {
    const r = radii[i]!
    if (r === 0) {
      s.fan(last!, s.add(at))
      return
    }
    const ring = Array.from({ length: 5 }, (_, k) =>
      s.add(
        add(at, [
          r * Math.cos((k * 2 * Math.PI) / 5),
          r * 0.25 * Math.sin(k * 2.3),
          r * Math.sin((k * 2 * Math.PI) / 5),
        ]),
      ),
    )
    if (last) s.loft(last, ring, true)
    else s.cap([...ring].reverse())
    last = ring
  })
  return s.outward()
}

export function templeLocks(): Sculpt {
  return lock(
    bentPath([fromHead([3.0, 6.7, 1.9]), fromHead([3.75, 5.0, 1.1]), fromHead([3.65, 3.2, 1.25])], 4),
    0.8,
    'hair',
  ).both()
}

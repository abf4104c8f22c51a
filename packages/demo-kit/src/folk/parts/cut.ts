import { bands, flare, rimAt, slab, type Dummy } from '../../model/garment.ts'
import type { Sculpt, Chain, Face, Point } from '../../model/Sculpt.ts'
import { add, along, bump, smoothstep, unit, type V3 } from '../../model/vector.ts'
import { ARM_AXIS } from '../proportions.ts'

export const isLeg = (p: Point) => p.limb.endsWith('Leg')
export const isArm = (p: Point) => p.limb.endsWith('Arm')
export const onLeft = (p: Point) => p.at[0] > 0
/** The inside of cloth shows only where it is turned over or hangs free. */
export const turnedOver = (f: Face) => f.tag === 'collar' || f.tag === 'cuff' || f.tag === 'skirt'
export const DOWN: V3 = [0, -1, 0]

export const sideAxis = (left: boolean): V3 => (left ? ARM_AXIS : [-ARM_AXIS[0], ARM_AXIS[1], 0])

/** Both openings of a pair of limbs, with a step-by-step flare each. */
export function flareBoth(
  s: Sculpt,
  limb: 'Arm' | 'Leg',
  direction: (left: boolean) => V3,
  steps: readonly (readonly [number, number])[],
  region: string,
): void {
  for (const left of [true, false]) {
    const rim = rimAt(s, (p) => p.limb.endsWith(limb) && onLeft(p) === left)
    flare(s, rim, direction(left), steps, region)
  }
}

export const cuffs = (s: Sculpt, steps: readonly (readonly [number, number])[], region: string) =>
  flareBoth(s, 'Arm', sideAxis, steps, region)
export const legHems = (s: Sculpt, steps: readonly (readonly [number, number])[], region: string) =>
  flareBoth(s, 'Leg', () => DOWN, steps, region)

/** Exponent of the superellipse that skirts are cut to: a little squarer than round. */
export const SQUARISH = 2 / 2.3

/** The rings of the widest skirt there is, from the top; what hangs over it is cut to it. */
export const WIDE_SKIRT = [
  { y: 41, w: 13.6, front: 9.6, back: 11.8, pleat: 0.03 },
  { y: 30, w: 15.6, front: 11.4, back: 14.8, pleat: 0.055 },
  { y: 20, w: 16.9, front: 12.5, back: 17.4, pleat: 0.075 },
  { y: 15.5, w: 17.5, front: 12.9, back: 18.6, pleat: 0.08 },
]

/** Rings of cloth below a chain that runs front to back to front (or all round). */
export function skirt(
  s: Sculpt,
  chain: Chain,
  closed: boolean,
  rings: readonly { y: number; w: number; front: number; back: number; pleat?: number }[],
  region: string,
): Chain {
  let last = chain
  const angles = chain.map((p) => Math.atan2(s.at(p)[0], s.at(p)[2] + 0.5))
  for (const { y, w, front, back, pleat = 0 } of rings) {
    const next = last.map((_, i) => {
      const [sin, cos] = [Math.sin(angles[i]!), Math.cos(angles[i]!)]
      const fold = 1 + (i % 2 ? pleat : -pleat)
      const at: V3 = [
        w * fold * Math.sign(sin) * Math.abs(sin) ** SQUARISH,
        y,
        (cos >= 0 ? front : -back) * fold * Math.abs(cos) ** SQUARISH - 0.5,
      ]
      return s.add(at, { limb: 'torso', row: -1, u: y, out: unit([at[0], 0, at[2]]) })
    })
    s.loft(next, last, closed, { region, tag: 'skirt' })
    last = next
  }
  return last
}

/** Adds a column on each side of a garment that lacks its front column, up to the opening's edge. */
export function closeFront(s: Sculpt, d: Dummy, halfWidth: (y: number) => number, lift: number): void {
  const rings = [...[1, 2, 3, 4, 5, 6, 7].map((row) => ({ limb: 'torso', row })), { limb: 'neck', row: 0 }]
  const sides = rings.map(({ limb, row }) => {
    const ring = s.ring(limb, row)
    return [ring[0]!, ring[ring.length - 1]!] as const
  })
  const edge = sides.map((pair) =>
    pair.map((p) => {
      const { at, limb, row, u } = s.points[p]!
      const x = Math.sign(at[0]) * Math.min(Math.abs(at[0]) * 0.95, halfWidth(at[1]))
      const front = d.front(x, at[1], lift)
      return s.add(limb === 'neck' ? [x, at[1], Math.max(front[2], at[2] + 0.2)] : front, {
        limb,
        row,
        u,
        out: [0, 0, 1],
      })
    }),
  )
  for (let r = 0; r + 1 < rings.length; r++) {
    const more = { tag: 'torso', row: r + 1, col: 0 }
    s.face([edge[r]![0]!, sides[r]![0], sides[r + 1]![0], edge[r + 1]![0]!], more)
    s.face([sides[r]![1], edge[r]![1]!, edge[r + 1]![1]!, sides[r + 1]![1]], more)
  }
}

/** A standing or turned-down collar on the ring around the neck. */
export function collar(
  s: Sculpt,
  closed: boolean,
  steps: readonly (readonly [up: number, out: number])[],
  region: string,
  frontDrop = 0,
): void {
  let chain = s.ring('neck', 0)
  for (const [up, out] of steps) {
    const from = chain
    const next = from.map((p) => {
      const at = s.at(p)
      const flat = unit([at[0], 0, at[2] + 1.4])
      const front = smoothstep(0, 4, at[2])
      return s.add(add(along(at, flat, out), [0, up - frontDrop * front, 0]), {
        limb: 'neck',
        row: 9,
        u: at[1],
        out: flat,
      })
    })
    s.loft(from, next, closed, { region, tag: 'collar' })
    chain = next
  }
}

/** A patch of cloth on the trunk between two heights and angles (degrees, 0 front, towards the left). */
export function patch(
  d: Dummy,
  y: readonly [number, number],
  angle: readonly [number, number],
  offset: readonly [number, number],
  thick: number,
  region: string,
  columns = 3,
): Sculpt {
  const row = (h: number, o: number) => {
    const ring = d.trunkRing(h, o, 72)
    return Array.from(
      { length: columns + 1 },
      (_, k) => ring[Math.round((angle[0] + ((angle[1] - angle[0]) * k) / columns + 720) / 5) % 72]!,
    )
  }
  return slab([row(y[0], offset[0]), row(y[1], offset[1])], thick, region)
}

export function shirt(d: Dummy, armTo: number, region: string, fit: number, torsoFrom = 1): Sculpt {
  return d.wear(bands({ torso: [torsoFrom, 6], neck: [0, 0], arm: [0, armTo] }), region, (p) =>
    isArm(p) ? fit + 0.25 : fit + 0.12 * bump(p.u, 60, 6),
  )
}

/** Replaces the toes of a peeled foot by a smooth toe cap. */
export function closeToes(s: Sculpt, region: string): void {
  for (const side of ['left', 'right']) {
    for (const rim of s.rims().filter((r) => r.every((i) => s.points[i]!.limb === `${side}Foot`))) {
      const tip = rim.map((i) => {
        const p = s.points[i]!
        return s.add([p.at[0] * 0.98, p.at[1] * 0.85, p.at[2] + 3.2], { limb: p.limb, row: 5, u: p.u, out: p.out })
      })
      rim.forEach((p, i) =>
        s.face([rim[(i + 1) % rim.length]!, p, tip[i]!, tip[(i + 1) % rim.length]!], {
          region,
          tag: `${side}Foot`,
          row: 3,
        }),
      )
      s.cap([...tip].reverse(), [0, 0, 0.6], { region, tag: `${side}Foot`, row: 3 })
    }
  }
}

/** Presses the underside flat and paints it as a sole. */
export function flattenSoles(s: Sculpt, region: string): void {
  const floor = Math.min(...s.points.map((p) => p.at[1]))
  for (const p of s.points) if (p.at[1] < 0.6) p.at = [p.at[0], Math.max(floor, -1.2), p.at[2]]
  for (const f of s.faces) if (/Foot$/.test(f.tag) && f.v.every((i) => s.at(i)[1] < 0.7)) f.region = region
}

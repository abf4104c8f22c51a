import { bands, bentPath, flare, rimAt, slab, stud, thickBand, type Dummy } from '../../model/garment.ts'
import { box, lathe, ropeRing, Sculpt, tube, type Chain, type Face, type Point } from '../../model/Sculpt.ts'
import { add, along, bump, curve, lerp, scale, smoothstep, unit, type V3 } from '../../model/vector.ts'
import { ARM_AXIS } from '../proportions.ts'
import { surfaceOf } from '../../model/bake.ts'
import { garment, type PartSpec } from './spec.ts'

const isLeg = (p: Point) => p.limb.endsWith('Leg')
const isArm = (p: Point) => p.limb.endsWith('Arm')
const onLeft = (p: Point) => p.at[0] > 0
/** The inside of cloth shows only where it is turned over or hangs free. */
const turnedOver = (f: Face) => f.tag === 'collar' || f.tag === 'cuff' || f.tag === 'skirt'
const DOWN: V3 = [0, -1, 0]

const sideAxis = (left: boolean): V3 => (left ? ARM_AXIS : [-ARM_AXIS[0], ARM_AXIS[1], 0])

/** Both openings of a pair of limbs, with a step-by-step flare each. */
function flareBoth(
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

const cuffs = (s: Sculpt, steps: readonly (readonly [number, number])[], region: string) =>
  flareBoth(s, 'Arm', sideAxis, steps, region)
const legHems = (s: Sculpt, steps: readonly (readonly [number, number])[], region: string) =>
  flareBoth(s, 'Leg', () => DOWN, steps, region)

/** Exponent of the superellipse that skirts are cut to: a little squarer than round. */
const SQUARISH = 2 / 2.3

/** The rings of the widest skirt there is, from the top; what hangs over it is cut to it. */
const WIDE_SKIRT = [
  { y: 41, w: 13.6, front: 9.6, back: 11.8, pleat: 0.03 },
  { y: 30, w: 15.6, front: 11.4, back: 14.8, pleat: 0.055 },
  { y: 20, w: 16.9, front: 12.5, back: 17.4, pleat: 0.075 },
  { y: 15.5, w: 17.5, front: 12.9, back: 18.6, pleat: 0.08 },
]

/** Rings of cloth below a chain that runs front to back to front (or all round). */
function skirt(
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
function closeFront(s: Sculpt, d: Dummy, halfWidth: (y: number) => number, lift: number): void {
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
function collar(
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
function patch(
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

function shirt(d: Dummy, armTo: number, region: string, fit: number, torsoFrom = 1): Sculpt {
  return d.wear(bands({ torso: [torsoFrom, 6], neck: [0, 0], arm: [0, armTo] }), region, (p) =>
    isArm(p) ? fit + 0.25 : fit + 0.12 * bump(p.u, 60, 6),
  )
}

/** What is worn over all else; bibs and braces lie flat beneath it. */
const outerwear = (
  id: string,
  name: string,
  layer: number,
  clearance: number,
  binds: string[] | undefined,
  make: PartSpec['make'],
  extra: Pick<PartSpec, 'excludes'> & { tags?: string[] } = {},
) => garment(id, name, 'over', layer, clearance, binds, make, { presses: ['legs', 'top'], ...extra })

const TOPS: PartSpec[] = [
  garment('shirt-work', 'Work shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 7, 'shirt', 0.55)
    cuffs(
      s,
      [
        [0.45, 0.1],
        [-0.25, 1.5],
      ],
      'shirt',
    )
    collar(
      s,
      true,
      [
        [1.7, 0.3],
        [-1.3, 0.95],
      ],
      'shirt',
      0.3,
    )
    s.thicken(0.3, 'shirt', (f) => f.tag === 'collar')
    for (const y of [74, 67]) s.merge(stud(d.front(0, y, 0.55), [0, 0.1, 1], 0.45, 0.25, 'trim'))
    return s
  }),
  garment('shirt-rolled', 'Rolled shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 3, 'shirt', 0.6)
    cuffs(
      s,
      [
        [0.9, 0.2],
        [0.2, -2.2],
        [-0.9, -0.2],
      ],
      'shirt',
    )
    collar(
      s,
      true,
      [
        [1.2, 0.4],
        [-0.4, 1.7],
        [-1.6, 0.6],
      ],
      'shirt',
      1.0,
    )
    return s.thicken(0.3, 'shirt', turnedOver)
  }),
  garment('jersey', 'Knit jersey', 'top', 3, 5, undefined, (d) => {
    const s = shirt(d, 7, 'knit', 0.95)
    cuffs(
      s,
      [
        [0.5, 0],
        [0.1, 1.6],
        [-0.7, 0.1],
      ],
      'knit-trim',
    )
    collar(
      s,
      true,
      [
        [1.0, 0.5],
        [2.4, -0.1],
        [-0.6, 0.9],
        [-1.4, 0.3],
      ],
      'knit-trim',
    )
    for (const f of s.faces) if (f.tag === 'torso' && f.row === 4) f.region = 'knit-trim'
    return s.thicken(0.35, 'knit-trim', (f) => f.tag === 'collar')
  }),
  garment('bodice', 'Laced bodice', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 2, 'shirt', 0.75)
    for (const p of s.points) if (isArm(p)) p.at = along(p.at, p.out, 0.7 * bump(p.u, 4.5, 5))
    cuffs(
      s,
      [
        [-0.4, 0.6],
        [0.8, 0.8],
        [-0.4, 0.1],
      ],
      'shirt',
    )
    for (const f of s.faces) if (f.tag === 'torso' && f.row >= 1 && f.row <= 4) f.region = 'bodice'
    s.thicken(0.3, 'shirt', turnedOver)
    const front = [69, 66, 63, 60, 57, 54].map((y) => y)
    front.slice(0, -1).forEach((y, i) => {
      const y2 = front[i + 1]!
      s.merge(tube([d.front(-1.3, y, 1.1), d.front(1.3, y2, 1.1)], 0.26, 4, 'rope'))
      s.merge(tube([d.front(1.3, y, 1.1), d.front(-1.3, y2, 1.1)], 0.26, 4, 'rope'))
    })
    return s
  }),
]

interface CoatSpec {
  region: string
  lining: string
  trim: string
  fit: number
  armTo: number
  opening: (y: number) => number
  skirt: { y: number; w: number; front: number; back: number; pleat?: number }[]
  cuff: readonly (readonly [number, number])[]
  collar: readonly (readonly [number, number])[]
  /** How much lower each step of the collar is in front. */
  collarDrop?: number
  /** Rows of a lapel from the neck down: height and width beyond the opening's edge. */
  lapel?: readonly (readonly [y: number, width: number])[]
  thick?: number
}

/** An open coat: torso and sleeves off the body, a skirt of rings, collar, turned-back cuffs, lined. */
function coat(d: Dummy, spec: CoatSpec): Sculpt {
  const front = (f: { tag: string; col: number }) => (f.tag === 'torso' || f.tag === 'neck') && f.col === 0
  const keep = bands({ torso: [1, 6], neck: [0, 0], arm: [0, spec.armTo] })
  const s = d.wear(
    (f) => keep(f) && !front(f),
    spec.region,
    (p) => (isArm(p) ? spec.fit * 0.85 : spec.fit + 0.35 * bump(p.u, 52, 5)),
  )
  closeFront(s, d, spec.opening, spec.fit + 0.1)
  const hem = s.ring('torso', 1)
  skirt(s, hem, false, spec.skirt, spec.region)
  for (const f of s.faces)
    if (f.tag === 'skirt' && f.v.some((p) => s.at(p)[1] <= spec.skirt[spec.skirt.length - 1]!.y + 0.1)) f.row = 99
  collar(s, false, spec.collar, spec.trim, spec.collarDrop)
  cuffs(s, spec.cuff, spec.trim)
  // beside the opening the lining shows as well
  s.thicken(spec.thick ?? 0.5, spec.lining, (f) => turnedOver(f) || f.col === 0)
  if (spec.lapel) s.merge(lapels(s, spec, spec.lapel))
  return s
}

/** The edges of an opening turned back over the chest: facings that lie on the coat itself. */
function lapels(s: Sculpt, spec: CoatSpec, rows: readonly (readonly [number, number])[]): Sculpt {
  const cloth = surfaceOf(s)
  const on = (x: number, y: number, lift: number): V3 => {
    const hit = cloth.castRay(x, y, 60, 0, 0, -1, 0, 120)
    return [x, y, (hit === Infinity ? 0 : 60 - hit) + lift]
  }
  const grid = rows.map(([y, width]) => {
    const x = spec.opening(y) + 0.2
    const edge = on(x, y, 0.9)
    return [add(edge, [-0.55, 0, 0]), on(x + width * 0.5, y, 1.45), on(x + width, y, 1.2)]
  })
  const half = new Sculpt()
  half.region = spec.lining
  half.tag = 'lapel'
  const lines = grid.map((row) => row.map((p) => half.add(p)))
  for (let r = 0; r + 1 < lines.length; r++) half.loft(lines[r]!, lines[r + 1]!, false, { row: r })
  // an edge all round; its back lies on the coat and is never seen
  return half.thicken(0.4, spec.lining, () => false).both()
}

/** Buttons in pairs along the front of a coat. */
function buttons(s: Sculpt, d: Dummy, x: number, heights: readonly number[], lift: number): void {
  for (const y of heights) s.merge(stud(d.front(x, y, lift), [0.25, 0, 1], 0.62, 0.45, 'metal').both())
}

const OVERS: PartSpec[] = [
  outerwear(
    'coat-quay',
    'Quay master’s coat',
    7,
    6,
    undefined,
    (d) => {
      const s = coat(d, {
        region: 'coat',
        lining: 'coat-lining',
        trim: 'coat-trim',
        fit: 1.55,
        armTo: 5,
        opening: (y) =>
          curve(
            [
              [52, 2.6],
              [62, 2.3],
              [70, 2.9],
              [80, 4.2],
            ],
            y,
          ),
        skirt: [
          { y: 47.5, w: 12.6, front: 8.6, back: 10.6, pleat: 0.015 },
          { y: 40, w: 14.2, front: 9.8, back: 12, pleat: 0.04 },
          { y: 31, w: 15.8, front: 11, back: 13.4, pleat: 0.06 },
          { y: 24.5, w: 16.8, front: 11.8, back: 14.4, pleat: 0.075 },
        ],
        cuff: [
          [1.1, 0.3],
          [0.7, -4.3],
        ],
        collar: [
          [2.6, 0.9],
          [1.5, 2.0],
        ],
        collarDrop: 0.9,
        lapel: [
          [62, 0.5],
          [67, 2.5],
          [72, 4.6],
          [74.5, 5.6],
          [75.6, 3.6],
          [79, 2.6],
        ],
      })
      buttons(s, d, 5.0, [60, 54.5], 2.0)
      for (const side of [1, -1])
        s.merge(patch(d, [45.2, 48.2], side > 0 ? [50, 85] : [275, 310], [4.5, 4.0], 0.8, 'coat-trim', 1))
      return s
    },
    { tags: ['long-coat'], excludes: ['bulky-skirt'] },
  ),
  outerwear(
    'coat-oilskin',
    'Oilskin coat',
    7,
    6,
    undefined,
    (d) => {
      const s = coat(d, {
        region: 'oilskin',
        lining: 'coat-lining',
        trim: 'oilskin',
        fit: 1.7,
        armTo: 6,
        opening: (y) =>
          curve(
            [
              [52, 0.9],
              [66, 0.8],
              [76, 1.4],
              [80, 2.6],
            ],
            y,
          ),
        skirt: [
          { y: 47, w: 13, front: 9.4, back: 10.8 },
          { y: 38.5, w: 14.4, front: 10.8, back: 12 },
          { y: 31, w: 15.2, front: 11.4, back: 12.8, pleat: 0.03 },
        ],
        cuff: [
          [0.5, 0.1],
          [0.3, 1.5],
        ],
        collar: [
          [2.0, 0.7],
          [0.5, 1.1],
          [-1.2, 1.0],
        ],
        collarDrop: 0.3,
      })
      for (const y of [72, 66, 60, 54]) s.merge(box(add(d.front(0, y, 2.4), [0, 0, 0]), [1.9, 0.42, 0.28], 'rope'))
      return s
    },
    { tags: ['long-coat'], excludes: ['bulky-skirt'] },
  ),
  outerwear('jacket-short', 'Pea jacket', 7, 5, undefined, (d) => {
    const s = coat(d, {
      region: 'coat',
      lining: 'coat-lining',
      trim: 'coat',
      fit: 1.35,
      armTo: 6,
      opening: (y) =>
        curve(
          [
            [52, 1.2],
            [66, 1.2],
            [76, 2.6],
            [80, 3.8],
          ],
          y,
        ),
      skirt: [
        { y: 48.5, w: 12, front: 8.2, back: 10.2 },
        { y: 44.5, w: 12.7, front: 8.8, back: 11 },
      ],
      cuff: [
        [0.45, 0.2],
        [0.2, 1.0],
      ],
      collar: [
        [2.1, 0.8],
        [0.7, 1.6],
      ],
      collarDrop: 0.7,
      lapel: [
        [66, 0.4],
        [70, 2.8],
        [74, 4.8],
        [75.4, 3.4],
        [78.6, 2.4],
      ],
    })
    buttons(s, d, 3.6, [63, 57.5, 52], 1.9)
    return s
  }),
  outerwear('waistcoat', 'Waistcoat', 6, 4, ['torso', 'hips', 'neck'], (d) => {
    const front = (f: Face) => (f.tag === 'torso' || f.tag === 'neck') && f.col === 0
    const keep = bands({ torso: [1, 6], neck: [0, 0] })
    const s = d.wear(
      (f) => keep(f) && !front(f),
      'waistcoat',
      (p) => 0.95 + 0.15 * bump(p.u, 60, 6),
    )
    closeFront(
      s,
      d,
      (y) =>
        curve(
          [
            [52, 2.2],
            [56, 0.5],
            [66, 0.45],
            [74, 3.2],
            [79, 4.4],
          ],
          y,
        ),
      1.05,
    )
    const hem = s.ring('torso', 1)
    skirt(s, hem, false, [{ y: 49.5, w: 11.3, front: 7.6, back: 9.4 }], 'waistcoat')
    s.thicken(0.35, 'coat-lining', (f) => f.col === 0 || f.tag === 'skirt')
    for (const y of [69, 65, 61, 57]) s.merge(stud(d.front(0.4, y, 1.25), [0, 0, 1], 0.5, 0.35, 'metal'))
    return s
  }),
  outerwear('smock', 'Fisher’s smock', 6, 5, undefined, (d) => {
    const s = d.wear(bands({ torso: [1, 6], neck: [0, 0], arm: [0, 5] }), 'smock', (p) =>
      isArm(p) ? 1.5 + 0.05 * Math.max(0, p.u) : 1.5 + 0.9 * smoothstep(70, 52, p.u),
    )
    skirt(
      s,
      s.ring('torso', 1),
      true,
      [
        { y: 46, w: 13.2, front: 10, back: 10.8, pleat: 0.03 },
        { y: 39, w: 14, front: 10.8, back: 11.8, pleat: 0.05 },
      ],
      'smock',
    )
    cuffs(
      s,
      [
        [0.4, 1.0],
        [-0.5, 0.6],
      ],
      'smock-trim',
    )
    collar(
      s,
      true,
      [
        [0.7, 0.8],
        [-0.2, 1.4],
        [-1.2, 1.2],
      ],
      'smock-trim',
      0.3,
    )
    s.thicken(0.4, 'smock', turnedOver)
    s.merge(patch(d, [64, 70.5], [20, 50], [2.9, 2.6], 0.5, 'smock-trim'))
    return s
  }),
  garment(
    'apron-net',
    'Net mender’s apron',
    'over',
    7,
    5,
    ['torso', 'hips', 'thighs', 'leftShin', 'rightShin'],
    (d) => {
      const angles = [-62, -40, -20, 0, 20, 40, 62]
      // below the hips it hangs wide enough to go over a skirt
      const at = (y: number, lift: number, degrees: number): V3 => {
        if (y >= 49) return d.trunkRing(y, lift, 360)[(Math.round(degrees) + 360) % 360]!
        const a = (degrees * Math.PI) / 180
        const wide = curve(WIDE_SKIRT.map(({ y, w }) => [y, w]).reverse() as [number, number][], y) + lift
        const deep = curve(WIDE_SKIRT.map(({ y, front }) => [y, front]).reverse() as [number, number][], y) + lift
        return [wide * Math.sign(a) * Math.abs(Math.sin(a)) ** SQUARISH, y, deep * Math.cos(a) ** SQUARISH - 0.5]
      }
      const row = (y: number, lift: number, spread = 1) => angles.map((a) => at(y, lift, a * spread))
      const s = slab(
        [
          row(32, 2),
          row(34, 2.1),
          row(41, 2.4),
          row(49.5, 2.4),
          row(54, 2.0),
          row(60, 1.7),
          row(66, 1.7, 0.62),
          row(70.5, 1.7, 0.56),
          row(72.5, 1.7, 0.55),
        ],
        0.45,
        'net',
        'net',
        'apron',
      )
      // bound with cord at hem and bib, a pocket for twine, cork floats along the hem
      for (const f of s.faces) if (f.row === 0 || f.row === 7) f.region = 'rope'
      const pocket = (y: number, lift: number, half: number) => [-1, -1 / 3, 1 / 3, 1].map((k) => at(y, lift, k * half))
      s.merge(slab([pocket(42, 2.8, 24), pocket(48.9, 2.9, 20)], 0.5, 'net', 'net', 'pocket'))
      s.merge(tube(pocket(48.9, 3.1, 20), 0.4, 4, 'rope'))
      row(32, 2.5).forEach(
        (at, i) =>
          i % 2 === 0 &&
          s.merge(
            lathe(
              [
                [-0.9, 0.8],
                [0, 1.15],
                [0.9, 0.8],
              ],
              6,
              'cork',
              at,
            ),
          ),
      )
      const strap = (sign: number) =>
        bentPath(
          [
            row(72.5, 2.0, 0.55)[sign > 0 ? 6 : 0]!,
            d.from([sign * 6.6, 77, 1.5], [0, 1, 0.4], 1.2),
            d.from([sign * 6.0, 76, -3.5], [0, 1, -0.3], 1.2),
            ...[
              [4.4, 74],
              [1.4, 67],
              [-2, 60.2],
            ].map(([x, y]) => d.from([sign * x!, y!, -1], [0, 0, -1], 1.3)),
          ],
          8,
        )
      for (const sign of [1, -1]) s.merge(tube(strap(sign), 0.55, 4, 'leather'))
      const back = d.trunkRing(59.5, 1.6, 24)
      s.merge(tube([...back.slice(4, 21)], 0.5, 4, 'leather'))
      return s
    },
  ),
  outerwear('shawl', 'Knitted shawl', 8, 5, ['torso', 'neck', 'arms'], (d) => {
    const s = d.wear(bands({ torso: [5, 6], neck: [0, 0], arm: [0, 1] }), 'shawl', (p) =>
      isArm(p) ? 2.0 : 2.2 + 0.4 * bump(p.u, 74, 4),
    )
    for (const rim of s.rims()) {
      const isNeck = rim.every((i) => s.points[i]!.limb === 'neck')
      if (isNeck) continue
      rim.forEach((i) => {
        const p = s.points[i]!
        p.at = add(along(p.at, unit([p.at[0], 0, p.at[2]]), 0.7), [0, -1.6, 0])
      })
    }
    collar(
      s,
      true,
      [
        [1.2, 1.0],
        [-0.8, 1.3],
      ],
      'shawl',
    )
    s.thicken(0.5, 'shawl-trim', (f) => f.tag !== 'torso' || f.row === 5)
    const knot = d.front(0.6, 66.5, 3.0)
    s.merge(
      lathe(
        [
          [-1.4, 0.9],
          [0, 1.7],
          [1.4, 0.9],
        ],
        6,
        'shawl',
        knot,
      ),
    )
    s.merge(
      slab(
        [
          [add(knot, [-2.6, -8.5, 0.5]), add(knot, [0.4, -9.2, 0.6])],
          [add(knot, [-1.1, -0.5, 0.2]), add(knot, [0.7, -0.5, 0.4])],
        ],
        0.5,
        'shawl',
        'shawl-trim',
      ),
    )
    s.merge(
      slab(
        [
          [add(knot, [1.0, -7.0, 0.3]), add(knot, [3.6, -6.4, 0])],
          [add(knot, [-0.2, -0.3, 0.4]), add(knot, [1.3, -0.3, 0.2])],
        ],
        0.5,
        'shawl',
        'shawl-trim',
      ),
    )
    return s
  }),
]

function trousers(d: Dummy, to: number, region: string, fit: (p: Point) => number): Sculpt {
  return d.wear(bands({ torso: [0, 1], leg: [0, to] }), region, fit)
}

/** Shirts go beneath it. */
const TUCKED_IN = { presses: ['top'] }

const LEGS: PartSpec[] = [
  garment(
    'trousers',
    'Trousers',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 6, 'trousers', (p) => (isLeg(p) ? 1.0 + 0.55 * smoothstep(28, 12, p.u) : 0.8))
      legHems(
        s,
        [
          [0.5, 0.2],
          [0.1, 2.0],
          [-0.7, 0.1],
        ],
        'trousers',
      )
      s.merge(thickBand(d.trunkRing(55.2, 0.75, 10), d.trunkRing(57.6, 0.85, 10), 0.35, 'trousers', 'waistband'))
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'breeches',
    'Breeches',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 4, 'trousers', (p) => (isLeg(p) ? 1.2 + 0.7 * bump(p.u, 33, 8) : 0.85))
      legHems(
        s,
        [
          [-0.4, 0.5],
          [0.5, 0.2],
          [0, 1.4],
          [-0.5, 0.1],
        ],
        'trousers-trim',
      )
      const socks = d.wear(
        (f) => f.tag.endsWith('Leg') && f.row >= 5,
        'socks',
        () => 0.35,
      )
      s.merge(socks)
      return s
    },
    TUCKED_IN,
  ),
  garment(
    'trousers-rolled',
    'Rolled trousers',
    'legs',
    4,
    5,
    ['hips', 'thighs', 'leftShin', 'rightShin', 'torso'],
    (d) => {
      const s = trousers(d, 5, 'trousers', (p) => (isLeg(p) ? 1.1 + 0.4 * smoothstep(30, 18, p.u) : 0.8))
      legHems(
        s,
        [
          [0.7, 0.1],
          [0.2, -2.4],
          [0.5, 0.3],
          [0.1, -0.6],
        ],
        'trousers-trim',
      )
      return s.thicken(0.35, 'trousers-trim', turnedOver)
    },
    TUCKED_IN,
  ),
  garment(
    'waders',
    'Waders',
    'legs',
    5,
    6,
    undefined,
    (d) => {
      const s = d.wear(bands({ torso: [0, 4], leg: [0, 7], foot: [0, 3] }), 'waders', (p) => {
        if (isLeg(p)) return 1.5 + 0.8 * smoothstep(30, 8, p.u)
        if (p.limb.endsWith('Foot')) return 1.5
        return 1.35
      })
      closeToes(s, 'waders')
      flattenSoles(s, 'sole')
      const top = rimAt(s, (p) => p.limb === 'torso')
      flare(
        s,
        top,
        [0, 1, 0],
        [
          [0.4, 0.4],
          [0, 1.2],
          [-1.0, 0.1],
        ],
        'waders',
      )
      s.thicken(0.4, 'waders', turnedOver)
      for (const sign of [1, -1]) {
        const strap = bentPath(
          [
            d.front(sign * 5.2, 68.5, 1.9),
            d.front(sign * 6.2, 76, 1.6),
            [sign * 6.6, 80.6, -0.8],
            [sign * 5.2, 74, -9.6],
            [sign * 4, 67.5, -9.2],
          ],
          7,
        )
        s.merge(tube(strap, 0.75, 4, 'leather', 'strap', 0.45))
        s.merge(stud(d.front(sign * 5.2, 68.6, 2.2), [0, 0, 1], 0.8, 0.5, 'metal'))
      }
      return s
    },
    { ...TUCKED_IN, tags: ['whole-leg'], covers: ['feet'] },
  ),
  garment(
    'skirt-work',
    'Work skirt',
    'legs',
    5,
    5,
    ['hips', 'thighs', 'torso', 'leftShin', 'rightShin'],
    (d) => {
      const s = new Sculpt()
      s.region = 'skirt'
      s.limb = 'torso'
      const ring = (y: number, offset: number) =>
        d.trunkRing(y, offset, 20).map((at) => s.add(at, { row: 1, u: y, out: unit([at[0], 0, at[2]]) }))
      const top = ring(58, 0.7)
      const waist = ring(54, 1.0)
      s.loft(waist, top, true, { tag: 'skirt', region: 'skirt-trim' })
      const hip = ring(49.5, 1.5)
      s.loft(hip, waist, true, { tag: 'skirt' })
      skirt(s, hip, true, WIDE_SKIRT, 'skirt')
      for (const f of s.faces) if (f.v.every((p) => s.at(p)[1] <= 20.1)) f.region = 'skirt-trim'
      return s.thicken(0.45, 'skirt')
    },
    { ...TUCKED_IN, tags: ['bulky-skirt'] },
  ),
]

/** Replaces the toes of a peeled foot by a smooth toe cap. */
function closeToes(s: Sculpt, region: string): void {
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
function flattenSoles(s: Sculpt, region: string): void {
  const floor = Math.min(...s.points.map((p) => p.at[1]))
  for (const p of s.points) if (p.at[1] < 0.6) p.at = [p.at[0], Math.max(floor, -1.2), p.at[2]]
  for (const f of s.faces) if (/Foot$/.test(f.tag) && f.v.every((i) => s.at(i)[1] < 0.7)) f.region = region
}

interface ShoeSpec {
  region: string
  sole: string
  /** First leg band covered; 8 for none. */
  from: number
  fit: number
  cuff?: readonly (readonly [number, number])[]
  cuffRegion?: string
  soleHeight: number
  toe: number
}

/** Foot and shaft with a rounded toe, on a separate slab of a sole that sticks out. */
function shoe(d: Dummy, spec: ShoeSpec): Sculpt {
  const s = new Sculpt()
  const feet = d.wear(
    (f) => (/Leg$/.test(f.tag) && f.row >= spec.from) || (/Foot$/.test(f.tag) && f.row >= 0 && f.row <= 3),
    spec.region,
    (p) => (p.limb.endsWith('Foot') ? spec.fit : spec.fit * 0.9 + 0.4 * smoothstep(8, 20, p.u)),
  )
  // the toe rows end flat: pull the front out to a rounded cap
  for (const side of ['left', 'right'])
    for (const rim of feet.rims().filter((r) => r.every((i) => feet.points[i]!.limb === `${side}Foot`))) {
      for (const i of rim) {
        const p = feet.points[i]!
        p.at = [p.at[0], p.at[1] < 0.9 ? 0 : p.at[1] + 0.9, p.at[2]]
      }
      const tip = rim.map((i) => {
        const p = feet.points[i]!
        const center: V3 = [side === 'left' ? 9.9 : -9.9, 1.2, p.at[2]]
        const near = lerp(p.at, center, 0.16)
        return feet.add([near[0], p.at[1] < 0.9 ? 0 : Math.max(0.9, near[1]), p.at[2] + spec.toe], {
          limb: p.limb,
          row: 5,
          u: p.u,
          out: p.out,
        })
      })
      rim.forEach((p, i) => {
        const j = (i + 1) % rim.length
        feet.face([rim[j]!, p, tip[i]!, tip[j]!], { region: spec.region, tag: `${side}Foot` })
      })
      feet.cap([...tip].reverse(), [0, 0, 0.9], { region: spec.region, tag: `${side}Foot` })
    }
  for (const p of feet.points) if (p.at[1] < 0.75) p.at = [p.at[0], 0, p.at[2]]
  if (spec.cuff) {
    const up: V3 = [0, 1, 0]
    for (const left of [true, false])
      flare(
        feet,
        rimAt(feet, (p) => isLeg(p) && onLeft(p) === left),
        up,
        spec.cuff,
        spec.cuffRegion ?? spec.region,
      )
  }
  feet.thicken(0.4, spec.region, (f) => f.tag === 'cuff')
  s.merge(feet)
  // soles: the outline of the foot's lowest points, pushed out
  for (const side of [1, -1]) {
    const outline: V3[] = [
      [-2.9, 0, 15.6],
      [0.2, 0, 17.2],
      [3.4, 0, 15.2],
      [4.7, 0, 9.5],
      [3.9, 0, 2],
      [3.6, 0, -5],
      [0, 0, -7.4],
      [-3.4, 0, -5],
      [-3.3, 0, 2],
      [-4.5, 0, 9.5],
    ].map(([x, y, z]) => [side * (7.3 + x! + (z! + 0.9) * 0.2), y!, z! + (spec.toe - 2.9)] as V3)
    const sole = new Sculpt()
    sole.region = spec.sole
    sole.limb = side > 0 ? 'leftFoot' : 'rightFoot'
    const low = outline.map((p) => sole.add([p[0], -spec.soleHeight, p[2]]))
    const high = outline.map((p) => sole.add([p[0], 0.35, p[2]]))
    sole.loft(low, high, true)
    sole.cap(high)
    sole.cap([...low].reverse())
    if (side < 0) sole.flip()
    s.merge(sole)
  }
  return s
}

const FOOT_BINDS = ['leftShin', 'rightShin']
const FEET: PartSpec[] = [
  garment(
    'boots-sea',
    'Sea boots',
    'feet',
    5,
    5,
    FOOT_BINDS,
    (d) =>
      shoe(d, {
        region: 'leather',
        sole: 'sole',
        from: 5,
        fit: 1.5,
        toe: 3.5,
        soleHeight: 1.5,
        cuff: [
          [0.7, 0.8],
          [0.5, -2.6],
        ],
      }),
    { presses: ['legs'] },
  ),
  garment(
    'boots-ankle',
    'Ankle boots',
    'feet',
    5,
    5,
    FOOT_BINDS,
    (d) =>
      shoe(d, {
        region: 'leather',
        sole: 'sole',
        from: 7,
        fit: 1.05,
        toe: 3.3,
        soleHeight: 1.3,
        cuff: [
          [0.4, 0.4],
          [0, 0.8],
          [-0.7, 0],
        ],
      }),
    { presses: ['legs'] },
  ),
  garment('clogs', 'Clogs', 'feet', 5, 3, FOOT_BINDS, (d) =>
    shoe(d, { region: 'wood', sole: 'wood', from: 9, fit: 1.35, toe: 4.3, soleHeight: 2.4, cuff: undefined }),
  ),
  garment('shoes-buckled', 'Buckled shoes', 'feet', 5, 3, FOOT_BINDS, (d) => {
    const s = shoe(d, { region: 'leather', sole: 'sole', from: 9, fit: 0.95, toe: 3.3, soleHeight: 1.1 })
    for (const side of [1, -1])
      s.merge(
        box([side * 9.4, 5.3, 7.4], [1.5, 0.5, 1.2], 'metal', 0.8, [
          [1, 0, 0],
          [0, 0.8, 0.6],
          [0, -0.6, 0.8],
        ]),
      )
    return s
  }),
]

/** Sleeves go beneath it. */
const SLEEVES_IN = { presses: ['top'] }

const HANDS: PartSpec[] = [
  garment(
    'gloves',
    'Work gloves',
    'hands',
    4,
    2,
    ['hands', 'arms'],
    (d) => {
      const s = d.wear(bands({ arm: [7, 7], hand: [-1, 9] }), 'leather', (p) => (p.limb.endsWith('Hand') ? 0.32 : 0.7))
      cuffsBack(s)
      return s.thicken(0.3, 'leather', turnedOver)
    },
    SLEEVES_IN,
  ),
  garment(
    'wristwraps',
    'Wrist wraps',
    'hands',
    4,
    2,
    ['hands', 'arms'],
    (d) => {
      const s = d.wear(bands({ arm: [6, 7], hand: [0, 1] }), 'wraps', (p) => 0.42 + 0.12 * (p.row % 2))
      return s
    },
    SLEEVES_IN,
  ),
]

function cuffsBack(s: Sculpt): void {
  for (const left of [true, false]) {
    const rim = rimAt(s, (p) => isArm(p) && onLeft(p) === left)
    flare(
      s,
      rim,
      scale(sideAxis(left), -1),
      [
        [0.5, 0.2],
        [0.7, 1.6],
        [-0.5, 0.2],
      ],
      'leather',
    )
  }
}

/** Draws in all that is worn beneath it. */
const CINCHES = { presses: ['top', 'legs', 'over'] }

const BELTS: PartSpec[] = [
  garment(
    'belt-wide',
    'Wide belt',
    'belt',
    8,
    4,
    ['hips', 'torso'],
    (d) => {
      const s = thickBand(d.trunkRing(53.6, 1.25, 16), d.trunkRing(57.2, 1.25, 16), 0.6, 'leather', 'belt')
      const at = d.front(0, 55.4, 2.2)
      s.merge(box(at, [2.3, 2.3, 0.5], 'metal', 0.85))
      s.merge(box(add(at, [0, 0, 0.45]), [1.2, 1.2, 0.25], 'leather'))
      return s
    },
    { excludes: ['long-coat'], ...CINCHES },
  ),
  garment(
    'belt-rope',
    'Rope belt with pouch',
    'belt',
    8,
    4,
    ['hips', 'torso'],
    (d) => {
      const s = ropeRing(d.trunkRing(55.6, 1.7, 18), 0.85, 5, 'rope')
      s.merge(ropeRing(d.trunkRing(54.0, 1.9, 18), 0.8, 5, 'rope'))
      const side = d.trunkRing(53, 3.0, 36)[7]!
      s.merge(
        lathe(
          [
            [-7.4, 1.2],
            [-6.2, 2.6],
            [-3, 3.0],
            [-1, 2.2],
            [0, 1.3],
            [1.0, 1.7],
          ],
          7,
          'leather',
          side,
          0.75,
        ),
      )
      s.merge(
        tube(
          bentPath([d.front(-2.4, 55, 2.4), d.front(-3, 50, 3.2), d.front(-3.4, 46, 4.2)], 4),
          [0.7, 0.6, 0.6, 0.85],
          5,
          'rope',
        ),
      )
      return s
    },
    { excludes: ['long-coat'], ...CINCHES },
  ),
  garment(
    'sash',
    'Sash',
    'belt',
    8,
    4,
    ['hips', 'torso'],
    (d) => {
      const s = thickBand(d.trunkRing(53, 1.5, 16), d.trunkRing(58.5, 1.3, 16), 0.55, 'scarf', 'belt')
      const knot = d.trunkRing(55.5, 2.6, 36)[33]!
      s.merge(
        lathe(
          [
            [-1.6, 1.0],
            [0, 2.0],
            [1.6, 1.0],
          ],
          6,
          'scarf',
          knot,
        ),
      )
      s.merge(
        slab(
          [
            [add(knot, [-2.8, -12, 1.4]), add(knot, [0.8, -12.8, 1.6])],
            [add(knot, [-1.8, -6, 0.9]), add(knot, [0.9, -6, 1.1])],
            [add(knot, [-0.9, 0, 0.2]), add(knot, [0.6, 0, 0.6])],
          ],
          0.45,
          'scarf',
        ),
      )
      return s
    },
    { excludes: ['long-coat'], ...CINCHES },
  ),
]

export default [...TOPS, ...OVERS, ...LEGS, ...FEET, ...HANDS, ...BELTS]

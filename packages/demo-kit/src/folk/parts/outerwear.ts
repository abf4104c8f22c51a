import { bands, bentPath, slab, stud } from '../../model/garment.ts'
import { box, lathe, tube, type Face } from '../../model/Sculpt.ts'
import { add, along, bump, curve, smoothstep, unit, type V3 } from '../../model/vector.ts'
import { buttons, coat, outerwear } from './coatCut.ts'
import { isArm, turnedOver, cuffs, SQUARISH, WIDE_SKIRT, skirt, closeFront, collar, patch } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

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

export default OVERS

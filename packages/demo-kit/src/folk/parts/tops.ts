import { slab, stud, thickBand } from '../../model/garment.ts'
import { tube } from '../../model/Sculpt.ts'
import { along, bump, type V3 } from '../../model/vector.ts'
import { isArm, turnedOver, cuffs, collar, shirt } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

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
  garment('shirt-striped', 'Striped shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 6, 'shirt', 0.6)
    cuffs(
      s,
      [
        [0.4, 0.2],
        [0, 1.2],
        [-0.5, 0.1],
      ],
      'knit',
    )
    collar(
      s,
      true,
      [
        [0.2, 1.0],
        [-0.7, 0.9],
      ],
      'knit',
      0.5,
    )
    for (const f of s.faces) if (/^torso$|Arm$/.test(f.tag) && f.row % 2 === 1) f.region = 'knit'
    return s.thicken(0.3, 'shirt', turnedOver)
  }),
  garment('rollneck', 'Roll-neck', 'top', 3, 5, undefined, (d) => {
    const s = shirt(d, 7, 'knit', 0.85)
    cuffs(
      s,
      [
        [0.6, 0],
        [0.2, -2.4],
        [-0.4, -0.2],
      ],
      'knit',
    )
    collar(
      s,
      true,
      [
        [2.0, 0.3],
        [2.0, 0.0],
        [-0.2, 0.8],
        [-2.4, 0.3],
        [-0.6, -0.3],
      ],
      'knit-trim',
    )
    return s.thicken(0.35, 'knit', turnedOver)
  }),
  garment('shirt-sleeveless', 'Sleeveless shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 0, 'shirt', 0.55)
    cuffs(
      s,
      [
        [0.6, 0.3],
        [-0.5, 0.3],
      ],
      'trim',
    )
    collar(
      s,
      true,
      [
        [0.1, 0.9],
        [-0.6, 0.6],
      ],
      'trim',
      1.4,
    )
    s.thicken(0.3, 'shirt', turnedOver)
    s.merge(tube([d.front(-0.9, 72.5, 0.9), d.front(0.9, 70, 0.9), d.front(-0.8, 67.5, 0.9)], 0.24, 4, 'rope'))
    s.merge(tube([d.front(0.9, 72.5, 0.95), d.front(-0.9, 70, 0.95), d.front(0.8, 67.5, 0.95)], 0.24, 4, 'rope'))
    return s
  }),
  garment('blouse', 'Wide blouse', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 6, 'shirt', 0.7)
    for (const p of s.points) if (isArm(p)) p.at = along(p.at, p.out, 2.8 * bump(p.u, 22, 13))
    cuffs(
      s,
      [
        [-0.6, 0.6],
        [-0.3, 0.9],
        [0.9, 1.2],
        [-0.3, 0.1],
      ],
      'shirt',
    )
    collar(
      s,
      true,
      [
        [0.9, 0.3],
        [0.5, 1.4],
        [-1.5, 1.3],
      ],
      'paper',
      1.2,
    )
    s.thicken(0.3, 'paper', turnedOver)
    for (const y of [70, 66, 62]) s.merge(stud(d.front(0, y, 0.75), [0, 0.1, 1], 0.42, 0.25, 'trim'))
    return s
  }),
  garment('shirt-ruffled', 'Ruffled shirt', 'top', 3, 4, undefined, (d) => {
    const s = shirt(d, 7, 'shirt', 0.55)
    cuffs(
      s,
      [
        [0.3, 0.2],
        [1.1, 1.3],
        [0.5, 0.9],
      ],
      'paper',
    )
    collar(
      s,
      true,
      [
        [1.4, 0.2],
        [0.3, 0.6],
      ],
      'paper',
      0.3,
    )
    s.thicken(0.3, 'paper', turnedOver)
    // a frill down the front, in folds
    const fold = (y: number, out: number) => [-2.1, 0, 2.1].map((x) => d.front(x, y, out + (x === 0 ? 0.6 : 0)))
    for (const [y, wide] of [
      [74, 1.5],
      [70.5, 1.35],
      [67, 1.2],
      [63.5, 1.1],
    ] as const)
      s.merge(slab([fold(y - 2.6, wide), fold(y, 0.75)], 0.28, 'paper'))
    return s
  }),
  garment('shirt-wrapped', 'Wrapped shirt', 'top', 3, 5, undefined, (d) => {
    const s = shirt(d, 5, 'smock', 0.8)
    cuffs(
      s,
      [
        [0.8, 0.3],
        [0.5, 1.6],
        [-0.5, 0.1],
      ],
      'smock-trim',
    )
    collar(
      s,
      true,
      [
        [0.8, 0.7],
        [-0.9, 0.9],
      ],
      'smock-trim',
      1.1,
    )
    s.thicken(0.35, 'smock', turnedOver)
    // its edge goes across the breast to the hip, held by a sash
    const edge = [
      [-2.6, 77],
      [0.4, 71],
      [3.4, 65],
      [6.4, 59.5],
    ].map(([x, y]) => d.front(x!, y!, 1.15))
    s.merge(
      slab(
        [edge.map(([x, y, z]): V3 => [x - 2.2, y - 1.6, z]), edge.map(([x, y, z]): V3 => [x, y, z + 0.25])],
        0.4,
        'smock-trim',
      ),
    )
    s.merge(thickBand(d.trunkRing(55.6, 1.0, 14), d.trunkRing(59.4, 1.05, 14), 0.45, 'scarf', 'sash'))
    return s
  }),
]

export default TOPS

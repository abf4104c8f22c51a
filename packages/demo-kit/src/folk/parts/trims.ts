import { bentPath, lock, stud } from '../../model/garment.ts'
import { lathe, ropeRing, Sculpt, tube } from '../../model/Sculpt.ts'
import type { V3 } from '../../model/vector.ts'
import { carried, type PartSpec } from './spec.ts'

/*
 * Small things that a hand sets on skin or cloth: each lies on its origin, its front (+z) away from what it is on, its
 * top up.
 */

const trim = (id: string, name: string, make: PartSpec['make']) => carried(id, name, 'trims', 'breast', make)

const ring = (r: number, n: number, z: number): V3[] =>
  Array.from({ length: n }, (_, k) => [r * Math.cos((2 * Math.PI * k) / n), r * Math.sin((2 * Math.PI * k) / n), z])

function button(): Sculpt {
  const s = stud([0, 0, -0.15], [0, 0, 1], 0.85, 0.5, 'metal', 8)
  s.merge(stud([0, 0, 0.25], [0, 0, 1], 0.4, 0.22, 'leather', 6))
  return s
}

/** A darned square, a little out of true, with stitches at its corners. */
function patch(): Sculpt {
  const s = new Sculpt()
  s.region = 'paint'
  const low = (
    [
      [-2, -1.8],
      [1.9, -2],
      [2.1, 1.9],
      [-1.8, 2.1],
    ] as const
  ).map(([x, y]) => s.add([x, y, -0.8]))
  const high = (
    [
      [-1.9, -1.7],
      [1.8, -1.9],
      [2.0, 1.8],
      [-1.7, 2.0],
    ] as const
  ).map(([x, y]) => s.add([x, y, 0.7]))
  s.loft(low, high, true)
  s.cap(high, [0, 0, 0.12])
  for (const [x, y, a] of [
    [-1.75, 0.4, 0],
    [1.85, -0.3, 0],
    [0.2, 1.9, 1.57],
    [-0.3, -1.85, 1.57],
  ] as const) {
    const [c, d] = [Math.cos(a) * 0.6, Math.sin(a) * 0.6]
    s.merge(
      tube(
        [
          [x - c, y - d, 0.76],
          [x + c, y + d, 0.76],
        ],
        0.16,
        4,
        'rope',
        'stitch',
      ),
    )
  }
  return s
}

function brooch(): Sculpt {
  const s = new Sculpt()
  s.merge(ropeRing(ring(1.25, 9, 0.25), 0.34, 5, 'metal'))
  s.merge(stud([0, 0, -0.1], [0, 0, 1], 0.95, 0.75, 'glow', 7))
  s.merge(
    tube(
      [
        [-2, -0.9, 0.35],
        [2, 0.9, 0.35],
      ],
      [0.1, 0.16],
      4,
      'metal',
      'pin',
    ),
  )
  return s
}

/** A gull's feather, stuck in by its quill. */
function feather(): Sculpt {
  const s = new Sculpt()
  const path: V3[] = bentPath(
    [
      [0, -0.6, 0],
      [0.3, 2.4, 0.7],
      [1.1, 5.6, 0.9],
      [2.3, 8.6, 0.3],
    ],
    6,
  )
  s.merge(lock(path, 0.95, 'paper', 4, 'feather'))
  s.merge(
    tube(
      [
        [-0.15, -1.6, 0.1],
        [0, -0.2, 0.25],
        [0.3, 2.4, 0.9],
      ],
      [0.12, 0.18, 0.1],
      4,
      'rope',
      'quill',
    ),
  )
  return s
}

/** A net float on a loop of twine. */
function corkCharm(): Sculpt {
  const s = lathe(
    [
      [-1.1, 0.6],
      [-0.6, 1.05],
      [0.6, 1.05],
      [1.1, 0.6],
    ],
    7,
    'cork',
    [0, -2.2, 0.7],
    0.85,
  )
  s.merge(
    tube(
      [
        [0, 0.2, 0.15],
        [0.25, -0.5, 0.6],
        [0, -1.1, 0.7],
      ],
      0.2,
      4,
      'rope',
      'twine',
    ),
  )
  s.merge(stud([0, 0.2, -0.1], [0, 0, 1], 0.4, 0.4, 'metal', 5))
  return s
}

const TRIMS: PartSpec[] = [
  trim('trim-button', 'Button', button),
  trim('trim-patch', 'Patch', patch),
  trim('trim-brooch', 'Lamp brooch', brooch),
  trim('trim-feather', 'Gull feather', feather),
  trim('trim-cork', 'Cork charm', corkCharm),
]
export default TRIMS

import { slab, type Dummy } from '../../model/garment.ts'
import { box, lathe, ropeRing } from '../../model/Sculpt.ts'
import { add, type V3 } from '../../model/vector.ts'
import { garment, type PartSpec } from './spec.ts'

/** Rings around the neck at a height in body units, by their distance from it. */
function neckRing(d: Dummy, y: number, lift: number, n: number, lean = 0.28): V3[] {
  return Array.from({ length: n }, (_, k) => {
    const a = (2 * Math.PI * k) / n
    const dir: V3 = [Math.sin(a), 0, Math.cos(a)]
    const at: V3 = [0, y - dir[2] * lean * 6, -1.6]
    return d.from(at, dir, lift)
  })
}

const NECKS: PartSpec[] = [
  garment('scarf', 'Wool scarf', 'neck', 8, 3, ['neck', 'torso'], (d) => {
    const s = ropeRing(neckRing(d, 82.2, 1.2, 14), 1.9, 6, 'scarf', 0.75)
    const at = d.front(-2.4, 76, 1.6)
    s.merge(
      slab(
        [
          [add(at, [-2.4, -13, 0.9]), add(at, [1.4, -13.2, 1.1])],
          [add(at, [-2.0, -5, 0.9]), add(at, [1.5, -5, 1.1])],
          [add(at, [-1.6, 3.2, 0.6]), add(at, [1.7, 3.4, 0.9])],
        ],
        0.8,
        'scarf',
        'scarf',
      ),
    )
    for (let i = 0; i < 3; i++) s.merge(box(add(at, [-1.8 + i * 1.35, -13.9, 0.7]), [0.45, 0.9, 0.3], 'scarf-trim'))
    return s
  }),
  garment('kerchief', 'Kerchief', 'neck', 8, 3, ['neck', 'torso'], (d) => {
    const s = ropeRing(neckRing(d, 81.4, 0.8, 12), 1.05, 5, 'scarf', 0.8)
    const knot = d.front(0, 77.6, 1.4)
    s.merge(
      lathe(
        [
          [-0.9, 0.6],
          [0, 1.2],
          [0.9, 0.6],
        ],
        6,
        'scarf',
        knot,
      ),
    )
    s.merge(
      slab(
        [
          [add(knot, [-3.2, -5.2, 0.4]), add(knot, [-0.8, -5.6, 0.6])],
          [add(knot, [-0.7, -0.2, 0.3]), add(knot, [0.2, -0.2, 0.4])],
        ],
        0.4,
        'scarf',
      ),
    )
    s.merge(
      slab(
        [
          [add(knot, [0.9, -4.9, 0.6]), add(knot, [3.0, -4.2, 0.3])],
          [add(knot, [-0.2, -0.2, 0.4]), add(knot, [0.7, -0.2, 0.3])],
        ],
        0.4,
        'scarf',
      ),
    )
    return s
  }),
  garment(
    'cork-floats',
    'String of cork floats',
    'neck',
    8,
    3,
    ['neck', 'torso'],
    (d) => {
      const ring = Array.from({ length: 16 }, (_, k): V3 => {
        const a = (2 * Math.PI * k) / 16
        // low on the chest, over the shoulders beside the neck, level behind
        const rise = 0.62 * Math.abs(Math.sin(a)) - (Math.cos(a) > 0 ? 0.6 : 0.02) * Math.abs(Math.cos(a))
        return d.from([0, 77, -1.2], [Math.sin(a) * 0.85, rise, Math.cos(a)], 1.3)
      })
      const s = ropeRing(ring, 0.35, 4, 'rope')
      ring.forEach(
        (at, k) =>
          k % 2 === 0 &&
          (k < 4 || k > 12) &&
          s.merge(
            lathe(
              [
                [-1.1, 1.0],
                [0, 1.5],
                [1.1, 1.0],
              ],
              7,
              'cork',
              at,
            ),
          ),
      )
      return s
    },
    { tags: ['distinctive'] },
  ),
]

export default NECKS

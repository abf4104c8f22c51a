import { bentPath, slab, thickBand } from '../../model/garment.ts'
import { box, lathe, ropeRing, tube } from '../../model/Sculpt.ts'
import { add } from '../../model/vector.ts'
import { garment, type PartSpec } from './spec.ts'

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

export default BELTS

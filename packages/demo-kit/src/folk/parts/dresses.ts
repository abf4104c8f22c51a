import { thickBand, type Dummy } from '../../model/garment.ts'
import { tube, type Sculpt } from '../../model/Sculpt.ts'
import { along, bump } from '../../model/vector.ts'
import { collar, cuffs, isArm, shirt, skirt, turnedOver } from './cut.ts'
import { garment, type PartSpec } from './spec.ts'

/* Dresses: a bodice and a skirt in one, in place of shirt and legwear. */

const DRESS = { covers: ['legs'], tags: ['bulky-skirt', 'dress'] }

/** A bodice down to the hips, and below it rings of cloth. */
function dress(d: Dummy, armTo: number, top: string, cloth: string, rings: Parameters<typeof skirt>[3]): Sculpt {
  const s = shirt(d, armTo, top, 0.75)
  skirt(s, s.ring('torso', 1), true, rings, cloth)
  return s
}

const DRESSES: PartSpec[] = [
  garment(
    'dress-market',
    'Market dress',
    'top',
    5,
    4,
    undefined,
    (d) => {
      const s = dress(d, 2, 'shirt', 'skirt', [
        { y: 47, w: 12.4, front: 8.8, back: 10.8, pleat: 0.02 },
        { y: 38, w: 14.6, front: 10.4, back: 13, pleat: 0.045 },
        { y: 26, w: 16.4, front: 12, back: 15.6, pleat: 0.07 },
        { y: 15, w: 17.6, front: 13, back: 17.8, pleat: 0.085 },
        { y: 11.5, w: 18, front: 13.3, back: 18.4, pleat: 0.085 },
      ])
      for (const p of s.points) if (isArm(p)) p.at = along(p.at, p.out, 1.0 * bump(p.u, 4.5, 5))
      cuffs(
        s,
        [
          [-0.5, 0.7],
          [0.9, 0.9],
          [-0.4, 0.1],
        ],
        'paper',
      )
      collar(
        s,
        true,
        [
          [0.1, 1.0],
          [-0.8, 1.0],
        ],
        'paper',
        1.5,
      )
      for (const f of s.faces) {
        if (f.tag === 'torso' && f.row >= 1 && f.row <= 4) f.region = 'bodice'
        if (f.tag === 'skirt' && f.v.every((p) => s.at(p)[1] <= 15.1)) f.region = 'skirt-trim'
      }
      s.thicken(0.35, 'skirt', (f) => f.tag === 'skirt')
      s.thicken(0.3, 'paper', (f) => f.tag === 'cuff' || f.tag === 'collar')
      s.merge(thickBand(d.trunkRing(54.4, 0.95, 16), d.trunkRing(57.4, 0.95, 16), 0.45, 'skirt-trim', 'waistband'))
      for (const y of [70, 66, 62]) s.merge(tube([d.front(-1.6, y, 1.1), d.front(1.6, y - 1.2, 1.1)], 0.26, 4, 'rope'))
      return s
    },
    DRESS,
  ),
  garment(
    'dress-gala',
    'Lantern-night gown',
    'top',
    5,
    4,
    undefined,
    (d) => {
      const s = dress(d, 6, 'shawl', 'skirt', [
        { y: 46, w: 13, front: 9.4, back: 11.4, pleat: 0.03 },
        { y: 32, w: 16.6, front: 12.2, back: 15, pleat: 0.075 },
        { y: 30.4, w: 15.4, front: 11.2, back: 13.9, pleat: 0.05 },
        { y: 9.5, w: 19, front: 14, back: 19.4, pleat: 0.1 },
      ])
      cuffs(
        s,
        [
          [0.3, 0.3],
          [1.5, 2.2],
          [1.3, 2.2],
          [-0.4, 0.1],
        ],
        'shawl-trim',
      )
      collar(
        s,
        true,
        [
          [1.6, 0.4],
          [2.2, 1.5],
        ],
        'shawl-trim',
        0.9,
      )
      for (const f of s.faces) {
        if (f.tag !== 'skirt') continue
        const heights = f.v.map((p) => s.at(p)[1])
        const low = Math.min(...heights)
        // the tiers are turned under in another color
        if (Math.max(...heights) - low < 2 || low < 10) f.region = low < 10 ? 'skirt' : 'skirt-trim'
        if (f.tag === 'skirt' && low > 45) f.region = 'shawl'
      }
      s.thicken(0.35, 'skirt-trim', turnedOver)
      s.merge(thickBand(d.trunkRing(54.6, 0.95, 16), d.trunkRing(56.6, 0.95, 16), 0.5, 'metal', 'waistband'))
      return s
    },
    { ...DRESS, tags: [...DRESS.tags, 'distinctive'] },
  ),
]

export default DRESSES

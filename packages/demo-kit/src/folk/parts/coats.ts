import { bands, slab, stud, type Dummy } from '../../model/garment.ts'
import { lathe, type Sculpt } from '../../model/Sculpt.ts'
import { add, along, curve, unit, type V3 } from '../../model/vector.ts'
import { buttons, coat, outerwear } from './coatCut.ts'
import { collar, isArm } from './cut.ts'
import type { PartSpec } from './spec.ts'
import { hung, strandsOf, type Strand } from './strands.ts'

/* Long coats and capes, and dresses that are worn whole. */

/** A short cape over the shoulders, its lower edge let out. */
function shoulderCape(
  d: Dummy,
  {
    region,
    edge,
    off,
    drop,
    open,
    lined,
    steps,
  }: {
    region: string
    edge: string
    off: number
    drop: number
    open: boolean
    lined: boolean
    steps?: readonly (readonly [number, number])[]
  },
): Sculpt {
  const keep = bands({ torso: [5, 6], neck: [0, 0], arm: [0, 1] })
  const s = d.wear(
    (f) => keep(f) && !(open && f.col === 0 && (f.tag === 'torso' || f.tag === 'neck')),
    region,
    (p) => (isArm(p) ? off : off + 0.2),
  )
  for (const rim of s.rims())
    rim.forEach((i) => {
      const p = s.points[i]!
      if (p.limb === 'neck' || (p.limb === 'torso' && p.at[1] > 76)) return
      p.at = add(along(p.at, unit([p.at[0], 0, p.at[2]]), 0.6), [0, -drop, 0])
    })
  if (steps) collar(s, true, steps, edge)
  return s.thicken(0.45, edge, (f) => lined && (f.tag !== 'torso' || f.row === 5))
}

/** Cloth that hangs down the back from under the shoulders of a cape: rows of places, from the hem up. */
function backCape(d: Dummy, hem: number, region: string, lining: string): Sculpt {
  const columns = [-1, -0.66, -0.33, 0, 0.33, 0.66, 1]
  const hanging = [
    [hem, 14.8, -19],
    [(hem + 44) / 2, 13, -16.6],
    [46, 11, -13.6],
    [58, 8.8, -11.2],
  ].map(([y, wide, back]) => columns.map((k, i): V3 => [k * wide!, y!, back! + 4.2 * k * k + (i % 2 ? -0.35 : 0.45)]))
  const beneath = [67, 74].map((y) =>
    columns.map((k) => d.fromTrunk([k * 6.4, y, -2], [k * 0.2, 0, -1], y > 70 ? 0.9 : 1.3)),
  )
  return hung(slab([...hanging, ...beneath], 0.5, lining, region), CAPE, (p) => p.at[1] < 62)
}

/** Down the back, from beneath the shoulders. */
const CAPE = {
  ...{ id: 'cape', kind: 'cloth' as const, parent: 'chest', folds: ['spine', 'hips'] },
  way: [
    [0, 62, -10],
    [0, 46, -13.6],
    [0, 22, -19],
  ],
  joints: [
    [6, 5],
    [19, 6],
  ],
} satisfies Strand

interface CapeSpec {
  region: string
  edge: string
  lining: string
  /** Of its collar. */
  steps: readonly (readonly [number, number])[]
  hem: number
  /** What shuts it: how wide, how high, of what. */
  clasp: readonly [radius: number, height: number, region: string]
  more?: (s: Sculpt) => void
}

/** A cape that is shut in front and hangs down the back. */
const cape = (id: string, name: string, { region, edge, lining, steps, hem, clasp, more }: CapeSpec): PartSpec => ({
  ...outerwear(id, name, 8, 6, ['torso', 'neck', 'arms'], (d) => {
    const s = shoulderCape(d, { region, edge, off: 2.5, drop: 1.6, open: false, lined: true, steps })
    more?.(s)
    s.merge(backCape(d, hem, region, lining))
    s.merge(stud(d.front(0, 75.5, 3.0), [0, 0.3, 1], ...clasp, 6))
    return s
  }),
  ...strandsOf([CAPE]),
})

const TAILS = {
  ...{ id: 'tails', kind: 'cloth' as const, parent: 'hips' },
  way: [
    [0, 50, -9],
    [0, 28, -13.6],
  ],
  joints: [
    [4, 3.5],
    [13, 4],
  ],
} satisfies Strand

const COATS: PartSpec[] = [
  outerwear(
    'greatcoat',
    'Caped greatcoat',
    7,
    6,
    undefined,
    (d) => {
      const s = coat(d, {
        region: 'coat',
        lining: 'coat-lining',
        trim: 'coat-trim',
        fit: 1.65,
        armTo: 6,
        opening: (y) =>
          curve(
            [
              [52, 0.9],
              [66, 0.9],
              [76, 1.7],
              [80, 3.0],
            ],
            y,
          ),
        skirt: [
          { y: 47, w: 12.9, front: 9.0, back: 10.8, pleat: 0.015 },
          { y: 33, w: 15.1, front: 10.8, back: 13, pleat: 0.045 },
          { y: 16.5, w: 17, front: 12.4, back: 15.2, pleat: 0.07 },
        ],
        cuff: [
          [0.9, 0.2],
          [0.6, -3.6],
        ],
        collar: [
          [2.8, 0.8],
          [1.2, 1.7],
        ],
        collarDrop: 0.8,
      })
      s.merge(shoulderCape(d, { region: 'coat', edge: 'coat-trim', off: 2.6, drop: 2.4, open: true, lined: false }))
      buttons(s, d, 2.8, [64, 57], 2.2)
      return s
    },
    { tags: ['long-coat', 'distinctive'], excludes: ['bulky-skirt'] },
  ),
  {
    ...outerwear(
      'tailcoat',
      'Steward’s tailcoat',
      7,
      5,
      undefined,
      (d) => {
        const s = coat(d, {
          region: 'coat',
          lining: 'coat-lining',
          trim: 'coat-trim',
          fit: 1.2,
          armTo: 7,
          opening: (y) =>
            curve(
              [
                [52, 3.4],
                [60, 2.0],
                [68, 2.2],
                [80, 4.0],
              ],
              y,
            ),
          tails: 4,
          skirt: [
            { y: 46, w: 11.6, front: 8, back: 10.4 },
            { y: 37, w: 11.2, front: 8, back: 12.2, pleat: 0.03 },
            { y: 28, w: 9.6, front: 8, back: 13.6, pleat: 0.05 },
          ],
          cuff: [
            [0.6, 0.1],
            [0.3, -2.2],
          ],
          collar: [
            [2.4, 0.6],
            [0.8, 1.5],
          ],
          collarDrop: 0.7,
          lapel: [
            [60, 0.4],
            [66, 2.2],
            [72, 4.0],
            [74.5, 4.9],
            [75.6, 3.2],
            [79, 2.4],
          ],
        })
        buttons(s, d, 4.2, [62, 57], 1.7)
        return hung(s, TAILS, (p) => p.limb === 'torso' && p.row === -1)
      },
      { tags: ['long-coat'], excludes: ['bulky-skirt'] },
    ),
    ...strandsOf([TAILS]),
  },
  cape('cape-watch', 'Watchman’s cape', {
    region: 'coat',
    ...{ edge: 'coat-trim', lining: 'coat-lining' },
    steps: [
      [1.6, 1.0],
      [0.9, 1.2],
    ],
    hem: 22,
    clasp: [1.2, 0.6, 'metal'],
  }),
  cape('cape-hooded', 'Hooded cape', {
    region: 'smock',
    ...{ edge: 'smock-trim', lining: 'smock-trim' },
    steps: [
      [1.0, 1.2],
      [-0.7, 1.4],
    ],
    // the hood lies in folds behind the neck
    more: (s) =>
      s.merge(
        lathe(
          [
            [-2.6, 2.2],
            [-1.0, 4.4],
            [1.0, 4.8],
            [2.4, 3.4],
            [3.0, 1.4],
          ],
          9,
          'smock',
          [0, 79.5, -8.4],
          0.62,
        ),
      ),
    hem: 38,
    clasp: [1.0, 0.5, 'rope'],
  }),
]

export default COATS

import { Sculpt, type Chain } from '../model/Sculpt.ts'
import { add, sub, unit, type V3 } from '../model/vector.ts'
import { fromHead } from './proportions.ts'

/*
 * The head: a half grid placed by hand, in head units (chin 0, crown 9.65). Rows run from the
 * underside of the jaw to the top, columns from the front center round to the back. Between chin
 * and cheekbone the outer columns have no rows of their own, which leaves the one big plane that
 * makes the face.
 */
const FACE = {
  under: [
    [0, -0.1, 3.1],
    [0.8, -0.05, 2.95],
    [1.55, 0.15, 2.25],
    [2.3, 0.55, 1.0],
    [2.75, 1.0, -0.7],
  ],
  chin: [
    [0, 0.7, 4.15],
    [0.9, 0.65, 3.9],
    [1.8, 0.85, 3.1],
    [2.6, 1.15, 1.75],
    [3.1, 1.55, -0.4],
  ],
  lowRim: [
    [0, 1.5, 4.16],
    [0.58, 1.54, 4.0],
  ],
  lowLip: [
    [0, 1.85, 4.27],
    [0.55, 1.89, 4.11],
  ],
  corner: [[1.2, 1.9, 3.68]],
  highLip: [
    [0, 1.86, 4.3],
    [0.55, 1.9, 4.14],
  ],
  highRim: [
    [0, 2.2, 4.34],
    [0.5, 2.26, 4.2],
  ],
  noseBase: [
    [0, 2.72, 4.3],
    [0.62, 2.75, 4.0],
  ],
  nose: [
    [0, 3.08, 5.12],
    [0.92, 3.2, 4.1],
    [1.95, 3.6, 3.65],
    [3.02, 3.85, 2.3],
    [3.42, 3.7, 0.3],
  ],
  tip: [
    [0, 3.5, 5.12],
    [0.4, 3.18, 4.82],
  ],
  lowLid: [
    [0, 4.3, 4.78],
    [0.62, 4.2, 3.82],
    [1.6, 4.05, 3.55],
    [2.72, 4.35, 2.65],
  ],
  highLid: [
    [0, 5.05, 4.38],
    [0.62, 5.1, 3.72],
    [1.65, 5.3, 3.52],
    [2.78, 5.05, 2.62],
  ],
  brow: [
    [0, 5.62, 4.38],
    [0.8, 5.6, 4.28],
    [1.8, 5.95, 3.98],
    [2.9, 5.6, 2.92],
    [3.5, 5.45, 0.7],
  ],
  forehead: [
    [0, 7.3, 4.1],
    [1.1, 7.3, 4.0],
    [2.15, 7.22, 3.5],
    [3.05, 7.0, 2.35],
    [3.58, 6.9, 0.4],
  ],
  top: [
    [0, 8.85, 2.75],
    [0.95, 8.85, 2.6],
    [1.85, 8.75, 2.1],
    [2.5, 8.6, 1.1],
    [2.8, 8.5, -0.4],
  ],
} satisfies Record<string, V3[]>

/** Behind the ear: half-width, depth and the heights of the four columns to the back center. */
const BACK: Record<string, { w: number; b: number; y: readonly number[] }> = {
  under: { w: 2.8, b: 3.9, y: [1.35, 1.6, 1.75, 1.8] },
  chin: { w: 3.12, b: 4.25, y: [2.1, 2.4, 2.55, 2.6] },
  nose: { w: 3.5, b: 4.55, y: [3.8, 3.9, 3.95, 4.0] },
  brow: { w: 3.6, b: 4.65, y: [5.5, 5.6, 5.6, 5.6] },
  forehead: { w: 3.6, b: 4.35, y: [7.0, 7.1, 7.15, 7.2] },
  top: { w: 2.75, b: 3.0, y: [8.5, 8.55, 8.6, 8.6] },
}
const BACK_SHAPE: readonly (readonly [number, number])[] = [
  [0.98, 0.38],
  [0.8, 0.74],
  [0.43, 0.95],
  [0, 1],
]

const CENTER: V3 = fromHead([0, 4.6, -0.2])

/** Makes the left half of the head on a half ring of the neck; returns nothing: the crown closes it. */
export function buildHead(s: Sculpt, neckTop: Chain): void {
  const at = (p: V3, spot: string) => {
    const place = fromHead(p)
    return s.add(place, { limb: 'head', u: place[1], out: unit(sub(place, CENTER)), spot })
  }
  const rows: Record<string, Chain> = {}
  for (const [name, points] of Object.entries(FACE)) {
    const row = points.map((p, i) => at(p, name + i))
    const back = BACK[name]
    if (back)
      BACK_SHAPE.forEach(([x, z], i) => row.push(at([back.w * x, back.y[i]!, -back.b * z], name + (points.length + i))))
    rows[name] = row
  }
  const r = rows as Record<keyof typeof FACE, Chain>
  const crown = at([0, 9.65, -0.5], 'crown')

  s.as({ region: 'skin', tag: 'head' }, () => {
    s.stitch(neckTop, r.under, false, { row: 0 })
    s.loft(r.under, r.chin, false, { row: 1 })
    // muzzle: chin, what is around the lips, base of the nose
    const corner = r.corner[0]!
    s.face([r.chin[0]!, r.chin[1]!, r.lowRim[1]!, r.lowRim[0]!])
    s.face([r.chin[1]!, corner, r.lowRim[1]!])
    s.face([r.highRim[0]!, r.highRim[1]!, r.noseBase[1]!, r.noseBase[0]!])
    s.face([r.highRim[1]!, corner, r.noseBase[1]!])
    s.face([r.noseBase[0]!, r.noseBase[1]!, r.nose[1]!])
    buildMouth(s, r.lowRim, r.lowLip, corner, r.highLip, r.highRim)
    // the nose from below, its wing, and the tip between
    s.face([r.noseBase[0]!, r.nose[1]!, r.tip[1]!, r.nose[0]!])
    s.face([r.nose[0]!, r.tip[1]!, r.tip[0]!])
    s.face([r.tip[0]!, r.tip[1]!, r.lowLid[1]!, r.lowLid[0]!])
    s.face([r.tip[1]!, r.nose[1]!, r.lowLid[1]!])
    // the cheek: from the edge of the mouth to the jaw and up to the cheekbone
    s.face([r.chin[1]!, r.chin[2]!, corner])
    s.face([corner, r.chin[2]!, r.nose[2]!])
    s.face([corner, r.nose[2]!, r.nose[1]!, r.noseBase[1]!])
    s.face([r.chin[2]!, r.chin[3]!, r.nose[3]!, r.nose[2]!])
    s.face([r.chin[3]!, r.chin[4]!, r.nose[4]!, r.nose[3]!])
    s.loft(r.chin.slice(4), r.nose.slice(4), false, { row: 2, col: 4 })
    // socket, brow
    s.loft(r.nose.slice(1, 4), r.lowLid.slice(1), false)
    s.loft(r.lowLid, r.highLid, false)
    s.loft(r.highLid, r.brow.slice(0, 4), false)
    s.face([r.nose[3]!, r.nose[4]!, r.lowLid[3]!])
    s.face([r.lowLid[3]!, r.nose[4]!, r.brow[4]!, r.highLid[3]!])
    s.face([r.highLid[3]!, r.brow[4]!, r.brow[3]!])
    s.loft(r.nose.slice(4), r.brow.slice(4), false, { row: 5, col: 4 })
    s.loft(r.brow, r.forehead, false, { row: 8 })
    s.loft(r.forehead, r.top, false, { row: 9 })
    for (let i = 0; i < r.top.length - 1; i++) s.face([r.top[i]!, r.top[i + 1]!, crown], { row: 10, col: i })
  })
  buildEar(s)
}

/** Places inside the mouth, head units. The teeth end where a slack mouth does not show them. */
const TEETH: Record<string, V3[]> = {
  highTeethTop: [
    [0, 2.2, 3.96],
    [0.8, 2.2, 3.5],
  ],
  highTeeth: [
    [0, 1.76, 3.96],
    [0.8, 1.8, 3.5],
  ],
  // only their upper edge is ever seen
  lowTeeth: [
    [0, 1.74, 3.88],
    [0, 1.3, 3.82],
    [0.6, 1.74, 3.5],
  ],
  tongue: [
    [0, 1.62, 3.8],
    [0.5, 1.5, 3.4],
    [0, 1.5, 2.9],
  ],
}

/** Lips around an opening that is shut at rest, the pocket behind it, teeth and tongue. */
function buildMouth(s: Sculpt, lowRim: Chain, lowLip: Chain, corner: number, highLip: Chain, highRim: Chain): void {
  s.as({ region: 'lips' }, () => {
    s.face([highLip[0]!, highLip[1]!, highRim[1]!, highRim[0]!])
    s.face([highLip[1]!, corner, highRim[1]!])
    s.face([lowRim[0]!, lowRim[1]!, lowLip[1]!, lowLip[0]!])
    s.face([lowRim[1]!, corner, lowLip[1]!])
  })
  const put = (p: V3, spot: string) => {
    const place = fromHead(p)
    return s.add(place, { limb: 'head', u: place[1], out: unit(sub(place, CENTER)), spot })
  }
  const throat = put([0, 1.8, 2.5], 'throat')
  s.as({ region: 'mouth' }, () => {
    s.face([highLip[1]!, highLip[0]!, throat])
    s.face([corner, highLip[1]!, throat])
    s.face([lowLip[1]!, corner, throat])
    s.face([lowLip[0]!, lowLip[1]!, throat])
  })
  const row = (name: string) => TEETH[name]!.map((p, i) => put(p, name + i))
  s.as({ region: 'teeth' }, () => {
    s.loft(row('highTeeth'), row('highTeethTop'), false)
    s.face(row('lowTeeth'))
  })
  s.as({ region: 'tongue' }, () => s.face(row('tongue')))
}

/** The ear from the side, [height, z]: up the front, over and down the back to the lobe. */
const EAR = [
  [3.35, 0.2],
  [5.0, 0.3],
  [5.45, -0.7],
  [4.6, -1.25],
  [3.3, -0.5],
] as const
const EAR_FLARE = [0.02, 0.16, 0.36, 0.38, 0.12]

/** A closed wedge pushed into the side of the head, hollow in the middle. */
function buildEar(s: Sculpt): void {
  const ear = new Sculpt()
  ear.region = 'skin'
  ear.tag = 'ear'
  const at = (p: V3) => {
    const place = fromHead(p)
    return ear.add(place, { limb: 'ear', u: place[1], out: unit(sub(place, add(CENTER, [0, 0, -2]))), spot: 'ear' })
  }
  const root = EAR.map(([y, z]) => at([3.15, 4.4 + (y - 4.4) * 0.8, z * 0.8 + 0.1]))
  const rim = EAR.map(([y, z], i) => at([3.5 + EAR_FLARE[i]!, y, z]))
  ear.loft(root, rim, true)
  ear.fan(rim, at([3.5, 4.5, -0.25]))
  ear.face([...root].reverse())
  s.merge(ear.outward())
}

import type { Chain, Sculpt } from '../model/Sculpt.ts'
import { sub, unit, type V3 } from '../model/vector.ts'
import { ANKLE, TOE_OUT } from './proportions.ts'

/** A place on the foot: x from its middle line outward, height, z; turned out. */
export function onFoot(x: number, y: number, z: number): V3 {
  return [ANKLE[0] + x + (z - ANKLE[2]) * TOE_OUT, y, z]
}

/** Rings that turn from level at the ankle to upright at the ball: outer to inner over the top, then the sole. */
const RINGS: readonly (readonly V3[])[] = [
  // front-inner, front, front-outer, outer, back-outer, back, back-inner, inner (as the leg's rings)
  [
    [-2.5, 5.6, 3.4],
    [0.1, 5.9, 4.0],
    [2.6, 5.2, 3.2],
    [3.5, 3.6, -1.0],
    [2.7, 3.0, -4.6],
    [0, 2.9, -5.6],
    [-2.6, 3.0, -4.6],
    [-3.2, 3.8, -1.0],
  ],
  [
    [-2.9, 3.9, 7.4],
    [-0.3, 4.3, 8.0],
    [2.5, 3.6, 7.0],
    [3.7, 1.4, 1.5],
    [2.9, 0.4, -4.9],
    [0, 0.3, -6.1],
    [-2.7, 0.4, -4.9],
    [-2.9, 1.4, 1.5],
  ],
  [
    [-3.3, 2.6, 11.0],
    [-0.4, 2.9, 11.4],
    [2.9, 2.3, 10.2],
    [3.9, 0.2, 4.5],
    [2.6, 0, -4.4],
    [0, 0, -5.4],
    [-2.4, 0, -4.4],
    [-2.6, 0.3, 4.5],
  ],
]
/** Toes from the big one. */
const TOES = [
  { length: 4.4, height: 1.9 },
  { length: 4.1, height: 1.5 },
  { length: 3.6, height: 1.4 },
  { length: 2.9, height: 1.3 },
  { length: 2.1, height: 1.2 },
] as const

/** Makes the left foot on the ankle ring; returns where the toes bend. */
export function buildFoot(s: Sculpt, ankle: Chain): V3 {
  const put = (p: V3, row: number) => {
    const at = onFoot(...p)
    return s.add(at, {
      limb: 'leftFoot',
      row,
      u: at[2],
      out: unit(sub(at, onFoot(0, 3, Math.min(8, Math.max(-2, p[2]))))),
    })
  }
  s.as({ region: 'skin', tag: 'leftFoot' }, () => {
    let last = ankle
    RINGS.forEach((ring, i) => {
      const next = ring.map((p) => put(p, i + 1))
      s.loft(next, last, true, { row: i })
      last = next
    })
    // toe row: six above, six below
    const x = [-3.75, -1.75, -0.25, 1.2, 2.5, 3.75]
    const front = (v: number) => 12.6 - 0.16 * (v + 1.5) ** 2 * 0.55 - (v > 0 ? v * 0.35 : 0)
    const top = x.map((v) => put([v, 1.75 - Math.max(0, v) * 0.08, front(v)], 4))
    const low = x.map((v) => put([v * 0.97, 0, front(v) - 0.2], 4))
    const sole = [last[3]!, last[4]!, last[5]!, last[6]!, last[7]!]
    // over the instep: from inner by the top to outer, and under the sole back again
    s.stitch(top, [last[7]!, last[0]!, last[1]!, last[2]!, last[3]!], false, { row: 3 })
    s.stitch([...low].reverse(), sole, false, { row: 3 })
    s.face([low[0]!, top[0]!, last[7]!], { row: 3 })
    s.face([top[5]!, low[5]!, last[3]!], { row: 3 })
    TOES.forEach(({ length, height }, i) => {
      const ring = [top[i]!, top[i + 1]!, low[i + 1]!, low[i]!]
      const middle = (x[i]! + x[i + 1]!) / 2
      const half = (x[i + 1]! - x[i]!) / 2
      const z = front(middle) + length * 0.62
      const tip = [
        put([middle - half * 0.72, height * 0.62, z], 5),
        put([middle + half * 0.72, height * 0.62, z - 0.15], 5),
        put([middle + half * 0.72, 0, z - 0.1], 5),
        put([middle - half * 0.72, 0, z], 5),
      ]
      s.loft(tip, ring, true)
      s.face([...tip].reverse())
    })
  })
  return onFoot(-0.3, 1.2, 10.6)
}

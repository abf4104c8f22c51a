import { growLimb, markLegs, openingOf, thorn, type LimbRing } from '../../model/loftBeast.ts'
import type { BodySculpt } from '../../model/loftBiped.ts'
import { Sculpt, type Chain, type Point } from '../../model/Sculpt.ts'
import { chain, mix, type Skinning } from '../../model/skinning.ts'
import { add, along, clamp, flipX, mean, smoothstep, sub, unit, type V3 } from '../../model/vector.ts'

/*
 * The gulper: a round hopper that is mostly mouth. Rows run around the mouth, one behind the other, to the rear. Its
 * eyes are parts. The top of its skull is at about 79.
 */

const CENTER: V3 = [0, 47, 0]
/** Half-width, half-height above and below, half-length to the front and the rear; how square. */
const RADII = { x: 45, up: 32, down: 37, front: 41, rear: 46, power: 2.35 }

/** The rim of the mouth, left half, from the middle of the upper lip to the middle of the lower: x, y. */
const MOUTH: readonly (readonly [number, number])[] = [
  [0, 58.6],
  [13, 58.2],
  [25.5, 56.6],
  [36, 53.4],
  [42.4, 48.6],
  [36.4, 43],
  [26, 38.6],
  [13.4, 36.4],
  [0, 35.8],
]
export const COLUMNS = MOUTH.length - 1
/** How far to the rear the rows lie: 0 the lips, 1 the rear. */
const BACKWARD = [0.04, 0.08, 0.2, 0.32, 0.44, 0.56, 0.68, 0.8, 0.91]
const HIND_ROWS = [5, 7] as const
const FORE_ROWS = [2, 4] as const
const HIND_COLUMN = 4
const FORE_COLUMN = 6

/** Where the body's surface lies in a direction from its middle. */
function onBody([x, y, z]: V3): V3 {
  const { power } = RADII
  const ry = y >= 0 ? RADII.up : RADII.down
  const rz = z >= 0 ? RADII.front : RADII.rear
  const r = 1 / (Math.abs(x / RADII.x) ** power + Math.abs(y / ry) ** power + Math.abs(z / rz) ** power) ** (1 / power)
  // heavier below than above, and a brow that hangs over the mouth
  const [px, py, pz] = [x * r, y * r, z * r]
  const pear = 1 - 0.1 * smoothstep(-10, 34, py)
  const brow = pz > 0 ? 1.5 * smoothstep(6, 16, py) * smoothstep(34, 18, py) : 0
  return add(CENTER, [px * pear, py, pz + brow])
}

/** The way from the middle to a place of the mouth's rim. */
function towards([x, y]: readonly [number, number]): V3 {
  const { power } = RADII
  const dy = y - CENTER[1]
  const ry = dy >= 0 ? RADII.up : RADII.down
  const left = Math.max(0.02, 1 - Math.abs(x / RADII.x) ** power - Math.abs(dy / ry) ** power)
  return unit([x, dy, RADII.front * left ** (1 / power)])
}

/** Rows of the skin from the lips to the rear, each from top to bottom. */
function rowsOf(): V3[][] {
  const polar = MOUTH.map((m) => {
    const [x, y, z] = towards(m)
    return { theta: Math.acos(clamp(z, -1, 1)), phi: Math.atan2(x, y) }
  })
  return [0, ...BACKWARD].map((t, r) =>
    polar.map(({ theta, phi }, k) => {
      const even = (Math.PI * k) / COLUMNS
      const [th, ph] = [theta + (Math.PI - theta) * t, phi + (even - phi) * Math.min(1, t * 2.4)]
      const skin = onBody([Math.sin(th) * Math.sin(ph), Math.sin(th) * Math.cos(ph), Math.cos(th)])
      // lips stand out
      const p = r === 1 ? along(skin, unit(sub(skin, CENTER)), 1.7) : skin
      return k === 0 || k === COLUMNS ? ([0, p[1], p[2]] as V3) : p
    }),
  )
}

/** The edges of the lips, left half, from the middle to the corner. */
export const upperLip = (): V3[] => rowsOf()[0]!.slice(0, COLUMNS / 2 + 1)
export const lowerLip = (): V3[] =>
  rowsOf()[0]!
    .slice(COLUMNS / 2)
    .reverse()

/** Joints of the legs, left side. */
export const HIND = {
  hip: [36, 29, -14] as V3,
  knee: [50, 25, 11] as V3,
  ankle: [49, 8.5, -13] as V3,
  toes: [51, 3, 9] as V3,
}
export const FORE = {
  hip: [23, 22, 24] as V3,
  knee: [28, 12.5, 26.4] as V3,
  ankle: [28, 5, 29.5] as V3,
  toes: [28.6, 2.2, 33.5] as V3,
}

const HIND_LEG: readonly LimbRing[] = [
  { at: [42, 30, -13], r: [15, 14, 15.5, 13.5], way: [0.85, -0.1, 0.4], e: 2.5 },
  { at: [48.6, 29.6, -3.4], r: [11, 9, 14, 12.5], way: [0.4, -0.1, 0.95], e: 2.6 },
  { at: [51.4, 27, 6.8], r: [8.4, 7, 10, 9.6], way: [0.1, -0.35, 1], e: 2.7 },
  { at: [51, 22.2, 11.6], r: [6.8, 6.2, 6.8, 7.4], way: [0, -1, 0.25], e: 2.7 },
  { at: [50.2, 16.4, 6.2], r: [5.8, 5.6, 5.6, 6.0], way: [-0.05, -0.75, -0.85], e: 2.6 },
  { at: [49.2, 11.6, -5], r: [4.8, 4.7, 5.0, 4.8], way: [-0.05, -0.5, -1], e: 2.5 },
  { at: [49, 7.4, -13.4], r: [4.6, 4.6, 4.6, 4.4], way: [0, -1, -0.1], e: 2.6 },
]
const HIND_FOOT: readonly LimbRing[] = [
  { at: [49.5, 4, -9.2], r: [5.2, 5, 3.9, 3.9], way: [0.05, -0.35, 0.95], e: 2.6 },
  { at: [50, 3.3, -1], r: [6.4, 6, 3.5, 3.3], way: [0.08, -0.06, 1], e: 2.8 },
  { at: [51, 2.5, 9], r: [8.2, 7.8, 2.9, 2.5], way: [0.1, -0.06, 1], e: 3 },
  { at: [51.8, 1.7, 16], r: [8.6, 8.4, 1.8, 1.7], way: [0.1, -0.05, 1], e: 3 },
]
const FORE_LEG: readonly LimbRing[] = [
  { at: [26.4, 17, 27], r: [7, 6.8, 6.8, 6.4], way: [0.35, -1, 0.25] },
  { at: [28, 12.4, 28], r: [5.6, 5.4, 5.8, 5.4], way: [0.1, -1, 0.1], e: 2.7 },
  { at: [28.2, 8.6, 28.6], r: [4.7, 4.5, 4.8, 4.6], way: [0, -1, 0.1] },
  { at: [28.2, 5.2, 29.6], r: [4.2, 4.1, 4.4, 4.0], way: [0, -1, 0.2] },
]
const FORE_FOOT: readonly LimbRing[] = [
  { at: [28.4, 2.6, 31], r: [5.8, 5.6, 6.4, 4.4], way: [0, -1, 0.15], e: 2.8 },
  { at: [28.5, 0, 31.4], r: [6.2, 6, 6.8, 4.6], way: [0, -1, 0], e: 2.8 },
]

export function buildGulper(): BodySculpt {
  const s = new Sculpt()
  s.region = 'hide'
  const places = rowsOf()
  const rows = s.as({ limb: 'torso', tag: 'torso' }, () =>
    places.map((row, r) => row.map((at) => s.add(at, { row: r, u: at[2], out: unit(sub(at, CENTER)) }))),
  )
  const open = (r: number) => [
    ...(r >= HIND_ROWS[0] && r < HIND_ROWS[1] ? [HIND_COLUMN, HIND_COLUMN + 1] : []),
    ...(r >= FORE_ROWS[0] && r < FORE_ROWS[1] ? [FORE_COLUMN] : []),
  ]
  s.as({ tag: 'torso', limb: 'torso' }, () => {
    rows.slice(0, -1).forEach((row, r) => s.loft(row, rows[r + 1]!, false, { row: r }, open(r)))
    const rear = s.add(onBody([0, 0.06, -1]), { row: rows.length, u: -50, out: [0, 0, -1] })
    const last = rows.at(-1)!
    for (let i = 0; i + 1 < last.length; i++) s.face([last[i]!, last[i + 1]!, rear], { row: rows.length - 1, col: i })
  })
  for (const f of s.faces) {
    if (f.row <= 1) f.region = 'lip'
    else if (f.col >= 6 && f.row <= 7) f.region = 'belly'
    else if (f.col === 5 && f.row === 2) f.region = 'belly'
  }
  buildMouth(s, rows[0]!)
  const hindRim = openingOf([rows[HIND_ROWS[1]]!, rows[HIND_ROWS[0] + 1]!, rows[HIND_ROWS[0]]!], HIND_COLUMN)
  const ankle = growLimb(s, hindRim, HIND_LEG, [0, 1, 0], { limb: 'leftHindLeg', region: 'hide' })
  const toes = growLimb(s, ankle, HIND_FOOT, [0, 0.7, 0.7], { limb: 'leftHindFoot', region: 'web' })
  s.as({ limb: 'leftHindFoot', tag: 'leftHindFoot', region: 'web' }, () => s.cap(toes, [0, 0, 0.6]))
  // one column wide, three rows long: eight points with the two above it
  const foreRim = foreOpening(rows)
  const wrist = growLimb(s, foreRim, FORE_LEG, [0, 0, 1], { limb: 'leftForeLeg', region: 'hide' })
  const sole = growLimb(s, wrist, FORE_FOOT, [0, 0, 1], { limb: 'leftForeFoot', region: 'web' })
  s.as({ limb: 'leftForeFoot', tag: 'leftForeFoot', region: 'web' }, () => s.cap(sole, [0, 0, 0]))
  addToes(s, 'leftHindFoot', [51.8, 0, 15], [-6.6, -2.2, 2.2, 6.6], 7.4, 2.5)
  addToes(s, 'leftForeFoot', [28.5, 0, 35.4], [-4, 0, 4], 5, 1.9)
  s.tidy().mirror()
  return { sculpt: s, landmarks: gulperLandmarks() }
}

/** The rim of the fore leg's opening: one column by two bands is six points. */
function foreOpening(rows: readonly Chain[]): Chain {
  const [front, middle, back] = [rows[FORE_ROWS[0]]!, rows[FORE_ROWS[0] + 1]!, rows[FORE_ROWS[1]]!]
  return [
    front[FORE_COLUMN]!,
    front[FORE_COLUMN + 1]!,
    middle[FORE_COLUMN + 1]!,
    back[FORE_COLUMN + 1]!,
    back[FORE_COLUMN]!,
    middle[FORE_COLUMN]!,
  ]
}

/** What is behind the lips: a palate, a floor, a throat; and a tongue. */
function buildMouth(s: Sculpt, lips: Chain): void {
  const middle: V3 = [0, 47, 0]
  s.as({ limb: 'torso', tag: 'mouth', region: 'mouth' }, () => {
    let last = lips
    for (const [narrow, low, back] of [
      [0.93, 0.9, 7],
      [0.74, 1.0, 20],
    ] as const) {
      const next = last.map((i) => {
        const [x, y, z] = s.at(i)
        const at: V3 = [x * narrow, middle[1] + (y - middle[1]) * low, Math.max(-14, z - back)]
        return s.add(at, { row: -1, u: at[2], out: unit(sub(middle, at)) })
      })
      s.loft(next, last, false)
      last = next
    }
    const throat = s.add([0, 45, -16], { row: -1, u: -16, out: [0, 0, 1] })
    for (let i = 0; i + 1 < last.length; i++) s.face([last[i + 1]!, last[i]!, throat])
  })
  // half a tongue, on the middle
  const tongue = (y: number, z: number, w: number, h: number) =>
    s.as({ limb: 'tongue', tag: 'tongue' }, () =>
      (
        [
          [0, y + h * 0.55, z],
          [w * 0.6, y + h, z],
          [w, y + h * 0.2, z],
          [w * 0.7, y - h * 0.6, z],
          [0, y - h * 0.7, z],
        ] as V3[]
      ).map((at) => s.add(at, { u: z, out: [0, 1, 0] })),
    )
  const rings = [tongue(38.5, -8, 13, 4), tongue(40, 8, 15, 4), tongue(39.6, 22, 13, 3.4), tongue(40, 31, 6, 2)]
  s.as({ limb: 'tongue', tag: 'tongue', region: 'tongue' }, () => {
    rings.slice(0, -1).forEach((ring, r) => s.loft(rings[r + 1]!, ring, false))
    const [back, front] = [rings[0]!, rings.at(-1)!]
    const ends = [back, front].map((ring) =>
      s.add(mean([s.at(ring[0]!), s.at(ring.at(-1)!)]), { u: 0, out: [0, 0, 1] }),
    )
    for (let i = 0; i + 1 < back.length; i++) {
      s.face([back[i]!, back[i + 1]!, ends[0]!])
      s.face([front[i + 1]!, front[i]!, ends[1]!])
    }
  })
}

function addToes(s: Sculpt, limb: string, root: V3, across: readonly number[], length: number, thick: number): void {
  for (const dx of across) {
    const way = unit([dx * 0.05, 0, 1])
    const at = (l: number, y: number): V3 => add(root, [dx + way[0] * l, y, way[2] * l - Math.abs(dx) * 0.25])
    s.as({ limb, tag: limb }, () => {
      const from = s.points.length
      thorn(s, [at(-3, thick * 0.72), at(length * 0.5, thick * 0.8), at(length, thick * 0.42)], thick, 5, {
        region: 'web',
      })
      thorn(s, [at(length * 0.62, thick * 0.66), at(length * 1.7, 0.2)], thick * 0.6, 4, { region: 'spike' })
      for (const p of s.points.slice(from)) {
        p.at = [p.at[0], Math.max(0, p.at[1]), p.at[2]]
        Object.assign(p, { limb, row: 20, u: 100, out: [0, 1, 0] })
      }
    })
  }
}

function gulperLandmarks(): Map<string, V3> {
  const marks = new Map<string, V3>([
    ['hips', [0, 39, -16]],
    ['chest', [0, 45, 2]],
    ['head', [0, 53, 4]],
    ['jaw', [0, 45, -2]],
    ['tongue', [0, 38, -4]],
    ['crown', [0, 79, 6]],
    ['chin', [0, 30, 37]],
    ['belly', [0, 12, 6]],
    ['flank', [44, 47, -4]],
    ['rump', [0, 51, -45]],
  ])
  const pair = (name: string, at: V3) => marks.set(`left${name}`, at).set(`right${name}`, flipX(at))
  pair('Corner', [42.4, 48.6, 16])
  pair('Eye', [18, 78, 18])
  markLegs(marks, { Hind: HIND, Fore: FORE })
  return marks
}

/** How far above the mouth (1) or below it (0) a place on the body is: from the corner to the rear they are one. */
const aboveMouth = ([x, y, z]: V3) => {
  const line = 47 + 1.6 * smoothstep(0, 43, Math.abs(x)) - 6 * smoothstep(10, -24, z)
  return smoothstep(-6, 6, y - line)
}

/** Skin weights of the gulper, from where each point belongs. */
export function gulperSkin(p: Point): Skinning {
  const side = p.at[0] >= 0 ? 'left' : 'right'
  const [x, y, z] = [Math.abs(p.at[0]), p.at[1], p.at[2]]
  if (p.limb === 'tongue') return chain(z, 'jaw', [[2, 8, 'tongue']])
  if (p.limb.includes('Hind')) {
    const leg = HIND
    if (p.limb.endsWith('Foot')) return chain(z, `${side}HindFoot`, [[leg.toes[2], 3.5, `${side}HindToes`]])
    // along the fold: thigh forward, shank back
    return chain(p.u, 'hips', [
      [3, 7, `${side}HindUpperLeg`],
      [32, 5, `${side}HindLowerLeg`],
      [60, 4, `${side}HindFoot`],
    ])
  }
  if (p.limb.includes('Fore')) {
    if (p.limb.endsWith('Foot')) return chain(-y, `${side}ForeFoot`, [[-1.6, 2.4, `${side}ForeToes`]])
    return chain(-y, 'chest', [
      [-22, 4, `${side}ForeUpperLeg`],
      [-14, 3, `${side}ForeLowerLeg`],
      [-5, 1.6, `${side}ForeFoot`],
    ])
  }
  const back = chain(z, 'hips', [[-6, 14, 'chest']])
  // in front, what is above the mouth goes with the head, what is below with the jaw
  const front: Skinning = mix([['jaw', 1]], [['head', 1]], aboveMouth(p.at))
  const trunk = mix(back, front, smoothstep(-14, 20, z) * smoothstep(10, 30, y))
  const thigh = smoothstep(22, 8, Math.hypot(y - 29, z + 13)) * smoothstep(26, 38, x)
  const arm = smoothstep(16, 6, Math.hypot(x - 23, z - 25)) * smoothstep(32, 20, y)
  return mix(mix(trunk, [[`${side}HindUpperLeg`, 1]], 0.45 * thigh), [[`${side}ForeUpperLeg`, 1]], 0.4 * arm)
}

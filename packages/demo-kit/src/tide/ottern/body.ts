import { loftBiped, type BodySculpt } from '../../model/loftBiped.ts'
import { lathe, Sculpt, tube, type Chain, type Point } from '../../model/Sculpt.ts'
import { chain, mix, type Skinning } from '../../model/skinning.ts'
import { add, along, cross, flipX, scale, smoothstep, sub, unit, type V3 } from '../../model/vector.ts'

/*
 * The ottern: upright, short-legged, heavy-tailed river folk. Height is 100.
 */

export const OTTERN_SHOULDER: V3 = [12.2, 68, -0.5]
export const OTTERN_ARM: V3 = unit([0.5, -0.82, 0.26])
const ARM_UP: V3 = unit(cross(unit(sub([0, 0, 1], scale(OTTERN_ARM, OTTERN_ARM[2]))), OTTERN_ARM))
const ELBOW = 12.5
const WRIST = 23

/** The head's rows from under the jaw to the top; columns from the front center to the back center. */
const HEAD: readonly (readonly V3[])[] = [
  [
    [0, 76.2, 9.2],
    [4.6, 76.3, 8.4],
    [9.8, 77, 4.6],
    [11.9, 77.6, -1.5],
    [8.6, 78, -7.8],
    [0, 78.2, -10],
  ],
  [
    [0, 79.2, 15.2],
    [4.8, 79.2, 13.8],
    [10.4, 80, 7.6],
    [13.3, 81, -0.5],
    [9.8, 81.6, -8.8],
    [0, 82, -11.4],
  ],
  [
    [0, 81.6, 17.4],
    [6.2, 81.8, 14.8],
    [11.8, 83, 7.2],
    [14.1, 84, -1],
    [10.4, 84.8, -9.2],
    [0, 85.2, -12],
  ],
  [
    [0, 85.8, 18.2],
    [4.6, 85.8, 15.4],
    [9.8, 86.8, 8.8],
    [13.3, 87.6, -0.8],
    [10.2, 88.4, -8.8],
    [0, 88.8, -11.4],
  ],
  [
    [0, 89, 13.2],
    [3.3, 89.1, 11.8],
    [9, 90, 7.9],
    [12.3, 90.6, -1],
    [9.4, 91.2, -7.8],
    [0, 91.6, -10],
  ],
  [
    [0, 92.6, 9.9],
    [4.2, 93.2, 9.4],
    [9.2, 93.1, 6.2],
    [10.9, 93.3, -1.2],
    [8.2, 93.5, -6.6],
    [0, 93.9, -8.2],
  ],
  [
    [0, 95.4, 4.8],
    [4.2, 95.3, 4.1],
    [7, 95.1, 2],
    [7.6, 95, -1.8],
    [5.8, 94.9, -5],
    [0, 95.2, -6],
  ],
]

/** Tail rings from root to tip: center height and z, half-width, half-height. */
const TAIL: readonly (readonly [number, number, number, number])[] = [
  [27, -16.5, 9.6, 10.4],
  [20.5, -24, 8.4, 8.2],
  [14.6, -32, 7.2, 6.4],
  [10, -40.5, 6.0, 5.0],
  [7, -49, 4.7, 3.9],
  [5.4, -57, 3.2, 2.8],
]

export function buildOttern(): BodySculpt {
  const s = new Sculpt()
  s.region = 'fur'
  const { neckTop, wrist, ankle, tailRoot } = loftBiped(s, {
    hipLoop: [
      [0, 20, 11],
      [6, 20.5, 12.4],
      [13.4, 22, 9.2],
      [17.2, 24, 0],
      [14, 23, -8.6],
      [7, 21, -11.4],
      [0, 20, -10.2],
    ],
    crotch: [0, 17.4, 0],
    torso: [
      [28.5, 18, 14.4, 12.8, 2.6],
      [36, 19, 15.2, 12.8, 2.5],
      [44.5, 18.6, 14.4, 11.8, 2.5],
      [53, 16.8, 12.6, 10.8, 2.5],
      [60, 14.8, 11, 10, 2.6],
      [66, 13.4, 9.8, 9.2, 2.6],
    ],
    shoulderLoop: [
      [0, 70.8, 7.6],
      [5, 71, 7.4],
      [10, 71, 5.2],
      [12, 72.2, -0.6],
      [10, 71.8, -6],
      [5, 72, -7.8],
      [0, 72.2, -8.2],
    ],
    necks: [
      { w: 10.8, front: 8.0, back: 8.2, low: 73, high: 74 },
      { w: 11.2, front: 8.2, back: 8.8, low: 75, high: 76 },
    ],
    arm: {
      origin: OTTERN_SHOULDER,
      axis: OTTERN_ARM,
      up: ARM_UP,
      rings: [
        [2.4, 4.6, 4.2, 5.2, 5.0, 2.5, 3.0],
        [6.5, 4.6, 4.0, 5.0, 4.6, 2.5, 1.2],
        [10.4, 3.9, 3.6, 4.1, 4.0, 2.6, 0],
        [12.5, 3.9, 3.4, 4.0, 4.2, 2.7, 0],
        [15.2, 3.9, 3.5, 4.3, 4.1, 2.6, 0],
        [19.6, 3.1, 3.0, 3.5, 3.4, 2.7, 0],
        [23, 2.6, 2.5, 2.9, 2.9, 2.8, 0],
      ],
    },
    leg: [
      [15.5, 8.6, 6.6, 9.2, 8.6, 9.6, 0.6, 2.5],
      [11, 6.8, 5.4, 7.4, 6.8, 9.9, 0.8, 2.6],
      [7.5, 4.9, 4.3, 5.0, 5.2, 10.1, 0, 2.7],
      [5.2, 4.2, 3.9, 4.0, 4.6, 10.2, -0.4, 2.8],
    ],
    region: (limb, row, col) =>
      limb === 'torso' && col <= (row === 0 || row >= 6 ? 0 : 1)
        ? 'belly'
        : limb === 'leftLeg' && row >= 3
          ? 'paw'
          : limb === 'leftArm' && row >= 6
            ? 'paw'
            : 'fur',
    tailBands: [1, 2],
  })
  buildHead(s, neckTop)
  buildTail(s, tailRoot)
  buildPaw(s, wrist)
  buildFoot(s, ankle)
  s.mirror()
  addFaceDetails(s)
  return { sculpt: s, landmarks: otternLandmarks() }
}

function buildHead(s: Sculpt, neckTop: Chain): void {
  s.as({ tag: 'head' }, () => {
    const rows = HEAD.map((row, r) =>
      row.map((at) => s.add(at, { limb: 'head', row: r, u: at[1], out: unit(sub(at, [0, 87, 0])) })),
    )
    s.stitch(neckTop, rows[0]!, false, { row: 0, region: 'fur' })
    for (const f of s.faces) if (f.tag === 'head' && f.row === 0 && f.col <= 1) f.region = 'belly'
    rows.slice(0, -1).forEach((row, r) => s.loft(row, rows[r + 1]!, false, { row: r + 1 }))
    for (const f of s.faces)
      if (f.tag === 'head' && ((f.row >= 1 && f.row <= 2 && f.col <= 1) || (f.row === 3 && f.col <= 1)))
        f.region = 'belly'
    const crown = s.add([0, 96.2, -0.8], { limb: 'head', row: 9, u: 96.2, out: [0, 1, 0] })
    const top = rows[rows.length - 1]!
    for (let i = 0; i + 1 < top.length; i++) s.face([top[i]!, top[i + 1]!, crown], { row: 8, col: i })
  })
}

function buildTail(s: Sculpt, root: Chain): void {
  s.as({ tag: 'tail' }, () => {
    let last = root
    TAIL.forEach(([y, z, w, h], r) => {
      const n = root.length
      const next = Array.from({ length: n }, (_, k) => {
        const a = (Math.PI * k) / (n - 1)
        const [sin, cos] = [Math.sin(a), Math.cos(a)]
        // rings lean with the tail
        const lean = 0.55 - r * 0.09
        const at: V3 = [
          k === 0 || k === n - 1 ? 0 : w * sin ** 0.8,
          y + h * Math.sign(cos) * Math.abs(cos) ** 0.8,
          z - h * cos * lean,
        ]
        return s.add(at, { limb: 'tail', row: r, u: -z, out: unit([at[0], at[1] - y, 0]) })
      })
      s.loft(last, next, false, { row: r })
      last = next
    })
    const tip = s.add([0, 5.0, -63], { limb: 'tail', row: 9, u: 63, out: [0, 0, -1] })
    for (let i = 0; i + 1 < last.length; i++) s.face([last[i]!, last[i + 1]!, tip], { row: 8, col: i })
  })
}

const armPlace = (u: number, up: number, front: number): V3 =>
  along(along(along(OTTERN_SHOULDER, OTTERN_ARM, u), ARM_UP, up), cross(OTTERN_ARM, ARM_UP), front)

function buildPaw(s: Sculpt, wrist: Chain): void {
  s.as({ tag: 'leftHand', region: 'paw' }, () => {
    let last = wrist
    for (const [u, up, front] of [
      [26, 2.4, 3.7],
      [29.5, 2.0, 4.1],
      [32, 1.3, 3.4],
    ] as const) {
      const next = Array.from({ length: 8 }, (_, k) => {
        const a = (2 * Math.PI * k) / 8
        const at = armPlace(u, up * Math.cos(a), front * Math.sin(a))
        return s.add(at, { limb: 'leftHand', row: u, u, out: unit(sub(at, armPlace(u, 0, 0))) })
      })
      s.loft(last, next, true)
      last = next
    }
    s.cap(last, scale(OTTERN_ARM, 0.6))
  })
  const claws = new Sculpt()
  for (const f of [2.6, 0.9, -0.9, -2.6]) {
    const root = armPlace(30.8, 0.2, f)
    const claw = tube(
      [root, armPlace(33.4, 0, f * 1.12), armPlace(35.4, -0.9, f * 1.2)],
      [0.85, 0.62, 0],
      4,
      'claw',
      'leftHand',
    )
    for (const p of claw.points) Object.assign(p, { limb: 'leftHand', u: 32, out: unit(sub(p.at, root)) })
    claws.merge(claw)
  }
  s.merge(claws)
}

function buildFoot(s: Sculpt, ankle: Chain): void {
  const rings: readonly (readonly V3[])[] = [
    [
      [-4.2, 4.4, 5],
      [0, 4.8, 6],
      [4, 4.2, 5],
      [5, 3.2, 0],
      [4, 2.4, -5],
      [0, 2.2, -6],
      [-4, 2.4, -5],
      [-4.8, 3.2, 0],
    ],
    [
      [-5.6, 2.0, 15],
      [0, 2.4, 17],
      [5.8, 1.8, 15],
      [6.4, 1.2, 4],
      [4.2, 0.8, -5.6],
      [0, 0.8, -6.8],
      [-4.2, 0.8, -5.6],
      [-5.6, 1.2, 4],
    ],
    [
      [-5.8, 0, 15.6],
      [0, 0, 17.8],
      [6, 0, 15.6],
      [6.5, 0, 4],
      [4.2, 0, -5.8],
      [0, 0, -7],
      [-4.2, 0, -5.8],
      [-5.7, 0, 4],
    ],
  ]
  s.as({ tag: 'leftFoot', region: 'paw' }, () => {
    let last = ankle
    rings.forEach((ring, r) => {
      const next = ring.map(([x, y, z]) => {
        const at: V3 = [10.2 + x + z * 0.16, y, z]
        return s.add(at, { limb: 'leftFoot', row: r, u: z, out: unit([x, 0.3, z * 0.4]) })
      })
      s.loft(next, last, true, { row: r })
      last = next
    })
    s.cap([...last].reverse())
  })
  for (const x of [-4.2, -1.4, 1.6, 4.6]) {
    const z = 16.2 - Math.abs(x) * 0.28
    const at = (dz: number, y: number): V3 => [10.2 + x + (z + dz) * 0.16, y, z + dz]
    const claw = tube([at(-1.4, 1.0), at(1.6, 1.0), at(3.8, 0.25)], [0.95, 0.75, 0], 4, 'claw', 'leftFoot')
    for (const p of claw.points) Object.assign(p, { limb: 'leftFoot', u: 16, out: [0, 0, 1] })
    s.merge(claw)
  }
}

/** Nose, mouth line and ears, pushed into the head. */
function addFaceDetails(s: Sculpt): void {
  const head = (detail: Sculpt, tag: string) => {
    for (const p of detail.points)
      Object.assign(p, { limb: tag === 'ear' ? 'ear' : 'head', u: p.at[1], out: unit(sub(p.at, [0, 87, 0])) })
    for (const f of detail.faces) f.tag = tag
    s.merge(detail)
  }
  // a nose like a shield: broad above, pointed below
  const nose = new Sculpt()
  nose.region = 'nose'
  const back = [
    [-3.4, 88.0, 14.2],
    [3.4, 88.0, 14.2],
    [2.5, 85.4, 16.2],
    [0, 83.9, 16.6],
    [-2.5, 85.4, 16.2],
  ].map((p) => nose.add(p as unknown as V3))
  const front = [
    [-2.7, 87.9, 18.0],
    [2.7, 87.9, 18.0],
    [2.1, 85.9, 19.6],
    [0, 84.5, 19.3],
    [-2.1, 85.9, 19.6],
  ].map((p) => nose.add(p as unknown as V3))
  nose.loft(back, front, true)
  nose.fan(front, nose.add([0, 86.6, 20.3]))
  nose.face([...back].reverse())
  head(nose.outward(), 'nose')
  const mouth = new Sculpt()
  for (const side of [1, -1])
    mouth.merge(
      tube(
        [
          [side * 0.12, 84.2, 18.1],
          [side * 0.12, 82.4, 17.7],
          [side * 3.2, 81.3, 16.6],
          [side * 5.9, 81.9, 14.9],
        ],
        [0.3, 0.4, 0.4, 0.12],
        4,
        'nose',
      ),
    )
  for (const p of mouth.points) p.spot = 'mouth'
  head(mouth, 'nose')
  for (const side of [1, -1]) {
    const ear = lathe(
      [
        [-1.6, 1.7],
        [0.3, 2.9],
        [1.3, 2.1],
        [0.6, 1.3],
      ],
      7,
      'fur',
      [0, 0, 0],
      1,
    )
    for (const f of ear.faces) if (f.v.every((i) => ear.at(i)[1] > 0.5)) f.region = 'ear-inside'
    const [dir, at] = [unit([side * 0.62, 0.22, 0.75]), [side * 11.6, 92.6, -2.4] as V3]
    const across = unit(cross([0, 1, 0], dir))
    const up = cross(dir, across)
    ear.move((p) => add(at, add(add(scale(across, p[0]), scale(dir, p[1])), scale(up, p[2]))))
    head(ear.outward(), 'ear')
  }
}

function otternLandmarks(): Map<string, V3> {
  const marks = new Map<string, V3>([
    ['hips', [0, 27, 0]],
    ['spine', [0, 36, 0]],
    ['chest', [0, 48, 0]],
    ['upperChest', [0, 60, -0.5]],
    ['neck', [0, 73, -0.6]],
    ['head', [0, 78, -1]],
    ['jaw', [0, 80.5, 3]],
    ['crown', [0, 96.2, -0.8]],
    ['chin', [0, 79.2, 15]],
    ['belly', [0, 38, 15]],
    ['hipSide', [17.6, 26, 0]],
    ['leftEar', [12.4, 94.5, -2]],
    ['rightEar', [-12.4, 94.5, -2]],
  ])
  const pair = (name: string, at: V3) => marks.set(`left${name}`, at).set(`right${name}`, flipX(at))
  pair('Shoulder', [4, 70, -0.5])
  pair('UpperArm', OTTERN_SHOULDER)
  pair('LowerArm', armPlace(ELBOW, 0, 0))
  pair('Hand', armPlace(WRIST, 0, 0))
  pair('UpperLeg', [9.4, 20, 0.4])
  pair('LowerLeg', [9.8, 11.5, 1.6])
  pair('Foot', [10.2, 5.2, -0.6])
  pair('Toes', [12, 1, 10.5])
  pair('Eye', [6.4, 90.6, 6])
  pair('Deltoid', armPlace(3, 4.4, 0))
  ;[
    [29, -9],
    [22, -22],
    [13, -34.5],
    [7.6, -47],
  ].forEach(([y, z], i) => marks.set(`tail${i + 1}`, [0, y!, z!]))
  return marks
}

/** Skin weights of the ottern, from where each point belongs. */
export function otternSkin(p: Point): Skinning {
  const side = p.at[0] >= 0 ? 'left' : 'right'
  const [x, y] = [Math.abs(p.at[0]), p.at[1]]
  const tail = (from: string) =>
    chain(-p.at[2], from, [
      [14, 5, 'tail1'],
      [22, 4, 'tail2'],
      [34.5, 4.5, 'tail3'],
      [47, 4.5, 'tail4'],
    ])
  if (p.limb === 'head' || p.limb === 'ear') return [['head', 1]]
  if (p.limb === 'neck')
    return chain(y, 'upperChest', [
      [73, 2, 'neck'],
      [77.4, 1.8, 'head'],
    ])
  if (p.limb === 'tail') return tail('hips')
  if (p.limb.endsWith('Hand')) return [[`${side}Hand`, 1]]
  if (p.limb.endsWith('Arm'))
    return chain(p.u, `${side}Shoulder`, [
      [1, 3.4, `${side}UpperArm`],
      [ELBOW, 2.6, `${side}LowerArm`],
      [WRIST, 2, `${side}Hand`],
    ])
  if (p.limb.endsWith('Foot')) return chain(p.at[2], `${side}Foot`, [[10.5, 4.5, `${side}Toes`]])
  if (p.limb.endsWith('Leg'))
    return chain(-p.u, 'hips', [
      [-17.5, 4.5, `${side}UpperLeg`],
      [-11, 2.6, `${side}LowerLeg`],
      [-5.8, 1.2, `${side}Foot`],
    ])
  const trunk = chain(y, 'hips', [
    [33, 5, 'spine'],
    [45, 5, 'chest'],
    [58, 5, 'upperChest'],
    [73, 2, 'neck'],
  ])
  const legs: Skinning =
    x < 1.5
      ? [
          ['leftUpperLeg', 0.5],
          ['rightUpperLeg', 0.5],
        ]
      : [[`${side}UpperLeg`, 1]]
  const low = mix(trunk, legs, smoothstep(30, 18, y) * (x < 1.5 ? 0.35 : 0.5))
  const withTail =
    p.at[2] < -9 && y < 48 ? mix(low, [['tail1', 1]], 0.25 * smoothstep(8, 2, x) * smoothstep(48, 36, y)) : low
  return mix(
    withTail,
    [
      [`${side}Shoulder`, 0.75],
      [`${side}UpperArm`, 0.25],
    ],
    smoothstep(58, 66, y) * smoothstep(6, 12, x) * 0.85,
  )
}

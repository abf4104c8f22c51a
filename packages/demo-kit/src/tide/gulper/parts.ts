import { bentPath, lock, stud, type Dummy } from '../../model/garment.ts'
import { thorn } from '../../model/loftBeast.ts'
import { box, lathe, ropeRing, Sculpt, tube } from '../../model/Sculpt.ts'
import { add, along, lerp, unit, type V3 } from '../../model/vector.ts'
import { garment, onHead, type PartSpec } from '../../folk/parts/spec.ts'
import { barnacles } from '../barnacles.ts'
import { eyesPart, type Eye } from '../eyes.ts'
import { web } from '../growths.ts'
import { lowerLip, upperLip } from './body.ts'

const SKIN = { region: 'hide' }
const MIDDLE: V3 = [0, 47, -6]

/** An eye on a pod that rises from the skull. */
const pod = (at: V3, out: V3, r: number, lid: number, root: V3, paired = true): Eye => ({
  at,
  out: unit(out),
  r,
  lid,
  iris: 0.68,
  tilt: 0.04,
  paired,
  hooded: true,
  pod: { root, radii: [r * 1.28, r * 1.26, r * 1.24, r * 1.16] },
})

const GREAT = pod([18.5, 83, 21.5], [0.2, 0.06, 1], 8, 0.5, [17.4, 73.5, 10])

/** The body's skin in a direction from its middle, and that direction. */
const onSkin = (d: Dummy, direction: V3, lift: number): { at: V3; out: V3 } => {
  const out = unit(direction)
  return { at: d.fromTrunk(MIDDLE, out, lift), out }
}

function spikes(d: Dummy): Sculpt {
  const s = new Sculpt()
  for (const [x, y, z, length] of [
    [0, 1, 0.1, 9],
    [0, 1, -0.55, 11],
    [0, 0.62, -1, 10],
    [0, 0.1, -1, 8],
    [0.55, 0.95, -0.3, 8],
    [0.62, 0.6, -0.75, 9],
    [0.6, 0.05, -1, 7],
    [-0.55, 0.95, -0.3, 8],
    [-0.62, 0.6, -0.75, 9],
    [-0.6, 0.05, -1, 7],
  ] as const) {
    const { at, out } = onSkin(d, [x, y, z], -1)
    const tip = add(along(at, out, length), [0, -1.4, -2.2])
    thorn(s, [at, along(at, out, length * 0.5), tip], 2.9, 5, { region: 'spike', tag: 'spike' })
  }
  return s
}

/** A shell over the back, ridged from its middle. */
function shell(d: Dummy): Sculpt {
  const s = new Sculpt()
  s.region = 'shell'
  const [rings, sides] = [5, 14]
  const pole = unit([0, 0.72, -0.7])
  const [across, up]: [V3, V3] = [[1, 0, 0], unit([0, 0.7, 0.72])]
  const at = (r: number, k: number, lift: number): V3 => {
    const a = (2 * Math.PI * k) / sides
    const reach = (r / rings) * 0.86
    const direction = add(
      along(along([0, 0, 0], pole, Math.cos(reach)), across, Math.sin(reach) * Math.sin(a)),
      along([0, 0, 0], up, Math.sin(reach) * Math.cos(a)),
    )
    return d.fromTrunk(MIDDLE, direction, lift)
  }
  const lifts = [0, 8.6, 7.6, 5.6, 3.4, 1.6]
  const rows = Array.from({ length: rings }, (_, i) =>
    Array.from({ length: sides }, (_, k) => s.add(at(i + 1, k, lifts[i + 1]! + (k % 2 ? 0.9 : -0.5)))),
  )
  // a rim, and under it a wall back to the skin
  const under = Array.from({ length: sides }, (_, k) => s.add(at(rings * 0.99, k, 0.2)))
  s.as({ region: 'shell-edge' }, () => s.loft(under, rows.at(-1)!, true))
  for (let i = rows.length - 1; i > 0; i--)
    s.as({ region: i === rows.length - 1 ? 'shell-edge' : 'shell' }, () => s.loft(rows[i]!, rows[i - 1]!, true))
  s.cap(rows[0]!, [0, 0.9, -0.9])
  for (const f of s.faces) if (f.region === 'shell' && f.col >= 0 && f.col % 4 === 1) f.region = 'shell-edge'
  return orient(s)
}

/** Open pieces have no inside to measure: they are turned so that most of their faces look away from the body's middle. */
function orient(s: Sculpt): Sculpt {
  const facing = s.faces.reduce((sum, f) => {
    const n = s.faceNormal(f)
    const at = s.at(f.v[0]!)
    return sum + n[0] * (at[0] - MIDDLE[0]) + n[1] * (at[1] - MIDDLE[1]) + n[2] * (at[2] - MIDDLE[2])
  }, 0)
  return facing < 0 ? s.flip() : s
}

const BARNACLES: readonly (readonly [V3, number])[] = [
  [[0.3, 1, -0.2], 4.4],
  [[-0.35, 0.9, -0.5], 5.2],
  [[0.1, 0.75, -0.9], 3.8],
  [[0.75, 0.6, -0.5], 3.7],
  [[-0.7, 0.45, -0.8], 4.1],
  [[0.4, 0.2, -1], 4.2],
  [[-0.15, 1, 0.15], 3.2],
  [[-0.2, 0.3, -1], 3.3],
  [[0.62, 0.9, 0], 3],
]

/** A net thrown over the back, corks along its hem. */
function net(d: Dummy): Sculpt {
  const s = new Sculpt()
  const lines = [0.55, 0.1, -0.35, -0.8].map((z) =>
    Array.from({ length: 9 }, (_, k) => {
      const a = (-1 + k / 4) * 1.25
      return onSkin(d, [Math.sin(a), Math.cos(a), z], 1).at
    }),
  )
  for (const line of lines) s.merge(tube(line, 0.6, 4, 'rope'))
  for (let k = 0; k < 9; k += 2)
    s.merge(
      tube(
        lines.map((l) => l[k]!),
        0.6,
        4,
        'rope',
      ),
    )
  for (const line of lines)
    for (const end of [line[0]!, line.at(-1)!])
      s.merge(
        lathe(
          [
            [-2.8, 1.1],
            [-1.4, 2.4],
            [1.4, 2.4],
            [2.8, 1.1],
          ],
          6,
          'cork',
          along(end, unit([end[0], 0, 0]), 1.4),
        ),
      )
  return s
}

/** Teeth along the lips: how long each is by its place from the middle (0) to the corner (1). */
function teeth(places: readonly number[], upper: (t: number) => number, lower: (t: number) => number, thick: number) {
  const s = new Sculpt()
  const along2 = (lip: readonly V3[], t: number) => {
    const at = t * (lip.length - 1)
    const i = Math.min(lip.length - 2, Math.floor(at))
    return lerp(lip[i]!, lip[i + 1]!, at - i)
  }
  const row = (lip: readonly V3[], length: (t: number) => number, down: 1 | -1) => {
    for (const t of places) {
      const [x, y, z] = along2(lip, t)
      const l = length(t)
      if (l <= 0) continue
      const root: V3 = [x * 0.965, y + down * 1.6, z - 1.6]
      const lean: V3 = [x * 0.012, -down, 0.16]
      const tip = along(root, lean, l + 1.6)
      thorn(s, [root, tip], thick * (0.75 + l * 0.045), 4, { region: 'tooth', tag: 'tooth' })
    }
  }
  row(upperLip(), upper, 1)
  row(lowerLip(), lower, -1)
  return s.both()
}

const coral = (d: Dummy) => {
  const { at } = onSkin(d, [0.42, 1, 0.1], -1)
  const s = tube(
    bentPath([at, add(at, [4, 9, -3]), add(at, [5, 17, -1]), add(at, [9, 24, 1])], 6),
    [3, 2.7, 2.3, 1.9, 1.3, 0],
    5,
    'coral',
  )
  for (const [from, to] of [
    [
      [4, 9, -3],
      [11, 13, -7],
    ],
    [
      [4.8, 15, -1.6],
      [0, 22, 2],
    ],
  ] as const)
    s.merge(tube([add(at, from), lerp(add(at, from), add(at, to), 0.55), add(at, to)], [1.8, 1.4, 0], 5, 'coral'))
  return s.both()
}

/** A bucket somebody left, worn as a hat. */
const bucket = () => {
  const s = lathe(
    [
      [-1, 9.4],
      [1.6, 9.2],
      [13, 7.4],
      [13.8, 6.6],
    ],
    10,
    'wood',
  )
  for (const y of [2.2, 10])
    s.merge(
      ropeRing(
        Array.from({ length: 10 }, (_, k): V3 => {
          const a = (2 * Math.PI * k) / 10
          const r = 9.6 - (y * 1.8) / 11
          return [r * Math.sin(a), y, r * Math.cos(a)]
        }),
        0.55,
        4,
        'metal',
      ),
    )
  s.merge(
    tube(
      bentPath(
        [
          [9.6, 2, 0],
          [8, 1, 8],
          [0, 0, 11],
          [-8, 1, 8],
          [-9.6, 2, 0],
        ],
        7,
      ),
      0.4,
      4,
      'metal',
    ),
  )
  return s.move(([x, y, z]) => [x + y * 0.06, 77 + y - z * 0.1, -1 + z + y * -0.08])
}

const crest = (d: Dummy) => {
  const ribs = [0.75, 0.4, 0.05, -0.3, -0.7].map((z, i) => {
    const { at, out } = onSkin(d, [0, 1, z], 0)
    return add(along(at, out, [6, 13, 15, 13, 5][i]!), [0, 0, -3])
  })
  const root: [V3, V3] = [onSkin(d, [0, 1, 0.75], -1.5).at, onSkin(d, [0, 1, -0.75], -1.5).at]
  return web(ribs, root, 'frill', 'coral')
}

/** Gills that stand out from the cheeks. */
const cheekFins = (d: Dummy) => {
  const { at } = onSkin(d, [1, 0.02, 0.3], -1.2)
  const fin = web(
    [
      [1, 10, -2],
      [5, 11, -6],
      [7, 5, -10],
      [9, 1, -13],
      [7, -4, -10],
      [5, -7, -7],
    ].map((p) => add(at, p as unknown as V3)),
    [add(at, [-0.6, 7, 0]), add(at, [-0.6, -6, 0])],
    'frill',
    'coral',
  )
  return fin.both()
}

/** A ring around the trunk between the legs, aslant like a bandolier. */
const slantRing = (d: Dummy, lean: number, lift: number, n: number) =>
  Array.from({ length: n }, (_, k) => {
    const a = (2 * Math.PI * k) / n
    return d.fromTrunk([0, 47, 8], [Math.sin(a), Math.cos(a), lean * Math.cos(a)], lift)
  })

function satchel(d: Dummy): Sculpt {
  const path = slantRing(d, -0.34, 1.2, 20)
  const s = ropeRing(path, 1.6, 4, 'leather', 0.5)
  const at = add(path[17]!, [-1.5, 1, 0])
  const out = unit([at[0], at[1] - 47, 0])
  const turn: [V3, V3, V3] = [[0, 0, 1], unit([-out[1], out[0], 0]), out]
  s.merge(box(at, [7.5, 6, 3], 'leather', 0.92, turn))
  s.merge(box(along(along(at, turn[1], 2.2), out, 0.7), [7.9, 4, 2.8], 'leather-dark', 0.9, turn))
  s.merge(stud(along(at, out, 3.4), out, 1.4, 1.2, 'metal'))
  return s
}

function floats(d: Dummy): Sculpt {
  const path = slantRing(d, -0.3, 2, 21)
  const s = ropeRing(path, 1.1, 4, 'rope')
  path.forEach((at, k) => {
    if (k % 3 || (k > 7 && k < 14)) return
    const out = unit([at[0], at[1] - 47, 0])
    const cork = lathe(
      [
        [-4, 1.6],
        [-2.2, 3.2],
        [2.2, 3.2],
        [4, 1.6],
      ],
      7,
      'cork',
    )
    s.merge(cork.move((p) => add(along(at, out, 1.8), [p[0], p[2], p[1]])).outward())
  })
  return s
}

const bands = (d: Dummy) =>
  d
    .wear(
      (f) => (f.tag.endsWith('HindLeg') && f.row === 6) || (f.tag.endsWith('ForeLeg') && f.row === 2),
      'metal',
      () => 0.9,
    )
    .thicken(0.8, 'metal', () => false)

/** Kelp that hangs from the back of the jaw. */
const kelp = (d: Dummy) => {
  const s = new Sculpt()
  for (const [a, l] of [
    [-1, 9],
    [-0.66, 13],
    [-0.3, 16],
    [0, 19],
    [0.34, 15],
    [0.7, 12],
    [1, 8],
  ] as const) {
    const at = d.fromTrunk([0, 42, 4], [Math.sin(a), -0.42, Math.cos(a)], -0.4)
    s.merge(
      lock(bentPath([at, add(at, [a * 0.6, -l * 0.5, 1.4]), add(at, [a * 1.6, -l, -0.6])], 4), 2.6, 'frill', 4, 'fin'),
    )
  }
  return s
}

const everywhere = ['torso', 'hips', 'head', 'jaw']

export const GULPER_PARTS: PartSpec[] = [
  eyesPart('eyes-pods', 'Two eyes on pods', SKIN, () => [GREAT]),
  eyesPart('eyes-five', 'Five eyes on pods', SKIN, () => [
    { ...GREAT, r: 7, pod: { root: [17.4, 73.5, 10], radii: [9.2, 9, 8.7, 8.1] } },
    pod([0, 87, 6], [0, 0.12, 1], 4.2, 0.4, [0, 78.5, 1], false),
    pod([38, 70.5, 13], [0.72, 0.04, 0.7], 4.6, 0.55, [33, 63, 4]),
  ]),
  eyesPart('eyes-drowsy', 'Drowsy eyes', SKIN, (d) => {
    const out = unit([0.42, 0.5, 0.8])
    return [
      {
        at: d.fromTrunk([16, 58, 14], out, -0.4),
        out,
        r: 6.6,
        lid: 0.95,
        iris: 0.66,
        tilt: 0.1,
        hooded: true,
        paired: true,
      },
    ]
  }),
  onHead('coral-gulper', 'Coral horns, gulper’s', 'horns', 2, coral, { tags: ['distinctive'] }),
  onHead('hat-bucket', 'Lost bucket', 'horns', 3, bucket, { tags: ['distinctive'], excludes: ['lure'] }),
  garment('crest-fin', 'Crest fin', 'horns', 2, 0, everywhere, crest),
  garment('teeth-needles', 'Needle teeth', 'teeth', 0, 0, ['head', 'jaw'], () =>
    teeth(
      [0.1, 0.3, 0.5, 0.68, 0.84],
      (t) => 5.2 - 2.4 * t,
      (t) => 7.4 - 4 * t,
      1.15,
    ),
  ),
  garment('teeth-pegs', 'Peg teeth', 'teeth', 0, 0, ['head', 'jaw'], () =>
    teeth(
      [0.16, 0.5, 0.8],
      () => 2.6,
      () => 3,
      2.3,
    ),
  ),
  garment('teeth-tusks', 'Two tusks', 'teeth', 0, 0, ['head', 'jaw'], () =>
    teeth(
      [0.14, 0.36, 0.62],
      (t) => (t < 0.2 ? 1.6 : 0),
      (t) => (t > 0.3 && t < 0.4 ? 15 : 2.4),
      1.9,
    ),
  ),
  garment('spikes', 'Spikes', 'back', 2, 0, everywhere, spikes),
  garment('shell-back', 'Shell', 'back', 3, 0, everywhere, shell, { tags: ['distinctive'] }),
  garment('barnacles-gulper', 'Barnacles, gulper’s', 'back', 2, 0, everywhere, (d) =>
    barnacles(BARNACLES, (direction) => onSkin(d, direction, 0)),
  ),
  garment('net-gulper', 'Net, gulper’s', 'back', 4, 0, everywhere, net),
  garment('satchel-gulper', 'Bandolier bag', 'bag', 6, 4, ['torso', 'hips', 'head', 'jaw'], satchel),
  garment('floats-gulper', 'Rope of floats', 'bag', 6, 4, ['torso', 'hips', 'head', 'jaw'], floats),
  garment('cheek-fins', 'Cheek fins', 'fins', 2, 0, everywhere, cheekFins),
  garment('kelp-beard', 'Kelp beard', 'fins', 2, 0, ['jaw', 'torso'], kelp),
  garment('leg-bands', 'Brass bands', 'legs', 3, 3, ['legs'], bands),
]

import { buildHumanBody } from '../folk/body.ts'
import { HUMAN_MOVEMENTS } from '../folk/expressions.ts'
import { HUMAN_SCALE } from '../folk/proportions.ts'
import type { PartSpec } from '../folk/parts/spec.ts'
import { Dummy } from '../model/garment.ts'
import { lathe, Sculpt, tube } from '../model/Sculpt.ts'
import { add, along, cross, scale, sub, unit, type V3 } from '../model/vector.ts'
import type { GuestSource } from '../writeKit.ts'
import { buildOttern, otternSkin } from './ottern/body.ts'
import OTTERN_PARTS from './ottern/parts.ts'

/*
 * What the tide leaves on people: an ottern's head and tail, and a diver's helmet, for the human body of the other
 * kit. They replace what is within a seam; where their edge has other points than the body's, it is drawn on to it.
 */

/** From the ottern's units to the human's, about a place of the one that comes to lie on a place of the other. */
const onto =
  (from: V3, to: V3, size: number) =>
  (p: V3): V3 =>
    add(to, scale(sub(p, from), size))

const HEAD_SIZE = 0.62
const [OTTERN_NECK, HUMAN_NECK]: readonly [V3, V3] = [
  [0, 75.6, -0.7],
  [0, 83.4, -1.6],
]
const toNeck = onto(OTTERN_NECK, HUMAN_NECK, HEAD_SIZE)
const fromNeck = onto(HUMAN_NECK, OTTERN_NECK, 1 / HEAD_SIZE)
const FACE = new Set(['head', 'nose', 'ear'])

const TAIL_SIZE = 0.5
const [TAIL_ROOT, SEAT]: readonly [V3, V3] = [
  [0, 36.5, -11.6],
  [0, 48.6, -7.2],
]
const toSeat = onto(TAIL_ROOT, SEAT, TAIL_SIZE)
const fromSeat = onto(SEAT, TAIL_ROOT, 1 / TAIL_SIZE)
const TAIL_BONES = [1, 2, 3, 4].map((i) => `tail${i}`)

const wornOnHead = (id: string) => OTTERN_PARTS.find((p) => p.id === id)!

const otternHead: PartSpec = {
  id: 'head-ottern',
  name: 'Ottern head',
  slot: 'other-head',
  how: 'replaces',
  seam: 'neck',
  fit: 'shape',
  tags: ['rare', 'distinctive'],
  covers: ['hat', 'hair', 'brows', 'eyes', 'beard'],
  make: () => {
    const { sculpt } = buildOttern()
    const head = sculpt.peel((f) => FACE.has(f.tag))
    for (const worn of ['eyes-round', 'whiskers-long']) head.merge(wornOnHead(worn).make(new Dummy(sculpt)))
    return head.move(toNeck)
  },
  // its eyes do what the person's lids and looks do
  morphs: () =>
    wornOnHead('eyes-round').morphs!(new Dummy(buildOttern().sculpt))
      .filter(({ name }) => HUMAN_MOVEMENTS.some(({ id }) => name === `${id}+` || name === `${id}-`))
      .map(({ name, move }) => ({
        name,
        move: (p) => (EYE_SPOTS.has(p.spot ?? '') ? scale(move({ ...p, at: fromNeck(p.at) }), HEAD_SIZE) : [0, 0, 0]),
      })),
}

const EYE_SPOTS = new Set(['eye-white', 'iris', 'pupil', 'glint', 'lid-edge'])

const otternTail: PartSpec = {
  id: 'tail-ottern',
  name: 'Ottern tail',
  slot: 'tail',
  how: 'replaces',
  seam: 'seat',
  fit: 'shape',
  tags: ['rare'],
  bones: TAIL_BONES.map((name, i) => ({
    name,
    parent: i === 0 ? 'hips' : TAIL_BONES[i - 1]!,
    level: i < 2 ? ('crowd' as const) : ('standard' as const),
  })),
  limbs: [{ id: 'tail', kind: 'tail', bones: TAIL_BONES, channels: ['tail'], lag: 0.09 }],
  make: () =>
    buildOttern()
      .sculpt.peel((f) => f.tag === 'tail')
      .move(toSeat),
  skin: {
    bones: [
      { name: 'seat', parent: null, at: toSeat([0, 32, -6]) },
      ...TAIL_BONES.map((name, i) => ({
        name,
        parent: i === 0 ? 'seat' : TAIL_BONES[i - 1]!,
        at: toSeat(buildOttern().landmarks.get(name)!),
      })),
    ],
    // asked of where the point was on the ottern
    of: (p) =>
      otternSkin({ ...p, at: fromSeat(p.at) }).map(([bone, share]) => [
        TAIL_BONES.includes(bone) ? bone : 'seat',
        share,
      ]),
  },
}

const HELMET: V3 = [0, 90.6, -0.6]

/** A round window in the helmet's wall, seen along a direction: a brass ring about dark glass, crossed by two bars. */
function porthole(out: V3, radius: number): Sculpt {
  const s = new Sculpt()
  const n = unit(out)
  const across = unit(cross([0, 1, 0], n))
  const up = cross(n, across)
  const at = (x: number, y: number, far: number): V3 => along(along(along(HELMET, n, far), across, x), up, y)
  const circle = (r: number, far: number) =>
    Array.from({ length: 10 }, (_, k) => {
      const a = (2 * Math.PI * k) / 10
      return s.add(at(r * Math.cos(a), r * Math.sin(a), far))
    })
  const [root, rim, lip, glass] = [
    circle(radius * 1.2, 6.9),
    circle(radius * 1.2, 8.7),
    circle(radius * 0.92, 8.9),
    circle(radius * 0.9, 8.1),
  ] as const
  s.as({ region: 'metal' }, () => {
    s.loft(root, rim, true)
    s.loft(rim, lip, true)
    s.loft(lip, glass, true)
  })
  s.as({ region: 'glass' }, () => s.cap(glass))
  for (const turned of [0, 1]) {
    const end = (t: number): V3 => (turned ? at(0, t * radius, 8.75) : at(t * radius, 0, 8.75))
    s.merge(tube([end(-0.95), end(0.95)], 0.28, 4, 'metal'))
  }
  return s
}

const divingHelmet: PartSpec = {
  id: 'diving-helmet',
  name: 'Diving helmet',
  slot: 'other-head',
  how: 'replaces',
  seam: 'neck',
  fit: 'shape',
  tags: ['rare', 'distinctive'],
  covers: ['hat', 'hair', 'brows', 'eyes', 'beard', 'neck'],
  make: (d) => {
    const s = new Sculpt()
    // a stump of neck that ends inside
    const neck = d.sculpt.peel((f) => f.tag === 'head')
    const edge = neck.rims().sort((a, b) => b.length - a.length)[0]!
    s.as({ region: 'collar' }, () => {
      const loop = edge.map((i) => s.add(neck.at(i)))
      const inside = edge.map((i) => s.add(add(scale(sub(neck.at(i), [0, 84, -2]), 0.6), [0, 87.4, -2])))
      s.loft(loop, inside, true)
      s.cap(inside)
    })
    s.merge(
      lathe(
        [
          [-8.2, 5.2],
          [-7.6, 6.6],
          [-5.4, 7],
          [-3.2, 7.7],
          [0, 8.3],
          [3.4, 7.6],
          [6, 5.6],
          [7.9, 2.4],
          [8.4, 0],
        ],
        14,
        'metal',
        HELMET,
      ),
    )
    // the ring it is screwed down by, and its wing nuts
    s.merge(
      lathe(
        [
          [-9.2, 6],
          [-9, 8.6],
          [-7.9, 8.6],
          [-7.5, 6.4],
        ],
        14,
        'leather-dark',
        HELMET,
      ),
    )
    for (let k = 0; k < 6; k++) {
      const a = (2 * Math.PI * (k + 0.5)) / 6
      const at: V3 = add(HELMET, [8.1 * Math.sin(a), -7.7, 8.1 * Math.cos(a)])
      s.merge(tube([add(at, [0, -0.8, 0]), add(at, [0, 0.9, 0])], [0.6, 0.45], 5, 'metal'))
    }
    s.merge(porthole([0, 0, 1], 3.9))
    for (const side of [1, -1]) s.merge(porthole([side, 0.05, 0.12], 2.7))
    s.merge(porthole([0, 0.78, 0.62], 1.9))
    // where the hose goes in
    s.merge(
      tube(
        [
          [2.6, 93, -7.4],
          [3.4, 93.8, -10.4],
          [3.6, 92, -12.2],
        ],
        [1.3, 1.2, 1.3],
        8,
        'metal',
      ),
    )
    return s
  },
}

export const GUESTS: GuestSource[] = [
  {
    id: 'saltwick-folk/human',
    scale: HUMAN_SCALE,
    sculpt: buildHumanBody().sculpt,
    sockets: [],
    parts: [otternHead, otternTail, divingHelmet],
  },
]

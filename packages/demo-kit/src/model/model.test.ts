import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { checkEdges, signedVolume } from '@idle-tinker/core'
import { triangulate } from './bake.ts'
import { bentPath, lock, slab, stud, thickBand } from './garment.ts'
import { box, halfRing, lathe, ringAround, ropeRing, Sculpt, tube } from './Sculpt.ts'
import { chain, mix } from './skinning.ts'
import { curve, size, smoothstep, sub, unit, type V3 } from './vector.ts'
import { even } from '../../../core/src/testing/even.ts'

function check(s: Sculpt) {
  const triangles = Uint32Array.from(triangulate(s).triangles)
  const positions = s.points.flatMap((p) => [...p.at])
  return { ...checkEdges(triangles, s.points.length), volume: signedVolume(positions, triangles) }
}
const circle = (y: number, r: number, n = 8): V3[] =>
  Array.from({ length: n }, (_, k) => [r * Math.sin((2 * Math.PI * k) / n), y, r * Math.cos((2 * Math.PI * k) / n)])

describe('closed shapes', () => {
  const shapes: [string, Sculpt, number | null][] = [
    ['a box', box([1, 2, 3], [1, 2, 3], 'a'), 48],
    ['a tapered box', box([0, 0, 0], [1, 1, 1], 'a', 0.5), null],
    [
      'a tube',
      tube(
        [
          [0, 0, 0],
          [0, 5, 0],
        ],
        1,
        12,
        'a',
      ),
      15,
    ],
    [
      'a tube with a tip',
      tube(
        [
          [0, 0, 0],
          [0, 2, 1],
          [0, 5, 0],
        ],
        [1, 0.8, 0],
        5,
        'a',
      ),
      null,
    ],
    [
      'a four-sided tube',
      tube(
        [
          [0, 0, 0],
          [3, 1, 0],
          [5, 0, 2],
        ],
        [0.5, 0.6, 0.4],
        4,
        'a',
      ),
      null,
    ],
    [
      'a lathe',
      lathe(
        [
          [0, 1],
          [2, 1],
        ],
        16,
        'a',
      ),
      6.12,
    ],
    [
      'a spindle',
      lathe(
        [
          [-1, 0],
          [0, 1],
          [1, 0],
        ],
        6,
        'a',
      ),
      null,
    ],
    ['a rope ring', ropeRing(circle(0, 5, 16), 0.5, 6, 'a'), null],
    ['a band', thickBand(circle(0, 5), circle(2, 5), 0.5, 'a'), null],
    [
      'a slab',
      slab(
        [
          [
            [0, 0, 0],
            [2, 0, 0],
          ],
          [
            [0, 3, 0],
            [2, 3, 0],
          ],
        ],
        0.5,
        'a',
      ),
      3,
    ],
    [
      'a lock',
      lock(
        [
          [0, 0, 0],
          [0, -2, 1],
          [0, -4, 1],
        ],
        1,
        'a',
      ),
      null,
    ],
  ]
  it.each(shapes)('%s has no open or crowded edge and winds outward', (_name, shape, volume) => {
    const found = check(shape)
    expect(found.open).toEqual([])
    expect(found.nonManifold).toEqual([])
    expect(found.volume).toBeGreaterThan(0)
    if (volume !== null) expect(found.volume).toBeCloseTo(volume, 1)
  })

  it('a stud is open only below', () => {
    const { open, nonManifold } = check(stud([0, 0, 0], [0, 0, 1], 1, 0.5, 'a', 6))
    expect(nonManifold).toEqual([])
    expect(open).toHaveLength(6)
  })
})

describe('the vocabulary', () => {
  const cup = () => {
    const s = new Sculpt()
    s.limb = 'leftArm'
    const rings = [0, 2, 4].map((y, row) =>
      circle(y, 2).map((at) => s.add(at, { row, u: y, out: unit([at[0], 0, at[2]]) })),
    )
    s.loft(rings[0]!, rings[1]!, true, { row: 0 })
    s.loft(rings[1]!, rings[2]!, true, { row: 1 })
    return s
  }

  it('lofts outward from the lower to the upper ring', () => {
    const s = cup()
    for (const f of s.faces) {
      const n = s.faceNormal(f)
      const middle = s.at(f.v[0]!)
      expect(n[0] * middle[0] + n[2] * middle[2]).toBeGreaterThan(0)
    }
    expect(() => s.loft([0, 1], [2], false)).toThrow(RangeError)
    expect(() => s.add([0, Number.NaN, 0])).toThrow(RangeError)
  })

  it('finds the rims of a shell and closes them by thickening', () => {
    const s = cup()
    expect(s.rims().map((r) => r.length)).toEqual([8, 8])
    const { open, nonManifold, volume } = check(s.thicken(0.3, 'lining'))
    expect(open).toEqual([])
    expect(nonManifold).toEqual([])
    expect(volume).toBeGreaterThan(0)
    expect(s.faces.filter((f) => f.region === 'lining')).toHaveLength(16)
  })

  it('leaves out the inner wall where nothing will show it', () => {
    const s = cup().thicken(0.3, 'lining', (f) => f.row === 1)
    expect(s.faces.filter((f) => f.region === 'lining')).toHaveLength(8)
    const used = new Set(s.faces.flatMap((f) => f.v))
    expect(used.size).toBe(s.points.length)
  })

  it('stitches rings of any two counts without a hole', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 20 }), fc.integer({ min: 3, max: 20 }), (a, b) => {
        const s = new Sculpt()
        const low = circle(0, 2, a).map((p) => s.add(p))
        const high = circle(1, 2, b).map((p) => s.add(p))
        s.stitch(low, high, true)
        expect(s.faces).toHaveLength(a + b)
        expect(
          s
            .rims()
            .map((r) => r.length)
            .sort((x, y) => x - y),
        ).toEqual([a, b].sort((x, y) => x - y))
      }),
    )
  })

  it('mirrors a half, shares what lies on the middle, and renames the sides', () => {
    const s = new Sculpt()
    s.limb = s.tag = 'leftHand'
    const [a, b, c] = [
      [0, 0, 0],
      [0, 1, 0],
      [1, 0, 0],
    ].map((p) => s.add(p as unknown as V3)) as [number, number, number]
    s.face([a, c, b])
    s.mirror()
    expect(s.points).toHaveLength(4)
    expect(s.faces.map((f) => f.tag)).toEqual(['leftHand', 'rightHand'])
    expect(s.points[3]!.limb).toBe('rightHand')
    expect(check(s).nonManifold).toEqual([])
  })

  it('peels faces with only their points, and orders a ring from the front round by the left', () => {
    const s = cup()
    const peeled = s.peel((f) => f.row === 1)
    expect(peeled.points).toHaveLength(16)
    const ring = peeled.ring('leftArm', 2)
    expect(peeled.at(ring[0]!)[2]).toBeCloseTo(2)
    expect(peeled.at(ring[2]!)[0]).toBeCloseTo(2)
  })

  it('makes rings with their own depth to the front and back', () => {
    const half = halfRing(7, 3, 2, 5, 2.4)
    expect(half[0]).toEqual([0, 0, 2])
    expect(half[6]![2]).toBeCloseTo(-5)
    expect(half[3]![0]).toBeCloseTo(3)
    const whole = ringAround([0, 0, 0], [0, 1, 0], [0, 0, 1], [1, 2, 3, 4], 2, 4)
    expect(whole.map(size)).toEqual([1, 3, 2, 4].map((v) => expect.closeTo(v) as number))
  })
})

describe('small tools', () => {
  it('bend a path through its places', () => {
    const places: V3[] = [
      [0, 0, 0],
      [1, 2, 0],
      [3, 1, 1],
    ]
    const path = bentPath(places, 5)
    expect(size(sub(path[0]!, places[0]!))).toBeCloseTo(0)
    expect(size(sub(path[2]!, places[1]!))).toBeCloseTo(0)
    expect(size(sub(path[4]!, places[2]!))).toBeCloseTo(0)
  })

  it('hold curves at their ends and step smoothly', () => {
    expect(
      [-1, 0, 0.5, 1, 9].map((x) =>
        curve(
          [
            [0, 2],
            [1, 4],
          ],
          x,
        ),
      ),
    ).toEqual([2, 2, 3, 4, 4])
    expect([smoothstep(0, 1, -1), smoothstep(0, 1, 0.5), smoothstep(0, 1, 2)]).toEqual([0, 0.5, 1])
  })

  it('share skin along a chain so that it always sums to one', () => {
    fc.assert(
      fc.property(even(-5, 40), even(0, 1), (u, t) => {
        const shares = mix(
          chain(u, 'a', [
            [10, 2, 'b'],
            [20, 3, 'c'],
          ]),
          [['d', 1]],
          t,
        )
        expect(shares.reduce((s, [, w]) => s + w, 0)).toBeGreaterThan(0.995)
        expect(shares.reduce((s, [, w]) => s + w, 0)).toBeLessThan(1.001)
      }),
    )
  })
})

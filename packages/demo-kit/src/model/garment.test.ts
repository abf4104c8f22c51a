import { describe, expect, it } from 'vitest'
import { checkEdges, signedVolume } from '@idle-tinker/core'
import { buildHumanBody } from '../folk/body.ts'
import { upright } from '../folk/parts/spec.ts'
import { bakeShades, surfaceOf, triangulate } from './bake.ts'
import { bands, Dummy, flare, headShell, rimAt } from './garment.ts'
import { box, lathe, Sculpt, tube } from './Sculpt.ts'
import { dot, mean, size, sub, unit, type V3 } from './vector.ts'

const dummy = new Dummy(buildHumanBody().sculpt)
const distance = (at: V3) => dummy.surface.nearest(...at)!.distance
const edges = (s: Sculpt) => checkEdges(Uint32Array.from(triangulate(s).triangles), s.points.length)

describe('what is worn', () => {
  const shirt = () => dummy.wear(bands({ torso: [1, 6], arm: [0, 5] }), 'shirt', () => 1.2)

  it('lies off the body by what was asked', () => {
    const s = shirt()
    expect(s.points.length).toBeGreaterThan(80)
    for (const { at } of s.points) {
      expect(distance(at)).toBeLessThan(1.21)
      // in a fold of the body, as the armpit is, two sides are near
      expect(distance(at)).toBeGreaterThan(0.5)
    }
    expect(new Set(s.faces.map((f) => f.region))).toEqual(new Set(['shirt']))
  })

  it('is only of the bands that were asked for', () => {
    const s = shirt()
    expect(s.faces.every((f) => f.tag === 'torso' || f.tag.endsWith('Arm'))).toBe(true)
    expect(s.faces.filter((f) => f.tag === 'torso').every((f) => f.row >= 1 && f.row <= 6)).toBe(true)
    expect(s.faces.filter((f) => f.tag.endsWith('Arm')).every((f) => f.row <= 5)).toBe(true)
    expect(dummy.wear(bands({}), 'none', () => 1).faces).toEqual([])
  })

  it('has openings that can be found by what they lie on', () => {
    const s = shirt()
    const cuff = rimAt(s, (p) => p.limb === 'leftArm')
    expect(cuff.every((p) => s.points[p]!.limb === 'leftArm')).toBe(true)
    expect(mean(cuff.map((p) => s.at(p)))[0]).toBeGreaterThan(15)
    expect(() => rimAt(s, (p) => p.limb === 'tail')).toThrow('no such rim')
  })

  it('is flared outward and along from an opening, and stays one skin', () => {
    const s = shirt()
    const cuff = rimAt(s, (p) => p.limb === 'leftArm')
    const before = { crowded: edges(s).nonManifold, faces: s.faces.length }
    const middle = mean(cuff.map((p) => s.at(p)))
    const radius = (chain: readonly number[], c: V3) => Math.max(...chain.map((p) => size(sub(s.at(p), c))))
    const down: V3 = unit([1, -1, 0])
    const wide = flare(
      s,
      cuff,
      down,
      [
        [0.8, 0.2],
        [0.4, 1.5],
      ],
      'cuff',
    )
    const moved = mean(wide.map((p) => s.at(p)))
    expect(dot(sub(moved, middle), down)).toBeCloseTo(1.7, 1)
    expect(radius(wide, moved)).toBeGreaterThan(radius(cuff, middle) + 0.9)
    expect(s.faces.length).toBe(before.faces + 2 * cuff.length)
    expect(edges(s).nonManifold).toEqual(before.crowded)
    expect(s.rims().some((r) => r.length === wide.length && r.every((p) => wide.includes(p)))).toBe(true)
  })

  it('gets thickness with a lining inside, and is then shut', () => {
    const s = shirt().thicken(0.4, 'lining')
    expect(edges(s)).toEqual({ open: [], nonManifold: [] })
    const lining = s.faces.filter((f) => f.region === 'lining')
    expect(lining.length).toBeGreaterThan(80)
    const { triangles } = triangulate(s)
    expect(
      signedVolume(
        s.points.flatMap((p) => [...p.at]),
        Uint32Array.from(triangles),
      ),
    ).toBeGreaterThan(0)
  })
})

describe('places on the body', () => {
  it('are found from outside, lifted off it', () => {
    for (const [x, y] of [
      [0, 70],
      [5, 62],
      [-6, 52],
    ] as const) {
      const [on, off] = [dummy.front(x, y, 0), dummy.front(x, y, 1.5)]
      expect(distance(on)).toBeLessThan(1e-3)
      expect(sub(off, on)).toEqual([0, 0, expect.closeTo(1.5, 6) as number])
      expect(on[2]).toBeGreaterThan(0)
    }
  })

  it('ring the trunk on one level, from the front round by the left', () => {
    const ring = dummy.trunkRing(55, 1, 16)
    expect(ring.every(([, y]) => y === 55)).toBe(true)
    expect(ring[0]![2]).toBeGreaterThan(Math.abs(ring[0]![0]))
    expect(ring[4]![0]).toBeGreaterThan(5)
    expect(ring[12]![0]).toBeCloseTo(-ring[4]![0], 1)
    const wider = dummy.trunkRing(55, (a) => (Math.cos(a) > 0 ? 3 : 1), 16)
    expect(wider[0]![2] - ring[0]![2]).toBeCloseTo(2, 5)
    expect(wider[8]).toEqual(ring[8])
  })

  it('on the head leave out the ears', () => {
    const center: V3 = [0, 90, 0]
    for (const side of [1, -1]) {
      const at = dummy.fromHead(center, [side, 0, 0], 0)
      expect(Math.abs(at[0])).toBeLessThan(Math.abs(dummy.from(center, [side, 0, 0], 0)[0]) + 1e-6)
    }
  })
})

describe('a shell around the head', () => {
  const cap = (more: object = {}) =>
    headShell(dummy, [0, 91, 0], {
      region: 'hair',
      columns: 12,
      rows: 4,
      edge: () => 10,
      thick: () => 1,
      ...more,
    })

  it('covers the crown, lies off it, and is open only at its edge', () => {
    const s = cap()
    expect(s.rims()).toHaveLength(1)
    expect(s.rims()[0]).toHaveLength(12)
    const top = s.points.reduce((a, b) => (a.at[1] > b.at[1] ? a : b))
    expect(distance(top.at)).toBeCloseTo(1, 0)
  })

  it('hangs lower where its edge says so, and in points where it is jagged', () => {
    const lowest = (s: Sculpt, back: boolean) =>
      Math.min(...s.points.filter((p) => (back ? p.at[2] < -4 : p.at[2] > 4)).map((p) => p.at[1]))
    const long = cap({ edge: (az: number) => (az > 90 && az < 270 ? -30 : 20) })
    expect(lowest(long, true)).toBeLessThan(lowest(long, false) - 3)
    const edge = cap({ zigzag: 8 })
    const rim = edge.rims()[0]!
    const levels = edge.points.filter((_, p) => !rim.includes(p)).slice(0, 12)
    expect(levels.filter(({ at }, k) => k % 2 === 1 && at[1] < levels[k - 1]!.at[1] - 0.5)).toHaveLength(6)
  })

  it('may leave the crown bare, or go only part of the way round', () => {
    const ring = cap({ from: () => 60 })
    expect(Math.max(...ring.points.map((p) => p.at[1]))).toBeLessThan(
      Math.max(...cap().points.map((p) => p.at[1])) - 0.5,
    )
    const half = cap({ span: [90, 270] })
    expect(half.points.every((p) => p.at[2] < 3)).toBe(true)
  })
})

describe('a thing held upright', () => {
  const pole = () => tube([[0, -10, 0], [0, 20, 0]], 0.5, 6, 'wood') // prettier-ignore

  it('leans as the hand will turn it, the left hand as a mirror of the right', () => {
    const up: V3 = [0.47, 0.82, 0.33]
    const tip = (s: Sculpt) => unit(mean(s.points.filter((p) => size(p.at) > 15).map((p) => p.at)))
    const [right, left] = [tip(upright(pole(), 'right', up)), tip(upright(pole(), 'left', up))]
    expect(dot(right, unit(up))).toBeCloseTo(1, 5)
    expect(left).toEqual([-right[0], right[1], right[2]].map((v) => expect.closeTo(v, 5) as number))
  })

  it('keeps its form and its outside', () => {
    const [before, after] = [pole(), upright(pole(), 'right', [0.5, 0.7, 0.2])]
    const volume = (s: Sculpt) =>
      signedVolume(s.points.flatMap((p) => [...p.at]), Uint32Array.from(triangulate(s).triangles)) // prettier-ignore
    expect(volume(after)).toBeCloseTo(volume(before), 6)
    expect(volume(after)).toBeGreaterThan(0)
  })
})

describe('baked shade', () => {
  it('is full in the open, and darker under a roof', () => {
    const plate = box([0, 0, 0], [4, 0.5, 4], 'a')
    const roof = box([0, 3, 0], [8, 0.5, 8], 'a')
    const open = bakeShades(plate, surfaceOf(plate))
    const under = bakeShades(plate, surfaceOf(plate, roof))
    expect(under.length).toBe(open.length)
    const sum = (list: readonly number[]) => list.reduce((a, b) => a + b, 0)
    expect(sum(under)).toBeLessThan(sum(open))
    expect(under.every((v, i) => v <= open[i]! + 1e-9)).toBe(true)
  })

  it('is the same each time', () => {
    const jar = lathe([[0, 2], [3, 3], [6, 1]], 8, 'a') // prettier-ignore
    expect(bakeShades(jar, surfaceOf(jar))).toEqual(bakeShades(jar, surfaceOf(jar)))
  })
})

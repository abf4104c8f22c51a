import fc from 'fast-check'
import { Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { evenOutNudge, isNudgeUneven, nudgedRegions, nudgeFigure, unnudgeBody } from '../nudgeFigure.ts'
import { newRecipe } from '../recipe/defaults.ts'
import { clearPart, setSlider } from '../recipe/edits.ts'
import { nudgeOn, setNudge } from '../recipe/nudges.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import { pointNeighbours } from '../mesh/adjacency.ts'
import { demoKit, demoTarget, dressed, wear } from '../testing/demoKits.ts'
import { brush, BRUSHES, type Stroke } from './brush.ts'
import { even } from '../testing/even.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const builder = new Builder(kits)
const near = demoTarget('near')
const human = newRecipe(folk, 'human', 'Nan')
const bodyModel = folk.bodies.get('human')!
/** The point of the body nearest to a place: between two of them a brush would find little to move. */
function pointNear(x: number, y: number, z: number): [number, number, number] {
  const { positions } = bodyModel.mesh
  const points = Array.from({ length: positions.length / 3 }, (_, p) => new Vector3().fromArray(positions, p * 3))
  const at = new Vector3(x, y, z)
  return points.reduce((best, p) => (p.distanceTo(at) < best.distanceTo(at) ? p : best)).toArray()
}
const BELLY = pointNear(0.06, 1.0, 0.14)
const stroke = (more: Partial<Stroke> = {}): Stroke => ({
  kind: 'pull',
  path: [BELLY, [BELLY[0], BELLY[1], BELLY[2] + 0.04]],
  radius: 0.15,
  softness: 1,
  strength: 1,
  mirrored: false,
  ...more,
})
/** The points of the body, or of what an instance wears, in the built figure. */
function pointsOf(recipe: Recipe, instance = 'body'): Vector3[] {
  const { mesh, pieces } = builder.build(recipe, near).figure!
  const [from, to] = pieces.find((p) => p.instance === instance)!.points
  return Array.from({ length: to - from }, (_, i) => new Vector3().fromArray(mesh.positions, (from + i) * 3))
}
const moves = (a: Recipe, b: Recipe, instance = 'body') => {
  const [from, to] = [pointsOf(a, instance), pointsOf(b, instance)]
  return to.map((p, i) => p.clone().sub(from[i]!))
}
const most = (vectors: Vector3[]) => Math.max(...vectors.map((v) => v.length()))
const codes = (recipe: Recipe) => builder.build(recipe, near).problems.map((p) => p.code)

/** The points of each piece of a mesh that hangs together. */
function shells(triangles: Uint32Array, points: number): number[][] {
  const parent = Array.from({ length: points }, (_, p) => p)
  const root = (p: number): number => (parent[p] === p ? p : (parent[p] = root(parent[p]!)))
  for (let t = 0; t < triangles.length; t += 3)
    for (const k of [1, 2]) parent[root(triangles[t + k]!)] = root(triangles[t]!)
  const groups = new Map<number, number[]>()
  for (let p = 0; p < points; p++) groups.set(root(p), [...(groups.get(root(p)) ?? []), p])
  return [...groups.values()]
}

/** The corners of a triangle of some width, metres. */
const bead = (x: number, y: number, wide: number) => [x, y, 0, x + wide, y, 0, x, y + wide, 0]

describe('the brush', () => {
  it('pulls what is under it along with the hand, less towards its rim, and nothing beyond', () => {
    const nudged = nudgeFigure(builder, human, undefined, stroke())
    const rest = pointsOf(human)
    const moved = moves(human, nudged)
    moved.forEach((move, p) => {
      const far = rest[p]!.distanceTo(new Vector3(...BELLY)) / 0.15
      if (far >= 1) expect(move.length()).toBeLessThan(1e-6)
      else {
        const expected = 0.04 * (1 - far) ** 2 * (3 - 2 * (1 - far))
        // offsets are kept to a hundredth of a millimetre
        expect(move.z).toBeCloseTo(expected < 2e-5 ? 0 : expected, 4)
        expect(Math.hypot(move.x, move.y)).toBeLessThan(2e-5)
      }
    })
    expect(most(moved)).toBeGreaterThan(0.01)
  })

  it('does the same on the other side, if told', () => {
    const moved = moves(human, nudgeFigure(builder, human, undefined, stroke({ mirrored: true })))
    const rest = pointsOf(human)
    let seen = 0
    rest.forEach((p, i) => {
      if (moved[i]!.length() < 1e-5) return
      seen++
      const twin = rest.findIndex((q) => q.distanceTo(new Vector3(-p.x, p.y, p.z)) < 1e-5)
      // both sides of the body are alike: so are both sides of the stroke
      expect(moved[twin]!.distanceTo(new Vector3(-moved[i]!.x, moved[i]!.y, moved[i]!.z))).toBeLessThan(3e-5)
    })
    expect(seen).toBeGreaterThan(6)
  })

  it('goes as far as the hand where both sides meet, too', () => {
    // the tip of the nose: it lies on both strokes at once
    const tip = bodyModel.def.landmarks.reduce((best, l) => (l.at[2] > best.at[2] && l.at[1] > 1.5 ? l : best))
    const at = pointNear(0, tip.at[1], tip.at[2])
    expect(Math.abs(at[0])).toBeLessThan(1e-4)
    const path = [at, [at[0], at[1], at[2] + 0.03] as const]
    const moved = moves(human, nudgeFigure(builder, human, undefined, stroke({ path, radius: 0.05, mirrored: true })))
    expect(Math.max(...moved.map((m) => m.z))).toBeCloseTo(0.03, 4)
  })

  it('finds what it is shown on a figure that stands on nudged soles', () => {
    const sole = pointsOf(human)
      .reduce((low, p) => (p.y < low.y ? p : low))
      .toArray()
    const down = [sole[0], sole[1] - 0.04, sole[2]] as const
    const raised = nudgeFigure(builder, human, undefined, stroke({ path: [sole, down], mirrored: true }))
    const chest = new Vector3(0, 1.3, 0.1)
    const shown = pointsOf(raised).reduce((best, p) => (p.distanceTo(chest) < best.distanceTo(chest) ? p : best))
    const at = shown.toArray()
    const pulled = nudgeFigure(builder, raised, undefined, stroke({ path: [at, [at[0], at[1], at[2] + 0.03]] }))
    // the point under the hand goes all the way
    const under = pointsOf(raised).findIndex((p) => p.distanceTo(shown) < 1e-6)
    expect(moves(raised, pulled)[under]!.z).toBeCloseTo(0.03, 4)
  })

  it('swells out and sinks in, along the surface’s own way out', () => {
    const path = [BELLY, BELLY]
    const [out, into] = (['swell', 'sink'] as const).map((kind) =>
      moves(human, nudgeFigure(builder, human, undefined, stroke({ kind, path }))),
    ) as [Vector3[], Vector3[]]
    expect(Math.max(...out.map((m) => m.z))).toBeGreaterThan(0.004)
    expect(Math.min(...into.map((m) => m.z))).toBeLessThan(-0.004)
  })

  it('takes buttons and inner walls along with their coat', () => {
    const clad = dressed(folk, 'human', ['shirt-work', 'trousers', 'coat-quay'])
    const coat = clad.parts.find((p) => p.slot === 'over')!.id
    const { triangles } = builder.nudgeable(clad, coat)!
    const before = pointsOf(clad, coat)
    const wide = (shell: number[]) => Math.max(...shell.map((p) => before[p]!.distanceTo(before[shell[0]!]!)))
    const buttons = shells(triangles, before.length).filter((shell) => shell.length > 1 && wide(shell) < 0.03)
    expect(buttons.length).toBeGreaterThan(3)
    const at = before[buttons[0]![0]!]!.toArray()
    const path = Array.from({ length: 10 }, () => at)
    for (const kind of ['swell', 'sink', 'flatten', 'smooth'] as const) {
      const after = pointsOf(nudgeFigure(builder, clad, coat, stroke({ kind, path, radius: 0.12 })), coat)
      expect(Math.max(...after.map((p, i) => p.distanceTo(before[i]!)))).toBeGreaterThan(0.01)
      let longest = 0
      for (let t = 0; t < triangles.length; t += 3)
        for (let k = 0; k < 3; k++) {
          const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!]
          longest = Math.max(longest, after[a]!.distanceTo(after[b]!) - before[a]!.distanceTo(before[b]!))
        }
      // the brush fades over 12 cm: no edge grows by more than what lies between its middle and its rim
      if (kind !== 'smooth') expect(longest, kind).toBeLessThan(0.03)
      // what is small goes whole: to the rounding of offsets, two hundredths of a millimetre
      for (const shell of buttons) {
        const goes = shell.map((p) => after[p]!.clone().sub(before[p]!))
        if (shell === buttons[0]) expect(goes[0]!.length(), kind).toBeGreaterThan(kind === 'smooth' ? 0.0005 : 0.004)
        expect(Math.max(...goes.map((g) => g.distanceTo(goes[0]!))), kind).toBeLessThan(5e-5)
      }
    }
  })

  it('takes a button at its rim along whole, or not at all', () => {
    const clad = dressed(folk, 'human', ['shirt-work', 'trousers', 'coat-quay'])
    const coat = clad.parts.find((p) => p.slot === 'over')!.id
    const { triangles } = builder.nudgeable(clad, coat)!
    const before = pointsOf(clad, coat)
    const wide = (shell: number[]) => Math.max(...shell.map((p) => before[p]!.distanceTo(before[shell[0]!]!)))
    const button = shells(triangles, before.length).find((shell) => shell.length > 1 && wide(shell) < 0.03)!
    const middle = button.reduce((sum, p) => sum.addScaledVector(before[p]!, 1 / button.length), new Vector3())
    const went = [0.085, 0.09, 0.095, 0.1, 0.105, 0.11, 0.115].map((off) => {
      const at = [middle.x, middle.y + off, middle.z] as const
      // all of the brush pulls alike: what it just does not reach stays
      const pull = stroke({ path: [at, [at[0], at[1], at[2] + 0.02]], radius: 0.1, softness: 0 })
      const after = pointsOf(nudgeFigure(builder, clad, coat, pull), coat)
      const goes = button.map((p) => after[p]!.clone().sub(before[p]!))
      expect(Math.max(...goes.map((g) => g.distanceTo(goes[0]!))), `${off} m off`).toBeLessThan(5e-5)
      return goes[0]!.length() > 0.01
    })
    expect(new Set(went).size).toBe(2)
  })

  it('does on a coat with buttons what it does where no stroke was before', () => {
    const clad = dressed(folk, 'human', ['shirt-work', 'trousers', 'coat-quay'])
    const coat = clad.parts.find((p) => p.slot === 'over')!.id
    const surface = builder.nudgeable(clad, coat)!
    const places = Array.from({ length: surface.positions.length / 3 }, (_, p) => [
      ...surface.positions.subarray(p * 3, p * 3 + 3),
    ]) as [number, number, number][]
    // from one end of the front to the other and back, with brushes for which now these, now those are small
    const order = places.map((_, p) => p).sort((a, b) => places[a]![1] - places[b]![1])
    for (let n = 0; n < 120; n++) {
      const [x, y, z] = places[order[Math.floor(((n % 60) / 60) * order.length)]!]!
      const one = stroke({
        path: [
          [x, y, z],
          [x, y, z + 0.02],
        ],
        radius: [0.03, 0.1, 0.4][n % 3]!,
        softness: 0.5,
      })
      const again = brush(surface, null, one, coat, surface.topology)
      const alone = brush({ ...surface, triangles: surface.triangles.slice() }, null, one, coat, surface.topology)
      expect(again, `stroke ${n}`).toEqual(alone)
    }
  })

  it('takes a bead along with its cloth, whatever it was beside for a smaller brush', () => {
    // a large triangle with one corner at the origin, a bead 20 cm off, and a patch beside that
    const points = [0, 0, 0, 2, 0, 0, 0, 2, 0, ...bead(0, 0.2, 0.005), ...bead(0.02, 0.2, 0.05)]
    const triangles = Uint32Array.from(points.slice(0, points.length / 3).keys())
    const surface = { positions: Float32Array.from(points), triangles, neighbours: pointNeighbours(triangles, 9) }
    const lift = (radius: number) => ({
      ...stroke({ radius, softness: 0 }),
      path: [
        [0, 0, 0],
        [0, 0, 0.01],
      ] as const,
    })
    const small = brush(surface, null, lift(0.05), undefined, 'x')!
    expect(small.points).toEqual([0])
    const large = brush(surface, null, lift(0.12), undefined, 'x')!
    expect(large.points).toEqual([0, 3, 4, 5, 6, 7, 8])
  })

  it('smooths bumps, flattens, and brings back what was', () => {
    const bumpy = [-0.06, 0.02, 0.1].reduce(
      (r, x, i) =>
        nudgeFigure(
          builder,
          r,
          undefined,
          stroke({
            path: [
              [x, 1.0, 0.14],
              [x, 1.0, i % 2 ? 0.18 : 0.11],
            ],
            radius: 0.05,
            softness: 0.5,
          }),
        ),
      human,
    )
    const near = pointsOf(human).flatMap((p, i) => (p.distanceTo(new Vector3(...BELLY)) < 0.16 ? [i] : []))
    /** How far points near the brush lie from the plane that fits them best, by the least eigenvalue found by search. */
    const bumps = (recipe: Recipe) => {
      const points = near.map((i) => pointsOf(recipe)[i]!)
      const middle = points.reduce((s, p) => s.add(p), new Vector3()).divideScalar(points.length)
      let least = Infinity
      for (let a = -0.8; a <= 0.8; a += 0.1)
        for (let b = -0.8; b <= 0.8; b += 0.1) {
          const n = new Vector3(a, b, 1).normalize()
          least = Math.min(
            least,
            points.reduce((s, p) => s + p.clone().sub(middle).dot(n) ** 2, 0),
          )
        }
      return Math.sqrt(least / points.length)
    }
    const path = Array.from({ length: 6 }, () => BELLY)
    const after = (kind: Stroke['kind'], radius = 0.25) =>
      nudgeFigure(builder, bumpy, undefined, stroke({ kind, path, radius, softness: 0.3 }))
    // the belly’s own roundness stays
    expect(bumps(after('smooth'))).toBeLessThan(bumps(bumpy) * 0.85)
    expect(bumps(after('flatten'))).toBeLessThan(bumps(bumpy) * 0.5)
    const back = nudgeFigure(
      builder,
      bumpy,
      undefined,
      stroke({ kind: 'restore', path: Array.from({ length: 30 }, () => BELLY), radius: 0.5, softness: 0 }),
    )
    expect(back).toEqual(human)
  })

  it('reaches what is worn, and only that', () => {
    const clad = dressed(folk, 'human', ['shirt-work', 'trousers'])
    const shirt = clad.parts.find((p) => p.slot === 'top')!.id
    const from = pointsOf(clad, shirt)
      .reduce((best, p) => (p.z > best.z ? p : best))
      .toArray()
    const to = [from[0], from[1], from[2] + 0.03] as [number, number, number]
    const nudged = nudgeFigure(builder, clad, shirt, stroke({ path: [from, to] }))
    expect(most(moves(clad, nudged, shirt))).toBeCloseTo(0.03, 3)
    expect(most(moves(clad, nudged))).toBe(0)
    expect(clearPart(nudged, 'top').nudges).toBeUndefined()
    expect(wear(nudged, folk, 'jersey').nudges).toBeUndefined()
    expect(nudgeFigure(builder, clad, 'gone', stroke())).toBe(clad)
  })
})

describe('what was nudged', () => {
  const nudged = nudgeFigure(builder, human, undefined, stroke())

  it('is a sound part of the recipe', () => {
    expect(readRecipe(nudged).problems).toEqual([])
    expect(readRecipe(JSON.parse(JSON.stringify(nudged))).value).toEqual(nudged)
  })

  it('turns with the surface under sliders', () => {
    // what goes 5 mm straight out must go straight out of the surface that sliders have turned
    const at = pointNear(0.1, 1.43, -0.05)
    const near = nudgeOn(nudgeFigure(builder, human, undefined, stroke({ kind: 'swell', path: [at, at] })), undefined)!
    const { points } = near
    const nudged = setNudge(human, undefined, { ...near, offsets: points.flatMap(() => [0, 0, 5]) })
    /** The way out of a figure's body at a point: the sum of its triangles' cross products. */
    const wayOut = (recipe: Recipe, point: number) => {
      const { positions, triangles } = builder.surfaces(recipe)[0]!
      const sum = new Vector3()
      const corner = (i: number) => new Vector3().fromArray(positions, triangles[i]! * 3)
      for (let t = 0; t < triangles.length; t += 3)
        if (triangles.subarray(t, t + 3).includes(point)) {
          const [a, b, c] = [corner(t), corner(t + 1), corner(t + 2)] as const
          sum.add(b.sub(a).cross(c.sub(a)))
        }
      return sum.normalize()
    }
    let farthest = 0
    for (const id of ['stoop', 'shoulders', 'heft', 'neck']) {
      const slider = bodyModel.def.sliders.find((s) => s.id === id)
      if (!slider) continue
      const [plain, after] = [human, nudged].map((r) => setSlider(r, id, slider.max, slider)) as [Recipe, Recipe]
      const moved = moves(plain, after)
      for (const p of points) {
        const out = wayOut(plain, p)
        expect(moved[p]!.clone().normalize().dot(out), `${id} ${p}`).toBeGreaterThan(0.999)
        farthest = Math.max(farthest, out.angleTo(wayOut(human, p)))
      }
    }
    // one of them does turn it, by more than 10 degrees
    expect(farthest).toBeGreaterThan(0.17)
  })

  it('takes clothes along, and what sits on the skin', () => {
    const clad = dressed(folk, 'human', ['shirt-work', 'trousers'])
    const pulled = setNudge(clad, undefined, nudgeOn(nudged, undefined))
    const shirt = clad.parts.find((p) => p.slot === 'top')!.id
    const moved = moves(clad, pulled, shirt)
    expect(Math.max(...moved.map((m) => m.z))).toBeGreaterThan(0.015)
    // and the shirt stays over the skin: no point of it goes farther in than it was
    expect(Math.min(...moved.map((m) => m.z))).toBeGreaterThan(-0.004)
    // a place that is named goes with the skin around it, and what sits there with the place
    const nose = bodyModel.def.landmarks.reduce((best, l) => (l.at[2] > best.at[2] && l.at[1] > 1.5 ? l : best))
    const at = pointNear(...nose.at)
    const longer = nudgeFigure(builder, human, undefined, stroke({ path: [at, [at[0], at[1], at[2] + 0.03]] }))
    const [was, is] = [human, longer].map((r) => builder.build(r, near).figure!.landmarks.get(nose.id)!)
    expect(is![2] - was![2]).toBeGreaterThan(0.02)
  })

  it('makes the same figure to the bit whether made from what was just there or from nothing', () => {
    const coat = wear(wear(human, folk, 'coat-quay'), folk, 'boots-sea')
    const hand = new Builder(kits)
    let now = hand.build(coat, near) && coat
    const on = coat.parts.find(({ slot }) => slot === 'over')!.id
    const foot = pointNear(0.1, 0.01, 0.1)
    const steps: ((r: Recipe) => Recipe)[] = [
      (r) => nudgeFigure(hand, r, undefined, stroke({ kind: 'swell', mirrored: true })),
      (r) => nudgeFigure(hand, r, on, stroke()),
      (r) => setSlider(r, 'heft', 0.6, { min: -1, max: 1, default: 0 }),
      // nudged soles lift everything
      (r) =>
        nudgeFigure(hand, r, undefined, stroke({ path: [foot, [foot[0], foot[1] - 0.03, foot[2]]], radius: 0.08 })),
      (r) => nudgeFigure(hand, r, undefined, stroke({ kind: 'smooth' })),
      (r) => setNudge(r, on, null),
    ]
    for (const step of steps) {
      now = step(now)
      const [ours, fresh] = [hand.build(now, near).figure!, new Builder(kits).build(now, near).figure!]
      expect(ours.mesh.positions).toEqual(fresh.mesh.positions)
      expect(ours.mesh.normals).toEqual(fresh.mesh.normals)
      expect(ours.lift).toBe(fresh.lift)
    }
    expect(now.nudges).toHaveLength(1)
  })

  it('is brought back region by region', () => {
    const at = pointNear(0.03, 1.62, 0.1)
    const path = [at, [at[0], at[1], at[2] + 0.02] as const]
    const both = nudgeFigure(builder, nudged, undefined, stroke({ path, radius: 0.04 }))
    const regions = nudgedRegions(bodyModel, nudgeOn(both, undefined)!)
    expect(regions).toContain('head')
    const without = unnudgeBody(both, bodyModel, 'head')
    expect(nudgedRegions(bodyModel, nudgeOn(without, undefined)!)).not.toContain('head')
    expect(most(moves(nudged, without))).toBeLessThan(1e-6)
    expect(unnudgeBody(both, bodyModel, null)).toEqual(human)
  })

  it('is made alike on both sides: in the middle, or as on one of them', () => {
    const left = nudged
    const nudgeOf = (recipe: Recipe) => nudgeOn(recipe, undefined)!
    expect(isNudgeUneven(bodyModel, nudgeOf(left))).toBe(true)
    // by the places of the figure itself: each point against the nearest to its mirror image at rest
    const rest = pointsOf(human)
    const counterpart = rest.map((p) => {
      const over = new Vector3(-p.x, p.y, p.z)
      return rest.reduce((best, q, i) => (q.distanceTo(over) < rest[best]!.distanceTo(over) ? i : best), 0)
    })
    const unevenness = (recipe: Recipe) => {
      const points = pointsOf(recipe)
      return Math.max(
        ...points.map((p, i) => {
          const q = points[counterpart[i]!]!
          return Math.hypot(p.x + q.x, p.y - q.y, p.z - q.z)
        }),
      )
    }
    const asMade = unevenness(human)
    expect(unevenness(left)).toBeGreaterThan(0.02)
    const [both, like, unlike] = (['both', 'left', 'right'] as const).map((s) => evenOutNudge(left, bodyModel, s))
    for (const [recipe, reach] of [
      [both!, 0.5],
      [like!, 1],
    ] as const) {
      expect(isNudgeUneven(bodyModel, nudgeOf(recipe))).toBe(false)
      // offsets are kept to a hundredth of a millimetre
      expect(unevenness(recipe)).toBeLessThan(asMade + 1e-4)
      expect(most(moves(human, recipe)) / most(moves(human, left))).toBeCloseTo(reach, 1)
      // shaped, too: both sides go along alike
      const stout = (r: Recipe) => setSlider(r, 'belly', 1, { min: -1, max: 1, default: 0 })
      expect(unevenness(stout(recipe))).toBeLessThan(unevenness(stout(human)) + 1e-3)
    }
    // the right side has the edge of the stroke alone
    expect(most(moves(human, unlike!))).toBeLessThan(most(moves(human, left)) * 0.9)
    expect(evenOutNudge(human, bodyModel, 'both')).toBe(human)
    const foreign = { ...human, nudges: [{ ...nudgeOf(left), topology: 'else' }] }
    expect(evenOutNudge(foreign, bodyModel, 'both')).toBe(foreign)
  })

  it('is left out and told on another mesh, and never wrong', () => {
    const nudge = nudgeOn(nudged, undefined)!
    const other = { ...newRecipe(tide, 'ottern', 'Else'), nudges: [nudge] }
    expect(codes(other)).toContain('nudge-unusable')
    expect(most(moves(newRecipe(tide, 'ottern', 'Else'), other))).toBe(0)
    // a mesh of the same triangles in another shape is the same to it
    const { mesh } = bodyModel
    const taller = { ...bodyModel, hash: 'taller', mesh: { ...mesh, positions: mesh.positions.map((v) => v * 1.02) } }
    const newer = new Map(kits).set('saltwick-folk', { ...folk, bodies: new Map([['human', taller]]) })
    expect(new Builder(newer).build(nudged, near).problems.map((p) => p.code)).not.toContain('nudge-unusable')
    for (const wrong of [
      { points: [5, 4], offsets: [0, 0, 1, 0, 0, 1] },
      { points: [1e5], offsets: [0, 0, 1] },
      { points: [4, 5], offsets: [0, 0, 1] },
    ]) {
      const odd = { ...human, nudges: [{ ...nudge, ...wrong }] }
      expect(codes(odd)).toContain('nudge-unusable')
      expect(most(moves(human, odd))).toBe(0)
    }
    for (const refused of [{ offsets: [1e9, 0, 0] }, { topology: 'x' }, { points: [-1] }, { points: [] }])
      expect(readRecipe({ ...human, nudges: [{ ...nudge, ...refused }] }).value).toBeNull()
    // told twice, the first counts
    expect(codes({ ...human, nudges: [nudge, nudge] })).toContain('nudge-unusable')
  })

  it('never makes a number that is none, whatever the stroke', () => {
    const coordinate = even(-2, 2)
    const place = fc.tuple(coordinate, coordinate, coordinate)
    const any = fc.record({
      kind: fc.constantFrom(...BRUSHES),
      path: fc.array(place, { minLength: 1, maxLength: 4 }),
      radius: even(0.001, 3),
      softness: even(0, 1),
      strength: even(0, 1),
      mirrored: fc.boolean(),
    })
    fc.assert(
      fc.property(fc.array(any, { minLength: 1, maxLength: 3 }), (strokes) => {
        const recipe = strokes.reduce((r, s) => nudgeFigure(builder, r, undefined, s), human)
        expect(readRecipe(recipe).problems).toEqual([])
        const { mesh } = builder.build(recipe, near).figure!
        expect(mesh.positions.every(Number.isFinite) && mesh.normals.every(Number.isFinite)).toBe(true)
      }),
      { numRuns: 40 },
    )
  })
})

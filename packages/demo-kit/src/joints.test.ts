import { describe, expect, it } from 'vitest'
import { Builder, newRecipe, newTarget, pointTriangles, shapeSlidersOf, type Recipe } from '@idle-tinker/core'
import { createRandom } from '../../core/src/recipe/random.ts'
import { demoKit } from '../../core/src/testing/demoKits.ts'
import { samples } from '../../core/src/testing/thorough.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const target = newTarget('any', 'Any')

type V3 = readonly [number, number, number]
const minus = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
const dot = (a: V3, b: V3) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
const cross = (a: V3, b: V3): V3 => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]]

/** How often a surface winds around a place: 1 within, 0 without (solid angles by Van Oosterom and Strackee, 1983). */
function winding(positions: Float32Array, triangles: Uint32Array, at: V3): number {
  let sum = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [0, 1, 2].map((k) => {
      const p = triangles[t + k]! * 3
      return minus([positions[p]!, positions[p + 1]!, positions[p + 2]!], at)
    }) as [V3, V3, V3]
    const [la, lb, lc] = [a, b, c].map((v) => Math.sqrt(dot(v, v))) as [number, number, number]
    sum += Math.atan2(dot(a, cross(b, c)), la * lb * lc + dot(a, b) * lc + dot(b, c) * la + dot(c, a) * lb)
  }
  return sum / (2 * Math.PI)
}

/** What is held by less than this is on the way out. */
const HELD = 0.15

/** The points that share an edge with each. */
function edgesOf(triangles: Uint32Array, points: number): Map<number, Set<number>> {
  const out = new Map(Array.from({ length: points }, (_, p) => [p, new Set<number>()]))
  for (let t = 0; t < triangles.length; t += 3)
    for (let k = 0; k < 3; k++) {
      const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!]
      out.get(a)!.add(b)
      out.get(b)!.add(a)
    }
  return out
}

/** All that is joined to a point by points that are let through. */
function reach(
  neighbours: ReadonlyMap<number, Set<number>>,
  seed: number,
  through: (p: number) => boolean,
): Set<number> {
  const found = new Set([seed])
  for (const p of found) for (const q of neighbours.get(p)!) if (through(q)) found.add(q)
  return found
}

describe.each([
  ['human', folk],
  ['ottern', tide],
  ['lampstrider', tide],
  ['gulper', tide],
] as const)('the joints of a %s', (id, kit) => {
  const body = kit.bodies.get(id)!
  const sliders = shapeSlidersOf(body.def)
  const random = createRandom(id.length)
  /** Twelve sliders each at one of its ends. */
  const atEnds = (): Recipe['sliders'] =>
    Object.fromEntries(
      Array.from({ length: 12 }, () => {
        const { id: slider, min, max } = sliders[Math.floor(random.next() * sliders.length)]!
        return [slider, random.next() < 0.5 ? min : max]
      }),
    )
  const builder = new Builder(kits)
  const triangles = pointTriangles(body.mesh)
  const plain: Recipe = { ...newRecipe(kit, id, 'Somebody'), parts: [] }
  const stand = (recipe: Recipe) => {
    const { mesh, skeleton, pieces } = builder.build(recipe, target).figure!
    const [, points] = pieces[0]!.points
    return {
      skeleton,
      positions: mesh.positions.slice(0, points * 3),
      at: new Map(skeleton.bones.map((b) => [b.name, b.at as V3])),
    }
  }
  const recipes = [{}, ...Array.from({ length: samples(30, 300) }, atEnds)].map((own) => ({ ...plain, sliders: own }))

  it('of every limb lie within the body, knees and elbows to the side they bend to', () => {
    for (const recipe of recipes) {
      const { skeleton, positions, at } = stand(recipe)
      const said = JSON.stringify(recipe.sliders)
      for (const limb of skeleton.limbs) {
        if (limb.kind !== 'leg' && limb.kind !== 'arm') continue
        for (const bone of limb.bones)
          // half a turn and more: within, whatever else of the body passes through there
          expect(winding(positions, triangles, at.get(bone)!), `${bone} ${said}`).toBeGreaterThan(0.5)
        const [upper, middle, lower] = limb.bones.slice(0, 3).map((b) => at.get(b)!) as [V3, V3, V3]
        const pole: V3 = limb.pole ?? (limb.kind === 'leg' ? [0, 0, 1] : [0, 0, -1])
        const way = minus(lower, upper)
        const along = dot(minus(middle, upper), way) / dot(way, way)
        const out = minus(minus(middle, upper), [way[0] * along, way[1] * along, way[2] * along])
        // a limb may hang quite straight: a hundredth of its length to the wrong side is as good as straight
        expect(dot(out, pole), `${limb.id} ${said}`).toBeGreaterThan(-0.01 * Math.sqrt(dot(way, way)))
      }
    }
  })

  it('hold on to skin in one piece each', () => {
    const { joints, weights, positions } = body.mesh
    // what lies in a mouth is seen by nobody who would see it torn
    const { regions, regionNames, indices } = body.mesh
    const seen = triangles.filter((_, i) => !/^(mouth|teeth|tongue)$/.test(regionNames[regions[indices[i]!]!]!))
    const neighbours = edgesOf(seen, positions.length / 3)
    const share = (p: number, bone: number) =>
      [0, 1, 2, 3].reduce((sum, k) => sum + (joints[p * 4 + k] === bone ? weights[p * 4 + k]! : 0), 0)
    body.bones.forEach(({ name }, bone) => {
      const held = new Set(Array.from(neighbours.keys()).filter((p) => share(p, bone) > HELD))
      const shells = new Map<number, number>()
      const left = new Set(held)
      while (left.size) {
        const [seed] = left
        // as far as the bone holds on, and as far as there is any skin
        const piece = reach(neighbours, seed!, (p) => held.has(p))
        const shell = Math.min(...reach(neighbours, seed!, () => true))
        for (const p of piece) left.delete(p)
        shells.set(shell, (shells.get(shell) ?? 0) + 1)
      }
      expect(
        [...shells.values()].every((pieces) => pieces === 1),
        name,
      ).toBe(true)
    })
  })

  it('mirror each other exactly where both sides are alike', () => {
    for (const recipe of recipes) {
      const { at } = stand(recipe)
      for (const { left, right } of body.plan.pairs) {
        const [a, b] = [at.get(left), at.get(right)]
        if (!a || !b) continue
        // single precision
        expect(Math.abs(a[0] + b[0]), left).toBeLessThan(2e-6)
        expect(Math.abs(a[1] - b[1]), left).toBeLessThan(2e-6)
        expect(Math.abs(a[2] - b[2]), left).toBeLessThan(2e-6)
      }
    }
  })
})

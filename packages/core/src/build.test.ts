import { isDeepStrictEqual } from 'node:util'
import { beforeAll, describe, expect, it } from 'vitest'
import { prepareBody } from './body/PreparedBody.ts'
import { regionLoop } from './body/seams.ts'
import { mlsWeights } from './body/mlsWeights.ts'
import { overBudget } from './budget/costs.ts'
import { Reducer, reducerReady } from './budget/reduceMesh.ts'
import { Builder, build, type Figure } from './build.ts'
import { bindPart, deltaOf } from './dress/bindPart.ts'
import { assembleOutfit } from './dress/outfit.ts'
import { coveredTriangles } from './dress/coverage.ts'
import { pointTriangles, triangleCount } from './mesh/Mesh.ts'
import { Surface } from './mesh/Surface.ts'
import { createRandom } from './recipe/random.ts'
import type { Recipe } from './recipe/schema.ts'
import { demoKit, dressed, instances, MAREN, readDemoKit, TARGETS } from './testing/demoKits.ts'
import { oneIn, samples } from './testing/thorough.ts'

const kit = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([kit, tide].map((k) => [k.manifest.id, k]))
const [near, , crowd, far] = TARGETS as [
  (typeof TARGETS)[0] & object,
  never,
  (typeof TARGETS)[0] & object,
  (typeof TARGETS)[0] & object,
]
const maren = dressed(kit, 'human', MAREN)
beforeAll(() => reducerReady)

function figureOf(recipe = maren, target = near, options = {}): Figure {
  const { figure, problems } = build(recipe, kits, target, options)
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  return figure!
}

/** What a figure comes to, apart from the builder's own arrays. */
function copyOf({ mesh, costs, skeleton, atlas }: Figure) {
  const { positions, normals, indices, joints, weights, uvs } = mesh
  return structuredClone({ positions, normals, indices, joints, weights, uvs, costs, skeleton, pixels: atlas.pixels })
}

describe('following a surface', () => {
  it('keeps its place under any affine movement, to the ridge, where the neighbours span space', () => {
    const positions = Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0, 0, 0, 1, 1, 1, 1, 1, 1, 0])
    const at = [0.4, 0.3, 0.2] as const
    const w = mlsWeights([...at], positions, [0, 1, 2, 3, 4, 5], 0.9)
    expect(w.reduce((s, v) => s + v, 0)).toBeCloseTo(1)
    const moved = [0, 1, 2].map((k) => w.reduce((s, v, i) => s + v * positions[i * 3 + k]!, 0))
    // the ridge trades exactness for calm weights: what is left is a twentieth of the neighbours' spread
    moved.forEach((v, k) => expect(Math.abs(v - at[k]!)).toBeLessThan(0.05))
  })
})

describe('shaping', () => {
  it('moves landmarks with the body: longer arms bring the hands out, wide shoulders the arms', () => {
    const rest = figureOf().landmarks
    const long = figureOf({ ...maren, sliders: { arms: 1, shoulders: 1 } }).landmarks
    expect(long.get('leftHand')![0]).toBeGreaterThan(rest.get('leftHand')![0] + 0.03)
    expect(long.get('leftUpperArm')![0]).toBeGreaterThan(rest.get('leftUpperArm')![0] + 0.015)
    expect(long.get('leftUpperArm')![0]).toBeCloseTo(-long.get('rightUpperArm')![0], 3)
  })

  it('lets soles find the ground, in boots and barefoot, tall and short', () => {
    for (const parts of [[], ['boots-sea'], ['clogs'], ['waders']])
      for (const stature of [-1, 1]) {
        const { mesh, skeleton } = figureOf(dressed(kit, 'human', parts, { stature, feet: stature }))
        const feet = new Set(skeleton.bones.flatMap((b, i) => (/Foot|Toes/.test(b.name) ? [i] : [])))
        let lowest = Infinity
        for (const p of mesh.cornerPoints)
          if (feet.has(mesh.joints[p * 4]!) && mesh.weights[p * 4]! > 0.5)
            lowest = Math.min(lowest, mesh.positions[p * 3 + 1]!)
        expect(Math.abs(lowest)).toBeLessThan(1e-5)
      }
  })
})

describe('dressing', () => {
  const body = prepareBody(kit.bodies.get('human')!)

  it('binds a garment so that it goes where the skin beneath it goes', () => {
    const shirt = bindPart(body, kit.parts.get('shirt-work')!)
    const wide = deltaOf(
      shirt,
      body.model.mesh.morphs.find((m) => m.name === 'shoulders+')!,
    )
    const deltoid = [...wide.points].findIndex((p) => shirt.rest[p * 3]! > 0.25 && shirt.rest[p * 3 + 1]! > 1.1)
    expect(wide.deltas[deltoid * 3]!).toBeGreaterThan(0.02)
  })

  it('carries the skin over: a sleeve hangs on the arm, weights sum to one', () => {
    for (const id of ['shirt-work', 'trousers', 'coat-quay', 'hat-brimmed', 'ledger']) {
      const { weights, joints, rest } = bindPart(body, kit.parts.get(id)!)
      for (let p = 0; p < weights.length; p += 4) {
        expect(weights.subarray(p, p + 4).reduce((s, w) => s + w, 0)).toBeCloseTo(1, 4)
        expect(Math.max(...joints.subarray(p, p + 4))).toBeLessThan(body.model.bones.length)
      }
      if (id !== 'shirt-work') continue
      const forearm = [...Array(rest.length / 3).keys()].find((p) => rest[p * 3]! > 0.48)!
      expect(body.model.bones[joints[forearm * 4]!]!.name).toBe('leftLowerArm')
    }
  })

  it('keeps garments clear of the skin at the ends of every slider', () => {
    const outfit = assembleOutfit(body, instances(kit, ['shirt-work', 'trousers', 'boots-ankle']))
    const builder = new Builder(kits)
    for (const slider of oneIn(2, body.model.def.sliders))
      for (const value of [slider.min, slider.max]) {
        const { figure } = builder.build(
          dressed(kit, 'human', ['shirt-work', 'trousers', 'boots-ankle'], { [slider.id]: value }),
          near,
          { still: true },
        )
        const skin = new Surface(figure!.mesh.positions.slice(0, body.model.mesh.positions.length), body.triangles)
        let sunk = 0
        let asked = 0
        outfit.layers.forEach((layer, i) => {
          const piece = figure!.pieces[i + 1]!
          for (const p of layer.onBody!.points) {
            const o = (piece.points[0] + p) * 3
            const [x, y, z] = [
              figure!.mesh.positions[o]!,
              figure!.mesh.positions[o + 1]!,
              figure!.mesh.positions[o + 2]!,
            ]
            const place = skin.nearest(x, y, z)!
            const [a, b, c] = [0, 1, 2].map((k) => skin.triangles[place.triangle * 3 + k]! * 3)
            const at = (q: number) => [0, 1, 2].map((k) => skin.positions[q + k]!)
            const [pa, pb, pc] = [at(a!), at(b!), at(c!)]
            const u = pb!.map((v, k) => v - pa![k]!)
            const v = pc!.map((w, k) => w - pa![k]!)
            const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!]
            const height = ((x - pa![0]!) * n[0]! + (y - pa![1]!) * n[1]! + (z - pa![2]!) * n[2]!) / Math.hypot(...n)
            asked++
            if (height < -0.004) sunk++
          }
        })
        expect(asked).toBeGreaterThan(300)
        expect(sunk / asked, `${slider.id} at ${value}`).toBeLessThan(0.02)
      }
  })

  it('hides the skin under clothes but never the face, and only what every sample agrees on', () => {
    expect([...coveredTriangles([Uint8Array.of(0b0111, 0b1111), Uint8Array.of(0b1000, 0)], 2)]).toEqual([1, 1])
    expect([...coveredTriangles([Uint8Array.of(0b0111, 0b1110)], 2)]).toEqual([0, 0])
    const bare = figureOf(dressed(kit, 'human', []))
    const clothed = figureOf()
    const skin = (f: Figure) => f.pieceCosts.find((p) => p.slot === 'body')!.triangles
    expect(skin(clothed)).toBeLessThan(skin(bare) * 0.5)
    const outfit = assembleOutfit(body, instances(kit, MAREN))
    const head = body.model.def.regions.findIndex((r) => r.id === 'head')
    const faces = [...body.regionOf].flatMap((r, t) => {
      const p = body.triangles[t * 3]! * 3
      return r === head && body.model.mesh.positions[p + 2]! > 0.06 && body.model.mesh.positions[p + 1]! < 1.6
        ? [t]
        : []
    })
    expect(faces.length).toBeGreaterThan(40)
    expect(faces.filter((t) => outfit.hiddenBody[t])).toEqual([])
  })

  it('meets a replaced region exactly on its seam, whatever the sliders say', () => {
    expect(regionLoop(body, 'leftShin')).toHaveLength(8)
    for (const sliders of [{}, { build: 1, legs: -1 }, { stature: 1, hips: 1 }] as Record<string, number>[]) {
      const { mesh, pieces } = figureOf(dressed(kit, 'human', ['peg-leg'], sliders))
      const peg = pieces.find((p) => p.id === 'peg-leg')!
      const loop = regionLoop(body, 'leftShin')
      for (const p of loop) {
        const gaps = Array.from({ length: peg.points[1] - peg.points[0] }, (_, i) =>
          Math.hypot(
            ...[0, 1, 2].map((k) => mesh.positions[(peg.points[0] + i) * 3 + k]! - mesh.positions[p * 3 + k]!),
          ),
        )
        expect(Math.min(...gaps)).toBeLessThan(1e-5)
      }
    }
  })
})

describe('the rig', () => {
  it.each([
    ['near', 45, 4],
    ['crowd', 22, 2],
    ['far', 13, 1],
  ] as const)('for %s has its bones, at most its influences, and weights that sum to one', (id, bones, influences) => {
    const target = TARGETS.find((t) => t.id === id)!
    for (const recipe of [maren, dressed(kit, 'human', ['smock', 'waders'])]) {
      const { skeleton, mesh, costs } = figureOf(recipe, target)
      expect(skeleton.bones).toHaveLength(bones)
      expect(costs.influences).toBeLessThanOrEqual(influences)
      for (let p = 0; p < mesh.weights.length; p += 4) {
        const w = mesh.weights.subarray(p, p + 4)
        expect(w.reduce((s, v) => s + v, 0)).toBeCloseTo(1, 5)
        expect([...w].filter((v) => v > 0).length).toBeLessThanOrEqual(influences)
      }
      skeleton.bones.forEach((b, i) => expect(b.parent).toBeLessThan(i))
    }
  })

  it('keeps at every level the hands that hold something long, and no others', () => {
    const hands = (id: string) =>
      figureOf(dressed(kit, 'human', [id]), far)
        .skeleton.bones.map((b) => b.name)
        .filter((name) => name.endsWith('Hand'))
    // both: of a bone on one side alone importers make no human
    expect(hands('boathook').sort()).toEqual(['leftHand', 'rightHand'])
    expect(hands('mug')).toEqual([])
    // in the hand the pole goes as the hand does, not as the forearm
    const held = figureOf(dressed(kit, 'human', ['boathook']), far)
    const own = held.pieces.find((piece) => piece.id === 'boathook')!
    const hand = held.skeleton.bones.findIndex((b) => b.name === 'rightHand')
    for (let p = own.points[0]; p < own.points[1]; p++) expect(held.mesh.joints[p * 4]).toBe(hand)
    // nor is there anything stiff and long about who holds nothing
    expect(hands('smock')).toEqual([])
  })

  it('keeps the ottern’s tail in a crowd', () => {
    const { skeleton } = figureOf(dressed(tide, 'ottern', ['scarf-striped']), crowd)
    expect(skeleton.bones.map((b) => b.name)).toEqual(expect.arrayContaining(['tail1', 'tail2']))
    expect(skeleton.bones).toHaveLength(24)
  })
})

describe('color', () => {
  it('is one atlas; recoloring redoes the atlas and nothing else', () => {
    const builder = new Builder(kits)
    builder.build(maren, near)
    const { done, figure } = builder.build({ ...maren, colors: { coat: '#ff0000' } }, near)
    expect(done).toEqual(['resolve', 'color'])
    expect(figure!.costs.drawCalls).toBe(1)
    const { mesh, atlas } = figure!
    const coat = mesh.regions.findIndex((r) => mesh.regionNames[r] === 'coat')
    const [u, v] = [mesh.uvs[coat * 2]!, mesh.uvs[coat * 2 + 1]!]
    const o = (Math.floor(v * atlas.size) * atlas.size + Math.floor(u * atlas.size)) * 4
    expect([...atlas.pixels.subarray(o, o + 4)]).toEqual([255, 0, 0, 255])
  })
})

describe('reduction', () => {
  it('comes under the limit and keeps color borders, weights and kept sliders', () => {
    const target = { ...crowd, keepSliders: ['belly', 'build'] }
    for (const [recipe, limit] of [
      [maren, crowd],
      [dressed(tide, 'ottern', ['scarf-striped', 'whiskers-long']), crowd],
      [maren, far],
    ] as const) {
      const { mesh, costs, reductionError } = figureOf(recipe, recipe === maren && limit === crowd ? target : limit, {
        reduce: true,
      })
      expect(costs.triangles).toBeLessThanOrEqual(limit.limits.triangles)
      expect(costs.triangles).toBeGreaterThan(limit.limits.triangles * 0.75)
      expect(reductionError).toBeGreaterThan(0)
      for (let p = 0; p < mesh.weights.length; p += 4)
        expect(mesh.weights.subarray(p, p + 4).reduce((s, v) => s + v, 0)).toBeCloseTo(1, 5)
      for (let t = 0; t < mesh.indices.length; t += 3)
        expect(new Set([0, 1, 2].map((k) => mesh.regions[mesh.indices[t + k]!])).size).toBe(1)
    }
    const { mesh } = figureOf(maren, target, { reduce: true })
    expect(mesh.morphs.map((m) => m.name).sort()).toEqual(['belly+', 'belly-', 'build+', 'build-'])
    expect(mesh.morphs.every((m) => m.points.length > 0)).toBe(true)
  })

  it('keeps the outline: height, width and depth within three percent', () => {
    const whole = figureOf()
    const reduced = figureOf(maren, crowd, { reduce: true })
    const size = (f: Figure) =>
      [0, 1, 2].map(
        (k) =>
          Math.max(...[...f.mesh.cornerPoints].map((p) => f.mesh.positions[p * 3 + k]!)) -
          Math.min(...[...f.mesh.cornerPoints].map((p) => f.mesh.positions[p * 3 + k]!)),
      )
    const [a, b] = [size(whole), size(reduced)]
    a.forEach((v, k) => expect(Math.abs(b[k]! - v) / v).toBeLessThan(0.03))
  })

  it('gives back a mesh within its limit untouched, and falling levels of detail', () => {
    const { mesh } = figureOf()
    expect(new Reducer(mesh, {}).to(1e6).mesh).toBe(mesh)
    const { lods, costs } = figureOf(maren, near, { reduce: true, lods: true })
    expect(costs.triangles).toBeLessThanOrEqual(3500)
    expect(lods.map(triangleCount).every((n, i) => n <= near.lods[i]!.triangles)).toBe(true)
    expect(lods).toHaveLength(2)
  })
})

describe('the build', () => {
  it('is a pure function: same input, same bytes, from kits read anew or after other builds', async () => {
    const once = copyOf(figureOf(maren, crowd, { reduce: true }))
    // nothing of the first is left to compare with itself: kits, bodies and parts are other objects
    const [own] = [await readDemoKit('saltwick-folk')]
    const fresh = build(maren, new Map([[own.manifest.id, own]]), crowd, { reduce: true }).figure!
    expect(isDeepStrictEqual(copyOf(fresh), once)).toBe(true)
    const builder = new Builder(new Map([[own.manifest.id, own]]))
    builder.build(dressed(own, 'human', ['smock'], { build: 1 }), near)
    builder.build({ ...maren, sliders: { build: -1 } }, crowd, { reduce: true })
    expect(copyOf(builder.build(maren, crowd, { reduce: true }).figure!)).toEqual(once)
    const other = copyOf(builder.build({ ...maren, sliders: { build: 0.01 } }, crowd, { reduce: true }).figure!)
    expect(other.positions).not.toEqual(once.positions)
  })

  it('comes back to what just was without work, and with the same bytes', () => {
    const builder = new Builder(kits)
    const coat = dressed(kit, 'human', ['coat-oilskin'])
    const first = copyOf(builder.build(maren, near).figure!)
    builder.build(coat, near)
    const again = builder.build(maren, near)
    expect(again.done).toEqual([])
    expect(copyOf(again.figure!)).toEqual(first)
    // sliders to and fro on one outfit
    const wide = { ...maren, sliders: { build: 0.6 } }
    const shaped = copyOf(builder.build(wide, near).figure!)
    builder.build(maren, near)
    const back = builder.build(wide, near)
    expect(back.done).toEqual([])
    expect(copyOf(back.figure!)).toEqual(shaped)
  })

  it('lets go of figures when it is told to, and gives the same bytes again', () => {
    const builder = new Builder(kits)
    const { figure, done } = builder.build(maren, crowd, { reduce: true })
    const first = copyOf(figure!)
    expect(done).toContain('dress')
    builder.forget()
    const again = builder.build(maren, crowd, { reduce: true })
    expect(again.done).toEqual(done)
    expect(copyOf(again.figure!)).toEqual(first)
    expect(builder.build(maren, crowd, { reduce: true }).done).toEqual([])
  })

  it('gives another figure when a kit of the same name and version is another', async () => {
    const own = await demoKit('saltwick-folk')
    const coat = own.parts.get('coat-quay')!
    own.parts.set('coat-quay', { ...own.parts.get('smock')!, def: { ...coat.def } as never, hash: 'another' })
    const changed = new Map([[own.manifest.id, own]])
    const builder = new Builder(kits)
    const before = builder.build(maren, near).figure!.costs.triangles
    expect(new Builder(changed).build(maren, near).figure!.costs.triangles).not.toBe(before)
  })

  it('redoes only what hangs from a slider', () => {
    const builder = new Builder(kits)
    builder.build(maren, near)
    expect(builder.build(maren, near).done).toEqual([])
    const { done } = builder.build({ ...maren, sliders: { build: 0.4 } }, near)
    expect(done).toContain('shape')
    expect(done).not.toContain('dress')
    expect(done).not.toContain('hide')
    expect(done).not.toContain('color')
  })

  it('counts what each piece costs, and the counts add up', () => {
    for (const options of [{}, { reduce: true }]) {
      const { pieceCosts, costs, mesh } = figureOf(maren, crowd, options)
      expect(pieceCosts.reduce((s, p) => s + p.triangles, 0)).toBe(costs.triangles)
      expect(pieceCosts.reduce((s, p) => s + p.vertices, 0)).toBe(costs.vertices)
      expect(Math.max(...pieceCosts.map((p) => p.influences))).toBe(costs.influences)
      const part = (slot: string) => pieceCosts.find((p) => p.slot === slot)!
      expect(part('hat').bones).toBeLessThan(part('over').bones)
      expect(part('body').bones).toBeLessThanOrEqual(costs.bones)
      const bytes = pieceCosts.reduce((s, p) => s + p.fileBytes, 0)
      expect(bytes).toBeGreaterThan(costs.fileBytes * 0.6)
      expect(bytes).toBeLessThan(costs.fileBytes)
      expect(pointTriangles(mesh)).toHaveLength(costs.triangles * 3)
    }
  })

  it('tells what is over budget, and gives no figure only when there is no body', () => {
    const { figure, problems } = build(maren, kits, far)
    expect(problems.some((p) => p.code === 'over-budget' && p.where === 'costs/triangles')).toBe(true)
    expect(overBudget({ ...figure!.costs, influences: 9 }, far).some((p) => p.where === 'costs/influences')).toBe(true)
    expect(build({ ...maren, body: { ...maren.body, id: 'x' } }, kits, near).figure).toBeNull()
  })
})

describe('a figure to be looked at', () => {
  it('is the one that is shipped, without its morphs, and costs what that one costs', () => {
    const builder = new Builder(kits)
    const recipe = maren
    const [looked, shipped] = [builder.build(recipe, near, { still: true }), new Builder(kits).build(recipe, near)]
    const { morphs, ...mesh } = shipped.figure!.mesh
    expect(morphs.length).toBeGreaterThan(20)
    expect(isDeepStrictEqual(looked.figure!.mesh, { ...mesh, morphs: [] })).toBe(true)
    expect(looked.figure!.costs).toEqual(shipped.figure!.costs)
    expect(looked.figure!.pieceCosts).toEqual(shipped.figure!.pieceCosts)
    expect(looked.problems).toEqual(shipped.problems)
    // another face is no work beyond its shape
    const face = { ...recipe, sliders: { ...recipe.sliders, blink: 1 } }
    expect(builder.build(face, near, { still: true }).done).toEqual(['resolve', 'shape', 'rig'])
    // and what is shipped next is whole
    expect(builder.build(face, near).figure!.mesh.morphs.length).toBeGreaterThan(20)
    expect(builder.build(recipe, near, { still: true, reduce: true }).figure!.mesh.morphs.length).toBeGreaterThan(20)
  })
})

describe('a builder that is asked to and fro', () => {
  const shapes = Array.from({ length: 7 }, (_, i): Recipe => ({
    ...maren,
    sliders: { ...maren.sliders, belly: i / 10 },
  }))
  const fresh = shapes.map((r) => new Builder(kits).build(r, near).figure!.mesh)

  it('ships a figure as it is, after hands have asked for the surfaces of others', () => {
    const builder = new Builder(kits)
    builder.build(shapes[0]!, near)
    for (const other of shapes.slice(1)) builder.surfaces(other)
    const { mesh } = builder.build(shapes[0]!, near).figure!
    expect(mesh.positions).toEqual(fresh[0]!.positions)
    expect(mesh.normals).toEqual(fresh[0]!.normals)
  })

  it('gives each figure as a new one would, however often others were made since', () => {
    const random = createRandom(11)
    const builder = new Builder(kits)
    for (let n = 0; n < samples(24, 60); n++) {
      const i = random.next() < 0.4 ? 0 : Math.floor(random.next() * shapes.length)
      // hands ask for surfaces alone, the stage for the mesh, shipping for all of it
      const asked = Math.floor(random.next() * 3)
      if (asked === 0) {
        const { positions } = builder.surfaces(shapes[i]!)[0]!
        expect(positions, `surface ${i} at ${n}`).toEqual(fresh[i]!.positions.slice(0, positions.length))
      } else {
        const { mesh } = builder.build(shapes[i]!, near, { still: asked === 1 }).figure!
        expect(mesh.positions, `positions ${i} at ${n}`).toEqual(fresh[i]!.positions)
        expect(mesh.normals, `normals ${i} at ${n}`).toEqual(fresh[i]!.normals)
      }
    }
  })

  it('gives one as a new one would whose arrays were those of the last of its clothes', () => {
    const builder = new Builder(kits)
    const other = { ...maren, parts: maren.parts.filter((p) => p.slot !== 'over') }
    const at = (recipe: Recipe, build: number) => ({ ...recipe, sliders: { ...recipe.sliders, build } })
    builder.build(maren, near)
    // as many of other clothes as are remembered: the first is forgotten, and what it was made in is free
    for (const build of [0.1, 0.2, 0.3]) builder.build(at(other, build), near)
    const { mesh } = builder.build(at(maren, 0.8), near).figure!
    expect(isDeepStrictEqual(mesh, build(at(maren, 0.8), kits, near).figure!.mesh)).toBe(true)
  })
})

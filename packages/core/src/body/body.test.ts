import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { Recipe } from '../recipe/schema.ts'
import { demoKit, shapeOf } from '../testing/demoKits.ts'
import { followDelta, packFollowing, sparseMorph } from './followers.ts'
import { mlsWeights } from './mlsWeights.ts'
import { prepareBody } from './PreparedBody.ts'
import { regionLoop } from './seams.ts'
import { activeDeltas, applyDeltas, shapeLandmarks } from './shapeBody.ts'
import { even } from '../testing/even.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const human = prepareBody(folk.bodies.get('human')!)
const ottern = prepareBody(tide.bodies.get('ottern')!)
/** What acts, by name. */
const acting = (sliders: Recipe['sliders'], body = human) =>
  activeDeltas(body, sliders).map(({ delta, weight }) => [delta.name, weight] as const)
const anySliders = (body: typeof human) =>
  fc.dictionary(fc.constantFrom(...body.model.def.sliders.map((s) => s.id)), even(-1, 1))

describe('slider values', () => {
  it('above zero play the upper form, below zero the lower one, and none at rest', () => {
    const slider = human.model.def.sliders.find((s) => s.down !== undefined)!
    expect(acting({ [slider.id]: 0.4 })).toEqual([[slider.up, 0.4]])
    expect(acting({ [slider.id]: -0.7 })).toEqual([[slider.down, 0.7]])
    expect(acting({})).toEqual([])
  })

  it('mirror the upper form where there is no lower one', () => {
    const one = human.model.def.sliders[0]!
    const model = {
      ...human.model,
      def: { ...human.model.def, sliders: [{ ...one, down: undefined }] as (typeof human.model.def)['sliders'] },
    }
    expect(acting({ [one.id]: -0.5 }, { ...human, model })).toEqual([[one.up, -0.5]])
  })

  it('that no body has change nothing', () => {
    expect(acting({ wings: 1 })).toEqual([])
  })

  it('of unequal sides play the halves, which together are the whole', () => {
    const slider = human.model.def.sliders.find((s) => s.id === 'arms')!
    expect(acting({ arms: [0.5, 0.25] })).toEqual([
      [`${slider.up} left`, 0.5],
      [`${slider.up} right`, 0.25],
    ])
    const { positions } = human.model.mesh
    const even = shapeOf(human, { arms: 1 }).positions
    const left = shapeOf(human, { arms: [1, 0] }).positions
    const right = shapeOf(human, { arms: [0, 1] }).positions
    for (let i = 0; i < positions.length; i++) expect(left[i]! + right[i]! - positions[i]!).toBeCloseTo(even[i]!, 5)
    for (let p = 0; p < positions.length; p += 3) {
      // a hand is all on its own side
      if (positions[p]! > 0.2) expect(right[p]).toBe(positions[p])
      if (positions[p]! < -0.2) expect(left[p]).toBe(positions[p])
    }
  })

  it('that meet play a corrective by their product, side by side', () => {
    const [a, b] = human.model.def.sliders
    const morph = human.model.mesh.morphs.find((m) => m.name === human.model.def.sliders[2]!.up)!
    const def = {
      ...human.model.def,
      correctives: [
        {
          morph: morph.name,
          when: [
            { slider: a!.id, end: 'up' as const },
            { slider: b!.id, end: 'down' as const },
          ],
        },
      ],
    }
    const own = { ...human, model: { ...human.model, def } }
    const weight = (sliders: Recipe['sliders']) => acting(sliders, own).filter(([name]) => name.startsWith(morph.name))
    expect(weight({ [a!.id]: 0.5, [b!.id]: -0.5 })).toEqual([[morph.name, 0.25]])
    expect(weight({ [a!.id]: 0.5, [b!.id]: 0.5 })).toEqual([])
    expect(weight({ [a!.id]: [0.5, 0], [b!.id]: -1 })).toEqual([[`${morph.name} left`, 0.5]])
  })
})

describe('shaping', () => {
  it('is the sum of its sliders: each acts by itself, in any order', () => {
    const { positions } = human.model.mesh
    const shape = (sliders: Record<string, number>) => {
      const out = new Float32Array(positions.length)
      applyDeltas(positions, activeDeltas(human, sliders), out)
      return out
    }
    const [a, b] = ['belly', 'jaw']
    const [first, second, both] = [shape({ [a!]: 0.8 }), shape({ [b!]: -0.6 }), shape({ [a!]: 0.8, [b!]: -0.6 })]
    for (let i = 0; i < positions.length; i++)
      expect(both[i]! - positions[i]!).toBeCloseTo(first[i]! + second[i]! - 2 * positions[i]!, 5)
  })

  it('never gives a place that is no number, and moves nobody farther than its sliders do one by one', () => {
    for (const body of [human, ottern]) {
      const { positions } = body.model.mesh
      const out = new Float32Array(positions.length)
      /** The farthest that anything moves along an axis, metres; what is no number is farther than all. */
      const farthest = (sliders: Record<string, number>) => {
        applyDeltas(positions, activeDeltas(body, sliders), out)
        let most = 0
        for (let i = 0; i < out.length; i++) {
          const moved = Math.abs(out[i]! - positions[i]!)
          if (!(moved <= most)) most = Number.isFinite(moved) ? moved : Infinity
        }
        return most
      }
      const ends = new Map(
        body.model.def.sliders.map(({ id }) => [id, Math.max(farthest({ [id]: -1 }), farthest({ [id]: 1 }))]),
      )
      // a child's head is 55 cm lower than that of who has grown; nothing else goes so far
      for (const far of ends.values()) expect(far).toBeLessThan(0.6)
      fc.assert(
        fc.property(anySliders(body), (sliders) => {
          const sum = Object.keys(sliders).reduce((all, id) => all + ends.get(id)!, 0)
          // places are kept in 32 bits, and rounded with each slider: a hundredth of a millimetre for all of them
          expect(farthest(sliders)).toBeLessThanOrEqual(sum + 1e-5)
        }),
        { numRuns: 15 },
      )
    }
  })

  it('writes where it is told and leaves the rest shape alone', () => {
    const { positions } = human.model.mesh
    const before = positions.slice()
    applyDeltas(positions, activeDeltas(human, { build: 1 }), new Float32Array(positions.length))
    expect(positions).toEqual(before)
  })

  it('keeps a symmetric body symmetric', () => {
    const { positions } = human.model.mesh
    const out = new Float32Array(positions.length)
    const keyOf = (x: number, y: number, z: number) => [x, y, z].map((v) => Math.round(v * 2000)).join()
    applyDeltas(positions, activeDeltas(human, { build: 0.7, jaw: -0.5, hips: 1 }), out)
    const places = new Set<string>()
    for (let i = 0; i < out.length; i += 3) places.add(keyOf(out[i]!, out[i + 1]!, out[i + 2]!))
    let [paired, all] = [0, 0]
    for (let i = 0; i < out.length; i += 3) {
      all++
      if (places.has(keyOf(-out[i]!, out[i + 1]!, out[i + 2]!))) paired++
    }
    // places that fall on a rounding edge may miss their partner
    expect(paired / all).toBeGreaterThan(0.9)
  })
})

describe('landmarks', () => {
  it.each([human, ottern])(
    'follow the points of the body nearest to them, the nearest first',
    ({ following, model }) => {
      const { positions } = model.mesh
      model.def.landmarks.forEach(({ id, at }, l) => {
        const far = (p: number) => Math.hypot(...at.map((v, k) => v - positions[p * 3 + k]!))
        const all = [...Array(positions.length / 3).keys()].sort((p, q) => far(p) - far(q) || p - q)
        const own = [...following.sources.subarray(following.starts[l], following.starts[l + 1])]
        expect(own.length, id).toBeGreaterThan(8)
        expect(own, id).toEqual(all.slice(0, own.length))
      })
    },
  )

  it('follow as they would be found on the shaped body: linear in every slider', () => {
    const at = (sliders: Record<string, number>) => {
      const out = new Float32Array(human.landmarks.length)
      shapeLandmarks(human, activeDeltas(human, sliders), out)
      return out
    }
    const [rest, half, whole] = [at({}), at({ arms: 0.5 }), at({ arms: 1 })]
    for (let i = 0; i < rest.length; i++) expect(half[i]! - rest[i]!).toBeCloseTo((whole[i]! - rest[i]!) / 2, 5)
  })

  it('inside limbs stay inside them: the knee between the front and the back of the leg', () => {
    for (const sliders of [{ build: 1 }, { build: -1 }, { legs: 1 }, { legs: -1 }] as Record<string, number>[]) {
      const strengths = activeDeltas(human, sliders)
      const landmarks = new Float32Array(human.landmarks.length)
      shapeLandmarks(human, strengths, landmarks)
      const positions = new Float32Array(human.model.mesh.positions.length)
      applyDeltas(human.model.mesh.positions, strengths, positions)
      const o = human.landmarkIndex.get('leftLowerLeg')! * 3
      const [x, y, z] = [landmarks[o]!, landmarks[o + 1]!, landmarks[o + 2]!]
      const near: number[] = []
      for (let p = 0; p < positions.length; p += 3)
        if (Math.abs(positions[p + 1]! - y) < 0.06 && Math.hypot(positions[p]! - x, positions[p + 2]! - z) < 0.15)
          near.push(positions[p + 2]!)
      expect(Math.min(...near)).toBeLessThan(z)
      expect(Math.max(...near)).toBeGreaterThan(z)
    }
  })
})

describe('regions', () => {
  it('cover the whole body, each face in one', () => {
    for (const body of [human, ottern]) {
      const counts = body.model.def.regions.map((_, r) => body.regionOf.filter((x) => x === r).length)
      expect(counts.every((n) => n > 0)).toBe(true)
      expect(counts.reduce((s, n) => s + n, 0)).toBe(body.regionOf.length)
    }
  })

  it('that end in one loop give it closed and running with their faces; others give none', () => {
    const loop = regionLoop(human, 'leftShin')
    const edges = new Set<string>()
    const r = human.model.def.regions.findIndex((x) => x.id === 'leftShin')
    for (let t = 0; t < human.regionOf.length; t++)
      if (human.regionOf[t] === r)
        for (let k = 0; k < 3; k++) edges.add(`${human.triangles[t * 3 + k]} ${human.triangles[t * 3 + ((k + 1) % 3)]}`)
    loop.forEach((p, i) => expect(edges.has(`${p} ${loop[(i + 1) % loop.length]}`)).toBe(true))
    expect(new Set(loop).size).toBe(loop.length)
    expect(regionLoop(human, 'thighs')).toEqual([])
    expect(regionLoop(human, 'nowhere')).toEqual([])
  })
})

describe('followers', () => {
  it('sum their sources’ moves by weight', () => {
    const following = packFollowing([
      { sources: [0, 1], weights: [0.25, 0.75] },
      { sources: [2], weights: [1] },
      { sources: [], weights: [] },
    ])
    const moves = new Float32Array(9)
    const [points, deltas] = [Uint32Array.from([0, 1]), Float32Array.from([4, 0, 0, 0, 8, 0])]
    followDelta(following, 3, { name: 'x', points, deltas }, moves)
    expect([...moves]).toEqual([1, 6, 0, 0, 0, 0, 0, 0, 0])
  })

  it('that hardly move are left out of a sparse movement', () => {
    const { points, deltas } = sparseMorph('x', Float32Array.from([0, 0, 0, 0.00005, 0, 0, 0.01, 0, 0, 9, 9, 9]), 3)
    expect([...points]).toEqual([2])
    expect(deltas[0]).toBeCloseTo(0.01)
  })

  it('keep their distance when what they follow is shifted, whatever the neighbours', () => {
    const point = fc.tuple(...[0, 1, 2].map(() => even(-1, 1))) as fc.Arbitrary<[number, number, number]>
    fc.assert(
      fc.property(fc.array(point, { minLength: 1, maxLength: 12 }), point, (neighbours, at) => {
        const weights = mlsWeights(
          at,
          neighbours.flat(),
          neighbours.map((_, i) => i),
          0.5,
        )
        expect(weights.reduce((s, w) => s + w, 0)).toBeCloseTo(1, 6)
        expect(weights.every(Number.isFinite)).toBe(true)
      }),
    )
  })
})

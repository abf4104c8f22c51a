import { describe, expect, it } from 'vitest'
import { Vector3 } from 'three'
import { Builder } from '../build.ts'
import { newRecipe, partReference } from '../recipe/defaults.ts'
import { addPart, clearPart, copyPart, mirroredPlace, placePart, setSlider } from '../recipe/edits.ts'
import { createRandom } from '../recipe/random.ts'
import type { Place, Recipe } from '../recipe/schema.ts'
import { demoKit, demoTarget, dressed, wear } from '../testing/demoKits.ts'
import { shapeSlidersOf } from '../kit/movements.ts'
import { poseAt } from '../motion/Clip.ts'
import { createWorldPose, poseOfTurns, restPose, skinPoints, solveForward } from '../rig/Pose.ts'
import { wantedBy } from '../recipe/clips.ts'
import { clipsOf } from '../ship/clips.ts'
import { placeOfSpot, spotAcross, spotBeside, spotFor, spotNear, type StandingSurface } from './spots.ts'
import { samples } from '../testing/thorough.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const builder = new Builder(kits)
const near = demoTarget('near')
const ottern = newRecipe(tide, 'ottern', 'Any')
const bodyOf = (recipe: Recipe) => builder.surfaces(recipe).find((s) => s.instance === null)!
const surfaceOf = (recipe: Recipe, part: string) => builder.surfaces(recipe).find((s) => s.part === part)!

const put = (recipe: Recipe, id: string, place: Place) => {
  const kit = recipe.body.kit === 'saltwick-folk' ? folk : tide
  return addPart(recipe, kit.parts.get(id)!.def.slot, partReference(kit, id), { place })
}
/** The points of an instance in the built figure. */
function pointsOf(recipe: Recipe, instance: string): Vector3[] {
  const { figure } = builder.build(recipe, near)
  const piece = figure!.pieces.find((p) => p.instance === instance)!
  const used = new Set<number>()
  for (let i = piece.triangles[0] * 3; i < piece.triangles[1] * 3; i++)
    used.add(figure!.mesh.cornerPoints[figure!.mesh.indices[i]!]!)
  return [...used].map((p) => new Vector3().fromArray(figure!.mesh.positions, p * 3))
}
/** How far a point is from a surface, by looking at every triangle: shares no code with what places things. */
function farFrom({ positions, triangles }: StandingSurface, p: Vector3): number {
  let best = Infinity
  const at = (i: number) => new Vector3().fromArray(positions, triangles[i]! * 3)
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [at(t), at(t + 1), at(t + 2)] as const
    // finer than the parts are: a grid over the triangle
    for (let i = 0; i <= 6; i++)
      for (let k = 0; k <= 6 - i; k++) {
        const on = a
          .clone()
          .multiplyScalar(i / 6)
          .addScaledVector(b, k / 6)
          .addScaledVector(c, 1 - (i + k) / 6)
        best = Math.min(best, on.distanceTo(p))
      }
  }
  return best
}
const nearest = (surface: StandingSurface, points: Vector3[]) => Math.min(...points.map((p) => farFrom(surface, p)))

describe('a spot on a figure', () => {
  it('is where it was asked for, on the shaped body', () => {
    const shaped = { ...ottern, sliders: { stature: 1, belly: 1 } }
    const body = bodyOf(shaped)
    for (let p = 0; p < body.positions.length; p += 3 * 97) {
      const at = [...body.positions.subarray(p, p + 3)] as [number, number, number]
      expect(new Vector3(...placeOfSpot(body, spotNear(body, at))).distanceTo(new Vector3(...at))).toBeLessThan(1e-4)
    }
  })

  it('goes along the surface as far as told, and across to the same place on the other side', () => {
    const body = bodyOf(ottern)
    const begin = spotNear(body, [0.05, 0.6, 0.3])
    const from = new Vector3(...placeOfSpot(body, begin))
    const right = new Vector3(...placeOfSpot(body, spotBeside(body, begin, [0.01, 0])))
    const up = new Vector3(...placeOfSpot(body, spotBeside(body, begin, [0, 0.01])))
    // seen from the front, its right is the viewer's right; the surface curves away by less than a fifth of the step
    expect(right.x - from.x).toBeGreaterThan(0.008)
    expect(up.y - from.y).toBeGreaterThan(0.008)
    const across = new Vector3(...placeOfSpot(body, spotAcross(body, begin)))
    expect(across.distanceTo(new Vector3(-from.x, from.y, from.z))).toBeLessThan(0.01)
  })

  it('is none where there is no such surface, or no such triangle there', () => {
    const surfaces = builder.surfaces(ottern)
    expect(spotFor(surfaces, { on: 'coat', from: [0, 1, 0] })).toBeNull()
    expect(spotFor(surfaces, { on: null, from: { triangle: 1e6, shares: [1, 0, 0] }, then: 'across' })).toBeNull()
    expect(spotFor(surfaces, { on: null, from: [0, 1, 1] })).toMatchObject({ triangle: expect.any(Number) as number })
    expect(builder.surfaces({ ...ottern, body: { ...ottern.body, id: 'gone' } })).toEqual([])
  })
})

describe('things that hands put on a body', () => {
  it('stay on its surface under every slider, and stand out from it', () => {
    const random = createRandom(5)
    const sliders = shapeSlidersOf(tide.bodies.get('ottern')!.def)
    const spots = [
      [0, 1.15, 1],
      [0.2, 0.8, 0.2],
      [0, 0.7, -1],
      [-0.1, 0.5, 1],
    ].map((at) => spotNear(bodyOf(ottern), at as [number, number, number]))
    const recipe = spots.reduce((r, at) => put(r, 'growth-barnacle', { at }), ottern)
    expect(recipe.parts.map((p) => p.id).filter((id) => id.startsWith('growths'))).toHaveLength(4)
    for (let n = 0; n < samples(5, 12); n++) {
      let shaped = recipe
      for (let k = 0; k < 10; k++) {
        const slider = random.pick(sliders)
        shaped = setSlider(shaped, slider.id, random.next() < 0.5 ? slider.min : slider.max, slider)
      }
      const body = bodyOf(shaped)
      for (const { id } of recipe.parts.filter((p) => p.slot === 'growths')) {
        const points = pointsOf(shaped, id)
        // its foot is sunk 9 mm: something of it lies within that of the skin, most of it outside
        expect(nearest(body, points), `${id} of ${JSON.stringify(shaped.sliders)}`).toBeLessThan(0.009)
        expect(Math.max(...points.map((p) => farFrom(body, p)))).toBeGreaterThan(0.015)
      }
    }
  })

  it.each([
    ['human', folk, 'trim-button'],
    ['ottern', tide, 'growth-barnacle'],
  ] as const)('stay on the skin of the %s in every pose of its plan and in its clips', (body, kit, part) => {
    const bare: Recipe = { ...newRecipe(kit, body, 'Any'), parts: [] }
    const random = createRandom(3)
    // anywhere: on joints and in folds, too
    const { positions, triangles } = bodyOf(bare)
    const onSkin = kit.bodies.get(body)!.mesh
    const open = new Set(onSkin.regionNames.flatMap((n, i) => (/^(mouth|teeth|tongue)$/.test(n) ? [] : [i])))
    const spots = Array.from({ length: 16 }, () => Math.floor(random.next() * (triangles.length / 3)))
      .filter((t) => open.has(onSkin.regions[onSkin.indices[t * 3]!]!))
      .map((triangle) => ({ triangle, shares: [0.4, 0.35, 0.25] as const }))
    expect(positions.length).toBeGreaterThan(2000)
    for (const { triangle, shares } of spots) {
      const recipe = put(bare, part, { at: { triangle, shares: [...shares] } })
      const { mesh, skeleton, pieces } = builder.build(recipe, near).figure!
      const piece = pieces.find((p) => p.id === part)!
      const clips = clipsOf(builder.build(recipe, near).figure!, kits, recipe, wantedBy({}))
      const poses = [
        ...kit.bodies.get(body)!.plan.poses.map((p) => poseOfTurns(skeleton.bones, p.turns)),
        ...clips.flatMap((clip) => [0.3, 0.7].map((at) => poseAt(clip, clip.duration * at))),
      ]
      let rest = 0
      for (const [n, pose] of [restPose(skeleton.bones), ...poses].entries()) {
        const world = solveForward(skeleton.bones, pose, createWorldPose(skeleton.bones))
        const posed = skinPoints(skeleton.bones, world, mesh.positions, mesh.joints, mesh.weights)
        const corners = [0, 1, 2].map((k) => new Vector3().fromArray(posed, triangles[triangle * 3 + k]! * 3))
        const spot = corners.reduce((sum, c, k) => sum.addScaledVector(c, shares[k]!), new Vector3())
        const own = Array.from({ length: piece.points[1] - piece.points[0] }, (_, i) =>
          new Vector3().fromArray(posed, (piece.points[0] + i) * 3),
        )
        const gap = Math.min(...own.map((p) => p.distanceTo(spot)))
        if (n === 0) rest = gap
        // where skin bends it slides a little beneath what stands on it
        expect(Math.abs(gap - rest), `${part} on ${triangle} in pose ${n}`).toBeLessThan(0.008)
      }
    }
  })

  it('may be longer one way than the other, and turned', () => {
    const at = spotNear(bodyOf(ottern), [0, 0.75, 1])
    const size = (place: Place) => {
      const points = pointsOf(put(ottern, 'growth-limpet', { at, ...place }), 'growths')
      const of = (k: 'x' | 'y') => Math.max(...points.map((p) => p[k])) - Math.min(...points.map((p) => p[k]))
      return { x: of('x'), y: of('y') }
    }
    const [plain, wide, turned] = [size({}), size({ scale: [2, 1, 1] }), size({ scale: [2, 1, 1], turn: [0, 0, 90] })]
    expect(wide.x / plain.x).toBeCloseTo(2, 1)
    expect(wide.y / plain.y).toBeCloseTo(1, 1)
    // it is a little taller than wide, and stands on a slope
    expect(turned.y / plain.y).toBeGreaterThan(1.35)
    expect(turned.x / plain.x).toBeLessThan(1.3)
  })

  it('is told how many a figure can have', () => {
    const at = spotNear(bodyOf(ottern), [0, 0.75, 1])
    let recipe = ottern
    for (let n = 0; n < 31; n++) recipe = put(recipe, 'growth-bead', { at })
    const { figure, problems } = builder.build(recipe, near)
    expect(figure!.pieces.filter((p) => p.slot === 'growths')).toHaveLength(30)
    expect(problems.map((p) => p.code)).toContain('slot-full')
    const few = new Map(kits)
    const part = tide.parts.get('growth-bead')!
    const def = { ...part.def, most: 2 } as typeof part.def
    few.set('tide-creatures', { ...tide, parts: new Map([...tide.parts, ['growth-bead', { ...part, def }]]) })
    const limited = new Builder(few).build(recipe, near)
    expect(limited.figure!.pieces.filter((p) => p.slot === 'growths')).toHaveLength(2)
    expect(limited.problems.filter((p) => p.code === 'part-most')).toHaveLength(28)
  })

  it('may be copied to the other side as in a mirror', () => {
    const at = spotNear(bodyOf(ottern), [0.2, 1.1, 0])
    const one = put(ottern, 'growth-ear-fin', { at, turn: [10, 20, 30] })
    const place = one.parts.find((p) => p.slot === 'growths')!.place
    const both = copyPart(one, 'growths', mirroredPlace(place, spotAcross(bodyOf(one), at)))
    const mirrored = both.parts.find((p) => p.id === 'growths-2')!
    expect(mirrored.place).toMatchObject({ mirrored: true, turn: [10, -20, -30] })
    const [left, right] = ['growths', 'growths-2'].map((id) => pointsOf(both, id)) as [Vector3[], Vector3[]]
    // as good as the two sides' own triangles are alike
    for (const p of left) {
      const twin = new Vector3(-p.x, p.y, p.z)
      expect(Math.min(...right.map((q) => q.distanceTo(twin)))).toBeLessThan(0.02)
    }
    expect(mirroredPlace(mirroredPlace(place, at), at)).toEqual({ ...place, at })
  })

  it('blinks with the face, if it is an eye', () => {
    const at = spotNear(bodyOf(ottern), [0, 1.15, 1])
    const recipe = put(ottern, 'eye-more', { at })
    const surface = bodyOf(recipe)
    const [a, b, c] = [0, 1, 2].map((k) =>
      new Vector3().fromArray(surface.positions, surface.triangles[at.triangle * 3 + k]! * 3),
    ) as [Vector3, Vector3, Vector3]
    const out = b.clone().sub(a).cross(c.clone().sub(a)).normalize()
    /** How much of the iris is seen by one who looks straight at it, square metres. */
    const seen = (r: Recipe) => {
      const { mesh, pieces } = builder.build(r, near).figure!
      const piece = pieces.find((p) => p.id === 'eye-more')!
      const region = mesh.regionNames.indexOf('iris')
      let area = 0
      for (let t = piece.triangles[0]; t < piece.triangles[1]; t++) {
        const corners = [0, 1, 2].map((k) => mesh.indices[t * 3 + k]!)
        if (mesh.regions[corners[0]!] !== region) continue
        const [p, q, s] = corners.map((v) => new Vector3().fromArray(mesh.positions, mesh.cornerPoints[v]! * 3)) as [
          Vector3,
          Vector3,
          Vector3,
        ]
        area += Math.max(0, q.sub(p).cross(s.sub(p)).dot(out) / 2)
      }
      return area
    }
    expect(seen(recipe)).toBeGreaterThan(5e-4)
    expect(seen({ ...recipe, sliders: { blink: 1 } })).toBeLessThan(seen(recipe) * 0.1)
  })
})

describe('things that hands put on what is worn', () => {
  const clad = dressed(folk, 'human', ['shirt-work', 'trousers', 'coat-quay', 'hat-brimmed'])
  const coat = clad.parts.find((p) => p.part.id === 'coat-quay')!.id
  const at = spotNear(surfaceOf(clad, 'coat-quay'), [0.1, 1.2, 1])
  const buttoned = put(clad, 'trim-button', { at })

  it('name what they are on', () => {
    expect(at.on).toEqual({ instance: coat, part: 'coat-quay' })
  })

  it('go with it, over whatever is worn beneath, under every slider', () => {
    const random = createRandom(9)
    const sliders = shapeSlidersOf(folk.bodies.get('human')!.def)
    for (let n = 0; n < samples(4, 8); n++) {
      let shaped = n % 2 ? buttoned : wear(buttoned, folk, 'jersey')
      for (let k = 0; k < 8; k++) {
        const slider = random.pick(sliders)
        shaped = setSlider(shaped, slider.id, random.next() < 0.5 ? slider.min : slider.max, slider)
      }
      const cloth = surfaceOf(shaped, 'coat-quay')
      const points = pointsOf(shaped, 'trims')
      // within a millimetre: the spot is where the coat is; the finest of the grid is 2 mm off at worst
      const middle = new Vector3(...placeOfSpot(cloth, at))
      expect(Math.min(...points.map((p) => p.distanceTo(middle)))).toBeLessThan(0.012)
      expect(Math.max(...points.map((p) => p.distanceTo(middle)))).toBeLessThan(0.03)
    }
  })

  it('hang on the bones that the cloth hangs on there', () => {
    const { figure } = builder.build(buttoned, near)
    const { mesh, pieces } = figure!
    const bonesOf = (from: number, to: number) => {
      const sums = new Map<number, number>()
      for (let p = from; p < to; p++)
        for (let k = 0; k < 4; k++)
          sums.set(mesh.joints[p * 4 + k]!, (sums.get(mesh.joints[p * 4 + k]!) ?? 0) + mesh.weights[p * 4 + k]!)
      return sums
    }
    const button = pieces.find((p) => p.id === 'trim-button')!
    const host = pieces.find((p) => p.id === 'coat-quay')!
    const { triangles } = surfaceOf(buttoned, 'coat-quay')
    const own = bonesOf(...button.points)
    const points = button.points[1] - button.points[0]
    const cloth = new Map<number, number>()
    at.shares.forEach((share, i) => {
      const p = host.points[0] + triangles[at.triangle * 3 + i]!
      for (const [bone, weight] of bonesOf(p, p + 1)) cloth.set(bone, (cloth.get(bone) ?? 0) + share * weight)
    })
    for (const [bone, weight] of cloth) expect((own.get(bone) ?? 0) / points).toBeCloseTo(weight, 1)
  })

  it('are left off and told when that is no more, and are there again with it', () => {
    const codes = (recipe: Recipe) => builder.build(recipe, near).problems.map((p) => p.code)
    const shown = (recipe: Recipe) => builder.build(recipe, near).figure!.pieces.some((p) => p.id === 'trim-button')
    const bare = clearPart(buttoned, 'over')
    expect([codes(bare), shown(bare)]).toEqual([['host-gone'], false])
    // another coat in its place has other triangles
    const other = wear(buttoned, folk, 'coat-oilskin')
    expect(codes(other)).toContain('host-gone')
    expect(shown(buttoned)).toBe(true)
    const lost = placePart(buttoned, 'trims', { at: { ...at, triangle: 999_999 } })
    expect([codes(lost), shown(lost)]).toEqual([['host-gone'], false])
    // it sits on nothing that itself sits on something
    const onItself = placePart(buttoned, 'trims', { at: { ...at, on: { instance: 'trims', part: 'trim-button' } } })
    expect(codes(onItself)).toContain('host-gone')
  })
})

import { describe, expect, it } from 'vitest'
import {
  Builder,
  clipsOf,
  createWorldPose,
  newRecipe,
  partReference,
  poseAt,
  prepareBody,
  readKit,
  reducerReady,
  setPart,
  setSprings,
  skinPoints,
  solveForward,
  Surface,
  triangleNormal,
  USUAL_SPRING,
} from '@idle-tinker/core'
import { demoTarget, kitFiles } from '../../core/src/testing/demoKits.ts'

await reducerReady
const kit = (await readKit(kitFiles('saltwick-folk'))).value!
const kits = new Map([[kit.manifest.id, kit]])
const near = demoTarget('near')
const full = { ...near, detail: 'full' as const, limits: { ...near.limits, bones: 200 }, keepExpressions: [] }
const builder = new Builder(kits)
const body = prepareBody(kit.bodies.get('human')!)
const bodyPoints = body.model.mesh.positions.length / 3

/** A person who wears one thing, and the limbs it brings. */
function wearing(id: string) {
  const part = kit.parts.get(id)!
  const recipe = setPart(newRecipe(kit, 'human', id), part.def.slot, partReference(kit, id))
  const figure = builder.build(recipe, full).figure!
  const limbs = figure.skeleton.limbs.filter((l) => l.kind === 'hair' || l.kind === 'cloth')
  return { part, recipe, figure, limbs }
}

describe('what hangs and swings', () => {
  it.each([
    ['hair-braid', 1],
    ['hair-plaits', 2],
    ['cape-watch', 1],
    ['cape-hooded', 1],
    ['tailcoat', 1],
  ])('%s: by bones that only the finest detail has', (id, chains) => {
    const { recipe, limbs } = wearing(id)
    expect(limbs).toHaveLength(chains)
    const coarse = builder.build(recipe, near).figure!
    expect(coarse.skeleton.limbs.filter((l) => l.kind === 'hair' || l.kind === 'cloth')).toEqual([])
    expect(coarse.skeleton.bones.length).toBeLessThanOrEqual(near.limits.bones)
  })

  it.each(['hair-braid', 'hair-plaits', 'cape-watch', 'cape-hooded', 'tailcoat'])(
    '%s: swings at its end in a run, hardly at its root, and keeps out of the body as well as it does stiff',
    (id) => {
      const { recipe, figure, limbs } = wearing(id)
      const { mesh, skeleton } = figure
      const piece = figure.pieces.find((p) => p.id === id)!
      const own = new Set(limbs.flatMap((l) => l.bones.map((b) => skeleton.bones.findIndex(({ name }) => name === b))))
      const shareOf = (p: number) =>
        [0, 1, 2, 3].reduce((sum, k) => sum + (own.has(mesh.joints[p * 4 + k]!) ? mesh.weights[p * 4 + k]! : 0), 0)
      const points = Array.from({ length: piece.points[1] - piece.points[0] }, (_, i) => piece.points[0] + i)
      const hanging = points.filter((p) => shareOf(p) > 0.5)
      const held = points.filter((p) => shareOf(p) === 0)
      expect(hanging.length).toBeGreaterThan(10)
      expect(held.length).toBeGreaterThan(10)
      const springs = setSprings(
        recipe,
        limbs.map((l) => l.id),
        USUAL_SPRING,
      )
      const [stiff, swung] = [recipe, springs].map((r) => clipsOf(figure, kits, r).find((c) => c.id === 'run')!)
      const [most, root, deep, stiffDeep] = [[0], [0], [0], [0]]
      for (let k = 0; k < 12; k++) {
        const posed = [stiff!, swung!].map((clip) => {
          const pose = poseAt(clip, (clip.duration * k) / 12)
          const world = solveForward(skeleton.bones, pose, createWorldPose(skeleton.bones))
          return skinPoints(skeleton.bones, world, mesh.positions, mesh.joints, mesh.weights)
        }) as [Float32Array, Float32Array]
        const apart = (p: number) => Math.hypot(...[0, 1, 2].map((c) => posed[0][p * 3 + c]! - posed[1][p * 3 + c]!))
        most.push(...hanging.map(apart))
        root.push(...held.map(apart))
        const depths = posed.map((at) => {
          const skin = at.slice(0, bodyPoints * 3)
          const surface = new Surface(skin, body.triangles)
          return Math.max(...hanging.map((p) => depthIn(surface, skin, [at[p * 3]!, at[p * 3 + 1]!, at[p * 3 + 2]!])))
        })
        stiffDeep.push(depths[0]!)
        deep.push(depths[1]!)
      }
      const worst = (all: number[]) => Math.max(...all)
      expect(worst(most)).toBeGreaterThan(0.01)
      // what no bone of its own moves goes as ever
      expect(worst(root)).toBeLessThan(1e-6)
      // a capsule is as thick as half of what hangs on a bone: the rest of it may be a little within it
      expect(worst(deep)).toBeLessThan(worst(stiffDeep) + 0.015)
    },
  )
})

/** How far within the body a place lies, metres; 0 outside. */
function depthIn(surface: Surface, positions: Float32Array, at: [number, number, number]): number {
  const near = surface.nearest(...at)!
  const [a, b, c] = [0, 1, 2].map((i) => body.triangles[near.triangle * 3 + i]!)
  const n = triangleNormal(positions, a!, b!, c!)
  const out = [0, 1, 2].reduce((s, k) => s + (at[k]! - near.point[k]!) * n[k]!, 0)
  return out < 0 ? near.distance : 0
}

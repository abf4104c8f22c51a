import { describe, expect, it } from 'vitest'
import {
  bindPart,
  boundsOf,
  Builder,
  checkEdges,
  newRecipe,
  partReference,
  pointTriangles,
  prepareBody,
  readKit,
  readMix,
  readRecipe,
  recipeOfLook,
  reducerReady,
  resolveRecipe,
  selectCrowd,
  setPart,
  Surface,
  triangleNormal,
  type Kit,
} from '@idle-tinker/core'
import { demoTarget, kitFiles } from '../../core/src/testing/demoKits.ts'

await reducerReady
const kits = new Map<string, Kit>()
for (const id of ['saltwick-folk', 'tide-creatures']) kits.set(id, (await readKit(kitFiles(id))).value!)
const documents = kitFiles('lantern-tide')
const textOf = (name: string) => new TextDecoder().decode(documents.get(name))
const near = demoTarget('near')
const builder = new Builder(kits)

const parts = [...kits.values()].flatMap((kit) =>
  [...kit.parts.values()].map(({ def, mesh }) => ({ kit, def, mesh, name: `${kit.manifest.id}/${def.id}` })),
)

/** The kit and the body that a part is made for: its own kit's, or another's. */
function homeOf({ kit, def }: Pick<(typeof parts)[number], 'kit' | 'def'>) {
  const [body, home] = def.bodies[0]!.split('/').toReversed() as [string, string?]
  return { home: home === undefined ? kit : kits.get(home)!, body }
}

/** A bare figure with one part on. */
function wearing({ kit, def }: (typeof parts)[number], sliders: Record<string, number> = {}) {
  const { home, body } = homeOf({ kit, def })
  const recipe = setPart(newRecipe(home, body, def.name), def.slot, partReference(kit, def.id))
  return builder.build({ ...recipe, sliders }, near)
}

/** What hangs or stands away from the body by its nature: skirts of coats, brims, crowns, horns, fins, whiskers, eyes on pods, bells. */
const FREE = new Set([
  'coat-quay',
  'coat-oilskin',
  'apron-net',
  'skirt-work',
  'kilt',
  'greatcoat',
  'tailcoat',
  'cape-watch',
  'cape-hooded',
  'dress-market',
  'dress-gala',
  'hair-plaits',
  'hair-loose',
  'hat-straw',
  'hat-souwester',
  'hat-tall',
  'whiskers-long',
  'horns-coral',
  'tail-fin',
  'crest-blades',
  'antlers-coral',
  'hat-drover',
  'frill-wader',
  'collar-bell',
  'tail-fan',
  'eyes-pods',
  'eyes-five',
  'coral-gulper',
  'hat-bucket',
  'crest-fin',
  'shell-back',
])
/** Closed pieces whose roots or linings reach into the body: locks, the crown of a hat, the root of a fin. */
const ROOTED = new Set([
  'hair-curls',
  'hair-loose',
  'hair-ropes',
  'hat-souwester',
  'tail-fin',
  'crest-blades',
  'leg-fins',
  // boxes that lie flat on a round flank, hoods of eyes that are sunk behind them
  'panniers',
  'satchel-gulper',
  'eyes-wader-round',
  'eyes-wader-keen',
  'eyes-wader-mild',
  'eyes-drowsy',
  // roots of pods and crests, a bucket that is pressed on
  'eyes-pods',
  'eyes-five',
  'crest-fin',
  'hat-bucket',
])

describe('every part of the demo kits', () => {
  it.each(parts.map((p) => [p.name, p] as const))(
    '%s builds on its body, is seen, and costs what a part may',
    (_n, part) => {
      const { figure, problems } = wearing(part)
      expect(problems.filter((p) => p.severity === 'error')).toEqual([])
      const piece = figure!.pieces.find((p) => p.id === part.def.id)!
      const triangles = piece.triangles[1] - piece.triangles[0]
      expect(triangles).toBeGreaterThan(3)
      expect(triangles).toBeLessThan(1200)
    },
  )

  // what has a form of its own, as another kind of head, lies where that is
  const lying = parts.filter(({ def }) => def.how === 'worn' || (def.how === 'replaces' && def.fit !== 'shape'))
  it.each(lying.map((p) => [p.name, p] as const))(
    '%s lies on its body: no point floats far from it, none is deep inside',
    (_n, { kit, def, mesh }) => {
      const { home, body: id } = homeOf({ kit, def })
      const body = prepareBody(home.bodies.get(id)!)
      const distances = Array.from({ length: mesh.positions.length / 3 }, (_, i) => {
        const place = body.surface.nearest(
          mesh.positions[i * 3]!,
          mesh.positions[i * 3 + 1]!,
          mesh.positions[i * 3 + 2]!,
        )!
        const n = triangleNormal(
          body.surface.positions,
          ...([0, 1, 2].map((k) => body.triangles[place.triangle * 3 + k]!) as [number, number, number]),
        )
        const inward = [0, 1, 2].reduce((s, k) => s + n[k]! * (mesh.positions[i * 3 + k]! - place.point[k]!), 0)
        return inward < 0 ? -place.distance : place.distance
      })
      const away = distances.map(Math.abs).sort((a, b) => a - b)
      // half of a part lies within a hand's breadth; only what hangs or stands up goes farther
      expect(away[Math.floor(away.length / 2)]!).toBeLessThan(FREE.has(def.id) ? 0.16 : 0.045)
      expect(away.at(-1)!).toBeLessThan(FREE.has(def.id) ? 0.42 : 0.13)
      expect(away[0]!).toBeLessThan(0.016)
      // nothing is deeper in the body than a wall of cloth that turns over at a rim
      if (def.how !== 'replaces') expect(Math.min(...distances)).toBeGreaterThan(ROOTED.has(def.id) ? -0.075 : -0.035)
    },
  )

  it('has colors that its kit knows, and a name and an id of its own', () => {
    for (const kit of kits.values()) {
      const regions = new Set(kit.manifest.colorRegions.map((c) => c.id))
      const names = kit.manifest.parts.map((p) => p.name)
      expect(new Set(names).size).toBe(names.length)
      for (const { mesh } of kit.parts.values()) for (const r of mesh.regionNames) expect(regions.has(r)).toBe(true)
      for (const { mesh } of kit.bodies.values()) for (const r of mesh.regionNames) expect(regions.has(r)).toBe(true)
    }
  })

  it('has no point that no face uses', () => {
    for (const { mesh, name } of parts) {
      const used = new Set(pointTriangles(mesh))
      expect([name, used.size]).toEqual([name, mesh.positions.length / 3])
    }
  })

  it('has its cloth seams shut: open edges only where a limb, the neck or the hem comes out', () => {
    for (const { mesh, name, def } of parts) {
      if (def.how !== 'worn' || def.clearance === 0) continue
      const triangles = pointTriangles(mesh)
      const { open } = checkEdges(triangles, mesh.positions.length / 3)
      // a stray gap shows as one or two open edges by themselves: every open edge must go on at both its ends
      const starts = new Set(open.map(([a]) => a))
      const ends = new Set(open.map(([, b]) => b))
      const loose = open.filter(([a, b]) => !ends.has(a) || !starts.has(b))
      expect([name, loose]).toEqual([name, []])
    }
  })

  it('with hands around it is held: its origin lies within it or close to it', () => {
    for (const { def, mesh, name } of parts) {
      if (def.how !== 'attached') continue
      const { min, max } = boundsOf(mesh.positions)
      const away = Math.hypot(...[0, 1, 2].map((k) => Math.max(0, min[k]!, -max[k]!)))
      expect([name, away < 0.08]).toEqual([name, true])
    }
  })
})

describe('garments on any shape', () => {
  const cloth = parts.filter(
    (p) => p.kit.manifest.id === 'saltwick-folk' && p.def.how === 'worn' && p.def.clearance > 0,
  )
  const shapes = [
    { build: 1, belly: 1, stature: -0.5 },
    { build: -1, stature: 1, legs: 1 },
    { shoulders: 1, hips: -1, bust: 1 },
  ] as Record<string, number>[]

  it.each(cloth.map((p) => [p.name, p] as const))(
    '%s goes along: as far from the skin as at rest, within two centimetres',
    (_n, part) => {
      const body = prepareBody(part.kit.bodies.get(part.def.bodies[0]!)!)
      const bound = bindPart(body, part.kit.parts.get(part.def.id)!)
      for (const sliders of shapes) {
        const { figure } = wearing(part, sliders)
        const piece = figure!.pieces.find((p) => p.id === part.def.id)!
        // the body's points are not all drawn, but they are all there
        const skin = new Surface(figure!.mesh.positions.slice(0, body.model.mesh.positions.length), body.triangles)
        for (let p = piece.points[0]; p < piece.points[1]; p++) {
          const rest = bound.distances[p - piece.points[0]]!
          if (rest > 0.025) continue
          const [x, y, z] = [0, 1, 2].map((k) => figure!.mesh.positions[p * 3 + k]!) as [number, number, number]
          expect(Math.abs(skin.nearest(x, y, z)!.distance - rest)).toBeLessThan(0.02)
        }
      }
    },
  )
})

describe('the documents of Lantern Tide', () => {
  const names = [...documents.keys()]

  it.each(names.filter((n) => n.endsWith('.recipe.json')))('%s is sound and within the near budget', (name) => {
    const { value, problems } = readRecipe(textOf(name))
    expect(problems).toEqual([])
    expect(resolveRecipe(value!, kits).problems).toEqual([])
    const { figure } = builder.build(value!, near, { reduce: true })
    expect(figure!.costs.triangles).toBeLessThanOrEqual(near.limits.triangles)
    expect(figure!.reductionError).toBeLessThan(0.02)
  })

  it('opens with Maren Quill within her budget as she stands', () => {
    const { figure, problems } = builder.build(readRecipe(textOf('maren-quill.recipe.json')).value!, near)
    expect(problems).toEqual([])
    expect(figure!.costs.triangles).toBeLessThanOrEqual(near.limits.triangles)
  })

  it.each(names.filter((n) => n.endsWith('.mix.json')))('%s makes its crowd without twins worth telling', (name) => {
    const { value, problems } = readMix(textOf(name))
    expect(problems).toEqual([])
    const crowd = selectCrowd(value!, kits)
    expect(crowd.variants).toHaveLength(value!.count)
    expect(crowd.problems.filter((p) => p.severity === 'error')).toEqual([])
    expect(crowd.twins.length).toBeLessThanOrEqual(value!.count / 20)
    const seen = new Map<string, number>()
    for (const { recipe } of crowd.variants)
      for (const { part } of recipe.parts) seen.set(part.id, (seen.get(part.id) ?? 0) + 1)
    for (const id of value!.kinds.flatMap((k) => k.atMostOnce)) expect(seen.get(id) ?? 0).toBeLessThanOrEqual(1)
  })

  it('has palettes that speak only of colors there are', () => {
    for (const { manifest } of kits.values()) {
      const regions = new Set(manifest.colorRegions.map((c) => c.id))
      for (const palette of manifest.palettes)
        for (const region of Object.keys(palette.swatches))
          expect([palette.id, regions.has(region)]).toEqual([palette.id, true])
    }
  })
})

describe('the looks of the demo kits', () => {
  const looks = [...kits.values()].flatMap(({ manifest }) =>
    (manifest.looks ?? []).map((look) => [manifest.id, look] as const),
  )

  it('are at least sixteen people, each of an archetype, no two in the same clothes', () => {
    const people = looks.filter(([kit]) => kit === 'saltwick-folk').map(([, look]) => look)
    expect(people.length).toBeGreaterThanOrEqual(16)
    for (const { id, archetypes } of people) expect([id, archetypes?.length]).toEqual([id, 2])
    expect(new Set(people.map(({ parts }) => [...parts].sort().join())).size).toBe(people.length)
  })

  it.each(looks.map(([kit, look]) => [look.name, kit, look] as const))(
    '%s is sound and within the near budget',
    (_name, kit, look) => {
      const recipe = recipeOfLook(kits, kit, look)
      // all of it is there: nothing was left out on the way
      expect(recipe.parts.map((p) => p.part.id)).toEqual(expect.arrayContaining(look.parts))
      expect(resolveRecipe(recipe, kits).problems).toEqual([])
      const { figure, problems } = builder.build(recipe, near, { reduce: true })
      expect(problems).toEqual([])
      expect(figure!.costs.triangles).toBeLessThanOrEqual(near.limits.triangles)
      expect(figure!.reductionError).toBeLessThan(0.02)
    },
  )
})

import { encode as encodePng, decode as decodePng } from 'fast-png'
import { Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { Builder } from './build.ts'
import { reducerReady } from './budget/reduceMesh.ts'
import { prepareBody } from './body/PreparedBody.ts'
import { fitClip } from './motion/fitClip.ts'
import { checkLibrary, partsFor, slotsFor } from './kit/library.ts'
import type { Kit } from './kit/Kit.ts'
import { readKit } from './kit/readKit.ts'
import { pointTriangles } from './mesh/Mesh.ts'
import { Surface } from './mesh/Surface.ts'
import { newRecipe, referenceTo } from './recipe/defaults.ts'
import { addPart, placePart, setPart } from './recipe/edits.ts'
import { resolveRecipe } from './recipe/resolve.ts'
import type { Recipe } from './recipe/schema.ts'
import { shuffleAll } from './recipe/shuffle.ts'
import { newTarget } from './recipe/target.ts'
import { openFigure } from './ship/openFigure.ts'
import { shipFigure } from './ship/shipFigure.ts'
import { ShippedFile } from './ship/ShippedFile.ts'
import { meadowKit, trappingsKit } from './testing/meadowKit.ts'
import { glbFaults } from './testing/glbFaults.ts'

/*
 * A body that has nothing of the demo's: four legs, a tail, other names. It goes the whole way, and
 * with it parts of a kit that has no body.
 */

/** Left half red, right half blue. */
const weave = new Uint8Array(
  encodePng({
    width: 32,
    height: 32,
    channels: 4,
    depth: 8,
    data: Uint8Array.from({ length: 32 * 32 * 4 }, (_, i) => {
      const left = Math.floor(i / 4) % 32 < 16
      return [left ? 200 : 0, 0, left ? 0 : 200, 255][i % 4]!
    }),
  }),
)

const kits = new Map<string, Kit>()
beforeAll(async () => {
  await reducerReady
  for (const files of [await meadowKit(), await trappingsKit(weave)]) {
    const { value, problems } = await readKit(files)
    // a horn's material is no color region: that is only a warning
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    kits.set(value!.manifest.id, value!)
  }
})

const goat = () => ({ kit: 'meadow', id: 'goat' })
const bare = (sliders: Recipe['sliders'] = {}): Recipe => ({
  ...newRecipe(kits.get('meadow')!, 'goat', 'Nan'),
  sliders,
})
const ref = (kit: string, id: string) => referenceTo(kits, { kit, id })
const target = {
  ...newTarget('meadow', 'Meadow'),
  detail: 'near' as const,
  lods: [{ triangles: 250 }],
  keepSliders: ['height'],
}
const build = (recipe: Recipe, options = {}) => {
  const { figure, problems } = new Builder(kits).build(recipe, target, options)
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  return figure!
}

describe('a four-legged body with a tail', () => {
  it('is read with its own plan: bones, legs and tail', () => {
    const { bones, limbs } = kits.get('meadow')!.bodies.get('goat')!
    expect(bones).toHaveLength(20)
    expect(limbs.map((l) => l.kind)).toEqual(['leg', 'leg', 'leg', 'leg', 'tail'])
  })

  it('is shaped: taller legs bring every joint of the trunk up, hooves stay on the ground', () => {
    const [rest, tall] = [build(bare()), build(bare({ height: 1 }))]
    const at = (f: typeof rest, name: string) => f.skeleton.bones.find((b) => b.name === name)!.at
    expect(at(tall, 'skull')[1] - at(rest, 'skull')[1]).toBeCloseTo(0.12, 2)
    expect(at(tall, 'portForeHoof')[1] - at(rest, 'portForeHoof')[1]).toBeLessThan(0.03)
    for (const { mesh } of [rest, tall]) {
      const heights = [...new Set(mesh.cornerPoints)].map((p) => mesh.positions[p * 3 + 1]!)
      expect(Math.min(...heights)).toBeCloseTo(0, 5)
    }
  })

  it('is dressed: the blanket goes with the barrel, clear of it, fat or lean', () => {
    for (const girth of [0, 0.5, 1]) {
      const { mesh, pieces } = build(setPart(bare({ girth }), 'saddle', ref('meadow', 'blanket')))
      const body = prepareBody(kits.get('meadow')!.bodies.get('goat')!)
      const skin = new Surface(mesh.positions.slice(0, body.model.mesh.positions.length), body.triangles)
      const blanket = pieces.find((p) => p.id === 'blanket')!
      for (let p = blanket.points[0]; p < blanket.points[1]; p++) {
        const { distance } = skin.nearest(
          mesh.positions[p * 3]!,
          mesh.positions[p * 3 + 1]!,
          mesh.positions[p * 3 + 2]!,
        )!
        expect(distance).toBeGreaterThan(0.005)
        // it was made 25 to 35 mm off, and its chords cut across the barrel's corners
        expect(distance).toBeLessThan(0.06)
      }
      // what lies under it all round is not drawn
      expect(pieces[0]!.triangles[1]).toBeLessThan(body.triangles.length / 3)
    }
  })

  it('is rigged at every detail, its tail folding from the tip', () => {
    const bones = (detail: 'near' | 'standard' | 'crowd') =>
      new Builder(kits).build(bare(), { ...target, detail }).figure!.skeleton.bones.map((b) => b.name)
    expect(bones('near')).toHaveLength(20)
    expect(bones('standard')).not.toContain('brush3')
    expect(bones('crowd')).not.toContain('brush2')
    expect(bones('crowd')).toContain('brush1')
  })

  it('is shuffled from what its kits hold', () => {
    const seen = new Set<string>()
    for (let seed = 0; seed < 40; seed++)
      for (const { part } of shuffleAll(bare(), kits, seed).parts) seen.add(`${part.kit}/${part.id}`)
    expect([...seen].sort()).toEqual(['meadow/blanket', 'meadow/horn', 'trappings/bell', 'trappings/rug'])
  })

  it('is reduced and shipped: the validator and our own check find nothing, and it opens again', async () => {
    const recipe = setPart(bare({ girth: 0.4 }), 'saddle', ref('meadow', 'blanket'))
    const half = { ...target, limits: { ...target.limits, triangles: 400 } }
    const { bytes, problems, check } = await shipFigure(new Builder(kits), kits, recipe, half, { lods: true })
    expect(problems).toEqual([])
    expect(check!.facts).toMatchObject({ bones: 20, levels: 2, clips: ['Trot', 'slider tall'] })
    expect(check!.facts!.triangles).toBeLessThanOrEqual(400)
    expect(await glbFaults(bytes!)).toEqual([])
    expect((await openFigure(bytes!, kits)).value).toEqual(recipe)
  })

  it('trots on the ground: four hooves that neither sink nor slide, two and two', async () => {
    for (const sliders of [{}, { height: 1 }, { height: -1, girth: 1 }] as Recipe['sliders'][]) {
      const { bytes } = await shipFigure(new Builder(kits), kits, bare(sliders), target, { lods: false })
      const file = new ShippedFile(bytes!)
      const first = file.drawn()[0]!
      const clip = file.clips().find((c) => c.name === 'Trot')!
      const world = file.at().world
      const joint = (name: string) =>
        new Vector3().setFromMatrixPosition(world[file.nodes.findIndex((n) => n.name === name)]!)
      const leg = joint('portHam').distanceTo(joint('portHock')) + joint('portHock').distanceTo(joint('portHindHoof'))
      const FRAMES = 96
      const frames = Array.from({ length: FRAMES + 1 }, (_, i) =>
        file.posed(first, file.at({ clip, time: (clip.duration * i) / FRAMES })),
      )
      const hooves = ['portHindHoof', 'starHindHoof', 'portForeHoof', 'starForeHoof'].map((name) => {
        const place = file.jointsOf(first.skin!).findIndex((j) => file.nodes[j]!.name === name)
        return [...Array(first.positions.length / 3).keys()].filter(
          (v) => first.joints![v * 4] === place && first.weights![v * 4]! > 0.9,
        )
      })
      expect(
        Math.min(...frames.map((p) => p.reduce((m, v, i) => (i % 3 === 1 ? Math.min(m, v) : m), 0))),
      ).toBeGreaterThan(-0.005)
      const stands = hooves.map((own) => frames.map((p) => own.some((v) => p[v * 3 + 1]! < 0.005)))
      hooves.forEach((own, h) => {
        expect(own.length).toBeGreaterThan(4)
        let slide = 0
        for (let n = 0; n < FRAMES; n++) {
          const touching = own.filter((v) => frames[n]![v * 3 + 1]! < 0.005 && frames[n + 1]![v * 3 + 1]! < 0.005)
          if (!touching.length) continue
          const mean = (k: number) =>
            touching.reduce((s, v) => s + frames[n + 1]![v * 3 + k]! - frames[n]![v * 3 + k]!, 0) / touching.length
          slide += Math.hypot(mean(0), mean(2) + leg / FRAMES)
        }
        expect(slide).toBeLessThan(0.02)
        // each stands about as long as the clip says, and hangs in the air for the rest
        const share = stands[h]!.filter(Boolean).length / stands[h]!.length
        expect(share).toBeGreaterThan(0.4)
        expect(share).toBeLessThan(0.72)
      })
      // diagonal pairs go together: hind left with fore right
      const together = (a: number, b: number) =>
        stands[a]!.filter((on, i) => on === stands[b]![i]).length / stands[a]!.length
      expect(together(0, 3)).toBeGreaterThan(0.9)
      expect(together(0, 1)).toBeLessThan(0.5)
    }
  })
})

describe('a kit of parts alone', () => {
  it('is read, and fits the body of the other kit once that is here', () => {
    expect(checkLibrary(kits)).toEqual([])
    expect(checkLibrary(new Map([['trappings', kits.get('trappings')!]])).map((p) => [p.code, p.severity])).toEqual([
      ['body-not-here', 'info'],
      ['body-not-here', 'info'],
    ])
    expect(slotsFor(kits, goat()).map((s) => s.id)).toEqual(['saddle', 'horns', 'neck'])
    expect(partsFor(kits, goat(), 'saddle').map((p) => `${p.kit}/${p.def.id}`)).toEqual([
      'meadow/blanket',
      'trappings/rug',
    ])
  })

  it('has its faults on that body told: a slot or socket that is not there', async () => {
    const files = await trappingsKit(weave)
    const text = new TextDecoder().decode(files.get('kit.json'))
    const odd = text.replace('"slot":"neck"', '"slot":"wings"').replace('"socket":"throat"', '"socket":"elbow"')
    const { value } = await readKit(new Map([...files, ['kit.json', new TextEncoder().encode(odd)]]))
    const both = new Map([
      ['meadow', kits.get('meadow')!],
      ['trappings', value!],
    ])
    expect(checkLibrary(both).map((p) => p.code)).toEqual(['slot-unknown', 'socket-unknown'])
    const worn = addPart(bare(), 'wings', referenceTo(both, { kit: 'trappings', id: 'bell' }))
    const resolved = resolveRecipe(worn, both)
    expect(resolved.value!.parts).toEqual([])
    expect(resolved.problems.map((p) => p.code)).toContain('slot-unknown')
  })

  it('brings a bone that joins the skeleton, once for every bell', () => {
    const one = addPart(bare({ height: 1 }), 'neck', ref('trappings', 'bell'))
    const two = addPart(one, 'neck', ref('trappings', 'bell'), { place: { turn: [0, 90, 0] } })
    const { skeleton, mesh, pieces } = build(two)
    const names = skeleton.bones.map((b) => b.name)
    expect(names.slice(20)).toEqual(['clapper', 'neck-2-clapper'])
    const own = skeleton.bones[20]!
    expect(skeleton.bones[own.parent]!.name).toBe('nape')
    const throat = kits.get('meadow')!.bodies.get('goat')!.def.sockets[0]!.at
    expect(own.at[1]).toBeCloseTo(throat[1] + 0.12 - 0.03, 2)
    pieces
      .filter((p) => p.id === 'bell')
      .forEach(({ points }, i) => {
        const bones = new Set<number>()
        for (let p = points[0]; p < points[1]; p++)
          for (let k = 0; k < 4; k++) if (mesh.weights[p * 4 + k]! > 0) bones.add(mesh.joints[p * 4 + k]!)
        expect([...bones].map((b) => names[b]).sort()).toEqual(
          i === 0 ? ['clapper', 'nape'] : ['nape', 'neck-2-clapper'],
        )
      })
  })
})

describe('a part whose bones make a chain', () => {
  /** The bell of the other kit, its clapper a stalk that clips swing. */
  const ringing = async (change: (bell: Record<string, unknown>) => void = () => undefined) => {
    const files = await trappingsKit(weave)
    const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as {
      parts: (Record<string, unknown> & { id: string })[]
    }
    const bell = manifest.parts.find((p) => p.id === 'bell')!
    bell.limbs = [{ id: 'swing', kind: 'stalk', bones: ['clapper'], channels: ['swing'] }]
    change(bell)
    return readKit(new Map([...files, ['kit.json', new TextEncoder().encode(JSON.stringify(manifest))]]))
  }

  it('is swung by clips, each instance by its own, and hangs from what hands have put it on', async () => {
    const both = new Map([
      ['meadow', kits.get('meadow')!],
      ['trappings', (await ringing()).value!],
    ])
    const bell = referenceTo(both, { kit: 'trappings', id: 'bell' })
    const made = (recipe: Recipe) => new Builder(both).build(recipe, target).figure!
    const hung = (f: ReturnType<typeof made>, name: string) => {
      const bone = f.skeleton.bones.find((b) => b.name === name)!
      return f.skeleton.bones[bone.parent]!.name
    }
    const two = made(addPart(addPart(bare(), 'neck', bell), 'neck', bell, { place: { turn: [0, 90, 0] } }))
    expect(two.skeleton.limbs.filter((l) => l.kind === 'stalk').map((l) => [l.id, l.bones])).toEqual([
      ['neck-swing', ['clapper']],
      ['neck-2-swing', ['neck-2-clapper']],
    ])
    expect(hung(two, 'clapper')).toBe('nape')
    const clip = {
      ...kits.get('meadow')!.manifest.clips[0]!,
      curves: { 'swing.pitch': [[0, 30]] as [number, number][] },
    }
    const fitted = fitClip(clip, two.skeleton)
    for (const name of ['clapper', 'neck-2-clapper']) {
      const turns = fitted.rotations[two.skeleton.bones.findIndex((b) => b.name === name)]!
      expect(turns[0]).toBeCloseTo(Math.sin(Math.PI / 12), 5)
    }
    // on the croup, far from the nape that the kit names
    const { mesh } = kits.get('meadow')!.bodies.get('goat')!
    const triangles = pointTriangles(mesh)
    const hind = [...Array(triangles.length / 3).keys()].find((t) =>
      [0, 1, 2].every(
        (k) => mesh.joints[triangles[t * 3 + k]! * 4] === 0 && mesh.weights[triangles[t * 3 + k]! * 4]! > 0.9,
      ),
    )!
    const spot = { triangle: hind, shares: [1 / 3, 1 / 3, 1 / 3] as [number, number, number] }
    expect(hung(made(addPart(bare(), 'neck', bell, { place: { at: spot } })), 'clapper')).toBe('croup')
  })

  it('hangs from its socket’s bone on a body that has none of the name', async () => {
    const { value } = await ringing((bell) => {
      ;(bell.bones as { parent: string }[])[0]!.parent = 'collarbone'
    })
    const both = new Map([
      ['meadow', kits.get('meadow')!],
      ['trappings', value!],
    ])
    const recipe = addPart(bare(), 'neck', referenceTo(both, { kit: 'trappings', id: 'bell' }))
    const { bones } = new Builder(both).build(recipe, target).figure!.skeleton
    expect(bones[bones.find((b) => b.name === 'clapper')!.parent]!.name).toBe('nape')
  })

  it('has its faults told: a bone it does not bring, a leg, channels that do not fit', async () => {
    const told = async (limb: object) =>
      (
        await ringing(
          (bell) => (bell.limbs = [{ id: 'x', kind: 'stalk', bones: ['clapper'], channels: ['x'], ...limb }]),
        )
      ).problems
        .filter((p) => p.where.includes('limbs'))
        .map((p) => p.code)
    expect(await told({})).toEqual([])
    expect(await told({ bones: ['nape'] })).toEqual(['bone-unknown'])
    expect(await told({ kind: 'leg' })).toEqual(['limb-kind'])
    expect(await told({ channels: ['a', 'b'] })).toEqual(['limb-channels'])
  })
})

describe('several parts in one slot, placed on the surface', () => {
  /** A triangle on the skull that looks up and to the left. */
  const spot = (side: 1 | -1) => {
    const { mesh, triangles } = (() => {
      const model = kits.get('meadow')!.bodies.get('goat')!
      return { mesh: model.mesh, triangles: pointTriangles(model.mesh) }
    })()
    let best = { score: -Infinity, triangle: 0 }
    for (let t = 0; t < triangles.length / 3; t++) {
      const corners = [0, 1, 2].map((k) => new Vector3().fromArray(mesh.positions, triangles[t * 3 + k]! * 3))
      const middle = corners[0]!.clone().add(corners[1]!).add(corners[2]!).divideScalar(3)
      const score = -middle.distanceTo(new Vector3(side * 0.06, 0.95, 0.56))
      if (score > best.score) best = { score, triangle: t }
    }
    return { triangle: best.triangle, shares: [1 / 3, 1 / 3, 1 / 3] as [number, number, number] }
  }

  it('stand out along the normal, follow the sliders, and may be scaled and mirrored', () => {
    let recipe = bare({ height: 0.5 })
    for (const side of [1, -1] as const)
      recipe = addPart(recipe, 'horns', ref('meadow', 'horn'), { place: { at: spot(side), mirrored: side < 0 } })
    recipe = addPart(recipe, 'horns', ref('meadow', 'horn'), { place: { at: spot(1), scale: 2 } })
    expect(recipe.parts.map((p) => p.id)).toEqual(['horns', 'horns-2', 'horns-3'])
    const { mesh, pieces } = build(recipe)
    const horns = pieces.filter((p) => p.id === 'horn')
    expect(horns.map((p) => p.instance)).toEqual(['horns', 'horns-2', 'horns-3'])
    const body = prepareBody(kits.get('meadow')!.bodies.get('goat')!)
    const skin = new Surface(mesh.positions.slice(0, body.model.mesh.positions.length), body.triangles)
    const lengths = horns.map(({ points }) => {
      const heights = Array.from({ length: points[1] - points[0] }, (_, i) => {
        const p = (points[0] + i) * 3
        return skin.nearest(mesh.positions[p]!, mesh.positions[p + 1]!, mesh.positions[p + 2]!)!.distance
      })
      return Math.max(...heights)
    })
    expect(lengths[0]!).toBeGreaterThan(0.07)
    expect(lengths[0]!).toBeLessThan(0.12)
    expect(lengths[1]!).toBeCloseTo(lengths[0]!, 2)
    expect(lengths[2]!).toBeGreaterThan(lengths[0]! * 1.6)
    // left and right, as far as the head's triangles are (its quads are all cut one way), wound outward both
    const middle = (i: number) => {
      const { points } = horns[i]!
      const sum = new Vector3()
      for (let p = points[0]; p < points[1]; p++) sum.add(new Vector3().fromArray(mesh.positions, p * 3))
      return sum.divideScalar(points[1] - points[0])
    }
    expect(middle(0).x).toBeGreaterThan(0.03)
    expect(middle(1).x).toBeLessThan(-0.03)
    expect(Math.abs(middle(0).y - middle(1).y)).toBeLessThan(0.06)
    const triangles = pointTriangles(mesh)
    for (const { triangles: run } of horns) {
      let volume = 0
      for (let t = run[0]; t < run[1]; t++) {
        const [a, b, c] = [0, 1, 2].map((k) => new Vector3().fromArray(mesh.positions, triangles[t * 3 + k]! * 3))
        volume += a!.dot(b!.clone().cross(c!))
      }
      expect(volume).toBeGreaterThan(0)
    }
  })

  it('are told what cannot be: a fifth horn, a place for what is worn, a spot that is not there', () => {
    let recipe = bare()
    for (let i = 0; i < 5; i++) recipe = addPart(recipe, 'horns', ref('meadow', 'horn'), { place: { at: spot(1) } })
    expect(resolveRecipe(recipe, kits).problems.map((p) => [p.code, p.where])).toEqual([
      ['slot-full', 'recipe/parts/horns-5'],
    ])
    const worn = placePart(setPart(bare(), 'saddle', ref('meadow', 'blanket')), 'saddle', { at: spot(1) })
    expect(resolveRecipe(worn, kits).problems.map((p) => p.code)).toEqual(['place-unused'])
    const lost = addPart(bare(), 'horns', ref('meadow', 'horn'), {
      place: { at: { triangle: 99_999, shares: [1, 0, 0] } },
    })
    expect(resolveRecipe(lost, kits).problems.map((p) => p.code)).toEqual(['spot-unknown'])
    const nowhere = addPart(bare(), 'horns', ref('meadow', 'horn'), { place: { at: { socket: 'elbow' } } })
    expect(resolveRecipe(nowhere, kits).problems.map((p) => p.code)).toEqual(['socket-unknown'])
  })
})

describe('a painted part', () => {
  /** The color a corner of the rug looks at. */
  const colorsOf = (recipe: Recipe, options = {}) => {
    const { mesh, atlas, pieces } = build(recipe, options)
    const rug = pieces.find((p) => p.id === 'rug')!
    return Array.from({ length: rug.corners[1] - rug.corners[0] }, (_, i) => {
      const c = rug.corners[0] + i
      const [u, v] = [mesh.uvs[c * 2]!, mesh.uvs[c * 2 + 1]!]
      const x = Math.min(atlas.size - 1, Math.floor(u * atlas.size))
      const y = Math.min(atlas.size - 1, Math.floor(v * atlas.size))
      return {
        x: mesh.positions[mesh.cornerPoints[c]! * 3]!,
        rgb: [...atlas.pixels.subarray((y * atlas.size + x) * 4, (y * atlas.size + x) * 4 + 3)],
      }
    })
  }
  const rugged = () => setPart(bare(), 'saddle', ref('trappings', 'rug'))

  it('shows its picture in the one atlas, whole and reduced; flat colors keep their cells', () => {
    for (const options of [{}, { reduce: true }]) {
      const colors = colorsOf(rugged(), options)
      for (const { x, rgb } of colors) {
        // the picture is red on its left, which lies at the goat's right
        if (x < -0.06) expect(rgb[0]!).toBeGreaterThan(rgb[2]! + 100)
        if (x > 0.06) expect(rgb[2]!).toBeGreaterThan(rgb[0]! + 100)
      }
      expect(colors.some((c) => c.x < -0.06) && colors.some((c) => c.x > 0.06)).toBe(true)
    }
    const { atlas, mesh } = build(rugged())
    expect(atlas.painted).toBe(true)
    const pelt = mesh.regions.findIndex((r) => mesh.regionNames[r] === 'pelt')
    const o =
      (Math.floor(mesh.uvs[pelt * 2 + 1]! * atlas.size) * atlas.size + Math.floor(mesh.uvs[pelt * 2]! * atlas.size)) * 4
    expect([...atlas.pixels.subarray(o, o + 3)]).toEqual([0xb7, 0xa5, 0x8a])
  })

  it('is tinted by the recipe, and ships with its picture', async () => {
    const dyed = { ...rugged(), colors: { weave: '#ff0000' } }
    for (const { x, rgb } of colorsOf(dyed)) if (x > 0.06) expect(rgb).toEqual([0, 0, 0])
    const small = { ...target, limits: { ...target.limits, triangles: 350 } }
    const { bytes, problems } = await shipFigure(new Builder(kits), kits, rugged(), small, { lods: false })
    expect(problems).toEqual([])
    expect(await glbFaults(bytes!)).toEqual([])
    const { data, width } = decodePng(new ShippedFile(bytes!).images()[0]!)
    const reds = Array.from({ length: width * width }, (_, i) => data[i * 4]! > 190 && data[i * 4 + 2]! === 0)
    expect(reds.filter(Boolean).length).toBeGreaterThan(200)
  })
})

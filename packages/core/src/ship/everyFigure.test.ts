import { readdirSync, readFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { Vector3, type AnimationClip, type Object3D, type SkinnedMesh } from 'three'
import { BVHLoader } from 'three/addons/loaders/BVHLoader.js'
import { ColladaLoader } from 'three/addons/loaders/ColladaLoader.js'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { readMix } from '../crowd/mix.ts'
import { selectCrowd } from '../crowd/selectCrowd.ts'
import { readMotion } from '../motion/foreign/readMotion.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { demoKit, KITS_FOLDER, TARGETS } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { farthest, importFiles, loadGltf, play, posed, take, useLoaders } from '../testing/loaders.ts'
import { oneIn } from '../testing/thorough.ts'
import { ShippedFile, type ShippedClip } from './ShippedFile.ts'
import { shipFormats, type ShipFormat } from './shipFormats.ts'

/*
 * What every demo figure and sixty variants of the demo crowds come to in every format: no fault that the validator
 * finds, and three readers that share nothing agree on it. All of them in a long run; usually some.
 */

useLoaders()
const kits = new Map([await demoKit('saltwick-folk'), await demoKit('tide-creatures')].map((k) => [k.manifest.id, k]))
const builder = new Builder(kits)
const scenario = join(dirname(KITS_FOLDER), 'kits/lantern-tide')
const textOf = (name: string) => readFileSync(join(scenario, name), 'utf8')
const named = (ending: string) => readdirSync(scenario).filter((name) => name.endsWith(ending))
const [near, , crowd] = TARGETS as [Target, Target, Target]
const bare = { lods: [], license: { authors: ['Ada Lantern'] } }

const figures = named('.recipe.json').map((name): [string, Recipe, Target] => {
  const { value } = readRecipe(textOf(name))
  return [value!.name, value!, { ...near, ...bare, keepExpressions: ['blink-left', 'glad'] }]
})
const variants = named('.mix.json').flatMap((name) => {
  const mix = { ...readMix(textOf(name)).value!, count: 20 }
  return selectCrowd(mix, kits).variants.map(({ recipe }): [string, Recipe, Target] => [
    recipe.name,
    recipe,
    { ...crowd, ...bare },
  ])
})

/** Lengths that two readers may differ by, metres: the millimetre for what is posed, a tenth for what lies still. */
const SAME = 1e-3
const STILL = 1e-4
const MOMENTS = 10

/** The lowest and highest x, y and z of some places. */
function boundsOf(at: ArrayLike<number>): number[] {
  const out = [Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity]
  for (let i = 0; i < at.length; i++) {
    out[i % 3] = Math.min(out[i % 3]!, at[i]!)
    out[3 + (i % 3)] = Math.max(out[3 + (i % 3)]!, at[i]!)
  }
  return out
}

function expectBounds(found: ArrayLike<number>, wanted: readonly number[], who: string): void {
  for (const [i, v] of boundsOf(found).entries())
    expect(Math.abs(v - wanted[i]!), `${who}: bound ${i}`).toBeLessThan(STILL)
}

const clipsIn = (clips: readonly { name: string; duration: number }[]) =>
  clips.map(({ name, duration }): [string, number] => [name, Math.round(duration * 100) / 100])

function skinnedIn(scene: Object3D): SkinnedMesh {
  let found: SkinnedMesh | null = null
  scene.traverse((o) => (found ??= (o as SkinnedMesh).isSkinnedMesh ? (o as SkinnedMesh) : null))
  return found!
}

const trianglesIn = ({ geometry }: Pick<SkinnedMesh, 'geometry'>) =>
  (geometry.index ?? geometry.getAttribute('position')).count / 3

/** The places of a mesh's vertices, however they lie in it. */
function placesIn({ geometry }: Pick<SkinnedMesh, 'geometry'>): number[] {
  const at = geometry.getAttribute('position')
  return Array.from({ length: at.count * 3 }, (_, i) => at.getComponent(Math.floor(i / 3), i % 3))
}

/** The joints of a mesh that carry any of it. */
function carrying(joints: ArrayLike<number>, weights: ArrayLike<number>): Set<number> {
  const held = new Set<number>()
  for (let i = 0; i < weights.length; i++) if (weights[i]! > 0) held.add(joints[i]!)
  return held
}

/** Every tenth of each clip. */
function* momentsOf(clips: readonly ShippedClip[]): Generator<{ clip: ShippedClip; time: number }> {
  for (const clip of clips) for (let i = 0; i < MOMENTS; i++) yield { clip, time: (clip.duration * i) / MOMENTS }
}

describe.each([...oneIn(12, figures), ...oneIn(60, variants)])('%s', (_, recipe, target) => {
  const shipped = async (format: ShipFormat, asked = target) => {
    const [made] = await shipFormats(builder, kits, recipe, asked, [format], { lods: false, stem: 'it' })
    return { files: made!.files, faults: made!.problems.filter((p) => p.severity === 'error').map((p) => p.code) }
  }
  const ours = async (asked = target) => new ShippedFile((await shipped('glb', asked)).files!.get('it.glb')!)

  it('is in GLB and glTF what three readers find in it', async () => {
    const glb = (await shipped('glb')).files!.get('it.glb')!
    const file = new ShippedFile(glb)
    const [drawn] = file.drawn()
    expect(await glbFaults(glb)).toEqual([])
    const split = (await shipped('gltf')).files!
    expect(await glbFaults(split.get('it.gltf')!, { beside: split })).toEqual([])
    const bounds = boundsOf(drawn!.positions)
    const names = (file.json as { meshes?: { extras?: { targetNames?: string[] } }[] }).meshes![0]!.extras?.targetNames

    for (const loaded of [await loadGltf(glb), await loadGltf(split.get('it.gltf')!, split)]) {
      const mesh = skinnedIn(loaded.scene)
      expect(trianglesIn(mesh)).toBe(drawn!.triangles.length / 3)
      expect(mesh.skeleton.bones).toHaveLength(file.jointsOf(drawn!.skin!).length)
      expect(Object.keys(mesh.morphTargetDictionary ?? {})).toEqual(names ?? [])
      expect(clipsIn(loaded.animations)).toEqual(clipsIn(file.clips()))
      expectBounds(placesIn(mesh), bounds, 'three.js')
      for (const { clip, time } of momentsOf(file.clips())) {
        play(
          loaded.scene,
          loaded.animations.find((a) => a.name === clip.name)!,
          time,
        )
        const [here, there] = [posed(loaded.scene), file.posed(drawn!, file.at({ clip, time }))]
        expect(here).toHaveLength(there.length)
        const off = here.reduce((most, v, i) => Math.max(most, Math.abs(v - there[i]!)), 0)
        expect(off, `${clip.name} ${time}`).toBeLessThan(SAME)
      }
    }
    for (const [files, first] of [
      [new Map([['it.glb', glb]]), 'it.glb'],
      [split, 'it.gltf'],
    ] as const) {
      const { meshes, animations = [] } = await importFiles(files, first)
      expect(meshes.map((m) => m.faces.length)).toEqual([drawn!.triangles.length / 3])
      // it makes numbers of its own of weights that are bytes: only which bones there are is compared
      const bones = file.jointsOf(drawn!.skin!).map((j) => file.nodes[j]!.name)
      expect(meshes[0]!.bones!.map((b) => b.name).sort()).toEqual(bones.sort())
      expect(animations.map((a) => a.name)).toEqual(file.clips().map((c) => c.name))
      expectBounds(meshes[0]!.vertices, bounds, 'a third')
    }
  })

  it('is in OBJ what three readers find in it', async () => {
    const { files, faults } = await shipped('obj')
    expect(faults).toEqual([])
    const drawn = (await ours()).drawn()[0]!
    const bounds = boundsOf(drawn.positions)
    const group = new OBJLoader().parse(new TextDecoder().decode(files!.get('it.obj')))
    const meshes: SkinnedMesh[] = []
    group.traverse((o) => (o as SkinnedMesh).isMesh && meshes.push(o as SkinnedMesh))
    expect(meshes.reduce((n, m) => n + trianglesIn(m), 0)).toBe(drawn.triangles.length / 3)
    expectBounds(meshes.flatMap(placesIn), bounds, 'three.js')
    const third = await importFiles(files!, 'it.obj')
    expect(third.meshes.reduce((n, m) => n + m.faces.length, 0)).toBe(drawn.triangles.length / 3)
    expectBounds(
      third.meshes.flatMap((m) => m.vertices),
      bounds,
      'a third',
    )
  })

  it('is in COLLADA what three readers find in it, vertex by vertex as it moves', async () => {
    // three.js reads no morphs of COLLADA
    const still: Target = { ...target, keepExpressions: [], keepSliders: [] }
    const { files, faults } = await shipped('dae', still)
    expect(faults).toEqual([])
    const file = await ours(still)
    const drawn = file.drawn()[0]!
    const whole = new TextDecoder().decode(files!.get('it.dae'))
    const { scene } = new ColladaLoader().parse(whole, '') as unknown as { scene: Object3D }
    const mesh = skinnedIn(scene)
    expect(trianglesIn(mesh)).toBe(drawn.triangles.length / 3)
    const held = carrying(drawn.joints!, drawn.weights!)
    const attribute = (name: string) => mesh.geometry.getAttribute(name).array
    expect(carrying(attribute('skinIndex'), attribute('skinWeight')).size).toBe(held.size)
    expectBounds(posed(scene), boundsOf(file.posed(drawn, file.at())), 'three.js')
    const third = await importFiles(new Map([['it.dae', files!.get('it.dae')!]]), 'it.dae')
    expect(third.meshes.map((m) => m.faces.length)).toEqual([drawn.triangles.length / 3])
    expect(third.meshes[0]!.bones!.filter((b) => b.weights.some(([, w]) => w > 0))).toHaveLength(held.size)
    const moved = [...files!.keys()].filter((name) => !['it.dae', 'it.png'].includes(name))
    expect(moved).toHaveLength(file.clips().length)
    for (const [c, clip] of file.clips().entries()) {
      const name = moved[c]!
      const moving = new ColladaLoader().parse(new TextDecoder().decode(files!.get(name)), '') as unknown as {
        scene: Object3D
        animations?: AnimationClip[]
      }
      const animation = moving.scene.animations[0] ?? moving.animations![0]!
      const { animations } = await importFiles(new Map([[name, files!.get(name)!]]), name)
      const [{ duration, tickspersecond }] = animations as [NonNullable<typeof animations>[0]]
      expect(duration / (tickspersecond || 1)).toBeCloseTo(clip.duration, 2)
      for (const { time } of momentsOf([clip])) {
        play(moving.scene, animation, time)
        take(scene, moving.scene)
        const there = file.posed(drawn, file.at({ clip, time }))
        expect(farthest(posed(scene), there), `${clip.name} ${time}`).toBeLessThan(SAME)
      }
    }
  })

  it('is in BVH what three readers find in it, joint by joint as it moves', async () => {
    const { files, faults } = await shipped('bvh')
    const file = await ours()
    if (file.clips().length === 0) return expect(faults).toEqual(['bvh-still'])
    expect(faults).toEqual([])
    expect(files!.size).toBe(file.clips().length)
    for (const [c, clip] of file.clips().entries()) {
      const name = [...files!.keys()][c]!
      const bytes = files!.get(name)!
      const { skeleton, clip: own } = new BVHLoader().parse(new TextDecoder().decode(bytes))
      const joints = skeleton.bones.filter((b) => b.name !== 'ENDSITE')
      const { value, problems } = await readMotion(bytes, name)
      expect(problems).toEqual([])
      // ends of bones are joints to the one and none to the other
      const ours = value![0]!.joints.map((j) => j.name).filter((n) => !n.endsWith(' end'))
      expect(ours).toEqual(joints.map((b) => b.name))
      const { animations } = await importFiles(new Map([[name, bytes]]), name)
      expect(animations![0]!.duration / (animations![0]!.tickspersecond || 1)).toBeCloseTo(clip.duration, 1)
      for (const { time } of momentsOf([clip])) {
        play(skeleton.bones[0]!, own, time)
        skeleton.bones[0]!.updateMatrixWorld(true)
        const { world } = file.at({ clip, time })
        const places = new Map(file.nodes.map((n, i) => [n.name, new Vector3().setFromMatrixPosition(world[i]!)]))
        for (const bone of joints) {
          const at = new Vector3().setFromMatrixPosition(bone.matrixWorld)
          expect(at.distanceTo(places.get(bone.name)!), `${clip.name} ${time} ${bone.name}`).toBeLessThan(SAME)
        }
      }
    }
  })

  it('is in VRM what three readers find in it, where it has a human’s bones', async () => {
    const full: Target = { ...target, detail: 'full', limits: { ...target.limits, bones: 200 } }
    const { files, faults } = await shipped('vrm', full)
    // an ottern stands on two legs, and has what the standard asks for
    if (!['human', 'ottern'].includes(recipe.body.id)) return expect(faults).toContain('vrm-humanoid')
    expect(faults).toEqual([])
    const bytes = files!.get('it.vrm')!
    expect(await glbFaults(bytes)).toEqual([])
    const file = new ShippedFile(bytes)
    const drawn = file.drawn()[0]!
    const loaded = await loadGltf(bytes)
    expect(trianglesIn(skinnedIn(loaded.scene))).toBe(drawn.triangles.length / 3)
    expect((loaded.userData as { vrm?: { meta: { name: string } } }).vrm!.meta.name).toBe(recipe.name)
    const { meshes } = await importFiles(new Map([['it.glb', bytes]]), 'it.glb')
    expect(meshes.map((m) => m.faces.length)).toEqual([drawn.triangles.length / 3])
    for (const at of [placesIn(skinnedIn(loaded.scene)), meshes[0]!.vertices])
      expectBounds(at, boundsOf(drawn.positions), 'another')
    expect(drawn.triangles.length / 3).toBeLessThanOrEqual(target.limits.triangles)
  })
})

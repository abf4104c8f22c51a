import { DOMParser } from '@xmldom/xmldom'
import type { VRM } from '@pixiv/three-vrm'
import { Matrix4, Mesh, Vector3, type AnimationClip, type Object3D } from 'three'
import { BVHLoader } from 'three/addons/loaders/BVHLoader.js'
import { ColladaLoader } from 'three/addons/loaders/ColladaLoader.js'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { readMotion } from '../motion/foreign/readMotion.ts'
import type { Convention, Target } from '../recipe/target.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import {
  farthest,
  importFiles,
  loadGltf,
  pictures,
  play,
  posed,
  take,
  useLoaders,
  type Imported,
} from '../testing/loaders.ts'
import { conventionAxes } from './conventionAxes.ts'
import { openFigure } from './openFigure.ts'
import { ShippedFile } from './ShippedFile.ts'
import { shipFormats, type ShipFormat } from './shipFormats.ts'

/* What ships is read again by libraries that share nothing with what wrote it: those of three.js, and three-vrm. */

useLoaders()
const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const builder = new Builder(kits)
const maren = { ...dressed(folk, 'human', [...MAREN, 'hair-braid']), springs: { 'hair-braid': { stiffness: 0.8, drag: 0.4, gravity: 0.15 } } } // prettier-ignore
// three.js reads no morphs of COLLADA
const near: Target = {
  ...TARGETS[0]!,
  detail: 'full',
  limits: { ...TARGETS[0]!.limits, bones: 200 },
  keepExpressions: [],
  license: { authors: ['Ada Lantern'] },
}
type Asked = Omit<Partial<Convention>, 'bones'> & { bones?: Partial<Convention['bones']> }
const asks = ({ bones, ...rest }: Asked): Target => ({
  ...near,
  convention: { ...near.convention, ...rest, bones: { ...near.convention.bones, ...bones } },
})
async function ship(format: ShipFormat, target = near, recipe: typeof maren = maren) {
  const [made] = await shipFormats(builder, kits, recipe, target, [format], { lods: true, stem: 'maren' })
  return { ...made!, codes: made!.problems.map((p) => p.code) }
}
const textOf = (files: ReadonlyMap<string, Uint8Array> | null, name: string) =>
  new TextDecoder().decode(files!.get(name))

// the tolerance the issue sets: a millimetre
const SAME = 1e-3

const MOMENTS = 10

describe('COLLADA', () => {
  const load = (text: string) => new ColladaLoader().parse(text, '')

  // by our own conventions: `everyFigure.test.ts`
  it.each<[string, Asked]>([
    [
      'in centimetres, z up, facing −y, bones along limbs, a root, arms out',
      { unit: 0.01, up: '+z', front: '-y', rest: 't', root: 'Root', bones: { axes: 'along' } },
    ],
    [
      'in centimetres that joints are scaled to, and the head to others',
      {
        bones: {
          ...{ names: 'table', axes: 'joints', table: { hips: 'pelvis', head: 'skull' } },
          joints: [
            { name: 'rig', parent: null, turn: [-Math.SQRT1_2, 0, 0, Math.SQRT1_2], scale: 0.01 },
            { name: 'pelvis', parent: 'rig', turn: [0, 0, Math.SQRT1_2, Math.SQRT1_2], scale: 0.01 },
            { name: 'skull', parent: 'pelvis', turn: [0, 1, 0, 0], scale: 3 },
          ],
        },
      },
    ],
    ['in inches, x up, numbered', { unit: 0.0254, up: '+x', front: '+z', bones: { names: 'numbered' } }],
  ])('stands and moves vertex by vertex as the GLB: %s', async (_, asked) => {
    const target = asks(asked)
    const { files, problems } = await ship('dae', target)
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    const glb = new ShippedFile((await ship('glb', target)).files!.get('maren.glb')!)
    const drawn = glb.drawn()[0]!
    const { point } = conventionAxes(target.convention)!
    /** What the library makes of it is upright and in metres; from there to the file's own axes and unit, and to ours. */
    const ours = (at: Float64Array, up: string): Float64Array => {
      const out = new Float64Array(at.length)
      const back = new Matrix4()
      const axes = [0, 1, 2].map((k) => new Vector3(...point(...([0, 1, 2].map((i) => Number(i === k)) as [number, number, number]))).multiplyScalar(target.convention.unit)) // prettier-ignore
      back.makeBasis(axes[0]!, axes[1]!, axes[2]!).invert()
      // the library turns Z up into Y up, and says so of nothing else
      const turned = new Matrix4()
      if (up === '+z') turned.makeRotationX(Math.PI / 2)
      const v = new Vector3()
      for (let i = 0; i < at.length; i += 3) v.fromArray(at, i).applyMatrix4(turned).applyMatrix4(back).toArray(out, i)
      return out
    }
    const { up } = target.convention
    const still = load(textOf(files, 'maren.dae')) as unknown as { scene: Object3D }
    const here = ours(posed(still.scene), up)
    const there = glb.posed(drawn, glb.at())
    expect(here.length / 3).toBe(drawn.triangles.length)
    expect(farthest(here, there)).toBeLessThan(SAME)
    expect(farthest(there, here)).toBeLessThan(SAME)
    for (const clip of glb.clips()) {
      const file = textOf(files, `maren-${clip.name.toLowerCase()}.dae`)
      const moving = load(file) as unknown as { scene: Object3D }
      const animation =
        moving.scene.animations[0] ?? (moving as unknown as { animations: AnimationClip[] }).animations[0]!
      for (let i = 0; i < MOMENTS; i++) {
        const time = (clip.duration * i) / MOMENTS
        // the clip's file moves the figure's own by the names of joints
        play(moving.scene, animation, time)
        take(still.scene, moving.scene)
        const now = ours(posed(still.scene), up)
        expect(farthest(now, glb.posed(drawn, glb.at({ clip, time }))), `${clip.name} ${time}`).toBeLessThan(SAME)
      }
    }
  })
})

/** Where nodes of a name are in a file of ours, at a moment, metres. */
function placesIn(file: ShippedFile, world: Matrix4[]): Map<string, Vector3> {
  return new Map(file.nodes.map(({ name }, n) => [name!, new Vector3().setFromMatrixPosition(world[n]!)]))
}

describe('a game that counts its glTF in its own unit', () => {
  it('gets GLB, glTF and COLLADA of one size in its numbers, a VRM in metres, and all of it is told in metres', async () => {
    const target: Target = { ...asks({ unit: 0.01 }), gltf: { counted: 'unit' } }
    const made = await shipFormats(builder, kits, maren, target, ['glb', 'gltf', 'dae', 'vrm'], { lods: true, stem: 'maren' }) // prettier-ignore
    for (const { format, problems } of made)
      expect([format, problems.filter((p) => p.severity === 'error')]).toEqual([format, []])
    const file = (format: ShipFormat, name: string) => made.find((m) => m.format === format)!.files!.get(name)!
    const tall = (bytes: Uint8Array) => {
      const glb = new ShippedFile(bytes)
      const heights = glb.posed(glb.drawn()[0]!, glb.at()).filter((_, i) => i % 3 === 1)
      return heights.reduce((a, b) => Math.max(a, b)) - heights.reduce((a, b) => Math.min(a, b))
    }
    const plain = tall((await ship('glb')).files!.get('maren.glb')!)
    expect(tall(file('glb', 'maren.glb')) / 100).toBeCloseTo(plain, 4)
    expect(tall(file('vrm', 'maren.vrm'))).toBeLessThan(3)
    const said = /<float_array id="mesh-positions-array"[^>]*>([^<]*)/.exec(new TextDecoder().decode(file('dae', 'maren.dae')))![1]! // prettier-ignore
    const ys = said.split(' ').map(Number).filter((_, i) => i % 3 === 1) // prettier-ignore
    expect((Math.max(...ys) - Math.min(...ys)) / 100).toBeCloseTo(plain, 1)
    for (const format of ['glb', 'gltf'] as const)
      expect(made.find((m) => m.format === format)!.passed).toContain(`It stands ${plain.toFixed(2)} m tall.`)
  })
})

describe('COLLADA in color', () => {
  it.each(['below', 'above'] as const)(
    'shows of its picture what the GLB shows, its rows counted from %s',
    async (rows) => {
      const { files } = await ship('dae', asks({ rows }))
      const still = new ColladaLoader().parse(textOf(files, 'maren.dae'), '') as unknown as { scene: Object3D }
      let uv: number[] = []
      still.scene.traverse((o) => {
        const { geometry } = o as Partial<Mesh>
        if (geometry) uv = [...geometry.getAttribute('uv').array]
      })
      const glb = new ShippedFile((await ship('glb')).files!.get('maren.glb')!)
      const { uvs, triangles } = glb.drawn()[0]!
      const there = [...triangles].flatMap((c) => [uvs![c * 2]!, rows === 'below' ? 1 - uvs![c * 2 + 1]! : uvs![c * 2 + 1]!]) // prettier-ignore
      expect(uv.length).toBe(there.length)
      // shares of the atlas are stored in 16 bits in the one, in six digits in the other
      uv.forEach((v, i) => expect(Math.abs(v - there[i]!)).toBeLessThan(2e-5))
    },
  )
})

describe('COLLADA with morphs', () => {
  it('brings every point where the GLB’s target brings it, under its name', async () => {
    const target: Target = { ...near, keepExpressions: ['glad', 'blink-left'], keepSliders: ['belly'], lods: [] }
    const { files, problems } = await ship('dae', target)
    expect(problems.map((p) => [p.code, p.severity])).toEqual([['collada-less', 'info']])
    const page = new DOMParser().parseFromString(textOf(files, 'maren-morphs.dae'), 'application/xml')
    const all = (name: string) => [...page.getElementsByTagName(name)]
    const byId = new Map(['geometry', 'source', 'controller'].flatMap(all).map((e) => [e.getAttribute('id')!, e]))
    const numbersOf = (id: string) => byId.get(id)!.getElementsByTagName('float_array')[0]!.textContent!.trim().split(/\s+/).map(Number) // prettier-ignore
    // the scene's skin is over the morphs, and these over the mesh
    expect(all('instance_controller')[0]!.getAttribute('url')).toBe('#skin')
    expect(all('skin')[0]!.getAttribute('source')).toBe('#morphs')
    expect(all('morph')[0]!.getAttribute('source')).toBe('#mesh')
    const ids = all('IDREF_array')[0]!.textContent!.trim().split(/\s+/)
    const glb = new ShippedFile((await ship('glb', target)).files!.get('maren.glb')!)
    const [drawn] = glb.drawn()
    const names = (glb.json as unknown as { meshes: { extras: { targetNames: string[] } }[] }).meshes[0]!.extras
      .targetNames
    expect(ids.map((id) => byId.get(id)!.getAttribute('name'))).toEqual(names)
    const base = numbersOf('mesh-positions')
    const faces = names.filter((n) => !/belly/.test(n))
    expect(faces.length).toBeGreaterThan(0)
    for (const name of faces) {
      const k = names.indexOf(name)
      const moved = numbersOf(`${ids[k]!}-positions`)
      const whole = Float64Array.from(drawn!.positions, (v, i) => v + drawn!.targets[k]!.positions![i]!)
      expect(farthest(whole, Float64Array.from(moved)), name).toBeLessThan(1e-5)
      expect(Math.max(...moved.map((v, i) => Math.abs(v - base[i]!))), name).toBeGreaterThan(1e-3)
    }
  })
})

describe('BVH', () => {
  it.each<[string, Asked]>([
    ['by ours', {}],
    ['in centimetres, z up, with a root that goes along', { unit: 0.01, up: '+z', front: '-y', root: 'Root' }],
  ])('has every joint where the GLB has it: %s', async (_, asked) => {
    const target = { ...asks(asked), motion: { travels: true } }
    const { files, problems } = await ship('bvh', target)
    expect(problems).toEqual([])
    const glb = new ShippedFile((await ship('glb', target)).files!.get('maren.glb')!)
    const { point } = conventionAxes(target.convention)!
    expect([...files!.keys()].sort()).toEqual(['maren-idle.bvh', 'maren-walk.bvh'])
    for (const clip of glb.clips()) {
      const { skeleton, clip: own } = new BVHLoader().parse(textOf(files, `maren-${clip.name.toLowerCase()}.bvh`))
      const root = skeleton.bones[0]!
      expect(own.duration).toBeCloseTo(clip.duration, 3)
      for (let i = 0; i < MOMENTS; i++) {
        const time = (clip.duration * i) / MOMENTS
        play(root, own, time)
        root.updateMatrixWorld(true)
        const there = placesIn(glb, glb.at({ clip, time }).world)
        for (const bone of skeleton.bones) {
          if (bone.name === 'ENDSITE') continue
          const { x, y, z } = there.get(bone.name)!
          const at = new Vector3().setFromMatrixPosition(bone.matrixWorld)
          const off = at.distanceTo(new Vector3(...point(x, y, z))) * target.convention.unit
          expect(off, `${clip.name} ${time} ${bone.name}`).toBeLessThan(SAME)
        }
      }
    }
  })

  it('is read by ourselves as the motion it was, and told where there is none', async () => {
    const { files } = await ship('bvh')
    const { value, problems } = await readMotion(files!.get('maren-walk.bvh')!, 'maren-walk.bvh')
    expect(problems).toEqual([])
    expect(value![0]!.frames).toBeGreaterThan(20)
    const still = await ship('bvh', { ...near, keepClips: [] })
    expect([still.files, still.codes]).toEqual([null, ['bvh-still']])
  })
})

describe('VRM', () => {
  const faces: Target = { ...near, keepExpressions: 'all' }

  it('counts in metres whatever its game’s joints are scaled by: chains that swing have their widths in them', async () => {
    const turn: [number, number, number, number] = [0, 0, 0, 1]
    const joints = [
      { name: 'rig', parent: null, turn, scale: 0.01 },
      { name: 'hips', parent: 'rig', turn, scale: 0.01 },
    ]
    const target = asks({ bones: { names: 'table', axes: 'joints', table: { hips: 'hips' }, joints } })
    const scaled = async (format: 'vrm' | 'glb') =>
      new ShippedFile((await ship(format, target)).files!.get(`maren.${format}`)!).nodes.some((n) => n.scale)
    expect([await scaled('vrm'), await scaled('glb')]).toEqual([false, true])
  })

  it('has a human’s bones with arms out, faces, springs and a license, as a library of the standard reads it', async () => {
    const { files, problems } = await ship('vrm', faces)
    expect(problems).toEqual([])
    const bytes = files!.get('maren.vrm')!
    expect(await glbFaults(bytes)).toEqual([])
    const vrm = (await loadGltf(bytes)).userData.vrm as VRM
    expect(vrm.meta).toMatchObject({ metaVersion: '1', name: 'Test figure', authors: ['Ada Lantern'], avatarPermission: 'onlyAuthor', modification: 'prohibited' }) // prettier-ignore
    vrm.scene.updateMatrixWorld(true)
    const place = (name: Parameters<VRM['humanoid']['getRawBoneNode']>[0]) =>
      new Vector3().setFromMatrixPosition(vrm.humanoid.getRawBoneNode(name)!.matrixWorld)
    for (const side of ['left', 'right'] as const) {
      const arm = place(`${side}Hand`)
        .sub(place(`${side}UpperArm`))
        .normalize()
      expect(arm.x * (side === 'left' ? 1 : -1), side).toBeGreaterThan(0.98)
      expect(place(`${side}Foot`).y).toBeLessThan(0.2)
    }
    expect(place('head').y).toBeGreaterThan(place('hips').y + 0.4)
    expect(vrm.humanoid.getRawBoneNode('leftLittleDistal')).not.toBeNull()
    // a face moves what its movement moves, by its standard name
    const { expressionManager, springBoneManager, lookAt } = vrm
    expect(Object.keys(expressionManager!.presetExpressionMap)).toEqual(
      expect.arrayContaining(['happy', 'aa', 'ih', 'ou', 'ee', 'oh', 'blink', 'blinkLeft', 'blinkRight', 'lookUp']),
    )
    expressionManager!.setValue('blinkLeft', 1)
    expressionManager!.update()
    const meshes: Mesh[] = []
    vrm.scene.traverse((o) => o instanceof Mesh && o.morphTargetInfluences && meshes.push(o))
    const on = Object.entries(meshes[0]!.morphTargetDictionary!).filter(
      ([, i]) => meshes[0]!.morphTargetInfluences![i]! > 0,
    )
    expect(on.map(([name]) => name)).toEqual(['blinkLeft'])
    expect(lookAt!.offsetFromHeadBone.y).toBeGreaterThan(0)
    expect(springBoneManager!.joints.size).toBeGreaterThan(1)
    expect(springBoneManager!.colliders.length).toBeGreaterThan(5)
    // it swings, and comes to rest
    const ends = [...springBoneManager!.joints].map((j) => j.bone)
    for (let i = 0; i < 240; i++) vrm.update(1 / 60)
    vrm.scene.updateMatrixWorld(true)
    for (const bone of ends) expect(Number.isFinite(bone.getWorldPosition(new Vector3()).length())).toBe(true)
  })

  it('opens again as the figure it was', async () => {
    const { files } = await ship('vrm', faces)
    const { value } = await openFigure(files!.get('maren.vrm')!, kits)
    expect(value).toEqual(maren)
  })

  it('is refused, with the way out, of what is no human, and of nobody’s', async () => {
    const { license: _, ...nobodys } = faces
    expect((await ship('vrm', nobodys)).codes.at(-1)).toBe('vrm-author')
    const gulper = dressed(tide, 'gulper', [])
    const { files, problems } = await ship('vrm', faces, gulper as typeof maren)
    expect(files).toBeNull()
    expect(problems.at(-1)).toMatchObject({ code: 'vrm-humanoid', severity: 'error' })
    const far = await ship('vrm', { ...faces, detail: 'far' })
    expect(far.codes).toContain('vrm-humanoid')
  })
})

describe('glTF with its files', () => {
  it('is to a library what the GLB is, and asks for files that are there', async () => {
    const target: Target = { ...near, keepExpressions: 'all' }
    const { files, problems } = await ship('gltf', target)
    expect(problems).toEqual([])
    expect([...files!.keys()].sort()).toEqual(['maren.bin', 'maren.gltf', 'maren.png'])
    expect(await glbFaults(files!.get('maren.gltf')!, { beside: files! })).toEqual([])
    pictures.length = 0
    const split = await loadGltf(files!.get('maren.gltf')!, files!)
    expect(pictures).toHaveLength(1)
    const whole = await loadGltf((await ship('glb', target)).files!.get('maren.glb')!)
    expect(split.animations.map((c) => [c.name, c.duration, c.tracks.length])).toEqual(
      whole.animations.map((c) => [c.name, c.duration, c.tracks.length]),
    )
    for (const [a, b] of split.animations.map((c, i) => [c, whole.animations[i]!] as const)) {
      play(split.scene, a, a.duration / 3)
      play(whole.scene, b, b.duration / 3)
      expect(posed(split.scene)).toEqual(posed(whole.scene))
    }
  })
})

describe('a third library', () => {
  const target: Target = { ...near, keepExpressions: 'all', lods: [] }

  it.each<[ShipFormat, string]>([
    ['glb', 'maren.glb'],
    ['gltf', 'maren.gltf'],
    ['vrm', 'maren.vrm'],
    ['dae', 'maren.dae'],
    ['obj', 'maren.obj'],
  ])('finds in %s as many triangles, bones and clips, and the same bounds', async (format, first) => {
    const { files } = await ship(format, target)
    // it tells formats by their endings, and knows no skin over morphs
    const name = first.replace('.vrm', '.glb')
    const given = new Map(
      [...files!].flatMap(([n, b]) => (/-morphs/.test(n) ? [] : [[n === first ? name : n, b] as const])),
    )
    const { meshes, animations = [] } = await importFiles(given, name)
    const glb = new ShippedFile((await ship('glb', format === 'vrm' ? { ...target, convention: { ...target.convention, rest: 't' } } : target)).files!.get('maren.glb')!) // prettier-ignore
    const drawn = glb.drawn()[0]!
    expect(meshes).toHaveLength(1)
    const [mesh] = meshes as [Imported['meshes'][0]]
    expect(mesh.faces).toHaveLength(drawn.triangles.length / 3)
    for (let k = 0; k < 3; k++) {
      const own = (list: ArrayLike<number>) => Array.from(list).filter((_, i) => i % 3 === k)
      const [theirs, ours] = [own(mesh.vertices), own(drawn.positions)]
      expect(theirs.reduce((m, v) => Math.max(m, v))).toBeCloseTo(
        ours.reduce((m, v) => Math.max(m, v)),
        4,
      )
      expect(theirs.reduce((m, v) => Math.min(m, v))).toBeCloseTo(
        ours.reduce((m, v) => Math.min(m, v)),
        4,
      )
    }
    if (format === 'obj') return
    const held = new Set(drawn.joints!.filter((_, i) => drawn.weights![i]! > 0))
    expect(mesh.bones!.filter((b) => b.weights.some(([, w]) => w > 0))).toHaveLength(held.size)
    if (format === 'glb' || format === 'gltf')
      expect(animations.map((a) => a.name)).toEqual(glb.clips().map((c) => c.name))
  })

  it('finds in each COLLADA of a clip a skeleton that moves as long as it should', async () => {
    const { files } = await ship('dae', target)
    const glb = new ShippedFile((await ship('glb', target)).files!.get('maren.glb')!)
    for (const clip of glb.clips()) {
      const name = `maren-${clip.name.toLowerCase()}.dae`
      const { animations } = await importFiles(new Map([[name, files!.get(name)!]]), name)
      expect(animations).toHaveLength(1)
      const [{ duration, tickspersecond, channels }] = animations as [NonNullable<Imported['animations']>[0]]
      expect(duration / (tickspersecond || 1)).toBeCloseTo(clip.duration, 2)
      expect(channels.length).toBe(new Set(clip.channels.filter((c) => c.path !== 'weights').map((c) => c.node)).size)
    }
  })
})

describe('a file of ours', () => {
  it.each<[ShipFormat, string]>([
    ['gltf', 'maren.gltf'],
    ['dae', 'maren.dae'],
  ])('opens again as the figure it was: %s', async (format, name) => {
    const { files } = await ship(format)
    expect((await openFigure(files!.get(name)!, kits)).value).toEqual(maren)
  })

  it('that holds no recipe is told apart', async () => {
    const codes = async (text: string) =>
      (await openFigure(new TextEncoder().encode(text), kits)).problems.map((p) => p.code)
    expect(await codes('<COLLADA/>')).toEqual(['recipe'])
    expect(await codes('<COLLADA')).toEqual(['recipe'])
    expect(await codes('{"asset":{"version":"2.0"}}')).toEqual(['recipe'])
    const { files } = await ship('dae')
    const broken = textOf(files, 'maren.dae').replace('&quot;recipe&quot;', '&quot;other&quot;')
    expect(await codes(broken)).toEqual(['recipe'])
  })
})

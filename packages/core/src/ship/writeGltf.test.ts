import { decode } from 'fast-png'
import { MeshoptDecoder } from 'meshoptimizer'
import { AnimationMixer, SkinnedMesh, Vector3, type Object3D } from 'three'
import { GLTFLoader, type GLTF } from 'three/addons/loaders/GLTFLoader.js'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { Builder } from '../build.ts'
import { readMotion } from '../motion/foreign/readMotion.ts'
import { readPack } from '../pack/readPack.ts'
import type { Target } from '../recipe/target.ts'
import { unpackMeshopt } from '../scene/meshopt.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { checkFile } from './checkFile.ts'
import { openFigure } from './openFigure.ts'
import { ShippedFile } from './ShippedFile.ts'
import { shipFormats, type ShipFormat } from './shipFormats.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const builder = new Builder(kits)
const maren = dressed(folk, 'human', MAREN)
const near: Target = { ...TARGETS[0]!, keepExpressions: ['glad', 'blink-left'], keepSliders: ['belly'] }

async function ship(gltf: Target['gltf'], format: ShipFormat = 'glb', asked = near) {
  const [made] = await shipFormats(builder, kits, maren, { ...asked, gltf }, [format], { lods: true, stem: 'maren' })
  expect(made!.problems.filter((p) => p.severity === 'error')).toEqual([])
  return { ...made!, files: made!.files! }
}

// what the page gives the loader, which is asked of nothing here
beforeAll(() => {
  vi.stubGlobal('self', globalThis)
  vi.stubGlobal('ProgressEvent', class extends Event {})
  // … and tells that clips of sliders move levels of detail, which it does not load
  for (const say of ['error', 'warn'] as const) vi.spyOn(console, say).mockReturnValue()
  return () => (vi.unstubAllGlobals(), vi.restoreAllMocks())
})

/** Read by the loader of three.js; pictures are looked for by nobody. */
async function load(bytes: Uint8Array): Promise<GLTF> {
  const loader = new GLTFLoader().setMeshoptDecoder(MeshoptDecoder)
  const { buffer, byteOffset, byteLength } = bytes
  return loader.parseAsync(buffer.slice(byteOffset, byteOffset + byteLength) as ArrayBuffer, '')
}

function skinned({ scene }: GLTF): SkinnedMesh {
  let mesh: SkinnedMesh | null = null
  scene.traverse((o) => (mesh ??= o instanceof SkinnedMesh ? o : null))
  return mesh!
}

/** Corners of its triangles as they stand, one after the other: xyz each, and whether a normal is of length one. */
function corners(gltf: GLTF): { places: number[]; normals: number[] } {
  gltf.scene.updateMatrixWorld(true)
  const mesh = skinned(gltf)
  mesh.skeleton.update()
  const [places, normals]: number[][] = [[], []]
  const v = new Vector3()
  const index = mesh.geometry.getIndex()!
  const normal = mesh.geometry.getAttribute('normal')
  for (let i = 0; i < index.count; i++) {
    mesh.getVertexPosition(index.getX(i), v).applyMatrix4(mesh.matrixWorld)
    places!.push(...v.toArray())
    normals!.push(...v.fromBufferAttribute(normal, index.getX(i)).toArray())
  }
  return { places: places!, normals: normals! }
}

/** Corners of triangles in an order that packing does not change: each triangle from its lowest corner on. */
function triangles(places: readonly number[]): string[] {
  return Array.from({ length: places.length / 9 }, (_, t) => {
    const three = [0, 1, 2].map((c) => [0, 1, 2].map((k) => places[t * 9 + c * 3 + k]!.toFixed(6)).join())
    const first = three.indexOf([...three].sort()[0]!)
    return [...three.slice(first), ...three.slice(0, first)].join(' ')
  }).sort()
}

function play(scene: Object3D, gltf: GLTF, name: string, time: number): void {
  const mixer = new AnimationMixer(scene)
  mixer.clipAction(gltf.animations.find((a) => a.name === name)!).play()
  mixer.setTime(time)
}

const full = (await ship({})).files.get('maren.glb')!

describe('glTF of whole numbers', () => {
  // half a unit of a place is a 16th of a millimetre; joints and weights are the same
  const PLACES = 1.2e-4
  // half of a 127th along each of three axes
  const NORMALS = 0.008

  it('stands, moves and changes its face as in full, in a file that the validator finds nothing in', async () => {
    const { files, passed } = await ship({ vertices: 'quantized' })
    const bytes = files.get('maren.glb')!
    expect(await glbFaults(bytes)).toEqual([])
    expect(passed.join(' ')).toMatch(/upright/)
    const [here, there] = await Promise.all([load(bytes), load(full)])
    expect(skinned(here).geometry.getAttribute('position').array).toBeInstanceOf(Int16Array)
    const names = skinned(there).morphTargetDictionary!
    expect(skinned(here).morphTargetDictionary).toEqual(names)
    expect(Object.keys(names)).toEqual(expect.arrayContaining(['blinkLeft']))
    const off = (most: number, a: readonly number[], b: readonly number[]) => {
      expect(a.length).toBe(b.length)
      expect(Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))).toBeLessThan(most)
    }
    const [a, b] = [corners(here), corners(there)]
    off(PLACES, a.places, b.places)
    off(NORMALS, a.normals, b.normals)
    for (const clip of there.animations.map((c) => c.name)) {
      for (const time of [0.1, 0.4]) {
        for (const one of [here, there]) play(one.scene, one, clip, time)
        off(2 * PLACES, corners(here).places, corners(there).places)
      }
    }
    for (const morph of Object.values(names)) {
      for (const one of [here, there]) skinned(one).morphTargetInfluences!.fill(0)[morph] = 1
      const [moved, whole] = [corners(here).places, corners(there).places]
      off(2 * PLACES, moved, whole)
      // else this would compare figures that stand still
      expect(Math.max(...whole.map((v, i) => Math.abs(v - b.places[i]!)))).toBeGreaterThan(1e-3)
      const [turned, as] = [here, there].map((one) => {
        const own = skinned(one).geometry.morphAttributes.normal![morph]!
        return Array.from({ length: own.count }, (_, i) => [own.getX(i), own.getY(i), own.getZ(i)]).flat()
      })
      // half of a 32,767th
      off(2e-5, turned!, as!)
      expect(Math.max(...as!)).toBeGreaterThan(0.05)
    }
  })

  it('is less than full, and packed less than that, with the very same triangles', async () => {
    const quantized = (await ship({ vertices: 'quantized' })).files.get('maren.glb')!
    const packed = (await ship({ vertices: 'packed' })).files.get('maren.glb')!
    expect(quantized.length).toBeLessThan(0.9 * full.length)
    expect(packed.length).toBeLessThan(0.7 * quantized.length)
    const [a, b] = await Promise.all([load(quantized), load(packed)])
    expect(triangles(corners(b).places)).toEqual(triangles(corners(a).places))
    // unpacked it is a file in which the validator finds nothing
    const { value } = await unpackMeshopt(packed, 'maren.glb')
    expect(await glbFaults(value!)).toEqual([])
    expect(triangles(corners(await load(value!)).places)).toEqual(triangles(corners(a).places))
    expect((await ship({ vertices: 'packed' })).files.get('maren.glb')).toEqual(packed)
  })

  it.each(['quantized', 'packed'] as const)(
    'opens again as the figure, and comes in as a pack: %s',
    async (vertices) => {
      const { files } = await ship({ vertices })
      const bytes = files.get('maren.glb')!
      const { value, problems } = await openFigure(bytes, kits)
      expect([value, problems]).toEqual([maren, []])
      const sizeOf = async (file: Uint8Array) => {
        const { value: pack } = await readPack(new Map([['maren.glb', file]]))
        const ys = pack!.pieces.flatMap((p) => [...p.positions].filter((_, i) => i % 3 === 1))
        return [pack!.pieces.length, pack!.joints.length, Math.max(...ys), Math.min(...ys)]
      }
      const [here, there] = [await sizeOf(bytes), await sizeOf(full)]
      here.forEach((v, i) => expect(Math.abs(v - there[i]!)).toBeLessThan(PLACES))
      // its bones stand and move as those of the full file, for whoever learns from it
      const [own, whole] = await Promise.all([bytes, full].map(async (f) => (await readMotion(f, 'maren.glb')).value!))
      own!.forEach((m, i) =>
        m.joints.forEach((joint, j) =>
          joint.at.forEach((v, k) => expect(Math.abs(v - whole![i]!.joints[j]!.at[k]!), joint.name).toBeLessThan(1e-6)),
        ),
      )
    },
  )

  it('as text with its files is the same, packed or not', async () => {
    for (const vertices of ['quantized', 'packed'] as const) {
      const { files } = await ship({ vertices }, 'gltf')
      expect([...files.keys()].sort()).toEqual(['maren.bin', 'maren.gltf', 'maren.png'])
      const check = await checkFile(files.get('maren.gltf')!, 'maren.gltf', null, (uri) => files.get(uri))
      expect(check.problems.filter((p) => p.severity === 'error')).toEqual([])
      // in a pack and for its clips as well, vertex by vertex and joint by joint as the one file has it
      const { files: one } = await ship({ vertices })
      const [text, glb] = await Promise.all([files, one].map(async (all) => (await readPack(all)).value!))
      expect(text!.pieces.map((p) => p.positions)).toEqual(glb!.pieces.map((p) => p.positions))
      expect(text!.joints).toEqual(glb!.joints)
      const clips = await readMotion(files.get('maren.gltf')!, 'maren.gltf', (uri) => files.get(uri))
      expect(clips.value).toEqual((await readMotion(one.get('maren.glb')!, 'maren.glb')).value)
      expect(clips.value!.length).toBeGreaterThan(1)
      // names that are none are told as well
      const text2 = new TextDecoder().decode(files.get('maren.gltf')!).replace('maren.bin', '%zz.bin')
      const odd = new TextEncoder().encode(text2)
      expect((await readPack(new Map([['maren.gltf', odd]]))).problems.map((p) => p.code)).toContain('gltf-broken')
      const thrown = await checkFile(odd, 'maren.gltf', null, (uri) => files.get(decodeURIComponent(uri)))
      expect(thrown.problems.map((p) => [p.code, p.severity])).toEqual([['gltf-broken', 'error']])
      const gone = await readPack(new Map([['maren.gltf', files.get('maren.gltf')!]]))
      expect(gone.problems.map((p) => p.message)).toContain('“maren.bin” is not beside it.')
      const lost = await checkFile(files.get('maren.gltf')!, 'maren.gltf')
      expect(lost.problems[0]!.message).toContain('is not beside it')
      if (vertices === 'quantized') expect(await glbFaults(files.get('maren.gltf')!, { beside: files })).toEqual([])
    }
  })

  it('never are an avatar’s, which its readers may not know', async () => {
    const { files } = await ship({ vertices: 'packed', clips: 'apart' }, 'vrm', {
      ...near,
      license: { authors: ['Ada'] },
    })
    expect(new ShippedFile(files.get('maren.vrm')!).json).not.toHaveProperty('extensionsRequired')
  })
})

describe('glTF with colors on its vertices', () => {
  /** The color of each corner of its triangles as a library shows it, less light: by its place, as the sorted list of all. */
  const shown = (gltf: GLTF, atlas?: { width: number; data: ArrayLike<number> }) => {
    const { geometry } = skinned(gltf)
    const [at, color, uv] = ['position', 'color', 'uv'].map((n) => geometry.getAttribute(n))
    return Array.from({ length: at!.count }, (_, c) => {
      let light = [color!.getX(c), color!.getY(c), color!.getZ(c)]
      if (atlas) {
        const [x, y] = [uv!.getX(c), uv!.getY(c)].map((v) => Math.floor(v * atlas.width)) as [number, number]
        // from what screens show to light, IEC 61966-2-1
        const lit = [0, 1, 2].map((k) => atlas.data[(y * atlas.width + x) * 4 + k]! / 255).map((v) => (v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4)) // prettier-ignore
        light = light.map((v, k) => v * lit[k]!)
      }
      return light
    })
  }

  it('shows what it shows with a picture, and has none', async () => {
    const { files, passed } = await ship({ colors: 'vertices' })
    const bytes = files.get('maren.glb')!
    expect(await glbFaults(bytes)).toEqual([])
    expect(passed).toContain('Its colors lie on its vertices.')
    const file = new ShippedFile(bytes)
    expect([file.images(), file.drawn()[0]!.uvs]).toEqual([[], null])
    const picture = decode(new ShippedFile(full).images()[0]!)
    const [here, there] = [shown(await load(bytes)), shown(await load(full), picture)]
    expect(here.length).toBe(there.length)
    // of shares of 65,535, and of shades of 255 that are read as floats
    here.forEach((light, c) => light.forEach((v, k) => expect(Math.abs(v - there[c]![k]!)).toBeLessThan(2e-5)))
    expect(new Set(here.map(String)).size).toBeGreaterThan(20)
    // as few numbers, and packed, as well
    const small = (await ship({ colors: 'vertices', vertices: 'packed' })).files.get('maren.glb')!
    expect(
      shown(await load(small))
        .map(String)
        .sort(),
    ).toEqual(here.map(String).sort())
  })

  it('is told where all is black, or grey as shading is', async () => {
    const { files } = await ship({ colors: 'vertices' })
    const spoiled = (color: (light: number[]) => number[]) => {
      const bytes = files.get('maren.glb')!.slice()
      const length = new DataView(bytes.buffer).getUint32(12, true)
      const json = JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as { meshes: { primitives: { attributes: { COLOR_0: number } }[] }[]; accessors: { bufferView: number; byteOffset: number; count: number }[]; bufferViews: { byteOffset: number; byteStride: number }[] } // prettier-ignore
      const accessor = json.accessors[json.meshes[0]!.primitives[0]!.attributes.COLOR_0]!
      const { byteOffset, byteStride } = json.bufferViews[accessor.bufferView]!
      for (let v = 0; v < accessor.count; v++) {
        const own = new Uint16Array(bytes.buffer, 28 + length + byteOffset + accessor.byteOffset + v * byteStride, 3)
        own.set(color([...own]))
      }
      return bytes
    }
    const codes = async (bytes: Uint8Array) => (await checkFile(bytes, 'a.glb')).problems.map((p) => p.code)
    expect(await codes(spoiled((light) => light.map((v) => v >> 8)))).toContain('texture')
    expect(await codes(spoiled(([r]) => [r!, r!, r!]))).toContain('texture')
    expect(await codes(spoiled((light) => light))).not.toContain('texture')
  })
})

describe('glTF in several files', () => {
  it('has each level of detail in a file that stands by itself', async () => {
    const { files } = await ship({ levels: 'files' })
    const names = ['maren.glb', ...near.lods.map((_, i) => `maren-lod${i + 1}.glb`)]
    expect([...files.keys()]).toEqual(names)
    const seen = names.map((name) => {
      const file = new ShippedFile(files.get(name)!)
      const [first, ...others] = file.drawn()
      expect(others).toEqual([])
      return { file, triangles: first!.triangles.length / 3, clips: file.clips().length }
    })
    near.lods.forEach((lod, i) => {
      expect(seen[i + 1]!.triangles).toBeLessThanOrEqual(lod.triangles)
      expect(seen[i + 1]!.triangles).toBeLessThan(seen[i]!.triangles)
    })
    for (const name of names) expect(await glbFaults(files.get(name)!)).toEqual([])
    // what is made of the whole is called the same
    const whole = new ShippedFile(full).drawn().map((d) => d.name)
    expect(seen.map(({ file }) => file.drawn()[0]!.name)).toEqual(whole)
    // sliders are of the mesh, clips of the figure
    expect(seen[0]!.clips).toBeGreaterThan(seen[1]!.clips)
    expect(seen[1]!.file.clips().map((c) => c.name)).toEqual(
      ['slider belly+', 'slider belly-'].slice(0, seen[1]!.clips),
    )
  })

  it.each(['files', 'apart'] as const)(
    'has each clip in a file of its own that moves the figure as before: %s',
    async (clips) => {
      const { files, problems, passed } = await ship({ clips })
      const whole = new ShippedFile(full)
      const moving = whole.clips().filter((c) => !c.name.startsWith('slider'))
      expect(files.size).toBe(1 + moving.length)
      expect(problems.map((p) => p.code)).toEqual([])
      expect(passed.join(' ')).toMatch(/(?:Motions|Lengths): Walk/)
      const own = await load(files.get('maren.glb')!)
      expect(own.animations.filter((a) => !a.name.startsWith('slider'))).toEqual([])
      for (const clip of moving) {
        const bytes = files.get(`maren-${clip.name.toLowerCase()}.glb`)!
        expect(await glbFaults(bytes)).toEqual([])
        const file = new ShippedFile(bytes)
        expect(file.drawn().length).toBe(clips === 'apart' ? 0 : 1)
        const alone = await load(bytes)
        expect(alone.animations.filter((a) => !a.name.startsWith('slider')).map((a) => a.name)).toEqual([clip.name])
        const there = await load(full)
        for (const time of [0.2, 0.7]) {
          // the clip finds the bones of the figure's own file by their names
          play(own.scene, alone, clip.name, time)
          play(there.scene, there, clip.name, time)
          const [a, b] = [corners(own).places, corners(there).places]
          expect(Math.max(...a.map((v, i) => Math.abs(v - b[i]!)))).toBeLessThan(1e-5)
        }
        const check = await checkFile(bytes, 'clip.glb')
        expect(check.problems.filter((p) => p.severity === 'error')).toEqual([])
      }
    },
  )
})

describe('a packed file that is broken', () => {
  const parts = (bytes: Uint8Array) => {
    const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)
    return {
      json: JSON.parse(new TextDecoder().decode(bytes.subarray(20, 20 + length))) as never,
      rest: bytes.subarray(20 + length),
    }
  }
  const rebuilt = ({ json, rest }: { json: unknown; rest: Uint8Array }) => {
    const text = new TextEncoder().encode(JSON.stringify(json))
    const size = (text.length + 3) & ~3
    const out = new Uint8Array(20 + size + rest.length).fill(0x20)
    const view = new DataView(out.buffer)
    ;[0x46546c67, 2, out.length, size, 0x4e4f534a].forEach((w, i) => view.setUint32(i * 4, w, true))
    out.set(text, 20)
    out.set(rest, 20 + size)
    return out
  }
  type Packed = { byteLength: number; extensions?: { EXT_meshopt_compression?: Record<string, unknown> } }

  it('is read under the later name of the extension as well', async () => {
    const { files } = await ship({ vertices: 'packed' })
    const { json, rest } = parts(files.get('maren.glb')!)
    const later = rebuilt({ json: JSON.parse(JSON.stringify(json).replaceAll('EXT_meshopt', 'KHR_meshopt')), rest })
    expect((await checkFile(later, 'a.glb')).problems).toEqual((await checkFile(files.get('maren.glb')!, 'a.glb')).problems) // prettier-ignore
    const [a, b] = await Promise.all([later, files.get('maren.glb')!].map((f) => unpackMeshopt(f, 'a.glb')))
    expect(a!.value).toEqual(b!.value)
  })

  it.each<[string, (own: Record<string, unknown>, view: Packed) => void]>([
    ['counts more than it says', (own) => (own.count = 1e9)],
    ['is longer than the file', (own) => (own.byteLength = 1e9)],
    ['begins before it', (own) => (own.byteOffset = -4)],
    ['has no size', (own) => delete own.byteStride],
    ['is packed by nobody’s way', (own) => (own.mode = 'constructor')],
    ['unpacks to gigabytes', (own, view) => (own.count = view.byteLength = 4e9)],
    ['lies in a buffer that is not there', (own) => (own.buffer = 7)],
  ])('is told in words: %s', async (_, spoil) => {
    const { files } = await ship({ vertices: 'packed' })
    const { json, rest } = parts(files.get('maren.glb')!)
    const view = (json as { bufferViews: Packed[] }).bufferViews.find((v) => v.extensions)!
    spoil(view.extensions!.EXT_meshopt_compression!, view)
    const bytes = rebuilt({ json, rest })
    const pack = await readPack(new Map([['a.glb', bytes]]))
    expect(pack.value).toBeNull()
    expect(pack.problems.map((p) => p.code)).toContain('gltf-broken')
  })

  it('is told in words: noise where packed vertices are', async () => {
    const { files } = await ship({ vertices: 'packed' })
    for (let n = 0; n < 40; n++) {
      const bytes = files.get('maren.glb')!.slice()
      const { rest } = parts(bytes)
      for (let i = 0; i < 200; i++) bytes[bytes.length - rest.length + 8 + ((i * 7919 + n * 104_729) % (rest.length - 8))] = (i * 31 + n) & 255 // prettier-ignore
      const check = await checkFile(bytes, 'a.glb')
      expect(check.problems.some((p) => p.severity === 'error')).toBe(true)
      await readPack(new Map([['a.glb', bytes]]))
    }
  })
})

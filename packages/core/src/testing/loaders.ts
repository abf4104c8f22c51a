import { createRequire } from 'node:module'
import { DOMParser } from '@xmldom/xmldom'
import { VRMLoaderPlugin } from '@pixiv/three-vrm'
import { AnimationMixer, SkinnedMesh, Vector3, type AnimationClip, type Object3D } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { beforeAll, beforeEach, vi } from 'vitest'

/* Libraries that read what ships, and share nothing with what wrote it. */

/** What loaders have asked for. */
export const pictures: string[] = []

/** Has the loaders of three.js find what a page has, and keep quiet; said once a file of tests. */
export function useLoaders(): void {
  beforeAll(() => {
    vi.stubGlobal('DOMParser', DOMParser)
    // a page's window, in which loaders look for what pictures are decoded with; there is none, and they go without
    vi.stubGlobal('self', globalThis)
    const image = {
      // decoded at once: nobody looks at it
      addEventListener: (type: string, done: () => void) =>
        void (type === 'load' && setTimeout(() => done.call(image))),
      removeEventListener: () => undefined,
      set src(file: string) {
        pictures.push(file)
      },
    }
    vi.stubGlobal('ProgressEvent', class extends Event {})
    vi.stubGlobal('document', { createElementNS: () => image })
    return () => vi.unstubAllGlobals()
  })

  // they tell of every file they read
  beforeEach(() => {
    vi.spyOn(console, 'log').mockReturnValue()
    vi.spyOn(console, 'warn').mockReturnValue()
  })
}

const mixers = new WeakMap<Object3D, AnimationMixer>()

/** Something loaded at a time of its clip. */
export function play(scene: Object3D, clip: AnimationClip, time: number): void {
  const mixer = mixers.get(scene) ?? new AnimationMixer(scene)
  mixers.set(scene, mixer)
  // what the clip before has moved and this one does not stands as at first
  mixer.stopAllAction()
  const action = mixer.clipAction(clip)
  action.clampWhenFinished = true
  action.play()
  mixer.setTime(time)
}

/** Nodes of one thing stand as those of another that are called the same. */
export function take(scene: Object3D, from: Object3D): void {
  const named = new Map<string, Object3D>()
  from.traverse((o) => named.set(o.name, o))
  scene.traverse((o) => {
    const other = named.get(o.name)
    if (!other || o instanceof SkinnedMesh || o === scene) return
    o.position.copy(other.position)
    o.quaternion.copy(other.quaternion)
  })
}

/** The first skinned mesh of something loaded, as it stands: xyz a vertex, in the world. */
export function posed(scene: Object3D): Float64Array {
  scene.updateMatrixWorld(true)
  let mesh: SkinnedMesh | null = null
  scene.traverse((o) => (mesh ??= o instanceof SkinnedMesh ? o : null))
  const skinned = mesh as unknown as SkinnedMesh
  skinned.skeleton.update()
  const at = skinned.geometry.getAttribute('position')
  const out = new Float64Array(at.count * 3)
  const v = new Vector3()
  for (let i = 0; i < at.count; i++)
    skinned
      .getVertexPosition(i, v)
      .applyMatrix4(skinned.matrixWorld)
      .toArray(out, i * 3)
  return out
}

/** How far each of some places is from the nearest of others, the most of all; metres. */
export function farthest(from: Float64Array, to: Float64Array): number {
  const cells = new Map<string, number[]>()
  const SIZE = 0.01
  const key = (x: number, y: number, z: number) => `${x},${y},${z}`
  const cell = (v: number) => Math.floor(v / SIZE)
  for (let i = 0; i < to.length; i += 3) {
    const k = key(cell(to[i]!), cell(to[i + 1]!), cell(to[i + 2]!))
    const own = cells.get(k)
    if (own) own.push(i)
    else cells.set(k, [i])
  }
  let most = 0
  for (let i = 0; i < from.length; i += 3) {
    let best = Infinity
    const [cx, cy, cz] = [cell(from[i]!), cell(from[i + 1]!), cell(from[i + 2]!)]
    for (let x = cx - 1; x <= cx + 1; x++)
      for (let y = cy - 1; y <= cy + 1; y++)
        for (let z = cz - 1; z <= cz + 1; z++)
          for (const j of cells.get(key(x, y, z)) ?? [])
            best = Math.min(best, Math.hypot(from[i]! - to[j]!, from[i + 1]! - to[j + 1]!, from[i + 2]! - to[j + 2]!))
    most = Math.max(most, best)
  }
  return most
}

/** Binary or text glTF, as three.js reads it; VRM where it is that. */
export async function loadGltf(bytes: Uint8Array, beside: ReadonlyMap<string, Uint8Array> = new Map()) {
  const loader = new GLTFLoader()
  loader.register((parser) => new VRMLoaderPlugin(parser))
  loader.manager.setURLModifier((url) => {
    const file = beside.get(url.replace(/^.*\//, ''))
    return file ? `data:application/octet-stream;base64,${Buffer.from(file).toString('base64')}` : url
  })
  const { buffer, byteOffset, byteLength } = bytes
  return loader.parseAsync(buffer.slice(byteOffset, byteOffset + byteLength) as ArrayBuffer, '')
}

export interface Imported {
  meshes: { name: string; vertices: number[]; faces: number[][]; bones?: { name: string; weights: [number, number][] }[] }[] // prettier-ignore
  animations?: { name: string; duration: number; tickspersecond: number; channels: { name: string }[] }[]
  rootnode: { name: string }
}

/** A file as a third library reads it: one in C++ that shares nothing with the other two. */
export async function importFiles(files: ReadonlyMap<string, Uint8Array>, first: string): Promise<Imported> {
  const library = (await (createRequire(import.meta.url)('assimpjs') as () => Promise<Importer>)())!
  const list = new library.FileList()
  for (const [name, bytes] of [...files].sort(([a]) => (a === first ? -1 : 1))) list.AddFile(name, bytes)
  const result = library.ConvertFileList(list, 'assjson')
  if (!result.IsSuccess()) throw new Error(result.GetErrorCode())
  return JSON.parse(new TextDecoder().decode(result.GetFile(0).GetContent())) as Imported
}
interface Importer {
  FileList: new () => { AddFile: (name: string, bytes: Uint8Array) => void }
  ConvertFileList: (list: unknown, format: string) => { IsSuccess: () => boolean; GetErrorCode: () => string; GetFile: (i: number) => { GetContent: () => Uint8Array } } // prettier-ignore
}

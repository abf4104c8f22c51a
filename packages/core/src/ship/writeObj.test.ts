import { WebIO } from '@gltf-transform/core'
import { decode } from 'fast-png'
import { Mesh, MeshPhongMaterial, type BufferGeometry } from 'three'
import { MTLLoader } from 'three/addons/loaders/MTLLoader.js'
import { OBJLoader } from 'three/addons/loaders/OBJLoader.js'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import type { Convention } from '../recipe/target.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { LodExtension } from '../testing/LodExtension.ts'
import { conventionAxes } from './conventionAxes.ts'
import { shipFigure } from './shipFigure.ts'
import { shipFormats } from './shipFormats.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const maren = dressed(folk, 'human', MAREN)
const ottern = dressed(tide, 'ottern', ['scarf-striped', 'tail-rings'])
const near = TARGETS.find((t) => t.id === 'near')!
async function ship(recipe: typeof maren, convention: Partial<Convention> = {}, lods = false) {
  const target = { ...near, convention: { ...near.convention, ...convention } }
  return (await shipFormats(new Builder(kits), kits, recipe, target, ['obj'], { lods, stem: 'a' }))[0]!
}

/** Corners of all triangles, xyz, normals xyz, uv: as a program that shares nothing with ours reads an OBJ file. */
function read(files: ReadonlyMap<string, Uint8Array>, name: string) {
  const group = new OBJLoader().parse(new TextDecoder().decode(files.get(name)))
  const [mesh] = group.children as [Mesh<BufferGeometry>]
  const of = (attribute: string) => [...mesh.geometry.getAttribute(attribute).array]
  return {
    name: mesh.name,
    material: (mesh.material as unknown as MeshPhongMaterial).name,
    at: of('position'),
    facing: of('normal'),
    uv: of('uv'),
  }
}

/** The same of the first mesh of the GLB that is shipped of it, and its picture. */
async function readGlb(recipe: typeof maren) {
  const { bytes } = await shipFigure(new Builder(kits), kits, recipe, near, { lods: true })
  const root = (await new WebIO().registerExtensions([LodExtension]).readBinary(bytes!)).getRoot()
  const [primitive] = root.listMeshes()[0]!.listPrimitives()
  const indices = primitive!.getIndices()!.getArray()!
  const of = (semantic: string, size: number) => {
    const accessor = primitive!.getAttribute(semantic)!
    return [...indices].flatMap((i) => accessor.getElement(i, new Array<number>(size)))
  }
  return {
    at: of('POSITION', 3),
    facing: of('NORMAL', 3),
    uv: of('TEXCOORD_0', 2),
    picture: root.listTextures()[0]!.getImage()!,
    levels: root.listMeshes().length,
  }
}

const most = (a: readonly number[], b: readonly number[]) =>
  a.reduce((sum, v, i) => Math.max(sum, Math.abs(v - b[i]!)), 0)

describe('a figure as OBJ', () => {
  it.each([
    ['Maren', maren],
    ['an ottern', ottern],
  ] as const)('has what the GLB of %s has, corner by corner', async (_, recipe) => {
    const glb = await readGlb(recipe)
    const { files, problems } = await ship(recipe, {}, true)
    expect(problems).toEqual([])
    const obj = read(files!, 'a.obj')
    expect([obj.name, obj.material, obj.at.length]).toEqual(['a', 'figure', glb.at.length])
    // six digits of a metre; a 16-bit share of the atlas; four digits of a unit
    expect(most(obj.at, glb.at)).toBeLessThan(2e-6)
    expect(most(obj.facing, glb.facing)).toBeLessThan(2e-2)
    expect(
      most(
        obj.uv,
        glb.uv.map((v, i) => (i % 2 ? 1 - v : v)),
      ),
    ).toBeLessThan(2e-5)
    const { width, data } = decode(files!.get('a.png')!)
    const shipped = decode(glb.picture)
    expect([width, Buffer.compare(Buffer.from(data.buffer), Buffer.from(shipped.data.buffer))]).toEqual([
      shipped.width,
      0,
    ])
    const { materialsInfo } = new MTLLoader().parse(new TextDecoder().decode(files!.get('a.mtl')), '') as unknown as {
      materialsInfo: Record<string, { map_kd: string; kd: number[] }>
    }
    expect(materialsInfo.figure).toMatchObject({ map_kd: 'a.png', kd: [1, 1, 1] })
    // a file a level, each with fewer triangles
    const counts = Array.from({ length: glb.levels }, (_, l) => read(files!, l ? `a-lod${l}.obj` : 'a.obj').at.length)
    expect(counts).toEqual([...counts].sort((a, b) => b - a))
    expect([counts.length > 1, files!.size]).toEqual([true, counts.length + 2])
  })

  it('counts the rows of its picture as its game does', async () => {
    const [usual, from] = [read((await ship(maren)).files!, 'a.obj'), read((await ship(maren, { rows: 'above' })).files!, 'a.obj')] // prettier-ignore
    expect(from.at).toEqual(usual.at)
    expect(most(from.uv, usual.uv.map((v, i) => (i % 2 ? 1 - v : v)))).toBeLessThan(2e-6) // prettier-ignore
    expect(most(from.uv, usual.uv)).toBeGreaterThan(0.1)
  })

  it('lies as the target has it: upright along its axis, facing its front, in its unit, its left on the left', async () => {
    const ours = read((await ship(maren)).files!, 'a.obj')
    const span = (at: readonly number[], k: number) => {
      const own = at.filter((_, i) => i % 3 === k)
      return [Math.min(...own), Math.max(...own)] as const
    }
    const { files } = await ship(maren, { unit: 0.01, up: '+z', front: '-y' })
    const { at } = read(files!, 'a.obj')
    // what was height is z, and a hundred times as much
    expect(span(at, 2).map((v) => v / 100)).toEqual(span(ours.at, 1).map((v) => expect.closeTo(v, 5)))
    expect(span(at, 1).map((v) => -v / 100)).toEqual([...span(ours.at, 2)].reverse().map((v) => expect.closeTo(v, 5)))
    // volume enclosed has the same sign: it was turned, not mirrored
    const volume = (p: readonly number[]) => {
      let sum = 0
      for (let i = 0; i < p.length; i += 9) {
        const [a, b, c] = [p.slice(i, i + 3), p.slice(i + 3, i + 6), p.slice(i + 6, i + 9)] as number[][]
        sum +=
          a![0]! * (b![1]! * c![2]! - b![2]! * c![1]!) +
          a![1]! * (b![2]! * c![0]! - b![0]! * c![2]!) +
          a![2]! * (b![0]! * c![1]! - b![1]! * c![0]!)
      }
      return sum / 6
    }
    expect(volume(ours.at)).toBeGreaterThan(0.03)
    expect(volume(at) / 1e6).toBeCloseTo(volume(ours.at), 4)
  })

  it('keeps every pair of axes that is one, and refuses the others', async () => {
    const all = ['+x', '-x', '+y', '-y', '+z', '-z'] as const
    for (const up of all)
      for (const front of all) {
        const axes = conventionAxes({ unit: 2, up, front })
        expect([up, front, axes === null]).toEqual([up, front, up[1] === front[1]])
        if (!axes) continue
        const place = 'xyz'
        const sign = (axis: string) => (axis[0] === '+' ? 1 : -1)
        expect(axes.point(0, 6, 0)[place.indexOf(up[1]!)]).toBe(3 * sign(up))
        expect(axes.direction(0, 0, 1)[place.indexOf(front[1]!)]).toBe(sign(front))
      }
    const { files, problems } = await ship(maren, { up: '+y', front: '-y' })
    expect([files, problems.map((p) => p.code)]).toEqual([null, ['axes-clash']])
  })

  it('is the same to the byte each time', async () => {
    const [a, b] = [await ship(ottern), await ship(ottern)]
    expect([...a.files!].map(([name, bytes]) => [name, Buffer.compare(bytes, b.files!.get(name)!)])).toEqual(
      [...b.files!.keys()].map((name) => [name, 0]),
    )
  })
})

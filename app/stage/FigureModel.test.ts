import { Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { build, reducerReady, type Clip } from '@idle-tinker/core'
import { demoKit, dressed, MAREN, demoTarget } from '../../packages/core/src/testing/demoKits.ts'
import { FigureModel } from './FigureModel.ts'
import { viewOf } from './testing/viewOf.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const recipe = dressed(folk, 'human', MAREN)

beforeAll(() => reducerReady)

const figureOf = (sliders: Record<string, number> = {}, colors: Record<string, string> = {}) =>
  build({ ...recipe, sliders, colors }, kits, demoTarget('near')).figure!
const at = (model: FigureModel, name: string) =>
  model.bones.find((b) => b.name === name)!.getWorldPosition(new Vector3())

describe('a figure on the stage', () => {
  it('is one mesh with one material, its bones where its joints are', () => {
    const figure = figureOf()
    const model = new FigureModel(viewOf(figure))
    expect(model.mesh.material.map).toBe(model.atlas)
    expect(model.bones).toHaveLength(45)
    for (const { name, at: joint } of figure.skeleton.bones)
      expect(at(model, name).distanceTo(new Vector3(...joint))).toBeLessThan(1e-5)
    model.dispose()
  })

  it('at rest stands as it was built: skinning moves nothing', () => {
    const figure = figureOf()
    const model = new FigureModel(viewOf(figure))
    const moved = new Vector3()
    for (let v = 0; v < 200; v += 7) {
      moved.fromBufferAttribute(model.mesh.geometry.getAttribute('position'), v)
      const before = moved.clone()
      model.mesh.applyBoneTransform(v, moved)
      expect(moved.distanceTo(before)).toBeLessThan(1e-4)
    }
    model.dispose()
  })

  it('takes on another shape in place, bones and box with it', () => {
    const model = new FigureModel(viewOf(figureOf()))
    const [low, head] = [model.mesh.geometry.boundingBox!.max.y, at(model, 'head').y]
    const geometry = model.mesh.geometry
    expect(model.update(viewOf(figureOf({ stature: 1 })))).toBe(true)
    expect(model.mesh.geometry).toBe(geometry)
    expect(model.mesh.geometry.boundingBox!.max.y).toBeGreaterThan(low + 0.05)
    expect(at(model, 'head').y).toBeGreaterThan(head + 0.05)
    model.dispose()
  })

  it('takes on other colors in place', () => {
    const model = new FigureModel(viewOf(figureOf()))
    const before = [...(model.atlas.image as { data: Uint8Array }).data]
    model.update(viewOf(figureOf({}, { coat: '#ff0000' })))
    expect([...(model.atlas.image as { data: Uint8Array }).data]).not.toEqual(before)
    model.dispose()
  })

  it('shuts its eyes as far as it is told and opens them to where they were', () => {
    const model = new FigureModel(viewOf(figureOf()))
    const positions = () => [...model.mesh.geometry.getAttribute('position').array]
    const open = positions()
    // before it has learned how, nothing moves
    model.shutEyes(1)
    expect(positions()).toEqual(open)
    model.setLids({
      vertices: Uint32Array.of(2, 5),
      offsets: Float32Array.of(0, -0.5, 0, 0.25, 0, 1),
      turns: new Float32Array(6),
    })
    model.shutEyes(0.5)
    const half = positions().map((v, i) => v - open[i]!)
    expect(half.flatMap((d, i) => (Math.abs(d) > 1e-6 ? [[i, Math.round(d * 1000) / 1000]] : []))).toEqual([
      [7, -0.25],
      [15, 0.125],
      [17, 0.5],
    ])
    model.setLids(null)
    expect(positions()).toEqual(open)
    model.setLids({ vertices: Uint32Array.of(2), offsets: Float32Array.of(1, 1, 1), turns: new Float32Array(3) })
    model.shutEyes(1)
    // another shape is another face
    const wide = viewOf(figureOf({ 'face-width': 1 }))
    model.update(wide)
    model.shutEyes(1)
    expect(positions()).toEqual([...wide.mesh.positions])
    // of a mesh with more vertices than this one it learns nothing
    model.setLids({ vertices: Uint32Array.of(1e6), offsets: Float32Array.of(1, 1, 1), turns: new Float32Array(3) })
    model.shutEyes(1)
    expect(positions()).toEqual([...wide.mesh.positions])
    model.dispose()
  })

  it('plays a clip that is sampled unevenly at its own times, and its face with it', () => {
    const figure = figureOf()
    const model = new FigureModel(viewOf(figure))
    const head = figure.skeleton.bones.findIndex((b) => b.name === 'head')
    const rotations = figure.skeleton.bones.map((_, b) =>
      // nodding by as many tenths at each sample
      b === head ? Float32Array.from([0, 1, 2, 3].flatMap((n) => [Math.sin(n / 20), 0, 0, Math.cos(n / 20)])) : null,
    )
    const root = Float32Array.from({ length: 12 }, (_, i) => figure.skeleton.bones[0]!.at[i % 3]!)
    const face = { names: ['happy', 'not-known'], shares: Float32Array.of(0, 0, 0, 0, 1, 0, 0, 0) }
    const clip: Clip = {
      ...{ id: 'x', name: 'X', duration: 1, loop: false, travel: 0, rotations, root, face },
      times: Float32Array.of(0, 0.7, 0.8, 1),
    }
    model.setFaces({
      happy: { vertices: Uint32Array.of(3), offsets: Float32Array.of(0, 1, 0), turns: new Float32Array(3) },
    })
    const [position, open] = [model.mesh.geometry.getAttribute('position'), viewOf(figure).mesh.positions[10]!]
    for (const [t, nod, up] of [
      [0.35, 0.05, 0],
      [0.75, 0.15, 0.5],
      [0.8, 0.2, 1],
      [0.1, 0.1 / 7, 0],
      [2, 0.3, 0],
    ] as const) {
      model.pose(clip, t)
      expect(2 * Math.asin(model.bones[head]!.quaternion.x), String(t)).toBeCloseTo(nod, 3)
      expect(position.array[10]! - open, String(t)).toBeCloseTo(up, 5)
    }
    model.pose(clip, 0.8)
    model.pose(null, 0)
    expect(position.array[10]).toBe(open)
    model.dispose()
  })

  it('asks for a new model when the mesh is another one', () => {
    const model = new FigureModel(viewOf(figureOf()))
    expect(model.update(viewOf(figureOf(), 'other'))).toBe(false)
    model.dispose()
  })

  it('comes back to its rest pose', () => {
    const model = new FigureModel(viewOf(figureOf()))
    const hand = at(model, 'leftHand')
    model.bones.find((b) => b.name === 'leftUpperArm')!.rotation.z = 1
    model.mesh.updateMatrixWorld(true)
    expect(at(model, 'leftHand').distanceTo(hand)).toBeGreaterThan(0.1)
    model.rest()
    model.mesh.updateMatrixWorld(true)
    expect(at(model, 'leftHand').distanceTo(hand)).toBeLessThan(1e-5)
    model.dispose()
  })
})

import { WebIO, type Document } from '@gltf-transform/core'
import { decode } from 'fast-png'
import { Matrix4, Quaternion, Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { build, Builder, type Figure } from '../build.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import { poseAt } from '../motion/Clip.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import { Surface } from '../mesh/Surface.ts'
import { setExpression } from '../recipe/expressions.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { LodExtension } from '../testing/LodExtension.ts'
import { ShippedFile } from './ShippedFile.ts'
import { wantedBy } from '../recipe/clips.ts'
import { clipsOf } from './clips.ts'
import { shipFigure } from './shipFigure.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const near = { ...TARGETS[0]!, keepSliders: ['belly'] }
const recipe = { ...dressed(folk, 'human', MAREN, { stature: 0.4, build: -0.3 }), colors: { coat: '#123456' } }

let document: Document
let figure: Figure

beforeAll(async () => {
  await reducerReady
  const { bytes } = await shipFigure(new Builder(kits), kits, recipe, near, { lods: true })
  document = await new WebIO().registerExtensions([LodExtension]).readBinary(bytes!)
  figure = build(recipe, kits, near, { reduce: true, lods: true }).figure!
})

const root = () => document.getRoot()
const finest = () =>
  root()
    .listNodes()
    .find((n) => n.getExtension('MSFT_lod'))!
const primitive = () => finest().getMesh()!.listPrimitives()[0]!
const joints = () => root().listSkins()[0]!.listJoints()

describe('what comes out of the file is what went in', () => {
  it('every vertex, normal and triangle', () => {
    const position = primitive().getAttribute('POSITION')!
    const normal = primitive().getAttribute('NORMAL')!
    const { mesh } = figure
    expect(position.getCount()).toBe(mesh.cornerPoints.length)
    const v = [0, 0, 0]
    mesh.cornerPoints.forEach((p, c) => {
      position.getElement(c, v)
      for (let k = 0; k < 3; k++) expect(v[k]).toBe(mesh.positions[p * 3 + k])
      normal.getElement(c, v)
      expect(Math.hypot(...v)).toBeCloseTo(1, 3)
    })
    expect([...primitive().getIndices()!.getArray()!]).toEqual([...mesh.indices])
  })

  it('the colors: every corner looks at its own swatch in the atlas', () => {
    const png = decode(root().listTextures()[0]!.getImage()!)
    const uv = primitive().getAttribute('TEXCOORD_0')!
    const at = [0, 0]
    const { mesh, atlas } = figure
    mesh.regions.forEach((region, corner) => {
      uv.getElement(corner, at)
      const o = (Math.floor(at[1]! * png.height) * png.width + Math.floor(at[0]! * png.width)) * png.channels
      const hex = [0, 1, 2].map((k) => png.data[o + k]!.toString(16).padStart(2, '0')).join('')
      expect(`#${hex}`).toBe(atlas.swatches[region])
    })
    expect(atlas.swatches).toContain('#123456')
  })

  it('the skeleton: joints where they stand, bind matrices that undo them', () => {
    const inverse = root().listSkins()[0]!.getInverseBindMatrices()!
    const element = Array.from({ length: 16 }, () => 0)
    joints().forEach((joint, i) => {
      const world = new Vector3().setFromMatrixPosition(new Matrix4().fromArray(joint.getWorldMatrix()))
      const at = figure.skeleton.bones[i]!.at
      expect(joint.getName()).toBe(figure.skeleton.bones[i]!.name)
      expect(world.distanceTo(new Vector3(...at))).toBeLessThan(1e-5)
      inverse.getElement(i, element)
      const both = new Matrix4().fromArray(joint.getWorldMatrix()).multiply(new Matrix4().fromArray(element))
      both.elements.forEach((v, k) => expect(v).toBeCloseTo(k % 5 === 0 ? 1 : 0, 5))
    })
  })

  it('the skin, to a byte', () => {
    const weights = primitive().getAttribute('WEIGHTS_0')!
    const indices = primitive().getAttribute('JOINTS_0')!
    const [w, j] = [
      [0, 0, 0, 0],
      [0, 0, 0, 0],
    ]
    const { mesh } = figure
    mesh.cornerPoints.forEach((p, c) => {
      weights.getElement(c, w)
      indices.getElement(c, j)
      expect(w.reduce((s, x) => s + x, 0)).toBeCloseTo(1, 6)
      for (let k = 0; k < 4; k++) {
        expect(Math.abs(w[k]! - mesh.weights[p * 4 + k]!)).toBeLessThan(2 / 255)
        if (w[k]! > 0.01) expect(j[k]).toBe(mesh.joints[p * 4 + k])
      }
    })
  })

  it('the kept slider: its clip brings every vertex and joint where the slider itself brings them', async () => {
    const keep = { ...near, keepSliders: ['belly', 'arms', 'stature'], keepExpressions: [] }
    const base = dressed(folk, 'human', MAREN, {})
    const { bytes } = await shipFigure(new Builder(kits), kits, base, keep, { lods: true })
    const file = new ShippedFile(bytes!)
    for (const [slider, value] of [
      ['belly', 1],
      ['arms', 1],
      ['arms', -1],
      ['stature', -1],
    ] as const) {
      const def = folk.bodies.get('human')!.def.sliders.find((s) => s.id === slider)!
      const name = value > 0 ? def.up : def.down!
      const clip = file.clips().find((c) => c.name === `slider ${name}`)!
      const moment = file.at({ clip, time: 1 })
      const whole = build({ ...base, sliders: { [slider]: value } }, kits, keep).figure!
      // joints: where those of a figure made with the slider stand
      const [first, ...coarser] = file.drawn()
      file.jointsOf(first!.skin!).forEach((joint, b) => {
        const at = new Vector3().setFromMatrixPosition(moment.world[joint]!)
        expect(at.distanceTo(new Vector3(...whole.skeleton.bones[b]!.at)), `${name} ${b}`).toBeLessThan(0.002)
      })
      // skin: every vertex on the surface of that figure, as far as cloth is not pushed clear anew
      const surface = new Surface(whole.mesh.positions, pointTriangles(whole.mesh))
      for (const level of [first!, ...coarser]) {
        const posed = file.posed(level, moment)
        const away = Array.from(
          { length: posed.length / 3 },
          (_, v) => surface.nearest(posed[v * 3]!, posed[v * 3 + 1]!, posed[v * 3 + 2]!)!.distance,
        ).sort((a, b) => a - b)
        expect(away[Math.floor(away.length * 0.95)]!, name).toBeLessThan(level === first ? 0.004 : 0.02)
      }
      // the slider did something, and its normals went along
      expect(first!.targets.every((t) => t.normals!.some((v) => v !== 0))).toBe(true)
      const still = file.posed(first!, file.at())
      const moved = file.posed(first!, moment)
      const most = still.reduce((m, v, i) => Math.max(m, Math.abs(v - moved[i]!)), 0)
      expect(most).toBeGreaterThan(0.02)
    }
  })

  it('the expressions: each brings the face from the one it has to where that face is made', async () => {
    const { def } = folk.bodies.get('human')!
    const grim = setExpression(dressed(folk, 'human', MAREN, {}), def, 'grim')
    const { bytes } = await shipFigure(new Builder(kits), kits, grim, { ...near, keepSliders: [] }, { lods: false })
    const file = new ShippedFile(bytes!)
    const names = (await new WebIO().readBinary(bytes!)).getRoot().listMeshes()[0]!.getExtras().targetNames as string[]
    const [drawn] = file.drawn()
    // the face it has already is no way to go
    expect(names).not.toContain('grim')
    expect(file.clips().some((c) => c.name.startsWith('slider'))).toBe(false)
    for (const id of ['glad', 'shouting', 'blink-right', 'look-left']) {
      const { preset } = def.expressions!.find((e) => e.id === id)!
      const moment = file.at()
      moment.weights.set(
        drawn!.node,
        names.map((n) => (n === (preset ?? id) ? 1 : 0)),
      )
      const face = build(setExpression(grim, def, id), kits, near).figure!
      const surface = new Surface(face.mesh.positions, pointTriangles(face.mesh))
      const [still, posed] = [file.posed(drawn!, file.at()), file.posed(drawn!, moment)]
      const away: number[] = []
      let most = 0
      for (let v = 0; v < posed.length; v += 3) {
        const [x, y, z] = [posed[v]!, posed[v + 1]!, posed[v + 2]!]
        most = Math.max(most, Math.hypot(x - still[v]!, y - still[v + 1]!, z - still[v + 2]!))
        if (y > 1.45 && z > 0.05) away.push(surface.nearest(x, y, z)!.distance)
      }
      away.sort((a, b) => a - b)
      // reduction has moved a few points of a face by a millimetre or two
      expect(away[Math.floor(away.length * 0.95)]!, id).toBeLessThan(0.002)
      expect(most, id).toBeGreaterThan(0.004)
    }
  })

  it('the clips: every bone turns as it was fitted, within a tenth of a degree or so', () => {
    const going = clipsOf(figure, kits, recipe, wantedBy(near))
    expect(going.map((c) => c.name)).toEqual(['Idle', 'Walk'])
    for (const fitted of going) {
      const animation = root()
        .listAnimations()
        .find((a) => a.getName() === fitted.name)!
      for (const time of [0, 0.21, 0.5].map((f) => f * fitted.duration)) {
        const { turns } = poseAt(fitted, time)
        for (const channel of animation.listChannels()) {
          if (channel.getTargetPath() !== 'rotation') continue
          const bone = joints().indexOf(channel.getTargetNode()!)
          const input = channel.getSampler()!.getInput()!.getArray()!
          const output = channel.getSampler()!.getOutput()!
          const next = Math.max(
            1,
            [...input].findIndex((t) => t >= time),
          )
          const f = (time - input[next - 1]!) / (input[next]! - input[next - 1]!)
          const at = (i: number) => new Quaternion().fromArray(output.getElement(i, [0, 0, 0, 0]))
          const turn = at(next - 1).slerp(at(next), f)
          const own = new Quaternion().fromArray(turns, bone * 4)
          expect((turn.angleTo(own) * 180) / Math.PI).toBeLessThan(0.4)
        }
      }
    }
  })

  it('the coarser levels, each with the same skin and material', () => {
    const nodes = finest().getExtension<import('../testing/LodExtension.ts').Levels>('MSFT_lod')!.listNodes()
    expect(nodes.map((n) => n.getMesh()!.listPrimitives()[0]!.getIndices()!.getCount() / 3)).toEqual(
      figure.lods.map((m) => m.indices.length / 3),
    )
    for (const node of nodes) {
      expect(node.getSkin()).toBe(finest().getSkin())
      expect(node.getMesh()!.listPrimitives()[0]!.getMaterial()).toBe(primitive().getMaterial())
    }
  })
})

import { encode } from 'fast-png'
import { Matrix4, Mesh, Vector3, type Object3D } from 'three'
import { ColladaLoader } from 'three/addons/loaders/ColladaLoader.js'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { readPack } from '../pack/readPack.ts'
import { createRandom } from '../recipe/random.ts'
import type { Convention, Target } from '../recipe/target.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { shipFormats } from '../ship/shipFormats.ts'
import { conventionAxes } from '../ship/conventionAxes.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { farthest, useLoaders } from '../testing/loaders.ts'
import { spent } from '../testing/spent.ts'
import { samples } from '../testing/thorough.ts'
import { colladaScene } from './colladaScene.ts'
import { placedMeshes } from './placedMeshes.ts'

useLoaders()

/** A list of numbers with its name, so many to each. */
const list = (id: string, values: string, stride = 3) =>
  `<source id="${id}"><float_array id="${id}-a" count="0">${values}</float_array>` +
  `<technique_common><accessor source="#${id}-a" stride="${stride}"/></technique_common></source>`

/** A yard of cloth, an arrow and a fan, each by another kind of faces: nine units wide, in the plane of x and y. */
const SHEET = `<geometry id="sheet" name="Sheet"><mesh>
  ${list('at', '0 0 0  1 0 0  1 1 0  0 1 0   2 0 0  4 1 0  2 2 0  3 1 0   5 0 0  6 0 0  7 1 0  6 2 0  5 2 0   8 0 0 9 0 0 8 1 0 9 1 0')}
  ${list('out', '0 0 1')}
  ${list('uv', '0 0  1 0  1 1  0 1', 2)}
  <vertices id="points"><input semantic="POSITION" source="#at"/></vertices>
  <polylist material="cloth" count="1">
    <input semantic="VERTEX" source="#points" offset="0"/><input semantic="NORMAL" source="#out" offset="1"/>
    <input semantic="TEXCOORD" source="#uv" offset="2" set="0"/>
    <vcount>4</vcount><p>0 0 0  1 0 1  2 0 2  3 0 3</p>
  </polylist>
  <polygons material="red" count="2"><input semantic="VERTEX" source="#points" offset="0"/><p>4 5 6 7</p><p>8 9 10 11 12</p></polygons>
  <tristrips material="red" count="1"><input semantic="VERTEX" source="#points" offset="0"/><p>13 14 15 16</p></tristrips>
</mesh></geometry>`
const LOOKS = `<library_images><image id="img"><init_from>file:///weave.png</init_from></image></library_images>
<library_effects><effect id="red-fx"><profile_COMMON><technique sid="t"><lambert><diffuse><color>0.8 0.1 0.1 1</color></diffuse></lambert></technique></profile_COMMON></effect>
<effect id="cloth-fx"><profile_COMMON><newparam sid="surf"><surface type="2D"><init_from>img</init_from></surface></newparam>
<newparam sid="samp"><sampler2D><source>surf</source></sampler2D></newparam>
<technique sid="t"><lambert><diffuse><texture texture="samp" texcoord="UV"/></diffuse></lambert></technique></profile_COMMON></effect></library_effects>
<library_materials><material id="m1" name="Sailcloth"><instance_effect url="#cloth-fx"/></material>
<material id="m2" name="Red lead"><instance_effect url="#red-fx"/></material></library_materials>`
const bind = (s: string, m: string) => `<instance_material symbol="${s}" target="#${m}"/>`
const MATERIALS = `<bind_material><technique_common>${bind('cloth', 'm1')}${bind('red', 'm2')}</technique_common></bind_material>`
const file = (geometry: string, node: string, head = '<unit meter="0.5"/><up_axis>Y_UP</up_axis>') =>
  `<?xml version="1.0"?><COLLADA version="1.4.1"><asset>${head}</asset>${LOOKS}<library_geometries>${geometry}</library_geometries>
  <library_visual_scenes><visual_scene id="s">${node}</visual_scene></library_visual_scenes><scene><instance_visual_scene url="#s"/></scene></COLLADA>`
const NODE = `<node id="hung" name="Hung"><translate>0 2 0</translate><rotate>0 0 1 90</rotate><scale>2 2 2</scale>
  <instance_geometry url="#sheet">${MATERIALS}</instance_geometry></node>`

/** All corners of all triangles, in the world, xyz each. */
function cornersOf(text: string): Float64Array {
  const { value, problems } = colladaScene(text, 'x.dae', () => ({ image: new Uint8Array([1]), mimeType: 'image/png' }))
  expect(problems).toEqual([])
  return Float64Array.from(
    placedMeshes(value!).primitives.flatMap(({ indices, positions }) =>
      [...indices].flatMap((v) => [...positions.subarray(v * 3, v * 3 + 3)]),
    ),
  )
}

/** The same as three.js has it. */
function cornersByThree(text: string): Float64Array {
  const { scene } = new ColladaLoader().parse(text, '') as unknown as { scene: Object3D }
  scene.updateMatrixWorld(true)
  const out: number[] = []
  scene.traverse((o) => {
    if (!(o instanceof Mesh)) return
    const at = (o as Mesh).geometry.getAttribute('position')
    for (let i = 0; i < at.count; i++)
      out.push(...new Vector3().fromBufferAttribute(at, i).applyMatrix4(o.matrixWorld).toArray())
  })
  return Float64Array.from(out)
}

function area(corners: Float64Array): number {
  let sum = 0
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()]
  for (let i = 0; i < corners.length; i += 9) {
    a.fromArray(corners, i)
    b.fromArray(corners, i + 3).sub(a)
    c.fromArray(corners, i + 6).sub(a)
    sum += b.cross(c).length() / 2
  }
  return sum
}

describe('the meshes of a COLLADA file', () => {
  it.each([
    ['Y up', '<unit meter="0.5"/><up_axis>Y_UP</up_axis>'],
    ['Z up, in inches', '<unit meter="0.0254"/><up_axis>Z_UP</up_axis>'],
    ['of which it says nothing', ''],
  ])('stand where three.js has them: %s', (_, head) => {
    // three.js knows neither polygons one by one nor strips
    const known = SHEET.replace(/<polygons.*<\/tristrips>/s, '')
    const text = file(known, NODE, head)
    const [ours, theirs] = [cornersOf(text), cornersByThree(text)]
    expect(ours.length).toBe(2 * 9)
    expect(farthest(ours, theirs)).toBeLessThan(1e-6)
    expect(farthest(theirs, ours)).toBeLessThan(1e-6)
  })

  it('are made of triangles that fill what their polygons do, faces out', () => {
    const corners = cornersOf(file(SHEET, NODE.replace(/<translate>.*<\/scale>/s, ''), '<unit meter="1"/>'))
    // a square of 1, an arrow of 1, a house on its side of 3.5 (shoelace), two strips of 0.5
    expect(corners.length / 9).toBe(2 + 2 + 3 + 2)
    expect(area(corners)).toBeCloseTo(1 + 1 + 3 + 1, 6)
    for (let i = 0; i < corners.length; i += 9) {
      const [a, b, c] = [0, 3, 6].map((k) => new Vector3().fromArray(corners, i + k)) as [Vector3, Vector3, Vector3]
      expect(b.sub(a).cross(c.sub(a)).z, `triangle ${i / 9}`).toBeGreaterThan(0)
    }
  })

  it('stand wherever nodes stand for theirs, and of several scenes in the one that is shown', () => {
    // of a node with nothing besides, three.js makes one with what it stands for, and loses where that stands
    const twice = '<node id="a"><translate>5 0 0</translate><instance_node url="#hung"/><node id="c"/></node><node id="b"><instance_node url="#hung"/><node id="d"/></node>' // prettier-ignore
    const known = SHEET.replace(/<polygons.*<\/tristrips>/s, '')
    const text = file(known, twice)
      .replace('<library_visual_scenes>', `<library_nodes>${NODE}</library_nodes><library_visual_scenes>`)
      .replace('</library_visual_scenes>', `<visual_scene id="other">${NODE.replace('hung', 'h2')}</visual_scene></library_visual_scenes>`) // prettier-ignore
    const [ours, theirs] = [cornersOf(text), cornersByThree(text)]
    expect(ours.length).toBe(2 * 2 * 9)
    expect(farthest(ours, theirs)).toBeLessThan(1e-6)
    expect(farthest(theirs, ours)).toBeLessThan(1e-6)
    // nodes that stand for two of the next, and these again
    const many = Array.from({ length: 16 }, (_, i) => `<node id="n${i}">${`<instance_node url="#n${i + 1}"/>`.repeat(2)}</node>`) // prettier-ignore
    const grown = file(known, '<node id="top"><instance_node url="#n0"/></node>').replace('<library_visual_scenes>', `<library_nodes>${many.join('')}</library_nodes><library_visual_scenes>`) // prettier-ignore
    expect(colladaScene(grown, 'x').problems.map((p) => p.code)).toEqual(['collada-large'])
  })

  it('hang on their own skeleton, where another has joints of the same name', () => {
    const one = '1 0 0 0  0 1 0 0  0 0 1 0  0 0 0 1'
    const joint = (id: string, x: number) => `<node id="${id}" sid="Bone" type="JOINT"><translate>${x} 0 0</translate></node>` // prettier-ignore
    const skin = `<library_controllers><controller id="c"><skin source="#sheet"><source id="names"><Name_array count="1">Bone</Name_array></source>
      ${list('binds', one, 16)}${list('shares', '1', 1)}<joints><input semantic="JOINT" source="#names"/><input semantic="INV_BIND_MATRIX" source="#binds"/></joints>
      <vertex_weights count="17"><input semantic="JOINT" source="#names" offset="0"/><input semantic="WEIGHT" source="#shares" offset="1"/>
      <vcount>${'1 '.repeat(17)}</vcount><v>${'0 0 '.repeat(17)}</v></vertex_weights></skin></controller></library_controllers>`
    const worn = (id: string) => `<node><instance_controller url="#c"><skeleton>#${id}</skeleton>${MATERIALS}</instance_controller></node>` // prettier-ignore
    const text = file(SHEET, `${joint('first', 0)}${joint('second', 40)}${worn('first')}${worn('second')}`).replace('<library_visual_scenes>', `${skin}<library_visual_scenes>`) // prettier-ignore
    const corners = cornersOf(text)
    const least = (from: number) => corners.subarray(from, from + corners.length / 2).reduce((m, v, i) => (i % 3 ? m : Math.min(m, v)), Infinity) // prettier-ignore
    // half a metre to the unit
    expect([least(0), least(corners.length / 2)]).toEqual([0, 20])
  })

  it('have the colors and the pictures of their materials, turned as glTF has them', async () => {
    const pixels = new Uint8Array(4 * 4 * 3).map((_, i) => (i % 3 === 2 ? 220 : 20))
    const png = encode({ width: 4, height: 4, data: pixels, channels: 3 })
    const asked: string[] = []
    const { value, problems } = colladaScene(file(SHEET, NODE), 'x.dae', (name) => {
      asked.push(name)
      return { image: png, mimeType: 'image/png' }
    })
    expect([problems, asked]).toEqual([[], ['weave.png']])
    const materials = value!.getRoot().listMaterials()
    expect(materials.map((m) => [m.getName(), m.getBaseColorTexture()?.getMimeType() ?? null])).toEqual([
      ['Sailcloth', 'image/png'],
      ['Red lead', null],
    ])
    // 0.8 as it is shown, so much as light
    expect(materials[1]!.getBaseColorFactor()[0]).toBeCloseTo(0.604, 2)
    const uv = value!.getRoot().listMeshes()[0]!.listPrimitives()[0]!.getAttribute('TEXCOORD_0')!
    expect([...uv.getArray()!]).toEqual([0, 1, 1, 1, 1, 0, 0, 0])
    const pack = await readPack(new Map([['yard.dae', new TextEncoder().encode(file(SHEET, NODE))], ['weave.png', png]])) // prettier-ignore
    expect(pack.problems).toEqual([])
    expect(pack.value!.pieces.map((p) => p.names)).toEqual([['yard', 'Hung', 'Sheet']])
    const missing = await readPack(new Map([['yard.dae', new TextEncoder().encode(file(SHEET, NODE))]]))
    expect(missing.problems.map((p) => p.code)).toContain('collada-left')
  })
})

describe('a figure shipped as COLLADA', async () => {
  const folk = await demoKit('saltwick-folk')
  const kits = new Map([[folk.manifest.id, folk]])
  const builder = new Builder(kits)
  const recipe = dressed(folk, 'human', MAREN)
  const near: Target = { ...TARGETS[0]!, lods: [], keepClips: [], keepExpressions: ['glad', 'blink-left'] }
  const ship = async (format: 'dae' | 'glb', convention: Partial<Convention>) => {
    const target = { ...near, convention: { ...near.convention, ...convention } }
    const [made] = await shipFormats(builder, kits, recipe, target, [format], { lods: false, stem: 'it' })
    return { target, files: made!.files! }
  }

  it.each<[string, Partial<Convention>]>([
    ['by ours', {}],
    ['in centimetres, z up, arms out, with a root', { unit: 0.01, up: '+z', front: '-y', rest: 't', root: 'Root' }],
    ['in inches, x up', { unit: 0.0254, up: '+x', front: '+z' }],
  ])('comes back with every triangle, joint, weight and face: %s', async (_, convention) => {
    const { files, target } = await ship('dae', convention)
    const text = new TextDecoder().decode(files.get('it-morphs.dae'))
    const read = colladaScene(text, 'it-morphs.dae', (name) => ({ image: files.get(name)!, mimeType: 'image/png' }))
    expect(read.problems).toEqual([])
    const { primitives, joints, faults } = placedMeshes(read.value!)
    expect(faults).toEqual([])
    const [placed] = primitives
    expect(primitives).toHaveLength(1)
    const glb = new ShippedFile((await ship('glb', { rest: target.convention.rest })).files.get('it.glb')!)
    const [drawn] = glb.drawn()
    expect(placed!.indices).toHaveLength(drawn!.triangles.length)
    // what stands upright in metres here stood by the file's own axes there; it faces as that says
    const { point } = conventionAxes(target.convention)!
    const up = new Matrix4()
    if (convention.up === '+z') up.makeRotationX(-Math.PI / 2)
    if (convention.up === '+x') up.makeRotationZ(Math.PI / 2)
    const ours = Float64Array.from({ length: drawn!.positions.length }, () => 0)
    const posed = glb.posed(drawn!, glb.at())
    for (let i = 0; i < posed.length; i += 3)
      new Vector3(...point(posed[i]!, posed[i + 1]!, posed[i + 2]!))
        .multiplyScalar(target.convention.unit)
        .applyMatrix4(up)
        .toArray(ours, i)
    const there = Float64Array.from(placed!.positions)
    // seven digits of metres, or of what is forty times as many
    expect(farthest(there, ours)).toBeLessThan(1e-4)
    expect(farthest(ours, there)).toBeLessThan(1e-4)
    const held = new Set([...drawn!.joints!].filter((_, i) => drawn!.weights![i]! > 0))
    expect(new Set([...placed!.joints!].filter((_, i) => placed!.weights![i]! > 0)).size).toBe(held.size)
    expect(joints.length).toBeGreaterThanOrEqual(held.size)
    expect(placed!.morphs.map((m) => m.name)).toEqual(
      (glb.json as { meshes?: { extras?: { targetNames?: string[] } }[] }).meshes![0]!.extras!.targetNames,
    )
    const most = (values: Iterable<number>) => [...values].reduce((m, v) => Math.max(m, Math.abs(v)), 0)
    for (const [m, { deltas }] of placed!.morphs.entries())
      expect(most(deltas!), placed!.morphs[m]!.name).toBeCloseTo(most(drawn!.targets[m]!.positions!), 2)
  })
})

describe('odd COLLADA', () => {
  const whole = file(SHEET, NODE)
  it.each<[string, string, string]>([
    ['no XML', 'collada-xml', whole.replace('</mesh>', '')],
    ['something else', 'collada-foreign', '<svg/>'],
    ['a word among numbers', 'collada-values', whole.replace('0 0 0  1 0 0', '0 0 zero  1 0 0')],
    ['no places', 'collada-places', whole.replace('source="#at"/></vertices>', 'source="#nowhere"/></vertices>')],
    ['a corner that is not there', 'collada-index', whole.replace('<p>4 5 6 7</p>', '<p>4 5 6 99</p>')],
    ['a corner below nothing', 'collada-index', whole.replace('<p>4 5 6 7</p>', '<p>4 5 6 -1</p>')],
    ['a corner between two', 'collada-index', whole.replace('<p>4 5 6 7</p>', '<p>4 5 6 1.5</p>')],
    ['fewer corners than it says', 'collada-index', whole.replace('<vcount>4</vcount>', '<vcount>40</vcount>')],
    ['a stride that cannot be', 'collada-values', whole.replace('stride="3"', 'stride="0"')],
    ['an offset that cannot be', 'collada-values', whole.replace('offset="1"', 'offset="1e9"')],
    ['a node that stands for itself', 'collada-ring', whole.replace('</node>', '<instance_node url="#hung"/></node>')],
    ['a node that stands nowhere', 'collada-values', whole.replace('<scale>2 2 2</scale>', '<scale>2 2</scale>')],
  ])('is told, of %s', (_, code, text) => {
    const { value, problems } = colladaScene(text, 'odd.dae')
    expect([value, problems.map((p) => p.code)]).toEqual([null, [code]])
  })

  it.each([
    ['a unit of nothing', whole.replace('meter="0.5"', 'meter="0"')],
    ['a geometry that hangs nowhere', whole.replace('url="#sheet"', 'url="#other"')],
    ['an effect that is not there', whole.replace('url="#red-fx"', 'url="#none"')],
    ['a controller that is its own source', whole.replace('<library_visual_scenes>', '<library_controllers><controller id="c"><morph source="#c"/></controller></library_controllers><library_visual_scenes>').replace('</node>', '<instance_controller url="#c"/></node>')], // prettier-ignore
    ['nodes that stand for what is not there', whole.replace('</node>', '<instance_node url="#none"/></node>')],
    ['a sampler that names itself', whole.replace('<source>surf</source>', '<source>samp</source>')],
  ])('is read as far as it goes, of %s', (_, text) => {
    const { value, problems } = colladaScene(text, 'odd.dae')
    expect(value).not.toBeNull()
    expect(problems.every((p) => p.severity === 'warning')).toBe(true)
    expect(() => placedMeshes(value!)).not.toThrow()
  })

  it('is read in time, of faces one by one, of many runs over one list, and of more points than fit in a call', () => {
    const many = 150_000
    const places = Array.from({ length: many }, (_, i) => `${i % 400} ${Math.floor(i / 400)} 0`).join(' ')
    const wide = `<geometry id="sheet" name="Sheet"><mesh>${list('at', places)}
      <vertices id="points"><input semantic="POSITION" source="#at"/></vertices>`
    const over = '<input semantic="VERTEX" source="#points" offset="0"/>'
    const each = Array.from({ length: many - 402 }, (_, i) => `<p>${i} ${i + 1} ${i + 401}</p>`)
    const one = `${wide}<polygons count="0">${over}${each.join('')}</polygons></mesh></geometry>`
    const runs = Array.from({ length: 400 }, (_, i) => `<triangles count="1">${over}<p>${i} ${i + 1} ${i + 401}</p></triangles>`) // prettier-ignore
    for (const [geometry, triangles] of [
      [one, each.length],
      [`${wide}${runs.join('')}</mesh></geometry>`, runs.length],
    ] as const) {
      let corners = 0
      // on a machine that does much besides: some seconds alone, minutes where each list is read for each run
      const seconds = spent(() => {
        const { value } = colladaScene(file(geometry, NODE), 'wide.dae')
        for (const mesh of value!.getRoot().listMeshes())
          for (const p of mesh.listPrimitives()) corners += p.getIndices()!.getCount()
      })
      expect([corners, seconds < 20]).toEqual([triangles * 3, true])
    }
  })

  it('never throws, whatever of it is changed', async () => {
    const random = createRandom(11)
    const bits = ['', '0', '-1', '1e99', '99999999', '#at', '<p>', '"', '>', 'NaN', '#sheet', '4 4 4']
    for (let n = 0; n < samples(150, 2000); n++) {
      let text = whole
      for (let k = 0; k < 3; k++) {
        const at = Math.floor(random.next() * text.length)
        const bit = bits[Math.floor(random.next() * bits.length)]!
        text = text.slice(0, at) + bit + text.slice(at + Math.floor(random.next() * 12))
      }
      const { value, problems } = await readPack(new Map([['it.dae', new TextEncoder().encode(text)]]))
      expect(value !== null || problems.length > 0).toBe(true)
    }
  })
})

import { Document, WebIO, type Node } from '@gltf-transform/core'
import type { BodyPlan } from '../kit/plan.ts'
import type { KitManifest } from '../kit/schema.ts'

/*
 * A kit with a small four-legged body and a tail, made here: nothing in it is called as in the demo
 * kits. And a second kit, of parts alone, for the body of the first.
 */

type V3 = [number, number, number]

interface Shape {
  positions: number[]
  triangles: number[]
  /** The two bones that share each point, and the first one's share. */
  skin: [bone: string, other: string, share: number][]
}

const HIND_Z = -0.36
const FORE_Z = 0.34
const SIDES = [
  ['port', 0.11],
  ['star', -0.11],
] as const

/** Joints at rest, metres. The goat looks along +z. */
const JOINTS: Record<string, V3> = {
  croup: [0, 0.6, HIND_Z],
  loin: [0, 0.62, -0.1],
  withers: [0, 0.63, 0.2],
  nape: [0, 0.7, 0.46],
  skull: [0, 0.86, 0.58],
  brush1: [0, 0.62, -0.48],
  brush2: [0, 0.56, -0.6],
  brush3: [0, 0.48, -0.7],
  ...Object.fromEntries(
    SIDES.flatMap(([side, x]): [string, V3][] => [
      [`${side}Ham`, [x, 0.52, HIND_Z]],
      [`${side}Hock`, [x, 0.28, HIND_Z - 0.03]],
      [`${side}HindHoof`, [x, 0.07, HIND_Z]],
      [`${side}Blade`, [x, 0.52, FORE_Z]],
      [`${side}Knee`, [x, 0.28, FORE_Z + 0.01]],
      [`${side}ForeHoof`, [x, 0.07, FORE_Z]],
    ]),
  ),
}

const GRAZER: BodyPlan = {
  id: 'grazer',
  name: 'Four legs and a tail',
  bones: [
    { name: 'croup', parent: null, level: 'crowd' },
    { name: 'loin', parent: 'croup', level: 'crowd' },
    { name: 'withers', parent: 'loin', level: 'crowd' },
    { name: 'nape', parent: 'withers', level: 'crowd' },
    { name: 'skull', parent: 'nape', level: 'crowd' },
    { name: 'brush1', parent: 'croup', level: 'crowd' },
    { name: 'brush2', parent: 'brush1', level: 'standard' },
    { name: 'brush3', parent: 'brush2', level: 'near' },
    ...SIDES.flatMap(([side]) => [
      { name: `${side}Ham`, parent: 'croup', level: 'crowd' as const },
      { name: `${side}Hock`, parent: `${side}Ham`, level: 'crowd' as const },
      { name: `${side}HindHoof`, parent: `${side}Hock`, level: 'crowd' as const },
      { name: `${side}Blade`, parent: 'withers', level: 'crowd' as const },
      { name: `${side}Knee`, parent: `${side}Blade`, level: 'crowd' as const },
      { name: `${side}ForeHoof`, parent: `${side}Knee`, level: 'crowd' as const },
    ]),
  ],
  pairs: ['Ham', 'Hock', 'HindHoof', 'Blade', 'Knee', 'ForeHoof'].map((stem) => ({
    id: stem.toLowerCase(),
    left: `port${stem}`,
    right: `star${stem}`,
  })),
  limbs: [
    ...SIDES.flatMap(([side], i) => [
      {
        id: `${side}Hind`,
        kind: 'leg' as const,
        side: i === 0 ? ('left' as const) : ('right' as const),
        bones: [`${side}Ham`, `${side}Hock`, `${side}HindHoof`],
        channels: ['ham', 'hock', 'hindhoof'],
        phase: i * 0.5,
        // hocks bend backward
        pole: [0, 0, -1] as V3,
      },
      {
        id: `${side}Fore`,
        kind: 'leg' as const,
        side: i === 0 ? ('left' as const) : ('right' as const),
        bones: [`${side}Blade`, `${side}Knee`, `${side}ForeHoof`],
        channels: ['blade', 'knee', 'forehoof'],
        phase: (i * 0.5 + 0.5) % 1,
      },
    ]),
    { id: 'brush', kind: 'tail', bones: ['brush1', 'brush2', 'brush3'], channels: ['brush'], lag: 0.1 },
  ],
  ground: SIDES.flatMap(([side]) => [`${side}HindHoof`, `${side}ForeHoof`]),
  poses: [
    {
      id: 'trot',
      name: 'A long trot',
      turns: { portHam: [-30, 0, 0], starHam: [30, 0, 0], portBlade: [30, 0, 0], starBlade: [-30, 0, 0] },
    },
  ],
}

/** A closed tube along a way: rings of `sides` points, a share of each bone at each ring. */
function tube(way: readonly { at: V3; radius: number; bones: [string, string, number] }[], sides = 8): Shape {
  const shape: Shape = { positions: [], triangles: [], skin: [] }
  way.forEach(({ at, radius, bones }, i) => {
    const [from, to] = [way[Math.max(0, i - 1)]!.at, way[Math.min(way.length - 1, i + 1)]!.at]
    const along = to.map((v, k) => v - from[k]!)
    const upright = Math.abs(along[1]!) > Math.hypot(along[0]!, along[2]!)
    for (let s = 0; s < sides; s++) {
      const a = (s / sides) * 2 * Math.PI
      const [u, v] = [Math.cos(a) * radius, Math.sin(a) * radius]
      // rings lie level about upright ways, and stand across level ones, wound alike
      const p: V3 = upright
        ? [at[0] + u, at[1], at[2] - v * Math.sign(along[1]!)]
        : [at[0] + u, at[1] + v * Math.sign(along[2]!), at[2]]
      shape.positions.push(...p)
      shape.skin.push(bones)
    }
  })
  const ring = (i: number, s: number) => i * sides + (s % sides)
  for (let i = 0; i + 1 < way.length; i++)
    for (let s = 0; s < sides; s++) {
      const [a, b, c, d] = [ring(i, s), ring(i, s + 1), ring(i + 1, s + 1), ring(i + 1, s)]
      shape.triangles.push(a, b, c, a, c, d)
    }
  for (const [i, turned] of [
    [0, true],
    [way.length - 1, false],
  ] as const) {
    const middle = shape.positions.length / 3
    shape.positions.push(...way[i]!.at)
    shape.skin.push(way[i]!.bones)
    for (let s = 0; s < sides; s++) {
      const [a, b] = [ring(i, s), ring(i, s + 1)]
      shape.triangles.push(...(turned ? [middle, b, a] : [middle, a, b]))
    }
  }
  return shape
}

function joined(...shapes: Shape[]): Shape {
  const all: Shape = { positions: [], triangles: [], skin: [] }
  for (const { positions, triangles, skin } of shapes) {
    const base = all.positions.length / 3
    all.triangles.push(...triangles.map((t) => t + base))
    all.positions.push(...positions)
    all.skin.push(...skin)
  }
  return all
}

function goat(): Shape {
  const trunk = tube(
    [
      { at: [0, 0.58, -0.5], radius: 0.09, bones: ['croup', 'loin', 1] },
      { at: [0, 0.59, -0.4], radius: 0.17, bones: ['croup', 'loin', 1] },
      { at: [0, 0.59, -0.2], radius: 0.19, bones: ['croup', 'loin', 0.6] },
      { at: [0, 0.59, 0], radius: 0.2, bones: ['loin', 'withers', 0.7] },
      { at: [0, 0.6, 0.2], radius: 0.19, bones: ['withers', 'loin', 0.7] },
      { at: [0, 0.61, 0.36], radius: 0.16, bones: ['withers', 'nape', 1] },
      { at: [0, 0.62, 0.46], radius: 0.08, bones: ['withers', 'nape', 0.8] },
    ],
    12,
  )
  const neck = tube([
    { at: [0, 0.62, 0.4], radius: 0.09, bones: ['withers', 'nape', 0.7] },
    { at: [0, 0.74, 0.46], radius: 0.08, bones: ['nape', 'skull', 1] },
    { at: [0, 0.86, 0.52], radius: 0.07, bones: ['nape', 'skull', 0.5] },
  ])
  const head = tube([
    { at: [0, 0.88, 0.48], radius: 0.06, bones: ['skull', 'nape', 1] },
    { at: [0, 0.88, 0.56], radius: 0.1, bones: ['skull', 'nape', 1] },
    { at: [0, 0.86, 0.7], radius: 0.07, bones: ['skull', 'nape', 1] },
    { at: [0, 0.85, 0.78], radius: 0.03, bones: ['skull', 'nape', 1] },
  ])
  const brush = tube(
    [
      { at: [0, 0.62, -0.46], radius: 0.04, bones: ['brush1', 'croup', 0.6] },
      { at: [0, 0.57, -0.58], radius: 0.04, bones: ['brush1', 'brush2', 0.6] },
      { at: [0, 0.5, -0.68], radius: 0.035, bones: ['brush2', 'brush3', 0.6] },
      { at: [0, 0.42, -0.78], radius: 0.015, bones: ['brush3', 'brush2', 1] },
    ],
    6,
  )
  const legs = SIDES.flatMap(([side, x]) =>
    (
      [
        [HIND_Z, 'Ham', 'Hock', 'HindHoof', 'croup'],
        [FORE_Z, 'Blade', 'Knee', 'ForeHoof', 'withers'],
      ] as const
    ).map(([z, upper, lower, hoof, trunkBone]) =>
      tube([
        { at: [x, 0.6, z], radius: 0.075, bones: [`${side}${upper}`, trunkBone, 0.6] },
        { at: [x, 0.45, z], radius: 0.065, bones: [`${side}${upper}`, trunkBone, 1] },
        { at: [x, 0.28, z], radius: 0.045, bones: [`${side}${upper}`, `${side}${lower}`, 0.5] },
        { at: [x, 0.14, z], radius: 0.04, bones: [`${side}${lower}`, `${side}${hoof}`, 1] },
        { at: [x, 0.07, z], radius: 0.045, bones: [`${side}${lower}`, `${side}${hoof}`, 0.5] },
        { at: [x, 0, z], radius: 0.055, bones: [`${side}${hoof}`, `${side}${lower}`, 1] },
      ]),
    ),
  )
  return joined(trunk, neck, head, brush, ...legs)
}

interface GlbOptions {
  material: string
  morphs?: Record<string, (p: V3) => V3>
  /** Joints to skin to, by name, with their places; the root first. */
  joints?: Record<string, V3>
  /** A picture for the material, and where each point lies in it. */
  picture?: { png: Uint8Array; uv: (p: V3) => [number, number] }
}

/** A shape as a GLB, its skin on joints that stand by themselves. */
async function glbOf(shape: Shape, { material, morphs = {}, joints, picture }: GlbOptions): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const accessor = (
    type: 'SCALAR' | 'VEC2' | 'VEC3' | 'VEC4',
    array: Float32Array<ArrayBuffer> | Uint16Array<ArrayBuffer>,
  ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  const points = Array.from(
    { length: shape.positions.length / 3 },
    (_, p) => shape.positions.slice(p * 3, p * 3 + 3) as V3,
  )
  const paint = document.createMaterial(material)
  if (picture) paint.setBaseColorTexture(document.createTexture('t').setImage(picture.png).setMimeType('image/png'))
  const primitive = document
    .createPrimitive()
    .setMaterial(paint)
    .setIndices(accessor('SCALAR', Uint16Array.from(shape.triangles)))
    .setAttribute('POSITION', accessor('VEC3', Float32Array.from(shape.positions)))
  if (picture)
    primitive.setAttribute('TEXCOORD_0', accessor('VEC2', Float32Array.from(points.flatMap((p) => picture.uv(p)))))
  for (const [name, move] of Object.entries(morphs))
    primitive.addTarget(
      document
        .createPrimitiveTarget(name)
        .setAttribute('POSITION', accessor('VEC3', Float32Array.from(points.flatMap(move)))),
    )
  const mesh = document.createMesh('mesh').addPrimitive(primitive)
  if (Object.keys(morphs).length) mesh.setExtras({ targetNames: Object.keys(morphs) })
  const node = document.createNode('mesh').setMesh(mesh)
  const scene = document.createScene().addChild(node)
  if (joints) {
    const names = Object.keys(joints)
    const skin = document.createSkin()
    const inverse: number[] = []
    for (const name of names) {
      const joint: Node = document.createNode(name).setTranslation(joints[name]!)
      scene.addChild(joint)
      skin.addJoint(joint)
      inverse.push(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, ...joints[name]!.map((v) => -v), 1)
    }
    skin.setInverseBindMatrices(
      document.createAccessor().setType('MAT4').setArray(Float32Array.from(inverse)).setBuffer(buffer),
    )
    node.setSkin(skin)
    primitive
      .setAttribute(
        'JOINTS_0',
        accessor('VEC4', Uint16Array.from(shape.skin.flatMap(([a, b]) => [names.indexOf(a), names.indexOf(b), 0, 0]))),
      )
      .setAttribute('WEIGHTS_0', accessor('VEC4', Float32Array.from(shape.skin.flatMap(([, , w]) => [w, 1 - w, 0, 0]))))
  }
  return new WebIO().writeBinary(document)
}

const nobody: [string, string, number] = ['', '', 1]

/** A cloth over the back: an open half tube that stands off the trunk. */
function blanket(): Shape {
  const sides = 10
  const shape: Shape = { positions: [], triangles: [], skin: [] }
  const rings = [-0.3, -0.15, 0, 0.15]
  rings.forEach((z) => {
    for (let s = 0; s <= sides; s++) {
      const a = (s / sides) * Math.PI * 1.3 - Math.PI * 0.15
      shape.positions.push(Math.cos(a) * 0.225, 0.59 + Math.sin(a) * 0.225, z)
      shape.skin.push(nobody)
    }
  })
  const at = (i: number, s: number) => i * (sides + 1) + s
  for (let i = 0; i + 1 < rings.length; i++)
    for (let s = 0; s < sides; s++)
      shape.triangles.push(at(i, s), at(i, s + 1), at(i + 1, s + 1), at(i, s), at(i + 1, s + 1), at(i + 1, s))
  return shape
}

/** A horn about its own root, along +z, which is out of the surface where it is put. */
function horn(): Shape {
  return tube(
    [
      { at: [0, 0, -0.01], radius: 0.02, bones: nobody },
      { at: [0, 0.01, 0.05], radius: 0.014, bones: nobody },
      { at: [0, 0.03, 0.1], radius: 0.004, bones: nobody },
    ],
    5,
  )
}

/** A bell with a clapper on a bone of its own. */
function bell(): Shape {
  const body = tube(
    [
      { at: [0, 0, 0], radius: 0.012, bones: nobody },
      { at: [0, -0.03, 0], radius: 0.03, bones: nobody },
      { at: [0, -0.06, 0], radius: 0.035, bones: nobody },
    ],
    6,
  )
  const clapper = tube(
    [
      { at: [0, -0.03, 0], radius: 0.006, bones: ['clapper', 'clapper', 1] },
      { at: [0, -0.075, 0], radius: 0.01, bones: ['clapper', 'clapper', 1] },
    ],
    5,
  )
  return joined({ ...body, skin: body.skin.map(() => ['yoke', 'yoke', 1] as [string, string, number]) }, clapper)
}

const encode = (value: unknown) => new TextEncoder().encode(JSON.stringify(value))

/** The kit `meadow`: plan, body, one slot with horns, a blanket. */
export async function meadowKit(): Promise<Map<string, Uint8Array>> {
  const above = (p: V3) => Math.max(0, Math.min(1, p[1] / 0.5))
  const manifest: KitManifest = {
    format: 'idle-tinker-kit',
    version: 2,
    id: 'meadow',
    name: 'Meadow',
    kitVersion: '0.1.0',
    plans: [GRAZER],
    bodies: [
      {
        id: 'goat',
        name: 'Goat',
        plan: 'grazer',
        file: 'goat.glb',
        sliders: [
          {
            id: 'height',
            name: 'Height',
            group: 'whole',
            min: -1,
            max: 1,
            default: 0,
            up: 'tall',
            ends: ['low', 'tall'],
          },
          { id: 'girth', name: 'Girth', group: 'whole', min: 0, max: 1, default: 0, up: 'fat', ends: ['lean', 'fat'] },
        ],
        sliderGroups: [{ id: 'whole', name: 'Whole' }],
        regions: [
          { id: 'barrel', name: 'Barrel', bones: ['croup', 'loin', 'withers'] },
          { id: 'top', name: 'Head', bones: ['nape', 'skull'], care: 2 },
          {
            id: 'limbs',
            name: 'Limbs',
            bones: SIDES.flatMap(([s]) => ['Ham', 'Hock', 'HindHoof', 'Blade', 'Knee', 'ForeHoof'].map((n) => s + n)),
          },
          { id: 'brush', name: 'Brush', bones: ['brush1', 'brush2', 'brush3'] },
        ],
        landmarks: Object.entries(JOINTS).map(([id, at]) => ({ id, at })),
        sockets: [{ id: 'throat', name: 'Throat', bone: 'nape', at: [0, 0.62, 0.52] }],
        seams: [],
        bones: [],
        defaults: {},
      },
    ],
    slots: [
      { id: 'saddle', name: 'Saddle', singular: 'saddle', bodies: ['goat'], region: 'barrel' },
      { id: 'horns', name: 'Horns', singular: 'horn', bodies: ['goat'], region: 'top', most: 4 },
      { id: 'neck', name: 'Neck', singular: 'neckpiece', bodies: ['goat'], region: 'top', most: 2 },
    ],
    parts: [
      {
        id: 'blanket',
        name: 'Blanket',
        slot: 'saddle',
        bodies: ['goat'],
        file: 'blanket.glb',
        tags: [],
        how: 'worn',
        layer: 2,
        clearance: 10,
        binds: ['barrel'],
      },
      {
        id: 'horn',
        name: 'Horn',
        slot: 'horns',
        bodies: ['meadow/goat'],
        file: 'horn.glb',
        tags: [],
        how: 'attached',
        socket: 'throat',
        fit: 'rigid',
      },
    ],
    colorRegions: [
      { id: 'pelt', name: 'Pelt', color: '#b7a58a', own: true },
      { id: 'wool', name: 'Wool', color: '#8a3f4d' },
    ],
    palettes: [{ id: 'hay', name: 'Hay', swatches: { wool: ['#8a3f4d', '#40706a', '#d0a94e'] } }],
    clips: [
      {
        id: 'trot',
        name: 'Trot',
        plan: 'grazer',
        duration: 0.8,
        loop: true,
        travel: 1,
        stance: [0, 0.55],
        alternate: true,
        curves: {
          'croup.y': [
            [0, -0.02],
            [0.25, 0],
            [0.5, -0.02],
            [0.75, 0],
          ],
          'hindhoof.lift': [
            [0.55, 0],
            [0.78, 0.12],
            [1, 0],
          ],
          'forehoof.lift': [
            [0.55, 0],
            [0.78, 0.14],
            [1, 0],
          ],
          'brush.yaw': [
            [0, 12],
            [0.5, -12],
          ],
          'brush.pitch': [[0, -35]],
        },
      },
    ],
  }
  return new Map([
    ['kit.json', encode(manifest)],
    [
      'goat.glb',
      await glbOf(goat(), {
        material: 'pelt',
        joints: JOINTS,
        morphs: {
          tall: (p) => [0, 0.12 * above(p), 0],
          fat: (p) =>
            p[1] > 0.36 && Math.abs(p[2]) < 0.5 && p[1] < 0.82 ? [p[0] * 0.4, (p[1] - 0.6) * 0.3, 0] : [0, 0, 0],
        },
      }),
    ],
    ['blanket.glb', await glbOf(blanket(), { material: 'wool' })],
    ['horn.glb', await glbOf(horn(), { material: 'horn' })],
  ])
}

/** The kit `trappings`: no body and no slot of its own; a bell, and a blanket with a picture, for the goat. */
export async function trappingsKit(png: Uint8Array): Promise<Map<string, Uint8Array>> {
  const manifest: KitManifest = {
    format: 'idle-tinker-kit',
    version: 2,
    id: 'trappings',
    name: 'Trappings',
    kitVersion: '0.3.0',
    bodies: [],
    slots: [],
    parts: [
      {
        id: 'bell',
        name: 'Bell',
        slot: 'neck',
        bodies: ['meadow/goat'],
        file: 'bell.glb',
        tags: [],
        how: 'attached',
        socket: 'throat',
        fit: 'rigid',
        bones: [{ name: 'clapper', parent: 'nape', level: 'crowd' }],
      },
      {
        id: 'rug',
        name: 'Woven rug',
        slot: 'saddle',
        bodies: ['meadow/goat'],
        file: 'rug.glb',
        tags: [],
        how: 'worn',
        layer: 3,
        clearance: 10,
      },
    ],
    colorRegions: [{ id: 'brass', name: 'Brass', color: '#c9a227' }],
    palettes: [],
    clips: [],
  }
  return new Map([
    ['kit.json', encode(manifest)],
    ['bell.glb', await glbOf(bell(), { material: 'brass', joints: { yoke: [0, 0, 0], clapper: [0, -0.03, 0] } })],
    [
      'rug.glb',
      await glbOf(blanket(), {
        material: 'weave',
        picture: { png, uv: (p) => [(p[0] + 0.25) / 0.5, (p[2] + 0.3) / 0.45] },
      }),
    ],
  ])
}

import type { Problem } from '../base/problem.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { Vector3 } from 'three'
import { ENGINE_CHECKS } from './engineChecks.ts'
import { EXTRAS_KEY, type FileExtras } from './extras.ts'
import type { Drawn, Moment, ShippedFile } from './ShippedFile.ts'

/** What a shipped file was found to hold. */
export interface ShippedFacts {
  triangles: number
  vertices: number
  bones: number
  levels: number
  clips: string[]
  height: number // metres
  bytes: number
  recipe: Recipe | null
}

/** What the checks look at: the file, its finest level, and that level's vertices at rest in the world, metres. */
export interface Seen {
  file: ShippedFile
  drawn: Drawn[]
  first: Drawn
  moment: Moment
  rest: Float64Array
  /** Least and most of these along each axis. */
  bounds: { min: number[]; max: number[] }
  facts: ShippedFacts
  /** What the file calls a bone of the open VRM standard. */
  called: (bone: string) => string
  /** What it is to meet, where that is known. */
  target: Pick<Target, 'influences' | 'motion' | 'convention' | 'gltf'> | null
  /** How many of the file's units are a metre: one, but for games that count otherwise. What is asked of the file is in them. */
  scale: number
}

/** What a check found: good, in words (none where there is nothing to say), or a fault and the way out. */
export type Finding = { good: string } | { code: string; bad: string; remedy: string; severity?: Problem['severity'] }
export type Check = (seen: Seen) => Finding

const when = (ok: boolean, good: string, code: string, bad: string, remedy: string): Finding =>
  ok ? { good } : { code, bad, remedy }

/** Least and most along each axis. */
export function boundsOf(positions: Float64Array): { min: number[]; max: number[] } {
  const [min, max] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  for (let i = 0; i < positions.length; i++) {
    min[i % 3] = Math.min(min[i % 3]!, positions[i]!)
    max[i % 3] = Math.max(max[i % 3]!, positions[i]!)
  }
  return { min, max }
}

const places: Check = ({ drawn }) =>
  when(
    drawn.every((d) => d.positions.every(Number.isFinite)),
    'Every vertex has a place.',
    'not-finite',
    'Some vertices are not numbers.',
    'Build the figure again.',
  )

const size: Check = ({ facts }) =>
  when(
    facts.height > 0.05 && facts.height < 20,
    `It stands ${facts.height.toFixed(2)} m tall.`,
    'size',
    `It is ${facts.height.toFixed(2)} m tall, which no figure is.`,
    'Check the unit of the kit.',
  )

/** How much a size may differ from what was built: joints and weights are stored to about this. */
const SIZE_TOLERANCE = 0.01

/** It comes out as large along each axis as it was built: a figure on its side or its face does not. */
const sameSize: Check = ({ file, bounds }) => {
  const extras = file.json.asset?.extras?.[EXTRAS_KEY] as Partial<FileExtras> | undefined
  const said = extras?.size
  if (!Array.isArray(said)) return { good: '' }
  const { min, max } = bounds
  const off = [0, 1, 2].map((k) => Math.abs(max[k]! - min[k]! - said[k]!))
  return when(
    Math.max(...off) <= SIZE_TOLERANCE,
    'It is as wide, tall and deep as it was built.',
    'turned',
    `It comes out ${[0, 1, 2].map((k) => (max[k]! - min[k]!).toFixed(2)).join(' × ')} m, but was built ${said.map((v) => v.toFixed(2)).join(' × ')} m: it is turned, scaled or bent.`,
    'Ship it again; do not change its nodes.',
  )
}

/** Joints by name in the world. */
function jointPlaces({ file, first, moment }: Seen): Map<string, Vector3> {
  const joints = first.skin === null ? [] : file.jointsOf(first.skin)
  return new Map(joints.map((j) => [file.nodes[j]!.name ?? '', new Vector3().setFromMatrixPosition(moment.world[j]!)]))
}

const upright: Check = (seen) => {
  const at = jointPlaces(seen)
  const [head, hips, left, right] = ['head', 'hips', 'leftUpperLeg', 'rightUpperLeg'].map((n) => at.get(seen.called(n)))
  // what has other bones is told apart by its size alone
  if (!head || !hips || !left || !right) return { good: '' }
  const up = head.clone().sub(hips)
  const side = left.clone().sub(right)
  const standing = up.y > 0.5 * up.length() && side.x > 0.7 * side.length()
  return when(
    standing,
    'It stands upright along +Y and faces +Z.',
    'not-upright',
    'Its head is not above its hips, or its left is not its left: it lies or looks the wrong way.',
    'Ship it again; do not turn its nodes.',
  )
}

/** Soles are put at height zero; hems and claws may hang a little lower. */
const GROUND = 0.02

const ground: Check = ({ bounds, facts }) => {
  const lowest = bounds.min[1]!
  return when(
    Math.abs(lowest) <= Math.max(GROUND, facts.height * 0.02),
    'Its feet are at the ground.',
    'ground',
    `Its lowest point is ${(lowest * 100).toFixed(0)} cm from the ground.`,
    'Build the figure again.',
  )
}

const normals: Check = ({ drawn }) => {
  for (const { normals: n, positions, triangles } of drawn) {
    if (!n) return { code: 'normals', bad: 'It has no normals: it would be lit wrongly.', remedy: 'Ship it again.' }
    for (let i = 0; i < n.length; i += 3)
      if (Math.abs(Math.hypot(n[i]!, n[i + 1]!, n[i + 2]!) - 1) > 0.02)
        return { code: 'normals', bad: 'Some normals are not of length one.', remedy: 'Build the figure again.' }
    let against = 0
    let area = 0
    eachTriangle(positions, triangles, (corner, face) => {
      const size = face.length()
      area += size
      for (let k = 0; k < 3; k++) {
        const i = triangles[corner + k]! * 3
        if (face.x * n[i]! + face.y * n[i + 1]! + face.z * n[i + 2]! < 0) against += size / 3
      }
    })
    // a smooth normal may lean away from one face of its fan, not from the surface
    if (against > 0.03 * area)
      return { code: 'normals', bad: 'Many normals point into the figure.', remedy: 'Build the figure again.' }
  }
  return { good: 'Every normal has its length and points outward.' }
}

/** Tells of each triangle where its three corners stand in the list, and its normal, as long as its doubled area. */
function eachTriangle(
  positions: Float64Array,
  triangles: Float64Array,
  visit: (corner: number, face: Readonly<Vector3>) => void,
): void {
  const [a, b, c] = [new Vector3(), new Vector3(), new Vector3()]
  for (let t = 0; t + 2 < triangles.length; t += 3) {
    a.fromArray(positions, triangles[t]! * 3)
    b.fromArray(positions, triangles[t + 1]! * 3)
    c.fromArray(positions, triangles[t + 2]! * 3)
    visit(t, b.sub(a).cross(c.sub(a)))
  }
}

const winding: Check = ({ first }) => {
  let volume = 0
  const at = new Vector3()
  eachTriangle(first.positions, first.triangles, (corner, face) => {
    volume += face.dot(at.fromArray(first.positions, first.triangles[corner]! * 3))
  })
  return when(
    volume > 0,
    'Its faces are wound outward.',
    'inside-out',
    'It is inside out: its faces are wound inward.',
    'Ship it again; do not mirror it.',
  )
}

const skeleton: Check = ({ facts }) =>
  when(
    facts.bones > 0,
    `${facts.bones} bones, all found.`,
    'skeleton',
    'There is no skeleton.',
    'Ship it with a skeleton.',
  )

const boneNames: Check = ({ file, first }) => {
  const names = (first.skin === null ? [] : file.jointsOf(first.skin)).map((j) => file.nodes[j]?.name ?? '')
  return when(
    names.every((n) => n !== '') && new Set(names).size === names.length,
    'Every bone has its own name.',
    'bone-names',
    'Two bones share a name, or one has none.',
    'Rename one.',
  )
}

const PNG = [0x89, 0x50, 0x4e, 0x47]

/** Whether vertices have colors of their own: grey is what shading is, and black nobody sees. */
function isColored({ colors }: Drawn): boolean {
  if (!colors) return false
  const { values, size } = colors
  for (let i = 0; i + 2 < values.length; i += size) {
    const own = values.subarray(i, i + 3)
    if (Math.max(...own) - Math.min(...own) > 0.01) return true
  }
  return false
}

const texture: Check = ({ file, first }) => {
  const material = first.material === null ? undefined : file.json.materials?.[first.material]
  const index = material?.pbrMetallicRoughness?.baseColorTexture?.index
  const source = index === undefined ? undefined : file.json.textures?.[index]?.source
  const image = source === undefined ? undefined : file.images()[source]
  if (index === undefined && isColored(first)) return { good: 'Its colors lie on its vertices.' }
  return when(
    image !== undefined && PNG.every((byte, i) => image[i] === byte),
    'The texture is inside the file.',
    'texture',
    'Its texture is missing, or is no picture.',
    'Ship it again.',
  )
}

const materials: Check = ({ file, drawn }) =>
  when(
    drawn.every((d) => d.primitives === 1) && (file.json.materials ?? []).length === 1,
    'One material, one draw call.',
    'materials',
    'There is more than one material.',
    'Ship it with one atlas.',
  )

const skin: Check = ({ file, drawn }) => {
  const whole = drawn.every(({ skin: index, joints, weights }) => {
    if (index === null || !joints || !weights) return false
    const bones = file.jointsOf(index).length
    for (let v = 0; v < weights.length; v += 4) {
      let sum = 0
      for (let k = 0; k < 4; k++) {
        sum += weights[v + k]!
        if (weights[v + k]! > 0 && joints[v + k]! >= bones) return false
      }
      // weights are stored in 255ths
      if (!(Math.abs(sum - 1) < 0.005)) return false
    }
    return true
  })
  return when(
    whole,
    'Every vertex hangs on bones, its weights sum to one.',
    'skin',
    'Some vertices are not skinned properly.',
    'Build the figure again.',
  )
}

const clips: Check = ({ file, facts }) => {
  for (const { name, channels } of file.clips())
    for (const { node, path, times, values } of channels) {
      if (node === undefined || !file.nodes[node])
        return { code: 'clip-target', bad: `“${name}” moves a bone that is not there.`, remedy: 'Ship it again.' }
      const rising = times.every((t, i) => Number.isFinite(t) && t >= 0 && (i === 0 || t > times[i - 1]!))
      const numbers = values.every(Number.isFinite)
      const turns = path !== 'rotation' || unitTurns(values)
      if (!rising || !numbers || !turns || times.length < 2)
        return { code: 'clip-keys', bad: `“${name}” has keys that cannot be played.`, remedy: 'Repair the clip.' }
    }
  return { good: facts.clips.length ? `Clips: ${facts.clips.join(', ')}.` : 'No clips were asked for.' }
}

function unitTurns(values: Float64Array): boolean {
  for (let i = 0; i < values.length; i += 4)
    if (Math.abs(Math.hypot(values[i]!, values[i + 1]!, values[i + 2]!, values[i + 3]!) - 1) > 0.01) return false
  return true
}

/** Moments of each clip that are looked at. */
const MOMENTS = 12
/** A foot that goes through the floor by more than this is seen, metres. */
const SUNK = 0.01

const onGround: Check = ({ file, first, bounds, facts, scale }) => {
  const still = bounds.min[1]!
  for (const clip of file.clips()) {
    if (clip.name.startsWith('slider ')) continue
    for (let i = 0; i < MOMENTS; i++) {
      const sunk = still - file.lowest(first, file.at({ clip, time: (clip.duration * i) / MOMENTS })) / scale
      if (!(sunk < SUNK))
        return {
          code: 'clip-ground',
          bad: `In “${clip.name}” it goes ${(sunk * 100).toFixed(1)} cm through the ground.`,
          remedy: 'Fit the clip again, or let it have more keys.',
        }
    }
  }
  return { good: facts.clips.length ? 'In every clip it stays on the ground.' : '' }
}

const recipe: Check = ({ facts }) =>
  when(
    facts.recipe !== null,
    'The recipe is inside: the file can be opened as a figure.',
    'recipe',
    'There is no readable recipe in the file.',
    'Only files shipped from here can be opened as figures.',
  )

/** In the order they are told. */
export const CHECKS: readonly Check[] = [
  places,
  size,
  sameSize,
  upright,
  ground,
  normals,
  winding,
  skeleton,
  boneNames,
  texture,
  materials,
  skin,
  clips,
  onGround,
  ...ENGINE_CHECKS,
  recipe,
]

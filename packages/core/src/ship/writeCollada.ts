import { Matrix4, Quaternion, Vector3 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import { UNITS } from '../recipe/target.ts'
import { localScale } from './boneAxes.ts'
import type { KeyedClip } from './clipKeys.ts'
import type { Leaving, LeavingBone } from './conform.ts'
import { axesClash, conventionAxes, type Converted } from './conventionAxes.ts'
import { EXTRAS_KEY, type FileExtras } from './extras.ts'
import { framesOf, USUAL_RATE } from './frames.ts'
import { clipStems } from './names.ts'
import type { Prepared } from './prepare.ts'
import { atlasPng, meshName } from './writeFigure.ts'
import { element, escaped } from './xml.ts'

/*
 * COLLADA 1.4.1 (Khronos): a figure with its skin and its material at rest; and each clip in a file of its own, a skeleton
 * that moves, because many readers take the first motion of a file and no other. Morphs are in one more file, which is the
 * finest with them: readers that do not know a skin over morphs open nothing of such a file, or fail.
 */

/** An axis that the format has a word for. */
const UPS: Readonly<Record<string, string>> = { '+x': 'X_UP', '+y': 'Y_UP', '+z': 'Z_UP' }

/** Writes a figure as COLLADA, a file for each level and each clip, with the atlas as PNG, in the unit and axes of its target. */
export function writeCollada(prepared: Prepared, stem: string): Read<Map<string, Uint8Array>> {
  const { leaving, clips, target, recipe } = prepared
  const { convention } = target
  const axes = conventionAxes(convention)
  if (!axes) return { value: null, problems: [axesClash(convention)] }
  const up = UPS[convention.up]
  if (!up) return { value: null, problems: [noUp(convention.up)] }
  const text = (content: string) => new TextEncoder().encode(content)
  const rig = rigOf(leaving, convention, axes)
  const files = new Map<string, Uint8Array>()
  const extras: FileExtras = { recipe, target: target.id }
  const whole = (content: string, inside = '') => document(up, convention.unit, content, inside)
  const figure = (mesh: Mesh, level: number, inside = '') => {
    const shown = meshName(leaving.name, level, target)
    return text(whole(figureOf(mesh, leaving, shown, stem, rig, axes), inside))
  }
  // what it was made from stands in the finest, so that it opens again
  const recipeInside = element('recipe', {}, escaped(JSON.stringify(extras)))
  const technique = element('technique', { profile: 'IdleTinker' }, recipeInside)
  const made = element('extra', { type: EXTRAS_KEY }, technique)
  for (const [level, mesh] of [leaving.mesh, ...leaving.lods].entries())
    files.set(`${stem}${level ? `-lod${level}` : ''}.dae`, figure({ ...mesh, morphs: [] }, level, level ? '' : made))
  if (leaving.mesh.morphs.length) files.set(`${stem}-morphs.dae`, figure(leaving.mesh, 0, made))
  files.set(`${stem}.png`, atlasPng(leaving))
  const stems = clipStems(
    stem,
    clips,
    [...files.keys()].map((name) => name.replace(/\.dae$/, '')),
  )
  const rate = target.motion?.rate ?? USUAL_RATE
  clips.forEach((clip, c) => files.set(`${stems[c]!}.dae`, text(whole(clipOf(clip, leaving, rig, axes, rate)))))
  const told = [
    ...(leaving.movements.some((m) => m.kind === 'slider') ? [SLIDERS] : []),
    ...(clips.some((c) => c.face) ? [FACES] : []),
  ]
  return {
    value: files,
    problems: told.map((said) => problem('collada-less', stem, said, 'Take GLB where they have to.', 'info')),
  }
}

const SLIDERS = 'Sliders kept for the game are morphs here, and move no joints.'
const FACES = 'Faces of clips do not go along: their files hold the skeleton alone.'

const noUp = (up: string): Problem =>
  problem('collada-up', 'target/convention/up', `COLLADA has no word for ${up} being up.`, 'Choose +Y, +Z or +X.')

const words = (values: Iterable<number>, digits: number): string => {
  const out: string[] = []
  for (const v of values) out.push(String(Number(v.toFixed(digits)) + 0))
  return out.join(' ')
}

/** Joints as the file has them: what they are called, and how each is turned at rest in the file's axes. */
interface Rig {
  joints: readonly LeavingBone[]
  /** Index in `joints` of what each hangs on, -1 for none. */
  parents: readonly number[]
  /** Each once, of letters, digits, - and _ alone, as ids must be. */
  ids: readonly string[]
  turns: readonly Quaternion[]
}

function rigOf(
  { bones, above }: Leaving,
  { bones: { axes: kind = 'unturned' } }: Prepared['target']['convention'],
  axes: Converted,
): Rig {
  const joints = [...above, ...bones]
  const parents = joints.map(({ parent }, j) =>
    j < above.length ? parent : parent < 0 ? above.length - 1 : parent + above.length,
  )
  // unturned means by the file's own axes; any other turn goes along with the figure
  const turns = joints.map(({ turn }) =>
    kind === 'unturned' ? new Quaternion() : axes.turn.clone().multiply(new Quaternion(...turn)),
  )
  const taken = new Set<string>()
  const ids = joints.map(({ name }) => {
    const safe = name.replace(/[^A-Za-z0-9_-]/g, '_').replace(/^(?![A-Za-z_])/, '_')
    let id = safe
    for (let n = 2; taken.has(id); n++) id = `${safe}-${n}`
    taken.add(id)
    return id
  })
  return { joints, parents, ids, turns }
}

const evenly = (scale = 1) => new Vector3(scale, scale, scale)
/** Sixteen numbers, row by row, as COLLADA has matrices; what is scaled down has as many digits as what is not. */
const rows = (m: Matrix4, scale = 1) =>
  words(m.clone().transpose().elements, 7 + Math.max(0, Math.ceil(-Math.log10(scale))))

const restOf = ({ joints, turns }: Rig, j: number, axes: Converted): Matrix4 =>
  new Matrix4().compose(new Vector3(...axes.point(...joints[j]!.at)), turns[j]!, evenly(joints[j]!.scale))

/** The tree of joints, at rest. */
function nodes(rig: Rig, axes: Converted): string {
  const { joints, parents, ids } = rig
  const node = (j: number): string => {
    const own = restOf(rig, j, axes)
    const local = parents[j]! < 0 ? own : restOf(rig, parents[j]!, axes).invert().multiply(own)
    const below = parents.flatMap((p, c) => (p === j ? [node(c)] : []))
    return element(
      'node',
      { id: ids[j]!, sid: ids[j]!, name: joints[j]!.name, type: 'JOINT' },
      element('matrix', { sid: 'transform' }, rows(local, localScale(joints[parents[j]!] ?? null, joints[j]!))),
      ...below,
    )
  }
  return node(0)
}

const scene = (...content: string[]) =>
  element('library_visual_scenes', {}, element('visual_scene', { id: 'scene' }, ...content))

function document(up: string, unit: number, content: string, inside: string): string {
  const asset = element(
    'asset',
    {},
    element('contributor', {}, element('authoring_tool', {}, 'Idle Tinker')),
    // the same figure gives the same bytes: no time of writing
    element('created', {}, '2000-01-01T00:00:00Z'),
    element('modified', {}, '2000-01-01T00:00:00Z'),
    element('unit', { name: UNITS.find((u) => u.metres === unit)?.collada ?? 'unit', meter: String(unit) }),
    element('up_axis', {}, up),
  )
  const shown = element('scene', {}, element('instance_visual_scene', { url: '#scene' }))
  return `<?xml version="1.0" encoding="utf-8"?>\n${element(
    'COLLADA',
    { xmlns: 'http://www.collada.org/2005/11/COLLADASchema', version: '1.4.1' },
    ...[asset, content, shown, inside],
  )}\n`
}

function figureOf(mesh: Mesh, leaving: Leaving, name: string, stem: string, rig: Rig, axes: Converted): string {
  const picture = element(
    'library_images',
    {},
    element('image', { id: 'atlas' }, element('init_from', {}, `${stem}.png`)),
  )
  const surface = element('surface', { type: '2D' }, element('init_from', {}, 'atlas'))
  const sampler = element('sampler2D', {}, element('source', {}, 'atlas-surface'))
  const diffuse = element('diffuse', {}, element('texture', { texture: 'atlas-sampler', texcoord: 'UV' }))
  const effect = element(
    'profile_COMMON',
    {},
    element('newparam', { sid: 'atlas-surface' }, surface),
    element('newparam', { sid: 'atlas-sampler' }, sampler),
    element('technique', { sid: 'common' }, element('lambert', {}, diffuse)),
  )
  const effects = element('library_effects', {}, element('effect', { id: 'figure-effect' }, effect))
  const material = element(
    'material',
    { id: 'figure', name: 'figure' },
    element('instance_effect', { url: '#figure-effect' }),
  )
  const morphs = mesh.morphs.map((morph, m) => {
    const positions = mesh.positions.slice()
    morph.points.forEach((p, i) => {
      for (let k = 0; k < 3; k++) positions[p * 3 + k]! += morph.deltas[i * 3 + k]!
    })
    return geometry(`morph-${m}`, morph.name, { ...mesh, positions }, axes, false)
  })
  const geometries = element('library_geometries', {}, geometry('mesh', name, mesh, axes, true), ...morphs)
  const bind = element(
    'bind_material',
    {},
    element(
      'technique_common',
      {},
      element(
        'instance_material',
        { symbol: 'figure', target: '#figure' },
        element('bind_vertex_input', { semantic: 'UV', input_semantic: 'TEXCOORD', input_set: '0' }),
      ),
    ),
  )
  const drawn = element(
    'node',
    { id: 'figure-node', name, type: 'NODE' },
    element('instance_controller', { url: '#skin' }, element('skeleton', {}, `#${rig.ids[0]!}`), bind),
  )
  return [
    ...[picture, element('library_materials', {}, material), effects, geometries],
    element(
      'library_controllers',
      {},
      morphs.length ? morphController(mesh) : '',
      skinController(mesh, leaving, rig, axes),
    ),
    scene(nodes(rig, axes), drawn),
  ].join('')
}

const floats = (id: string, values: string, count: number, params: readonly string[]): string =>
  element(
    'source',
    { id },
    element('float_array', { id: `${id}-array`, count: String(count * params.length) }, values),
    element(
      'technique_common',
      {},
      element(
        'accessor',
        { source: `#${id}-array`, count: String(count), stride: String(params.length) },
        ...params.map((name) => element('param', { ...(name && { name }), type: 'float' })),
      ),
    ),
  )

const XYZ = ['X', 'Y', 'Z']

function* converted(
  values: ArrayLike<number>,
  by: (x: number, y: number, z: number) => readonly number[],
): Generator<number> {
  for (let i = 0; i < values.length; i += 3) yield* by(values[i]!, values[i + 1]!, values[i + 2]!)
}

/** @param whole with all that corners have, not only where points are */
function geometry(id: string, name: string, mesh: Mesh, axes: Converted, whole: boolean): string {
  const points = mesh.positions.length / 3
  const corners = mesh.cornerPoints.length
  const sources = [floats(`${id}-positions`, words(converted(mesh.positions, axes.point), 6), points, XYZ)]
  if (whole) {
    function* uvs(): Generator<number> {
      for (let i = 0; i < mesh.uvs.length; i += 2) yield* [mesh.uvs[i]!, axes.row(mesh.uvs[i + 1]!)]
    }
    function* shades(): Generator<number> {
      for (const s of mesh.shades) yield* [s / 255, s / 255, s / 255]
    }
    sources.push(
      floats(`${id}-normals`, words(converted(mesh.normals, axes.direction), 4), corners, XYZ),
      floats(`${id}-uvs`, words(uvs(), 6), corners, ['S', 'T']),
      floats(`${id}-shades`, words(shades(), 3), corners, ['R', 'G', 'B']),
    )
  }
  const vertices = element(
    'vertices',
    { id: `${id}-vertices` },
    element('input', { semantic: 'POSITION', source: `#${id}-positions` }),
  )
  const input = (semantic: string, source: string, offset: number, set?: string) =>
    element('input', { semantic, source: `#${id}-${source}`, offset: String(offset), ...(set && { set }) })
  const p: number[] = []
  for (const c of mesh.indices) p.push(mesh.cornerPoints[c]!, ...(whole ? [c] : []))
  const triangles = element(
    'triangles',
    { count: String(mesh.indices.length / 3), ...(whole && { material: 'figure' }) },
    input('VERTEX', 'vertices', 0),
    ...(whole
      ? [input('NORMAL', 'normals', 1), input('TEXCOORD', 'uvs', 1, '0'), input('COLOR', 'shades', 1, '0')]
      : []),
    element('p', {}, p.join(' ')),
  )
  return element('geometry', { id, name }, element('mesh', {}, ...sources, vertices, triangles))
}

/** Each target is all of the mesh with that morph alone in full; weights say how much there is of each. */
function morphController({ morphs }: Mesh): string {
  const targets = element(
    'source',
    { id: 'morph-targets' },
    element(
      'IDREF_array',
      { id: 'morph-targets-array', count: String(morphs.length) },
      morphs.map((_, m) => `morph-${m}`).join(' '),
    ),
    element(
      'technique_common',
      {},
      element(
        'accessor',
        { source: '#morph-targets-array', count: String(morphs.length), stride: '1' },
        element('param', { type: 'IDREF' }),
      ),
    ),
  )
  const weights = floats('morph-weights', morphs.map(() => 0).join(' '), morphs.length, [''])
  return element(
    'controller',
    { id: 'morphs' },
    element(
      'morph',
      { source: '#mesh', method: 'NORMALIZED' },
      ...[targets, weights],
      element(
        'targets',
        {},
        element('input', { semantic: 'MORPH_TARGET', source: '#morph-targets' }),
        element('input', { semantic: 'MORPH_WEIGHT', source: '#morph-weights' }),
      ),
    ),
  )
}

function skinController(mesh: Mesh, { above }: Leaving, rig: Rig, axes: Converted): string {
  const carrying = rig.joints.map((_, j) => j).slice(above.length)
  const count = String(carrying.length)
  const named = element(
    'source',
    { id: 'skin-joints' },
    element('Name_array', { id: 'skin-joints-array', count }, carrying.map((j) => rig.ids[j]!).join(' ')),
    element(
      'technique_common',
      {},
      element(
        'accessor',
        { source: '#skin-joints-array', count, stride: '1' },
        element('param', { name: 'JOINT', type: 'name' }),
      ),
    ),
  )
  const binds = element(
    'source',
    { id: 'skin-binds' },
    element(
      'float_array',
      { id: 'skin-binds-array', count: String(carrying.length * 16) },
      carrying.map((j) => rows(restOf(rig, j, axes).invert())).join(' '),
    ),
    element(
      'technique_common',
      {},
      element(
        'accessor',
        { source: '#skin-binds-array', count, stride: '16' },
        element('param', { name: 'TRANSFORM', type: 'float4x4' }),
      ),
    ),
  )
  const [counts, pairs, weights] = [[] as number[], [] as number[], [] as number[]]
  for (let p = 0; p < mesh.weights.length; p += 4) {
    let own = 0
    for (let k = p; k < p + 4; k++) {
      if (!(mesh.weights[k]! > 0)) continue
      pairs.push(mesh.joints[k]!, weights.push(mesh.weights[k]!) - 1)
      own++
    }
    counts.push(own)
  }
  return element(
    'controller',
    { id: 'skin' },
    element(
      'skin',
      { source: mesh.morphs.length ? '#morphs' : '#mesh' },
      element('bind_shape_matrix', {}, '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 1'),
      ...[named, binds, floats('skin-weights', words(weights, 5), weights.length, ['WEIGHT'])],
      element(
        'joints',
        {},
        element('input', { semantic: 'JOINT', source: '#skin-joints' }),
        element('input', { semantic: 'INV_BIND_MATRIX', source: '#skin-binds' }),
      ),
      element(
        'vertex_weights',
        { count: String(counts.length) },
        element('input', { semantic: 'JOINT', source: '#skin-joints', offset: '0' }),
        element('input', { semantic: 'WEIGHT', source: '#skin-weights', offset: '1' }),
        element('vcount', {}, counts.join(' ')),
        element('v', {}, pairs.join(' ')),
      ),
    ),
  )
}

/** A skeleton and how it moves: a matrix of every joint that does, at every frame. */
function clipOf(clip: KeyedClip, leaving: Leaving, rig: Rig, axes: Converted, rate: number): string {
  const { joints, parents, ids, turns } = rig
  const { times, locals } = framesOf(clip, leaving, rate)
  const back = axes.turn.clone().invert()
  const own = new Matrix4()
  const moving = [...(clip.way ?? []).map((t) => t.bone), ...clip.tracks.map((t) => t.bone + leaving.above.length)]
  const moved = [...new Set(moving)].sort((a, b) => a - b)
  const count = String(times.length)
  const animations = moved.map((j) => {
    const id = `${ids[j]!}-moves`
    const from = parents[j]! < 0 ? new Quaternion() : turns[parents[j]!]!
    const over = joints[parents[j]!] ?? null
    const before = new Matrix4().makeRotationFromQuaternion(from.clone().invert())
    const after = new Matrix4().makeRotationFromQuaternion(turns[j]!)
    const size = evenly(localScale(over, joints[j]!))
    const matrices = locals.map((local) => {
      const { at, turn } = local[j]!
      const place = new Vector3(...axes.point(at.x, at.y, at.z)).divideScalar(over?.scale ?? 1)
      own.compose(place, axes.turn.clone().multiply(turn).multiply(back), size)
      return rows(own.premultiply(before).multiply(after), size.x)
    })
    const output = element(
      'source',
      { id: `${id}-output` },
      element('float_array', { id: `${id}-output-array`, count: String(times.length * 16) }, matrices.join(' ')),
      element(
        'technique_common',
        {},
        element(
          'accessor',
          { source: `#${id}-output-array`, count, stride: '16' },
          element('param', { name: 'TRANSFORM', type: 'float4x4' }),
        ),
      ),
    )
    const ways = element(
      'source',
      { id: `${id}-ways` },
      element('Name_array', { id: `${id}-ways-array`, count }, times.map(() => 'LINEAR').join(' ')),
      element(
        'technique_common',
        {},
        element(
          'accessor',
          { source: `#${id}-ways-array`, count, stride: '1' },
          element('param', { name: 'INTERPOLATION', type: 'name' }),
        ),
      ),
    )
    const input = (semantic: string, source: string) => element('input', { semantic, source: `#${id}-${source}` })
    return element(
      'animation',
      { id },
      ...[floats(`${id}-input`, words(times, 6), times.length, ['TIME']), output, ways],
      element('sampler', { id: `${id}-sampler` }, input('INPUT', 'input'), input('OUTPUT', 'output'), input('INTERPOLATION', 'ways')), // prettier-ignore
      element('channel', { source: `#${id}-sampler`, target: `${ids[j]!}/transform` }),
    )
  })
  return element('library_animations', {}, ...animations) + scene(nodes(rig, axes))
}

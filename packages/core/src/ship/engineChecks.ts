import { decode } from 'fast-png'
import { Vector3 } from 'three'
import type { Check, Finding, Seen } from './checks.ts'
import { HUMAN_BONES } from './humanoid.ts'
import type { ShippedClip } from './ShippedFile.ts'

/* What importers of games trip over, and players see, beyond what makes a file readable. */

const warning = (code: string, bad: string, remedy: string): Finding => ({ code, bad, remedy, severity: 'warning' })
const listed = (names: readonly string[]) =>
  `${names
    .slice(0, 4)
    .map((n) => `“${n}”`)
    .join(', ')}${names.length > 4 ? ` and ${names.length - 4} more` : ''}`

const indices: Check = ({ drawn }) =>
  drawn.every((d) => d.triangles.every((i) => i < d.positions.length / 3))
    ? { good: 'Every triangle has its corners.' }
    : { code: 'indices', bad: 'Some triangles have corners that are not there.', remedy: 'Ship it again.' }

/** The brightest of what is looked at is darker than this, of 255: it would stand in the game as a black shape. */
export const BLACK = 12

/** The colors that vertices look at. */
const bright: Check = ({ file, first }) => {
  const index = file.json.materials?.[first.material ?? -1]?.pbrMetallicRoughness?.baseColorTexture?.index
  const source = index === undefined ? undefined : file.json.textures?.[index]?.source
  const image = source === undefined ? undefined : file.images()[source]
  // what is missing is said elsewhere
  if (!image?.length || !first.uvs) return { good: '' }
  let picture
  try {
    picture = decode(image)
  } catch {
    return { code: 'texture-broken', bad: 'Its texture cannot be read as a PNG.', remedy: 'Ship it again.' }
  }
  const { width, height, channels, data, depth } = picture
  const full = 2 ** (depth - 8)
  let brightest = 0
  for (let v = 0; v < first.uvs.length; v += 2) {
    const x = Math.min(1, Math.max(0, first.uvs[v]!))
    const y = Math.min(1, Math.max(0, first.uvs[v + 1]!))
    const at =
      (Math.min(height - 1, Math.floor(y * height)) * width + Math.min(width - 1, Math.floor(x * width))) * channels
    for (let k = 0; k < Math.min(3, channels); k++) brightest = Math.max(brightest, data[at + k]! / full)
  }
  return brightest > BLACK
    ? { good: 'Its texture has colors.' }
    : { code: 'texture-black', bad: 'All that it shows of its texture is black.', remedy: 'Look at its colors.' }
}

/** Importers have dropped bones that are shorter, metres. */
const SHORT = 0.001

/** Joints of the skin, where they stand, metres, and the joint of the skin that each hangs on. */
function jointsOf({ file, first, moment, scale }: Seen) {
  const joints = first.skin === null ? [] : file.jointsOf(first.skin)
  const parent = new Map(file.nodes.flatMap(({ children = [] }, n) => children.map((c) => [c, n] as const)))
  return joints.map((node) => ({
    name: file.nodes[node]?.name ?? '',
    at: new Vector3().setFromMatrixPosition(moment.world[node]!).divideScalar(scale),
    over: joints.indexOf(parent.get(node) ?? -1),
  }))
}

const boneLengths: Check = (seen) => {
  const joints = jointsOf(seen)
  const lengths = joints.flatMap(({ name, at, over }) =>
    over < 0 ? [] : [{ name, length: at.distanceTo(joints[over]!.at) }],
  )
  if (lengths.length === 0) return { good: '' }
  const shortest = lengths.reduce((a, b) => (b.length < a.length ? b : a))
  const millimetres = (shortest.length * 1000).toFixed(shortest.length < 0.01 ? 1 : 0)
  return shortest.length >= SHORT
    ? { good: `The shortest bone is ${millimetres} mm from the one above it: “${shortest.name}”.` }
    : warning(
        'bone-short',
        `“${shortest.name}” stands where the bone above it does (${millimetres} mm): some importers drop it.`,
        'Choose less skeleton, or move it.',
      )
}

const humanoid: Check = (seen) => {
  const names = new Set(jointsOf(seen).map((j) => j.name))
  const missing = HUMAN_BONES.filter((bone) => !names.has(seen.called(bone)))
  if (missing.length === 0) return { good: 'All bones of a human are there.' }
  const other = (bone: string) => bone.replace(/^left|^right/, (side) => (side === 'left' ? 'right' : 'left'))
  const lopsided = missing.filter((bone) => other(bone) !== bone && names.has(seen.called(other(bone))))
  if (lopsided.length)
    return warning(
      'humanoid',
      `It lacks ${listed(lopsided)}, and has the bone of the other side: importers will not take it for a human.`,
      'Give both sides their bones.',
    )
  // of what has hardly any, nobody expects a human
  if (missing.length > HUMAN_BONES.length / 2) return { good: 'It is no human: importers take it as it is.' }
  return { good: `Of a human’s bones it has not ${listed(missing)}.` }
}

const influences: Check = ({ drawn, target }) => {
  let most = 0
  for (const { weights } of drawn)
    for (let v = 0; weights && v < weights.length; v += 4) {
      let own = 0
      for (let k = v; k < v + 4; k++) if (weights[k]! > 0) own++
      most = Math.max(most, own)
    }
  const good = `At most ${most} ${most === 1 ? 'bone moves' : 'bones move'} a vertex.`
  return target && most > target.influences
    ? { code: 'influences', bad: `${good} The target allows ${target.influences}.`, remedy: 'Ship it for the target.' }
    : { good }
}

/** So far beyond what is drawn, as a share of the figure's height, no joint of it belongs. */
const FAR = 0.25

const jointsWithin: Check = (seen) => {
  const { bounds, facts } = seen
  const { min, max } = bounds
  const room = facts.height * FAR
  const far = jointsOf(seen).filter(({ at }) =>
    [0, 1, 2].some((k) => at.getComponent(k) < min[k]! - room || at.getComponent(k) > max[k]! + room),
  )
  return far.length === 0
    ? { good: 'Its joints stand within it.' }
    : warning('joint-far', `${listed(far.map((j) => j.name))} stand far outside the figure.`, 'Look at its skeleton.')
}

/** Ways it is looked at from, all round and a little from above, and how finely. */
const VIEWS = { round: 12, tilt: 0.15, pixels: 72 }
/** So much of what is seen may be the inside: rims and cuffs. */
const INSIDE = 0.02

/** Where faces are drawn from one side alone, what is seen from outside must be outsides: anything else is a hole. */
const holes: Check = ({ file, first, rest }) => {
  if (file.json.materials?.[first.material ?? -1]?.doubleSided) return { good: 'Both sides of its faces are drawn.' }
  let [seen, inside] = [0, 0]
  for (let view = 0; view < VIEWS.round; view++) {
    const [all, wrong] = lookAt(rest, first.triangles, (view * 2 * Math.PI) / VIEWS.round)
    seen += all
    inside += wrong
  }
  const share = seen > 0 ? inside / seen : 0
  return share <= INSIDE
    ? { good: 'One sees its outside from everywhere around.' }
    : warning(
        'holes',
        `One looks into it through holes in ${(share * 100).toFixed(0)} of 100 places.`,
        'Let the game draw both sides, or close the mesh.',
      )
}

/** How many pixels a figure covers from a side, and in how many of them the nearest face is seen from behind. */
function lookAt(at: Float64Array, triangles: Float64Array, angle: number): [number, number] {
  const { pixels, tilt } = VIEWS
  const [cos, sin, up, down] = [Math.cos(angle), Math.sin(angle), Math.cos(tilt), Math.sin(tilt)]
  const count = at.length / 3
  const [x, y, z] = [0, 1, 2].map(() => new Float64Array(count)) as [Float64Array, Float64Array, Float64Array]
  let [low, high, wide] = [Infinity, -Infinity, 1e-6]
  for (let v = 0; v < count; v++) {
    const side = at[v * 3]! * cos - at[v * 3 + 2]! * sin
    const ahead = at[v * 3]! * sin + at[v * 3 + 2]! * cos
    x[v] = side
    y[v] = at[v * 3 + 1]! * up - ahead * down
    z[v] = at[v * 3 + 1]! * down + ahead * up
    low = Math.min(low, y[v]!)
    high = Math.max(high, y[v]!)
    wide = Math.max(wide, Math.abs(side))
  }
  const scale = (pixels - 1) / Math.max(high - low, 2 * wide, 1e-6)
  for (let v = 0; v < count; v++) {
    x[v] = x[v]! * scale + pixels / 2
    y[v] = (y[v]! - low) * scale
  }
  const depth = new Float64Array(pixels * pixels).fill(-Infinity)
  const behind = new Uint8Array(pixels * pixels)
  for (let t = 0; t + 2 < triangles.length; t += 3) {
    const a = triangles[t]!
    const b = triangles[t + 1]!
    const c = triangles[t + 2]!
    const area = (x[b]! - x[a]!) * (y[c]! - y[a]!) - (x[c]! - x[a]!) * (y[b]! - y[a]!)
    if (Math.abs(area) < 1e-9) continue
    const box = (of: Float64Array) => [
      Math.max(0, Math.ceil(Math.min(of[a]!, of[b]!, of[c]!) - 0.5)),
      Math.min(pixels - 1, Math.floor(Math.max(of[a]!, of[b]!, of[c]!) - 0.5)),
    ]
    const [[left, right], [bottom, top]] = [box(x), box(y)] as [[number, number], [number, number]]
    for (let row = bottom; row <= top; row++)
      for (let column = left; column <= right; column++) {
        const px = column + 0.5
        const py = row + 0.5
        const wa = ((x[b]! - px) * (y[c]! - py) - (x[c]! - px) * (y[b]! - py)) / area
        const wb = ((x[c]! - px) * (y[a]! - py) - (x[a]! - px) * (y[c]! - py)) / area
        const wc = 1 - wa - wb
        if (wa < 0 || wb < 0 || wc < 0) continue
        const own = wa * z[a]! + wb * z[b]! + wc * z[c]!
        const at = row * pixels + column
        if (own <= depth[at]!) continue
        depth[at] = own
        behind[at] = area < 0 ? 1 : 0
      }
  }
  let [all, wrong] = [0, 0]
  depth.forEach((d, i) => {
    if (d === -Infinity) return
    all++
    wrong += behind[i]!
  })
  return [all, wrong]
}

/** Clips that are shorter or longer are a mistake, seconds. */
const LENGTHS = { least: 0.03, most: 600 }
const played = ({ file }: Seen) => file.clips().filter((c) => !c.name.startsWith('slider '))

const clipLengths: Check = (seen) => {
  const odd = played(seen).filter((c) => !(c.duration >= LENGTHS.least && c.duration <= LENGTHS.most))
  if (odd.length)
    return warning(
      'clip-length',
      `${listed(odd.map((c) => c.name))} last no time, or ten minutes and more.`,
      'Cut them.',
    )
  const said = played(seen).map((c) => `${c.name} ${c.duration.toFixed(1)} s`)
  return { good: said.length ? `Lengths: ${said.join(', ')}.` : 'No clip has to last.' }
}

/** The end of what goes round may be off its beginning by this: a fifth of a degree, a millimetre. */
const SAME = { turn: 0.0035, place: 0.001 }
/** A clip that has gone this far by its end takes the figure along, metres. */
const GOES = 0.1

/** How far a clip's end is from its beginning: the farthest turn, radians, and place, metres; and the way it has gone. */
function ends(clip: ShippedClip, { file, moment, scale }: Seen) {
  let [turn, place, way] = [0, 0, 0]
  const along = new Set<number | undefined>()
  for (const { path, values, size, node } of clip.channels) {
    if (path !== 'translation') continue
    // places are in the units of what a joint hangs on
    const over = file.nodes.findIndex((n) => n.children?.includes(node ?? -1))
    const unit = (moment.world[over]?.getMaxScaleOnAxis() ?? 1) / scale
    const [x, y, z] = [0, 1, 2].map((k) => (values[values.length - size + k]! - values[k]!) * unit) as [number, number, number] // prettier-ignore
    const level = Math.hypot(x, z)
    if (level > GOES) along.add(node)
    way = Math.max(way, level)
    place = Math.max(place, level > GOES ? Math.abs(y) : Math.hypot(x, y, z))
  }
  for (const { path, values, size, node } of clip.channels) {
    // what goes along may turn as it goes
    if (path !== 'rotation' || along.has(node)) continue
    const first = values.subarray(0, size)
    const last = values.subarray(values.length - size)
    const dot = Math.abs(first.reduce((sum, v, k) => sum + v * last[k]!, 0))
    turn = Math.max(turn, 2 * Math.acos(Math.min(1, dot)))
  }
  return { turn, place, way }
}

const loops: Check = (seen) => {
  const round = played(seen).filter((clip) => clip.loop)
  for (const clip of round) {
    const { turn, place } = ends(clip, seen)
    if (turn > SAME.turn || place > SAME.place)
      return warning(
        'loop-open',
        `“${clip.name}” goes round, and ends ${((turn * 180) / Math.PI).toFixed(1)}° and ${(place * 1000).toFixed(0)} mm off its beginning: it will jump.`,
        'Close its ends, or let it be played once.',
      )
  }
  return { good: round.length ? `What goes round ends as it begins: ${round.map((c) => c.name).join(', ')}.` : 'Nothing is said to go round.' } // prettier-ignore
}

const rootMotion: Check = (seen) => {
  const goes = played(seen).filter((clip) => clip.loop && ends(clip, seen).way > GOES)
  const wanted = seen.target?.motion?.travels === true
  if (seen.target && !wanted && goes.length)
    return warning(
      'root-motion',
      `${listed(goes.map((c) => c.name))} take the figure along; the target wants it on the spot.`,
      'Let the target’s clips travel, or fit them on the spot.',
    )
  return {
    good: goes.length ? `It goes along in ${listed(goes.map((c) => c.name))}.` : 'In its clips it stays on the spot.',
  }
}

const morphNames: Check = ({ file, drawn }) => {
  for (const { node, targets } of drawn) {
    const names = file.json.meshes?.[file.nodes[node]!.mesh!]?.extras?.targetNames ?? []
    const fine = names.length === targets.length && names.every((n) => n !== '') && new Set(names).size === names.length
    if (targets.length && !fine)
      return { code: 'morph-names', bad: 'Its morphs have no names of their own.', remedy: 'Ship it again.' }
  }
  const most = Math.max(...drawn.map((d) => d.targets.length))
  return { good: most ? `${most} morphs, each by its own name.` : 'It has no morphs.' }
}

const emptyNodes: Check = ({ file, first }) => {
  const nodes = file.nodes
  const joints = new Set(first.skin === null ? [] : file.jointsOf(first.skin))
  // what hangs on a joint is a place somebody asked for; what holds anything is its root
  const useful = (n: number): boolean =>
    nodes[n]!.mesh !== undefined || joints.has(n) || (nodes[n]!.children ?? []).some(useful)
  const under = new Set<number>()
  const take = (n: number): void => {
    under.add(n)
    nodes[n]!.children?.forEach(take)
  }
  joints.forEach(take)
  const empty = nodes.flatMap(({ name = '' }, n) => (useful(n) || under.has(n) ? [] : [name]))
  return empty.length === 0
    ? { good: 'No node is empty.' }
    : warning('empty-nodes', `${listed(empty)} hold nothing.`, 'Leave them out.')
}

const clashingNames: Check = (seen) => {
  const twice = (names: readonly string[]) => {
    const low = names.map((n) => n.toLowerCase())
    return [...new Set(names.filter((n, i) => n !== '' && low.indexOf(n.toLowerCase()) < i))]
  }
  const clips = twice(seen.file.clips().map((c) => c.name))
  if (clips.length)
    return { code: 'clip-names', bad: `Two clips are called ${listed(clips)}.`, remedy: 'Rename one of them.' }
  const nodes = twice(seen.file.nodes.map((n) => n.name ?? ''))
  return nodes.length === 0
    ? { good: 'No two things have one name.' }
    : warning(
        'names-clash',
        `Two nodes are called ${listed(nodes)}, upper and lower case alike.`,
        'Rename one of them.',
      )
}

/** In the order they are told. */
export const ENGINE_CHECKS: readonly Check[] = [
  indices,
  bright,
  boneLengths,
  humanoid,
  influences,
  jointsWithin,
  holes,
  clipLengths,
  loops,
  rootMotion,
  morphNames,
  emptyNodes,
  clashingNames,
]

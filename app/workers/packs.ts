import { zipSync } from 'fflate'
import { Matrix4 } from 'three'
import {
  learnSlots,
  moved,
  packKit,
  placePack,
  pointNormals,
  pointTriangles,
  problem,
  readPack,
  sortPack,
  unpackZip,
  type BodyModel,
  type Kit,
  type Pack,
  type PackFiles,
  type Placing,
  type Problem,
  type SlotKnowledge,
} from '@idle-tinker/core'
import type { FigureView, PackAnswer, PackAsk, PackToMake } from './protocol'

/** Triangles in one color, as they are to be drawn. */
interface Colored {
  positions: Float32Array
  triangles: Uint32Array
  /** Of each triangle, #rrggbb. */
  colorOf: (triangle: number) => string
}

/** The pack that lies open, with the body it was measured on. */
let open: { pack: Pack; knowledge: SlotKnowledge; placing: Placing } | null = null
const learned = new WeakMap<BodyModel, { kits: string; knowledge: SlotKnowledge }>()

/** Reads a pack and tells how it lies and where its pieces go; without files, anew for the one that lies open. */
export async function openPack(kits: ReadonlyMap<string, Kit>, ask: PackAsk): Promise<PackAnswer> {
  const body = kits.get(ask.body.kit)?.bodies.get(ask.body.id)
  const problems: Problem[] = []
  const refuse = (more: readonly Problem[]): PackAnswer => ({ sorted: null, problems: [...problems, ...more] })
  if (!body) return refuse([problem('body-unknown', 'pack', 'This body is not here.', 'Choose another.')])
  let pack = open?.pack ?? null
  if (ask.files) {
    open = pack = null
    const files = filesOf(ask.files, problems)
    const read = await readPack(files)
    if ([...files.keys()].some((path) => /(^|\/)kit\.json$/.test(path)))
      problems.push(problem('kit-already', 'kit.json', 'This may be a kit already.', 'Then add it as a kit.', 'info'))
    problems.push(...read.problems)
    pack = read.value
  }
  if (!pack) return refuse([])
  const knowledge = knowledgeOf(kits, body)
  const placing = placePack(pack, knowledge, ask.given)
  open = { pack, knowledge, placing }
  const matrix = new Matrix4().fromArray(placing.toBody)
  const pieces = sortPack(pack, placing, knowledge).map(({ piece, guesses }, i) => {
    const { names, triangles, positions, materials, materialOf } = pack.pieces[i]!
    const placed = { positions: moved(positions, matrix), triangles, colorOf: colorsOf(materials, materialOf) }
    return { id: piece, names, triangles: triangles.length / 3, guesses: guesses.slice(0, 4), view: viewOf([placed]) }
  })
  const { up, front, unit, sure, height } = placing
  return { sorted: { placing: { up, front, unit, sure, height }, pieces, beside: besideBody(body) }, problems }
}

/** Forgets the pack that lies open. */
export function closePack(): void {
  open = null
}

/** The kit of the pack that lies open, as a zip. */
export async function makePack(kits: ReadonlyMap<string, Kit>, { id, name, slots }: PackToMake) {
  if (!open) return { zip: null, problems: [problem('pack-gone', 'pack', 'No pack lies open.', 'Bring it in again.')] }
  const { pack, placing, knowledge } = open
  const made = await packKit(pack, placing, knowledge, kits, { id, name, slots: new Map(slots) })
  return { zip: made.value ? zipSync(Object.fromEntries(made.value)) : null, problems: made.problems }
}

/** Files as they were dropped; what is in zips takes their place. */
function filesOf(dropped: readonly (readonly [string, Uint8Array])[], problems: Problem[]): PackFiles {
  const files = new Map<string, Uint8Array>()
  for (const [path, bytes] of dropped)
    if (/\.zip$/i.test(path)) {
      const { value, problems: faults } = unpackZip(bytes, 'pack')
      problems.push(...faults)
      for (const [inner, content] of value ?? []) files.set(dropped.length > 1 ? `${path}/${inner}` : inner, content)
    } else files.set(path, bytes)
  return files
}

function knowledgeOf(kits: ReadonlyMap<string, Kit>, body: BodyModel): SlotKnowledge {
  const key = [...kits.values()].map((k) => k.hash).join()
  const known = learned.get(body)
  if (known?.kits === key) return known.knowledge
  const knowledge = learnSlots(kits, body)
  learned.set(body, { kits: key, knowledge })
  return knowledge
}

const colorsOf = (materials: readonly { color: string }[], materialOf: Uint16Array) => (t: number) =>
  materials[materialOf[t]!]!.color

const CLAY = '#b9ae97'
const ROD = ['#5a6473', '#f4ecdb'] as const

/** The body itself, and a rod of one metre that changes its color every tenth: what a pack is held against. */
function besideBody(body: BodyModel): FigureView {
  const { positions } = body.mesh
  const triangles = pointTriangles(body.mesh)
  return viewOf([
    { positions, triangles, colorOf: () => CLAY },
    ...Array.from({ length: 10 }, (_, i) => rodPart(positions, i)),
  ])
}

function rodPart(body: Float32Array, i: number): Colored {
  let [left, floor] = [Infinity, Infinity]
  for (let p = 0; p < body.length; p += 3) [left, floor] = [Math.min(left, body[p]!), Math.min(floor, body[p + 1]!)]
  const [x, y, r] = [left - 0.12, floor + i / 10, 0.012]
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((c) => [x + (c & 1 ? r : -r), y + (c & 2 ? 0.1 : 0), c & 4 ? r : -r])
  const faces = [0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 4, 2, 4, 6, 2, 1, 3, 5, 5, 3, 7, 2, 6, 3, 3, 6, 7]
  return {
    positions: Float32Array.from(faces.flatMap((c) => corners[c]!)),
    triangles: Uint32Array.from(faces.keys()),
    colorOf: () => ROD[i % 2]!,
  }
}

/** Something to be drawn that is no figure: its vertices as they are, its colors in an atlas, one bone that does nothing. */
function viewOf(parts: readonly Colored[]): FigureView {
  const colors: string[] = []
  const corners: { at: number[]; normal: number[]; color: number }[] = []
  for (const { positions, triangles, colorOf } of parts) {
    const normals = pointNormals(positions, triangles)
    triangles.forEach((v, c) => {
      const color = colorOf(Math.floor(c / 3))
      if (!colors.includes(color)) colors.push(color)
      corners.push({
        at: [...positions.subarray(v * 3, v * 3 + 3)],
        normal: [...normals.subarray(v * 3, v * 3 + 3)],
        color: colors.indexOf(color),
      })
    })
  }
  const size = 2 ** Math.ceil(Math.log2(Math.max(2, Math.sqrt(colors.length))))
  const pixels = new Uint8Array(size * size * 4).fill(255)
  colors.forEach((color, i) =>
    pixels.set(
      [1, 3, 5].map((k) => parseInt(color.slice(k, k + 2), 16)),
      i * 4,
    ),
  )
  const placeOf = (color: number) => [((color % size) + 0.5) / size, (Math.floor(color / size) + 0.5) / size]
  return {
    topology: 'pack',
    mesh: {
      positions: Float32Array.from(corners.flatMap((c) => c.at)),
      normals: Float32Array.from(corners.flatMap((c) => c.normal)),
      uvs: Float32Array.from(corners.flatMap((c) => placeOf(c.color))),
      colors: new Float32Array(corners.length * 3).fill(1),
      joints: new Uint16Array(corners.length * 4),
      weights: Float32Array.from({ length: corners.length * 4 }, (_, i) => (i % 4 ? 0 : 1)),
      indices: Uint32Array.from(corners.keys()),
    },
    pieces: [],
    bones: [{ name: 'root', parent: -1, at: [0, 0, 0] }],
    landmarks: {},
    atlas: { size, pixels, painted: false },
    // sheets of cloth are seen from both sides
    doubleSided: true,
    costs: { triangles: 0, vertices: 0, bones: 0, influences: 0, drawCalls: 0, textureBytes: 0, fileBytes: 0 },
    pieceCosts: [],
    reductionError: 0,
  }
}

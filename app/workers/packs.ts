import { zipSync } from 'fflate'
import { Matrix4 } from 'three'
import {
  arranged,
  bodyPieces,
  boundsOf,
  calledBody,
  figureKit,
  healthOf,
  learnSlots,
  mendPack,
  mendPiece,
  moved,
  packKit,
  placePack,
  pointTriangles,
  problem,
  readPack,
  slotFaults,
  sortPack,
  surelyWorn,
  triangleColors,
  unpackZip,
  wholeFigures,
  writePart,
  type BodyModel,
  type Finding,
  type Kit,
  type Mendable,
  type Pack,
  type PackFiles,
  type PackPiece,
  type Placing,
  type Problem,
  type SlotKnowledge,
} from '@idle-tinker/core'
import { CLAY, viewOf, type Colored } from './plainView'
import type { FigureView, PackAnswer, PackAsk, PackToMake, SortedPack } from './protocol'

/** The pack that lies open, with the body it was measured on. */
let open: {
  /** As it was found. */
  found: Pack
  /** With what was taken apart. */
  pack: Pack
  /** Piece to what is wrong with it, wherever it lies. */
  findings: ReadonlyMap<string, readonly Finding[]>
  knowledge: SlotKnowledge
  placing: Placing
} | null = null
const learned = new WeakMap<BodyModel, { kits: string; knowledge: SlotKnowledge }>()

/** Reads a pack and tells how it lies and where its pieces go; without files, anew for the one that lies open. */
export async function openPack(kits: ReadonlyMap<string, Kit>, ask: PackAsk): Promise<PackAnswer> {
  const body = kits.get(ask.body.kit)?.bodies.get(ask.body.id)
  const problems: Problem[] = []
  const refuse = (more: readonly Problem[]): PackAnswer => ({ sorted: null, problems: [...problems, ...more] })
  if (!body) return refuse([problem('body-unknown', 'pack', 'This body is not here.', 'Choose another.')])
  let found = open?.found ?? null
  if (ask.files) {
    open = found = null
    const files = filesOf(ask.files, problems)
    const read = await readPack(files)
    if ([...files.keys()].some((path) => /(^|\/)kit\.json$/.test(path)))
      problems.push(problem('kit-already', 'kit.json', 'This may be a kit already.', 'Then add it as a kit.', 'info'))
    problems.push(...read.problems)
    found = read.value
  }
  if (!found) return refuse([])
  const knowledge = knowledgeOf(kits, body)
  const faults = slotFaults(knowledge)
  if (faults.length) return refuse(faults)
  const placing = placePack(found, knowledge, ask.given)
  const whole = ask.arrangement?.apart ?? wholeFigures(found, placing, knowledge.space.height)
  const arrangement = { apart: new Set(whole), joined: ask.arrangement?.joined }
  const pack = arranged(found, arrangement, placing)
  const findings = new Map(pack.pieces.map((piece) => [piece.id, healthKnown(piece)]))
  open = { found, pack, findings, knowledge, placing }
  const matrix = new Matrix4().fromArray(placing.toBody)
  const placed = pack.pieces.map((piece): Colored => {
    const colors = triangleColors(piece)
    return { positions: moved(piece.positions, matrix), triangles: piece.triangles, colorOf: (t) => colors[t]! }
  })
  const goes = sortPack(pack, placing, knowledge)
  const pieces = goes.map(({ piece, guesses, odd }, i) => {
    const { names, triangles, bitOf } = pack.pieces[i]!
    return {
      ...(bitOf && { bitOf }),
      findings: [...findings.get(piece)!, ...odd].map(({ code, severity, message, remedy }) => ({
        ...{ code, severity, message, remedy },
      })),
      id: piece,
      names,
      triangles: triangles.length / 3,
      guesses: guesses.slice(0, 4),
      view: viewOf([placed[i]!]),
    }
  })
  const { up, front, unit, sure, height } = placing
  const beside = besideBody(body, placed)
  return {
    sorted: {
      placing: { up, front, unit, sure, height },
      pieces,
      apart: [...arrangement.apart],
      painted: pack.pieces.filter((p) => p.materials.some((m) => m.paint)).length,
      figure: figureIn(pack, surelyWorn(goes), arrangement.apart.size > 0),
      beside,
    },
    problems,
  }
}

/** What there is of a figure with a skeleton. */
function figureIn(pack: Pack, worn: ReadonlySet<string>, apart: boolean): SortedPack['figure'] {
  if (!pack.pieces.some((p) => p.skin)) return null
  const body = [...bodyPieces(pack, worn)]
  return { bones: pack.joints.length, body, likely: apart || calledBody(pack).size > 0 }
}

const healths = new WeakMap<PackPiece, readonly Finding[]>()

/** What is wrong with a piece; looked for once. */
function healthKnown(piece: PackPiece): readonly Finding[] {
  let known = healths.get(piece)
  if (!known) healths.set(piece, (known = healthOf(piece)))
  return known
}

/** The kit of the pack that lies open, as a zip. */
export async function makePack(kits: ReadonlyMap<string, Kit>, order: PackToMake) {
  const { id, name, slots, names, mend, sure, own, pictures } = order
  if (!open) return { zip: null, problems: [problem('pack-gone', 'pack', 'No pack lies open.', 'Bring it in again.')] }
  const { pack, placing, knowledge } = open
  const mended = mendPack(pack, new Map(mend.map(([piece, codes]) => [piece, new Set(codes)])))
  const made = await (own ? figureKit : packKit)(mended, placing, knowledge, kits, {
    ...{ id, name, pictures, slots: new Map(slots), names: new Map(names), sure: new Set(sure) },
  })
  return { zip: made.value ? zipSync(Object.fromEntries(made.value)) : null, problems: made.problems }
}

/** A piece of the pack that lies open as it was found, as a GLB: in its own unit and axes, with its own materials. */
export async function pieceFile(id: string): Promise<Uint8Array | null> {
  const piece = open?.pack.pieces.find((p) => p.id === id)
  if (!piece) return null
  return writePart(piece, piece.names[0] ?? 'piece', (m) => ({ region: m.name, side: m.paint ? Infinity : 0 }))
}

/** What is wrong with a piece is painted so. */
const FAULTY = '#d23b2f'

/** A piece of the pack that lies open, seen as a game shows it: what is turned away is not there, what is wrong is red. */
export function pieceHealth(id: string, mend: readonly Mendable[]) {
  const piece = open?.pack.pieces.find((p) => p.id === id)
  if (!open || !piece) return null
  const matrix = new Matrix4().fromArray(open.placing.toBody)
  const marked = new Set(open.findings.get(id)!.flatMap((f) => f.triangles))
  const seen = (piece: PackPiece, faulty: ReadonlySet<number>): FigureView => {
    const { positions, triangles } = piece
    const colors = triangleColors(piece)
    // what is wrong is seen from both its sides
    const backs = [...faulty].flatMap((t) => [triangles[t * 3]!, triangles[t * 3 + 2]!, triangles[t * 3 + 1]!])
    const count = triangles.length / 3
    const colorOf = (t: number) => (t >= count || faulty.has(t) ? FAULTY : colors[t]!)
    const all = Uint32Array.from([...triangles, ...backs])
    return { ...viewOf([{ positions: moved(positions, matrix), triangles: all, colorOf }]), doubleSided: false }
  }
  return { found: seen(piece, marked), mended: seen(mendPiece(piece, new Set(mend)), new Set()) }
}

/** Files as they were dropped; what is in zips takes their place. */
export function filesOf(dropped: readonly (readonly [string, Uint8Array])[], problems: Problem[]): PackFiles {
  const files = new Map<string, Uint8Array>()
  for (const [path, bytes] of dropped)
    if (/\.zip$/i.test(path)) {
      const { value, problems: faults } = unpackZip(bytes, 'pack')
      problems.push(...faults)
      for (const [inner, content] of value ?? []) files.set(dropped.length > 1 ? `${path}/${inner}` : inner, content)
    } else files.set(path, bytes)
  return files
}

/** What is known of a body's slots; learned once. */
export function knowledgeOf(kits: ReadonlyMap<string, Kit>, body: BodyModel): SlotKnowledge {
  const key = [...kits.values()].map((k) => k.hash).join()
  const known = learned.get(body)
  if (known?.kits === key) return known.knowledge
  const knowledge = learnSlots(kits, body)
  learned.set(body, { kits: key, knowledge })
  return knowledge
}

const ROD = ['#5a6473', '#f4ecdb'] as const
/** How far the rod and the pack stand from the body, metres. */
const APART = { rod: 0.12, pack: 0.25 }

/** The body itself, a rod of one metre that changes its color every tenth, and the pack on its other side. */
function besideBody(body: BodyModel, pack: readonly Colored[]): FigureView {
  const { positions } = body.mesh
  const { min, max } = boundsOf(positions)
  const rod = Array.from({ length: 10 }, (_, i) => rodPart(min[0] - APART.rod, min[1] + i / 10, ROD[i % 2]!))
  const shift = 2 * max[0] + APART.pack
  const shifted = pack.map((p) => ({ ...p, positions: p.positions.map((v, i) => (i % 3 ? v : v + shift)) }))
  return viewOf([{ positions, triangles: pointTriangles(body.mesh), colorOf: () => CLAY }, ...rod, ...shifted])
}

/** A tenth of a metre of a rod, standing on a place. */
function rodPart(x: number, y: number, color: string): Colored {
  const r = 0.012
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].map((c) => [x + (c & 1 ? r : -r), y + (c & 2 ? 0.1 : 0), c & 4 ? r : -r])
  const faces = [0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 4, 2, 4, 6, 2, 1, 3, 5, 5, 3, 7, 2, 6, 3, 3, 6, 7]
  return {
    positions: Float32Array.from(faces.flatMap((c) => corners[c]!)),
    triangles: Uint32Array.from(faces.keys()),
    colorOf: () => color,
  }
}

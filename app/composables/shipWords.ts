import { SHIP_FORMATS, type Learned, type Problem, type ShipFormat, type ShippedFigure } from '@idle-tinker/core'
import type { ShipmentAbout } from '../../server/jobs/shipmentOrder'
import type { PieceReport, ShipmentReport } from '../../server/jobs/shipmentReport'
import type { Shipped, ShipJob } from '../stores/ship'
import type { ShipAnswer } from '../workers/protocol'

const NAMES: Readonly<Record<ShipFormat, string>> = {
  glb: 'GLB',
  gltf: 'glTF',
  vrm: 'VRM',
  obj: 'OBJ',
  dae: 'COLLADA',
  bvh: 'BVH',
  png: 'Pictures',
  json: 'Recipe',
}

/** The formats figures can leave as. */
export const FORMATS = (Object.keys(SHIP_FORMATS) as ShipFormat[]).map((id) => ({
  id,
  name: NAMES[id],
  words: SHIP_FORMATS[id].name,
}))

/** What is told of something that left, or did not. */
export interface Told {
  passed: string[]
  problems: Problem[]
  /** What was found at fault in it: it goes only if one insists. */
  withheld: boolean
}

const same = (a: Problem, b: Problem) => a.code === b.code && a.message === b.message

/** What came of several formats: what all say is said once, of the rest whose it is; what was good of the first, and how much of others. */
export function shippedWords(shipped: ShipAnswer['shipped']): Told {
  const told = shipped.flatMap(({ format, problems }) => problems.map((p) => ({ p, of: NAMES[format] })))
  const problems = told
    .filter(({ p }, i) => told.findIndex((q) => same(p, q.p)) === i)
    .map(({ p, of }) =>
      told.filter((q) => same(p, q.p)).length < shipped.length ? { ...p, message: `${of}: ${p.message}` } : p,
    )
  const passed = shipped.flatMap(({ format, passed: own }, i) =>
    i === 0 || own.length === 0 ? own : [`${NAMES[format]}: read again; ${own.length} things were found good.`],
  )
  // what could be written and read again was kept back for what is wrong with it, not for want of anything
  const withheld = shipped.some((s) => s.files.length === 0 && s.passed.length > 0)
  return { problems, passed, withheld }
}

/** “maren.zip: GLB, VRM; 3,491 triangles, 45 bones, 677 KB.” */
export function fileWords({ file, shipped }: ShipAnswer): string {
  const gone = shipped.filter((s) => s.files.length > 0)
  if (!file || !gone[0]) return ''
  const formats = shipped.length > 1 ? `${gone.map((s) => NAMES[s.format]).join(', ')}; ` : ''
  const { triangles, bones } = gone[0].costs!
  const size = `${Math.ceil(file.bytes.length / 1024).toLocaleString('en')} KB`
  return `${file.name}: ${formats}${triangles.toLocaleString('en')} triangles, ${bones} bones, ${size}.`
}

/** Names of joints that are told one by one. */
const FEW = 12

/** What was found in a file that was learned from. */
export function learnedWords({ match, doubtful, left }: Pick<Learned, 'match' | 'doubtful' | 'left'>): string[] {
  const more = left.length > FEW ? ` and ${left.length - FEW} more` : ''
  return [
    `${Object.keys(match.bones).length} bones were found among its joints; figures shipped to it take its clips by name.`,
    ...doubtful.map(({ bone, why }) => `Look at “${bone}”: ${why}`),
    ...(left.length ? [`Left out, as nothing of ours is there: ${left.slice(0, FEW).join(', ')}${more}.`] : []),
  ]
}

const counted = (n: number, one: string, many: string) => (n === 1 ? `1 ${one}` : `${n} ${many}`)
const sizeWords = (bytes: number) =>
  bytes < 1 << 20 ? `${Math.ceil(bytes / 1024)} KB` : `${(bytes / (1 << 20)).toFixed(1)} MB`

/** “2 figures, 1 crowd; Lantern Tide, far; GLB, BVH”. */
export function shipmentWords({ parcels, targets, formats }: ShipmentAbout): string {
  const of = (kind: string) => parcels.filter((p) => p.kind === kind).length
  const what = [
    [of('figure'), counted(of('figure'), 'figure', 'figures')],
    [of('crowd'), counted(of('crowd'), 'crowd', 'crowds')],
    [of('picks'), counted(of('picks'), 'package', 'packages')],
  ] as const
  return [
    what.flatMap(([n, words]) => (n ? [words] : [])).join(', '),
    targets.map((t) => t.name).join(', '),
    formats.map((f) => NAMES[f]).join(', '),
  ].join(' · ')
}

/** What a shipment that is over came to. */
export function stateWords(row: Pick<Shipped, 'state' | 'files' | 'bytes' | 'stayed' | 'partly'>): string {
  if (row.state === 'canceled') return 'Canceled'
  if (row.state === 'failed') return 'It stayed here'
  const gone = `${counted(row.files ?? 0, 'file', 'files')}, ${sizeWords(row.bytes ?? 0)}`
  const stayed = row.stayed ? [`${row.stayed} stayed`] : []
  const partly = row.partly ? [`${row.partly} without a format`] : []
  return [gone, ...stayed, ...partly].join('; ')
}

/** “Maren Quill, Lantern Tide, far: 3 files, 120 KB.” */
export function pieceWords({ name, target, files, bytes, figures }: PieceReport): string {
  if (files === 0) return `${name}, ${target}: it stayed here`
  const many = figures.length > 1 ? `${figures.length} figures, ` : ''
  return `${name}, ${target}: ${many}${counted(files, 'file', 'files')}, ${sizeWords(bytes)}`
}

/** What stood in the way of several pieces, each thing once, with whose it is: “Maren Quill, near and 3 more: …”. */
export function gathered(problems: readonly Problem[]): Problem[] {
  const groups = new Map<string, Problem[]>()
  for (const p of problems) {
    const key = `${p.severity} ${p.code} ${p.message}`
    groups.set(key, [...(groups.get(key) ?? []), p])
  }
  return [...groups.values()].map(([first, ...others]) => {
    const colon = first!.where.indexOf(': ')
    if (colon < 0) return first!
    const more = others.length ? ` and ${others.length} more` : ''
    return { ...first!, message: `${first!.where.slice(0, colon)}${more}: ${first!.message}` }
  })
}

/** Of one piece of many, that its checks were good. */
export const goodWords = ({ passed }: Pick<PieceReport, 'passed'>): string[] =>
  passed.length ? [`${counted(passed.length, 'thing was', 'things were')} looked at and found good.`] : []

/** What a shipment made by the server came to, in a line. */
export function reportWords({ pieces, files, bytes, stayed }: ShipmentReport): string {
  const figures = pieces.flatMap((p) => p.figures)
  const most = Math.max(0, ...figures.map((f) => f.triangles)).toLocaleString('en')
  const many = figures.length
    ? `${counted(figures.length, 'figure', 'figures')} of at most ${most} triangles, every file read again and checked: `
    : ''
  const left = stayed ? ` ${counted(stayed, 'piece', 'pieces')} stayed here.` : ''
  return `${many}${counted(files, 'file', 'files')}, ${sizeWords(bytes)}.${left}`
}

/** What a job came to; jobs of before there were shipments tell of each figure of their one crowd. */
export function reportFrom(
  result: ShipmentReport | (ShippedFigure & { passed: string[] })[] | null,
): ShipmentReport | null {
  if (!Array.isArray(result)) return result
  const bytes = result.reduce((sum, f) => sum + f.bytes, 0)
  const passed = (result[0]?.passed ?? []).filter((line) => result.every((f) => f.passed.includes(line)))
  const piece: PieceReport = {
    ...{ kind: 'crowd', name: '', target: '', files: result.length, bytes, withheld: false, passed, problems: [] },
    figures: result,
  }
  return { files: result.length, bytes, stayed: 0, pieces: [piece] }
}

/** Whether something stayed that goes if one insists. */
export const mayInsist = ({ error, result }: Pick<ShipJob, 'error' | 'result'>): boolean =>
  (error ?? []).some((p) => p.code === 'withheld') || (result?.pieces ?? []).some((p) => p.withheld)

/** “29 Nov, 16:50”, in the time and the words of who reads it. */
export const dayWords = (at: string): string =>
  new Date(at).toLocaleString('en', { day: 'numeric', month: 'short', hour: '2-digit', minute: '2-digit', hour12: false }) // prettier-ignore

/** A figure that was made here, as a piece of a shipment. */
export function pieceOf({ file, shipped }: ShipAnswer, name: string, target: string): PieceReport {
  const { passed, problems, withheld } = shippedWords(shipped)
  const gone = shipped.filter((s) => s.files.length > 0)
  const bytes = file?.bytes.length ?? 0
  const figures = gone.flatMap((s, i) =>
    i === 0 && s.costs ? [{ file: s.files[0]!, name, triangles: s.costs.triangles, bones: s.costs.bones, bytes }] : [],
  )
  const files = gone.reduce((sum, s) => sum + s.files.length, 0)
  return { ...{ kind: 'figure', name, target, files, bytes, withheld, figures }, passed, problems }
}

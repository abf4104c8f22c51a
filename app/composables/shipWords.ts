import { SHIP_FORMATS, type Learned, type Problem, type ShipFormat } from '@idle-tinker/core'
import type { ShipAnswer } from '../workers/protocol'

const NAMES: Readonly<Record<ShipFormat, string>> = {
  glb: 'GLB',
  gltf: 'glTF',
  vrm: 'VRM',
  obj: 'OBJ',
  dae: 'COLLADA',
  bvh: 'BVH',
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

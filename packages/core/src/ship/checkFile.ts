import { decode, type DecodedPng } from 'fast-png'
import { Vector3 } from 'three'
import { problem, type Problem } from '../base/problem.ts'
import { parseJson } from '../base/validate.ts'
import { turnToOurs } from '../motion/foreign/matchMotion.ts'
import type { ForeignMotion } from '../motion/foreign/ForeignMotion.ts'
import type { Beside } from '../scene/joinGltf.ts'
import { readMotion } from '../motion/foreign/readMotion.ts'
import { readObj } from '../pack/readObj.ts'
import { readRecipe } from '../recipe/read.ts'
import { RECIPE_FORMAT } from '../recipe/schema.ts'
import { gltfScale, type Target } from '../recipe/target.ts'
import { isGlb } from '../scene/readScene.ts'
import { joinGltf } from '../scene/joinGltf.ts'
import { checkShipped } from './checkShipped.ts'
import { colladaSays } from './colladaSays.ts'
import { axesClash, conventionAxes } from './conventionAxes.ts'
import { BLACK } from './engineChecks.ts'

/** What a file was found to be, and what an importer would say to it. */
export interface FileCheck {
  /** What was looked at and found good, in plain words. */
  passed: string[]
  problems: Problem[]
}

/** Figures are between these tall, metres. */
const TALL = { least: 0.05, most: 20 }

/**
 * Reads a file of any format that figures leave in, as an importer of the target's game would, and says what it found.
 *
 * @param file   its name
 * @param target whose unit, axes, names and limits it is to meet; what a file says itself, where none is named
 * @param beside what lies beside it, by the way it is named there
 */
export async function checkFile(
  bytes: Uint8Array,
  file: string,
  target: Target | null = null,
  beside: Beside = () => undefined,
): Promise<FileCheck> {
  if (bytes.length === 0 || isGlb(bytes)) return glbCheck(bytes, file, target)
  if (bytes[0] === 0x89 && bytes[1] === 0x50) return pictureCheck(bytes, file)
  if (target && !conventionAxes(target.convention)) return { passed: [], problems: [axesClash(target.convention)] }
  const text = new TextDecoder().decode(bytes).replace(/^\uFEFF/, '')
  if (/^\s*\{/.test(text)) {
    const json = parseJson(text, file).value as { format?: unknown } | null
    if (json?.format === RECIPE_FORMAT) return recipeCheck(text, file)
    const { value, problems } = await joinGltf(text, file, beside)
    return value ? glbCheck(value, file, target) : { passed: [], problems: problems.map(asError) }
  }
  if (/^\s*<|^\s*HIERARCHY\b/.test(text)) return skeletonCheck(bytes, text, file, target)
  if (/^\s*(?:#|mtllib\s|o\s|g\s|v\s)/.test(text)) return objCheck(text, file, target, beside)
  const said = 'This is no format that figures leave in.'
  return {
    passed: [],
    problems: [problem('file-foreign', file, said, 'Name a .glb, .gltf, .vrm, .dae, .bvh, .obj, .png or a recipe.')],
  }
}

const asError = (p: Problem): Problem => ({ ...p, severity: 'error' })

/** A recipe, as it is read when it is opened. */
function recipeCheck(text: string, file: string): FileCheck {
  const { value, problems } = readRecipe(text, file)
  return { passed: value ? [`It opens as “${value.name}”, with ${value.parts.length} parts.`] : [], problems }
}

/** A picture, which is to show something. */
function pictureCheck(bytes: Uint8Array, file: string): FileCheck {
  const bad = (message: string) => ({ passed: [], problems: [problem('picture', file, message, 'Ship it again.')] })
  let picture: DecodedPng
  try {
    picture = decode(bytes)
  } catch (error) {
    return bad(`The picture cannot be read: ${error instanceof Error ? error.message : String(error)}.`)
  }
  const { width, height, data, channels, depth } = picture
  const full = 2 ** (depth - 8)
  let [shown, brightest] = [0, 0]
  for (let i = 0; i < data.length; i += channels) {
    if (channels % 2 === 0 && data[i + channels - 1] === 0) continue
    shown++
    for (let k = 0; k < Math.min(3, channels); k++) brightest = Math.max(brightest, data[i + k]! / full)
  }
  if (shown === 0) return bad('The picture is empty.')
  if (brightest <= BLACK) return bad('The picture is all black.')
  return { passed: [`A picture of ${width} by ${height} pixels.`], problems: [] }
}

/** A glTF file that holds a clip and no mesh. */
export function isClipAlone(bytes: Uint8Array): boolean {
  if (!isGlb(bytes) || bytes.length < 20) return false
  const length = new DataView(bytes.buffer, bytes.byteOffset).getUint32(12, true)
  const { value } = parseJson(new TextDecoder().decode(bytes.subarray(20, 20 + length)), '')
  const { meshes, animations } = (value ?? {}) as Record<string, unknown>
  return Array.isArray(animations) && animations.length > 0 && !(Array.isArray(meshes) && meshes.length > 0)
}

async function glbCheck(bytes: Uint8Array, file: string, target: Target | null): Promise<FileCheck> {
  if (isClipAlone(bytes)) return skeletonCheck(bytes, '', file, target)
  const names = target?.convention.bones.names === 'table' ? target.convention.bones.table : {}
  const called = (bone: string) => (Object.hasOwn(names, bone) ? names[bone]! : bone)
  const { facts, passed, problems } = await checkShipped(bytes, file, { called, target })
  const over = facts && target ? overLimits(facts, target, file) : []
  return { passed, problems: [...problems, ...over] }
}

function overLimits(
  facts: { triangles: number; vertices: number; bones: number; bytes: number },
  { limits }: Target,
  file: string,
): Problem[] {
  const measured = [
    ['triangles', facts.triangles, limits.triangles],
    ['vertices', facts.vertices, limits.vertices],
    ['bones', facts.bones, limits.bones],
    ['bytes', facts.bytes, limits.fileBytes],
  ] as const
  return measured.flatMap(([what, own, most]) =>
    own > most
      ? [
          problem(
            'over-budget',
            file,
            `It has ${own.toLocaleString('en')} ${what}, the target allows ${most.toLocaleString('en')}.`,
            'Ship it for this target.',
            'warning',
          ),
        ]
      : [],
  )
}

/** How tall places are along an axis of a target, or along y, in metres. */
function tall(places: readonly Vector3[], target: Target | null, unit: number): number {
  const turn = target ? turnToOurs(target.convention) : null
  const heights = places.map((p) => (turn ? p.clone().applyQuaternion(turn).y : p.y) * unit)
  return Math.max(...heights) - Math.min(...heights)
}

const sizeOf = (height: number, file: string, what = 'It stands'): FileCheck =>
  height > TALL.least && height < TALL.most
    ? { passed: [`${what} ${height.toFixed(2)} m tall.`], problems: [] }
    : {
        passed: [],
        problems: [
          problem(
            'size',
            file,
            `It is ${height < 0.01 || height > 1000 ? height.toExponential(1) : height.toFixed(2)} m tall, which no figure is.`,
            'Check the unit of the target and of the file.',
          ),
        ],
      }

/** COLLADA, BVH and clips of glTF: a skeleton, how it stands, and its motions. */
async function skeletonCheck(bytes: Uint8Array, text: string, file: string, target: Target | null): Promise<FileCheck> {
  const { value, problems } = await readMotion(bytes, file, undefined, true)
  if (!value) return { passed: [], problems }
  const motion = value[0]!
  const passed: string[] = []
  const found: Problem[] = [...problems]
  const said = /^\s*</.test(text) ? colladaSays(text) : null
  // glTF stands upright, and is in metres but for games that count otherwise
  const ours = isGlb(bytes)
  if (said && target && said.unit !== null && Math.abs(said.unit / target.convention.unit - 1) > 0.01)
    found.push(
      problem(
        'unit',
        file,
        `It says that a unit is ${said.unit} m; the target counts in ${target.convention.unit} m.`,
        'Ship it for this target.',
      ),
    )
  const unit = said?.unit ?? (ours ? 1 / (target ? gltfScale(target) : 1) : (target?.convention.unit ?? 1))
  // the reader stands COLLADA up as the file says; in BVH axes are those of the game
  const standing = motion.joints.map((j) => new Vector3(...j.at))
  const size = sizeOf(tall(standing, said || ours ? null : target, unit), file, 'Its skeleton is')
  passed.push(...size.passed)
  found.push(...size.problems)
  if (said && target && said.up !== target.convention.up)
    found.push(
      problem(
        'up',
        file,
        `It says that ${said.up} is up; in the target ${target.convention.up} is.`,
        'Ship it for this target.',
      ),
    )
  passed.push(`${motion.joints.filter((j) => !j.end).length} joints, all found.`)
  const lengths = value.filter((m) => m.frames > 1).map((m) => `${m.name} ${((m.frames - 1) * m.step).toFixed(1)} s`)
  passed.push(lengths.length ? `Motions: ${lengths.join(', ')}.` : 'It holds no motion.')
  found.push(...namesMissing(motion, target, file))
  if (said) {
    passed.push(said.triangles ? `${said.triangles.toLocaleString('en')} triangles.` : 'It holds no mesh.')
    for (const picture of said.pictures) passed.push(`It asks for the picture “${picture}”.`)
  }
  return { passed, problems: found }
}

/** Names of the target's table that no joint has. */
function namesMissing({ joints }: ForeignMotion, target: Target | null, file: string): Problem[] {
  const { names, table } = target?.convention.bones ?? { names: 'vrm', table: {} }
  if (names !== 'table') return []
  const has = new Set(joints.map((j) => j.name))
  const missing = Object.values(table).filter((name) => !has.has(name))
  if (missing.length === 0) return []
  const few = missing.slice(0, 5).map((n) => `“${n}”`)
  const more = missing.length > few.length ? ` and ${missing.length - few.length} more` : ''
  return [problem('names-missing', file, `It has no ${few.join(', ')}${more}.`, 'Ship it for this target.', 'warning')]
}

async function objCheck(text: string, file: string, target: Target | null, beside: Beside): Promise<FileCheck> {
  const { value, problems } = readObj(text, file, '')
  if (!value || value.pieces.length === 0)
    return {
      passed: [],
      problems: problems.length ? problems.map(asError) : [problem('obj-empty', file, 'It holds no face.', 'Export it again.')], // prettier-ignore
    }
  const places: Vector3[] = []
  for (const { positions } of value.pieces)
    for (let i = 0; i < positions.length; i += 3) places.push(new Vector3().fromArray(positions, i))
  const size = sizeOf(tall(places, target, target?.convention.unit ?? 1), file)
  const triangles = value.pieces.reduce((sum, p) => sum + p.triangles.length / 3, 0)
  const passed = [...size.passed, `${triangles.toLocaleString('en')} triangles.`]
  const found = [...size.problems]
  if (target && triangles > target.limits.triangles)
    found.push(...overLimits({ triangles, vertices: 0, bones: 0, bytes: 0 }, target, file))
  const library = /^mtllib[ \t]+(.+)$/m.exec(text)?.[1]?.trim()
  const material = library && (await beside(library))
  const lost = (name: string) => problem('texture', file, `“${name}” is not beside it.`, 'Keep its files together.')
  if (library && !material) found.push(lost(library))
  if (material) {
    const picture = /^map_Kd[ \t]+(.+)$/m.exec(new TextDecoder().decode(material))?.[1]?.trim()
    if (picture && !(await beside(picture))) found.push(lost(picture))
    else if (picture) passed.push('Its material and its picture are beside it.')
  }
  return { passed, problems: found }
}

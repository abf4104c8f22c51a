import { problem, type Problem, type Read } from '../base/problem.ts'
import { contentHash, fileHash } from '../base/canonical.ts'
import { parseJson, validate } from '../base/validate.ts'
import { checkBody } from './checkBody.ts'
import { checkManifest } from './checkManifest.ts'
import { checkPart } from './checkPart.ts'
import type { BodyModel, Kit, PartModel } from './Kit.ts'
import { upgradeKitV1 } from './kitV1.ts'
import { readModel, type Model } from './readModel.ts'
import { KIT_FORMAT, KitSchema, type KitManifest } from './schema.ts'

/** The files of a kit by path, `kit.json` among them. */
export type KitFiles = ReadonlyMap<string, Uint8Array>

const MOST_FILES = 5_000
const MOST_MANIFEST_BYTES = 8 << 20

/** Models as they were read, by path and content hash of their files. */
export type KnownModels = Map<string, Promise<Read<Model>>>

/**
 * Reads a kit of any version. A broken kit never throws; a broken part costs only that part.
 *
 * @param known models that need not be read again: for a kit that is changed step by step; afterwards those it has now
 */
export async function readKit(files: KitFiles, known: KnownModels = new Map()): Promise<Read<Kit>> {
  const read = readManifest(files)
  if (!read.value) return { value: null, problems: read.problems }
  const manifest = read.value
  const problems: Problem[] = [...checkManifest(manifest)]
  const hashes = await hashesOf(files)

  const told = new Set<string>()
  const used = new Set<string>()
  const load = async (file: string, where: string): Promise<Model | null> => {
    const bytes = files.get(file)
    if (!bytes) {
      problems.push(
        problem('kit-file-missing', where, `The file ${file} is not in the kit.`, 'Add it or correct its path.'),
      )
      return null
    }
    // what is wrong with it is told by its path
    const key = `${file} ${hashes.get(file)}`
    used.add(key)
    if (!known.has(key)) known.set(key, readModel(bytes, file))
    const model = await known.get(key)!
    if (!told.has(file)) problems.push(...model.problems)
    told.add(file)
    return model.value
  }

  const bodies = new Map<string, BodyModel>()
  for (const [i, def] of manifest.bodies.entries()) {
    const where = `kit.json/bodies/${i}`
    const model = await load(def.file, where)
    if (!model || bodies.has(def.id)) continue
    const body = checkBody(manifest, def, model, where)
    problems.push(...body.problems)
    if (body.value)
      bodies.set(def.id, {
        kit: manifest.id,
        def,
        hash: contentHash([def, body.value.plan, hashes.get(def.file)]),
        ...body.value,
      })
  }

  const parts = new Map<string, PartModel>()
  for (const [i, def] of manifest.parts.entries()) {
    const where = `kit.json/parts/${i}`
    const model = await load(def.file, where)
    if (!model || parts.has(def.id)) continue
    const part = checkPart(manifest, def, model, bodies, where)
    problems.push(...part.problems)
    if (part.value)
      parts.set(def.id, { kit: manifest.id, def, hash: contentHash([def, hashes.get(def.file)]), ...part.value })
  }
  for (const key of known.keys()) if (!used.has(key)) known.delete(key)
  problems.push(...missingDefaults(manifest, bodies, parts))
  return { value: { manifest, hash: hashOfFiles(hashes), bodies, parts }, problems }
}

/** The hash that a kit has once it is read: equal files, equal hashes. */
export const kitHash = async (files: KitFiles): Promise<string> => hashOfFiles(await hashesOf(files))

async function hashesOf(files: KitFiles): Promise<Map<string, string>> {
  const hashes = new Map<string, string>()
  for (const [path, bytes] of files) hashes.set(path, await fileHash(bytes))
  return hashes
}

const hashOfFiles = (hashes: ReadonlyMap<string, string>): string =>
  contentHash([...hashes].sort(([a], [b]) => (a < b ? -1 : 1)))

/** The kit's own description, of whichever version, as one of the newest. */
function readManifest(files: KitFiles): Read<KitManifest> {
  const refuse = (code: string, where: string, message: string, remedy: string): Read<KitManifest> => ({
    value: null,
    problems: [problem(code, where, message, remedy)],
  })
  const json = files.get('kit.json')
  if (!json)
    return refuse('kit-json-missing', 'kit.json', 'There is no kit.json.', 'Put kit.json at the top of the kit.')
  if (files.size > MOST_FILES)
    return refuse('kit-large', 'kit', `The kit has ${files.size} files; it may have ${MOST_FILES}.`, 'Split it.')
  if (json.length > MOST_MANIFEST_BYTES)
    return refuse('kit-large', 'kit.json', `kit.json has ${json.length} bytes; it may have 8 MB.`, 'Split the kit.')
  const parsed = parseJson(new TextDecoder().decode(json), 'kit.json')
  if (parsed.problems.length) return { value: null, problems: parsed.problems }
  let value = parsed.value
  const head = value as { format?: unknown; version?: unknown } | null
  if (head?.format === KIT_FORMAT && typeof head.version === 'number' && head.version > 2)
    return refuse(
      'kit-newer',
      'kit.json/version',
      `The kit is of format version ${head.version}; this workshop reads up to 2.`,
      'Update the workshop.',
    )
  if (head?.format === KIT_FORMAT && head.version === 1) value = upgradeKitV1(value as Record<string, unknown>)
  return validate(KitSchema, value, 'kit.json')
}

/** Slots that may not be empty need a part that could be read. */
function missingDefaults(
  manifest: KitManifest,
  bodies: ReadonlyMap<string, BodyModel>,
  parts: ReadonlyMap<string, PartModel>,
): Problem[] {
  const problems: Problem[] = []
  manifest.bodies.forEach((def, i) => {
    if (!bodies.has(def.id)) return
    for (const [slot, id] of Object.entries(def.defaults))
      if (manifest.parts.some((p) => p.id === id) && !parts.has(id))
        problems.push(
          problem(
            'default-missing',
            `kit.json/bodies/${i}/defaults/${slot}`,
            `The part “${id}”, which this body always has, could not be read.`,
            'Repair the part or name another.',
          ),
        )
  })
  return problems
}

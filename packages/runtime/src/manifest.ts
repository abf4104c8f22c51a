/* What a package's manifest holds; the schema beside it (package.schema.json) says the same to other programs. */

export interface PackageFile {
  /** Within the package. */
  path: string
  bytes: number
}

export interface OptionEntry {
  /** "kit/part": stays the same for ever. */
  id: string
  name: string
  /** Place in `slots`. */
  slot: number
  code: number
  tags: string[]
  /** A flag of the game, until which it cannot be chosen. */
  earned?: string
  icon: PackageFile
  triangles: number
}

export interface SlotEntry {
  id: string
  name: string
  code: number
  /** Whether something has to be on. */
  needed: boolean
  /** Whether a player chooses; else what it starts with is always on. */
  chosen: boolean
  /** Places in `options`. */
  start: number | null
  options: number[]
  chunk: PackageFile
}

/** Rules between options, by their places. */
export type RuleEntry =
  /** Never both. */
  | { kind: 'excludes'; one: number; other: number }
  /** Both or neither. */
  | { kind: 'together'; one: number; other: number }
  /** Only beside one of others. */
  | { kind: 'needs'; one: number; oneOf: number[] }
  /** While one is chosen the others are not worn, chosen or not. */
  | { kind: 'covers'; one: number; others: number[] }

export interface MorphEntry {
  name: string
  kind: 'slider' | 'corrective' | 'expression'
  /** It plays as strongly as the product of these ends of sliders. */
  when: { slider: number; end: 'up' | 'down' }[]
  /** How joints move at full effect: bone, then x, y, z in metres. */
  joints: [bone: number, x: number, y: number, z: number][]
}

export interface BodyEntry {
  id: string
  name: string
  code: number
  /** Metres in one of the units that vertices and their moves are counted in. */
  unit: number
  base: PackageFile
  atlas: PackageFile & { size: number; smooth: boolean }
  /** `of`: the option that brings a bone; null for the body's own. */
  bones: { name: string; parent: number; of: number | null; at: [number, number, number] }[]
  slots: SlotEntry[]
  options: OptionEntry[]
  rules: RuleEntry[]
  sliders: { id: string; name: string; code: number; min: number; max: number; start: number }[]
  morphs: MorphEntry[]
  colors: { id: string; name: string; code: number; start: number; swatches: { color: string; code: number }[] }[]
  /** By the number vertices have: cells of the atlas in the order of the color's swatches, or a picture to be tinted. */
  regions: {
    name: string
    color: number | null
    cells: [number, number][]
    picture: [number, number, number, number] | null
  }[]
  expressions: { id: string; name: string; code: number; morph: number }[]
  clips: { id: string; name: string; loop: boolean; duration: number; travel: number }[]
  springs: { bones: number[]; stiffness: number; drag: number; gravity: number }[]
  looks: { id: string; name: string; look: Omit<Look, 'body'> }[]
  levels: number
  triangles: { least: number; most: number }[]
}

export interface PackageManifest {
  format: 'idle-tinker-picks-package'
  version: number
  id: string
  name: string
  bodies: BodyEntry[]
}

/** What a player has chosen: this is what a game saves. What is not said is as everybody begins. */
export interface Look {
  body: string
  /** Slot to the option's id; null for nothing. */
  parts: Record<string, string | null>
  sliders: Record<string, number>
  colors: Record<string, string>
  expression: string | null
}

/** What was wrong with something that was asked for, and what became of it. */
export interface Told {
  /** Stable, kebab-case. */
  code: string
  /** Slot, slider, color or file it is about. */
  where: string
  message: string
}

/** The newest version of packages this runtime reads. */
export const PACKAGE_VERSION = 1

type Check = (value: unknown) => boolean
const isText: Check = (v) => typeof v === 'string' && v.length > 0
const isNumber: Check = (v) => typeof v === 'number' && Number.isFinite(v)
const isFlag: Check = (v) => typeof v === 'boolean'
const place =
  (count: number): Check =>
  (v) =>
    Number.isInteger(v) && (v as number) >= 0 && (v as number) < count
const orNull =
  (check: Check): Check =>
  (v) =>
    v === null || check(v)
const each =
  (check: Check): Check =>
  (v) =>
    Array.isArray(v) && v.every(check)
const numbers =
  (count: number): Check =>
  (v) =>
    each(isNumber)(v) && (v as unknown[]).length === count
const has =
  (fields: Record<string, Check>): Check =>
  (v) =>
    typeof v === 'object' && v !== null && Object.entries(fields).every(([key, check]) => check((v as never)[key]))

const isFile = has({ path: isText, bytes: isNumber })

function faultOf(body: BodyEntry): string | null {
  const lists = ['bones', 'slots', 'options', 'rules', 'sliders', 'morphs', 'colors', 'regions'] as const
  const more = ['expressions', 'clips', 'springs', 'looks', 'triangles'] as const
  for (const key of [...lists, ...more]) if (!Array.isArray(body[key])) return key
  const [slot, option, bone] = [place(body.slots.length), place(body.options.length), place(body.bones.length)]
  const [slider, morph, color] = [place(body.sliders.length), place(body.morphs.length), place(body.colors.length)]
  const fields: Record<string, Check> = {
    ...{ id: isText, name: isText, code: isNumber, unit: isNumber, base: isFile },
    atlas: has({ path: isText, bytes: isNumber, size: isNumber, smooth: isFlag }),
    bones: each(has({ name: isText, parent: (v) => v === -1 || bone(v), of: orNull(option), at: numbers(3) })),
    slots: each(
      has({
        ...{ id: isText, name: isText, code: isNumber, needed: isFlag, chosen: isFlag },
        ...{ start: orNull(option), options: each(option), chunk: isFile },
      }),
    ),
    options: each(has({ id: isText, name: isText, slot, code: isNumber, tags: each(isText), icon: isFile })),
    rules: each((v) => has({ one: option })(v) && RULES[(v as RuleEntry).kind]?.(option)(v) === true),
    sliders: each(has({ id: isText, name: isText, code: isNumber, min: isNumber, max: isNumber, start: isNumber })),
    morphs: each(
      has({
        name: isText,
        when: each(has({ slider })),
        joints: each((v) => numbers(4)(v) && bone((v as number[])[0])),
      }),
    ),
    colors: each(
      (v) =>
        has({ id: isText, name: isText, code: isNumber, swatches: each(has({ color: isText, code: isNumber })) })(v) &&
        place((v as BodyEntry['colors'][0]).swatches.length)((v as BodyEntry['colors'][0]).start),
    ),
    regions: each(has({ name: isText, color: orNull(color), cells: each(numbers(2)), picture: orNull(numbers(4)) })),
    expressions: each(has({ id: isText, name: isText, code: isNumber, morph })),
    clips: each(has({ id: isText, name: isText, loop: isFlag, duration: isNumber })),
    springs: each(has({ bones: each(bone), stiffness: isNumber, drag: isNumber, gravity: isNumber })),
    looks: each(has({ id: isText, name: isText, look: has({}) })),
    levels: (v) => Number.isInteger(v) && (v as number) > 0,
  }
  return Object.keys(fields).find((key) => !fields[key]!((body as never)[key])) ?? null
}

const RULES: Record<string, (option: Check) => Check> = {
  excludes: (option) => has({ other: option }),
  together: (option) => has({ other: option }),
  needs: (option) => has({ oneOf: each(option) }),
  covers: (option) => has({ others: each(option) }),
}

/** Looks whether something is a manifest that this runtime can work with; tells what is wrong where it is not. */
export function readManifest(value: unknown): { manifest: PackageManifest | null; told: Told[] } {
  const refuse = (code: string, where: string, message: string) => ({
    manifest: null,
    told: [{ code, where, message }],
  })
  const given = value as PackageManifest | null
  if (typeof given !== 'object' || given === null || given.format !== 'idle-tinker-picks-package')
    return refuse('not-a-package', 'package.json', 'This is no package of picks.')
  if (given.version !== PACKAGE_VERSION)
    return refuse(
      'other-version',
      'package.json',
      `The package is of version ${String(given.version)}, this runtime reads ${PACKAGE_VERSION}.`,
    )
  if (!isText(given.id) || !Array.isArray(given.bodies) || given.bodies.length === 0)
    return refuse('manifest-broken', 'package.json', 'The package names no bodies.')
  for (const [i, body] of given.bodies.entries()) {
    const fault = typeof body === 'object' && body !== null ? faultOf(body) : 'it'
    if (fault)
      return refuse(
        'manifest-broken',
        `bodies/${i}/${fault}`,
        `The package is not whole: “${fault}” is not as it has to be.`,
      )
  }
  return { manifest: given, told: [] }
}

import { encode } from 'fast-png'
import { hasErrors, problem, type Problem } from '../../base/problem.ts'
import type { Shelf } from '../../base/Shelf.ts'
import { reducerReady } from '../../budget/reduceMesh.ts'
import { bodyOf, fullName, refOf } from '../../kit/library.ts'
import type { Kits } from '../../recipe/resolve.ts'
import type { Target } from '../../recipe/target.ts'
import { keyClip } from '../../ship/clipKeys.ts'
import { unitFor } from '../../ship/vertexBytes.ts'
import { apartOf, brokenBy, wornOf } from '../ChoiceModel.ts'
import { choicesOf, type BodyChoices } from '../choicesOf.ts'
import { codeProblems, withCodes } from '../codes.ts'
import { ICON, type PickBody, type Picks } from '../picks.ts'
import type { Proof } from '../provePicks.ts'
import type { Contradiction, Prover } from '../Prover.ts'
import {
  bonesOf,
  colorsOf,
  expressionsOf,
  looksOf,
  morphsOf,
  optionsOf,
  placedRule,
  regionsOf,
  slidersOf,
  slotsOf,
  springsOf,
  startOf,
} from './describeBody.ts'
import { fitPairs } from './fits.ts'
import { drawIcons } from './icons.ts'
import { PACKAGE_FORMAT, PackageSchema, type PackageBody, type PackageManifest } from './manifest.ts'
import { packageAtlas } from './packageAtlas.ts'
import { cutPieces } from './pieces.ts'
import { provePieces } from './provePieces.ts'
import { standAll, type Standing } from './standing.ts'
import { startClips } from './startClips.ts'
import { writePieces, type PieceStyle } from './writePieces.ts'

export interface BuiltPackage {
  manifest: PackageManifest
  /** By their paths within the package; among them the manifest and its schema. */
  files: Map<string, Uint8Array>
  /** By body. */
  proofs: Map<string, Proof>
}

export interface PackageOptions {
  prover: Prover
  shelf?: Shelf | null
  /** Called as work goes on: what is done, and how far, 0 to 1. */
  progress?: (what: string, done: number) => void
}

/**
 * Builds the package a game loads: what a player may choose, cut into pieces that share a skeleton and fit each other in
 * pairs, with everything that is needed to put them on. The same picks, kits and target give the same bytes.
 *
 * Nothing is built of picks that have errors, that leave a player no choice, or whose start breaks a rule; what only goes
 * over the target is told.
 */
export async function buildPackage(
  given: Picks,
  kits: Kits,
  target: Target,
  { prover, shelf = null, progress = () => undefined }: PackageOptions,
): Promise<{ value: BuiltPackage | null; problems: Problem[] }> {
  await reducerReady
  const picks = withCodes(given)
  const problems = codeProblems(picks)
  const files = new Map<string, Uint8Array>()
  const proofs = new Map<string, Proof>()
  const bodies: PackageBody[] = []
  for (const [i, pick] of picks.bodies.entries()) {
    const told = (what: string, share: number) => progress(`${pick.name}: ${what}`, (i + share) / picks.bodies.length)
    const { choices, problems: faults } = choicesOf(pick, kits, `picks/bodies/${i}`)
    problems.push(...faults)
    if (picks.bodies.findIndex((b) => b.id === pick.id) < i)
      problems.push(problem('body-twice', `picks/bodies/${i}/id`, `“${pick.id}” is there twice.`, 'Rename one.'))
    problems.push(...unread(choices, pick, kits, `picks/bodies/${i}`))
    if (hasErrors(problems)) continue
    const built = buildBody({ pick, choices, kits, target, shelf, prover, told }, picks, i)
    problems.push(...built.problems)
    if (!built.value) continue
    for (const [path, bytes] of built.value.files) files.set(path, bytes)
    proofs.set(pick.id, built.value.proof)
    bodies.push(built.value.body)
  }
  if (hasErrors(problems)) return { value: null, problems }
  const manifest: PackageManifest = { format: PACKAGE_FORMAT, version: 1, id: picks.id, name: picks.name, bodies }
  files.set('package.json', jsonBytes(manifest))
  files.set('package.schema.json', jsonBytes(PackageSchema))
  return { value: { manifest, files, proofs }, problems }
}

/** What a kit names and could not be read: nothing can be cut from it. */
function unread({ parts }: BodyChoices, { body }: PickBody, kits: Kits, where: string): Problem[] {
  const names = [...parts].flatMap(([name, { kit, def }]) => (kits.get(kit)?.parts.has(def.id) ? [] : [name]))
  if (bodyOf(kits, body) && !kits.get(body.kit)!.bodies.has(body.id)) names.unshift(fullName(body))
  return names.map((name) =>
    problem('model-unread', where, `The model of “${name}” cannot be read.`, 'Mend its kit, or take it out.'),
  )
}

const jsonBytes = (value: unknown) => new TextEncoder().encode(`${JSON.stringify(value, null, 1)}\n`)

interface BodyWork {
  pick: PickBody
  choices: BodyChoices
  kits: Kits
  target: Target
  shelf: Shelf | null
  prover: Prover
  told: (what: string, share: number) => void
}

interface BuiltBody {
  body: PackageBody
  files: Map<string, Uint8Array>
  proof: Proof
}

function buildBody(work: BodyWork, picks: Picks, index: number): { value: BuiltBody | null; problems: Problem[] } {
  const { pick, choices, kits, target, shelf, prover, told } = work
  const where = `picks/bodies/${index}`
  told('cutting', 0)
  const standing = standAll(pick, choices, kits, target, shelf)!
  const place = new Map(standing.options.map((o, i) => [o.name, i]))
  const start = startOf(pick, choices, kits)
  const broken = brokenBy(choices, start)
  if (broken.groups.length || broken.rules.length)
    return refuse('start-broken', `${where}/slots`, 'What a player begins with breaks a rule.', 'Begin otherwise.')
  const regions = regionsOf(standing, pick, kits)
  const { atlas, placed, problems } = packageAtlas(regions, target.atlas)
  if (!atlas) return { value: null, problems }
  const painted = new Set(regions.flatMap((r, i) => (r.picture ? [i] : [])))
  const shares = target.lods.map((l) => Math.min(1, l.triangles / target.limits.triangles))
  const pieces = cutPieces(standing, kits, painted, shares)
  told('fitting pairs', 0.3)
  const fits = fitPairs(standing, apartOf(choices), (done, of) => told('fitting pairs', 0.3 + (0.4 * done) / of))
  told('writing', 0.7)
  const files = new Map<string, Uint8Array>()
  const put = (path: string, bytes: Uint8Array) => {
    files.set(`${pick.id}/${path}`, bytes)
    return { path: `${pick.id}/${path}`, bytes: bytes.length }
  }
  const worn = new Set([...wornOf(choices, start)].map((o) => place.get(o)!))
  const clips = startClips(standing, pieces, worn, pick, kits, target)
  const colorStart = (region: number) => Math.max(0, regions[region]!.swatches.indexOf(regions[region]!.start))
  const style: PieceStyle = {
    ...{ standing, placed, fits, startCell: colorStart },
    unit: unitFor(standing.merged.mesh.positions),
  }
  const keyed = clips.map((clip) => keyClip(clip, standing.skeleton.bones, target))
  const base = put('base.glb', writePieces(style, [{ piece: pieces[0]!, name: pick.name }], keyed))
  const size = picks.icons ?? ICON
  const drawn = drawIcons(standing, size, (region) => regions[region]!.start)
  const codes = picks.codes!.ofBody[pick.id]!
  const options = optionsOf(pick, choices, standing, codes, pieces, (file, i) =>
    put(`icons/${file}.png`, pngOf(drawn[i]!, size)),
  )
  const slots = slotsOf(pick, choices, kits, codes, start, place, (slot, own) =>
    put(
      `${slot}.glb`,
      writePieces(
        style,
        own.map((i) => ({ piece: pieces[i + 1]!, name: options[i]!.name })),
      ),
    ),
  )
  const image = put('atlas.png', pngOf(atlas.pixels, atlas.size))
  told('proving', 0.8)
  const bytesOf = new Map(slots.flatMap((s) => s.options.map((o) => [options[o]!.id, s.chunk.bytes] as const)))
  const downloads = { always: base.bytes + image.bytes, of: bytesOf }
  const proved = provePieces(prover, work, standing, pieces, { ...downloads, texture: atlas.size ** 2 * 4 })
  if (!('proof' in proved)) return refuse(...noChoice(proved, where))
  const body: PackageBody = {
    ...{ id: pick.id, name: pick.name, code: picks.codes!.bodies.indexOf(pick.id), unit: style.unit, base },
    atlas: { ...image, size: atlas.size, smooth: atlas.painted },
    bones: bonesOf(standing),
    slots,
    options,
    rules: choices.rules.flatMap((rule) => placedRule(rule, place)),
    sliders: slidersOf(pick, standing, codes),
    morphs: morphsOf(standing),
    ...colorsOf(pick, kits, codes, regions, placed),
    expressions: expressionsOf(pick, standing, codes),
    clips: clips.map(({ id, name, loop, duration, travel }) => ({ id, name, loop, duration, travel })),
    springs: springsOf(pick, standing),
    looks: looksOf(pick, choices),
    levels: pieces[0]!.levels.length,
    triangles: proved.triangles,
  }
  return { value: { body, files, proof: proved.proof }, problems: strayProblems(pick, choices, standing, where) }
}

/** What looks and springs name and is not there: they do without. */
function strayProblems(pick: PickBody, { parts }: BodyChoices, { skeleton }: Standing, where: string): Problem[] {
  const limbs = new Set(skeleton.limbs.map((l) => l.id))
  const springs = Object.keys(pick.springs ?? {}).filter((limb) => !limbs.has(limb))
  return [
    ...springs.map((limb) =>
      problem('spring-unknown', `${where}/springs/${limb}`, `There is no chain “${limb}”.`, 'Take it out.', 'warning'),
    ),
    ...(pick.looks ?? []).flatMap((look, i) =>
      Object.values(look.parts ?? {})
        .filter((text) => text !== null && !parts.has(fullName(refOf(text, pick.body.kit))))
        .map((text) =>
          problem(
            'part-unknown',
            `${where}/looks/${i}`,
            `“${look.name}” wears “${text}”, which is no choice here; its slot is as at the start.`,
            'Keep the look anew.',
            'warning',
          ),
        ),
    ),
  ]
}

function refuse(code: string, where: string, message: string, remedy: string) {
  return { value: null, problems: [problem(code, where, message, remedy)] }
}

const noChoice = ({ rules, groups }: Contradiction, where: string) =>
  [
    'picks-none',
    where,
    `There is no choice that meets all rules (${rules.length} rules and ${groups.length} slots that need something).`,
    'Change one of them.',
  ] as const

const pngOf = (pixels: Uint8Array, side: number) =>
  new Uint8Array(encode({ width: side, height: side, data: pixels, channels: 4, depth: 8 }))

import { canonicalJson } from '../base/canonical.ts'
import { hasErrors, problem, type Problem, type Read } from '../base/problem.ts'
import { unpackZip } from '../base/unpackZip.ts'
import { parseJson } from '../base/validate.ts'
import { MIX_FORMAT, readMix, type Mix } from '../crowd/mix.ts'
import { newKind, newMix } from '../crowd/newMix.ts'
import { selectCrowd } from '../crowd/selectCrowd.ts'
import { bodyOf, fullName } from '../kit/library.ts'
import { readRecipe } from '../recipe/read.ts'
import { resolveRecipe, type Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'

/** Figures a mix can have. */
const MOST = 2000
/** So many are made again to see whether they are the same; larger crowds stay as they left without a look. */
const MOST_LOOKED = 200
const TABLE = /(?:^|\/)crowd\.json$/
const ZIP_MAGIC = [0x50, 0x4b]

/**
 * The crowd in a file: a mix, the `crowd.json` that stands beside a crowd's files, or the zip in which that lies. Its
 * figures are those that left: where its mix makes other ones of these kits, they stay as they were, each in its place.
 */
export function openCrowd(bytes: Uint8Array, kits: Kits, where = 'file'): Read<Mix> {
  const told: Problem[] = []
  let text = bytes
  if (ZIP_MAGIC.every((byte, i) => bytes[i] === byte)) {
    const { value: files, problems } = unpackZip(bytes, 'crowd')
    if (!files) return { value: null, problems }
    const tables = [...files.keys()].filter((path) => TABLE.test(path)).sort()
    const [first] = tables
    if (first === undefined) return refuse(where, 'There is no crowd.json in it.', 'Choose the zip of a crowd that was shipped from here.') // prettier-ignore
    text = files.get(first)!
    const others = tables.slice(1).filter((path) => !sameMix(files.get(path)!, text))
    if (others.length)
      told.push(
        problem(
          'crowd-several',
          where,
          `It holds ${others.length + 1} crowds; this is that of “${first}”.`,
          'Take the crowd.json of another out of the zip, and open it by itself.',
          'warning',
        ),
      )
  }
  const { value, problems } = parseJson(new TextDecoder().decode(text).replace(/^\uFEFF/, ''), where)
  if (problems.length) return { value: null, problems }
  const table = value as { format?: unknown; mix?: unknown; variants?: unknown } | null
  if (table?.format === MIX_FORMAT) return readMix(value, where)
  if (!Array.isArray(table?.variants) || table.variants.length === 0)
    return refuse(where, 'It is no crowd: nobody is in it.', 'Choose a mix, a crowd.json, or the zip of a crowd.')
  const read = crowdOf(table.mix ?? null, table.variants, kits, where)
  return { ...read, problems: [...told, ...read.problems] }
}

const refuse = (where: string, message: string, remedy: string): Read<Mix> => ({
  value: null,
  problems: [problem('crowd-foreign', where, message, remedy)],
})

/** Whether two tables are of one mix, for different targets. */
function sameMix(a: Uint8Array, b: Uint8Array): boolean {
  const [one, other] = [a, b].map((bytes) => {
    const table = parseJson(new TextDecoder().decode(bytes), '').value as { mix?: object; variants?: unknown } | null
    return canonicalJson(table?.mix ?? table?.variants ?? null)
  })
  return one === other
}

function crowdOf(given: unknown, variants: readonly unknown[], kits: Kits, where: string): Read<Mix> {
  if (variants.length > MOST) return refuse(where, `It holds ${variants.length} figures; a mix has ${MOST} at most.`, 'Open a smaller one.') // prettier-ignore
  const recipes: Recipe[] = []
  for (const [i, variant] of variants.entries()) {
    const { value, problems } = readRecipe((variant as { recipe?: unknown } | null)?.recipe, `${where}/variants/${i}`)
    if (!value) return { value: null, problems }
    const missing = resolveRecipe(value, kits).problems.filter((p) => p.severity === 'error')
    if (missing.length) return { value: null, problems: missing }
    recipes.push(value)
  }
  const mix = given === null ? { value: ofRecipes(recipes, kits), problems: [] } : readMix(given, `${where}/mix`)
  if (!mix.value) return mix
  const counted = { ...mix.value, count: recipes.length }
  const { variants: made, problems } =
    given === null || counted.count > MOST_LOOKED ? { variants: [], problems: [] } : selectCrowd(counted, kits)
  if (hasErrors(problems)) return { value: null, problems }
  const same = made.length === recipes.length && made.every((v, i) => canonicalJson(v.recipe) === canonicalJson(recipes[i]!)) // prettier-ignore
  if (same) return { value: counted, problems: [] }
  return { value: { ...counted, pins: Object.fromEntries(recipes.entries()) }, problems: [] }
}

/** A mix of the bodies that some figures have, by how many of them have each. */
function ofRecipes(recipes: readonly Recipe[], kits: Kits): Mix {
  const bodies = new Map<string, { body: Recipe['body']; share: number }>()
  for (const { body } of recipes) {
    const known = bodies.get(fullName(body))
    if (known) known.share++
    else bodies.set(fullName(body), { body, share: 1 })
  }
  const [first] = bodies.values()
  const name = `Crowd of ${bodyOf(kits, first!.body)?.name.toLowerCase() ?? 'figures'}`
  return {
    ...newMix(kits, first!.body, { id: 'crowd', name }, 1),
    kinds: [...bodies.values()].slice(0, 20).map(({ body, share }, i) => newKind(kits, body, `${body.id}-${i + 1}`, share)), // prettier-ignore
  }
}

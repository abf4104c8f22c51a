import { problem, type Problem } from '../base/problem.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import { gltfScale } from '../recipe/target.ts'
import { boundsOf, CHECKS, type Seen, type ShippedFacts } from './checks.ts'
import { EXTRAS_KEY, type FileExtras } from './extras.ts'
import { ShippedFile, unpackerReady } from './ShippedFile.ts'

export interface ShippedCheck {
  facts: ShippedFacts | null
  problems: Problem[]
  /** What was looked at and found good, in plain words. */
  passed: string[]
}

/**
 * Reads a shipped GLB again as an engine would and checks what goes wrong most often. Never throws.
 *
 * @param options.called what the file calls a bone of the open VRM standard; the same if not said
 * @param options.target what it is to meet
 */
export async function checkShipped(
  bytes: Uint8Array,
  where = 'file',
  { called = (bone) => bone, target = null }: { called?: Seen['called']; target?: Seen['target'] } = {},
): Promise<ShippedCheck> {
  const fail = (code: string, message: string, remedy: string): ShippedCheck => ({
    facts: null,
    passed: [],
    problems: [problem(code, where, message, remedy)],
  })
  if (bytes.length === 0) return fail('glb-empty', 'The file is empty (0 bytes).', 'Ship it again.')
  await unpackerReady
  try {
    const file = new ShippedFile(bytes)
    const drawn = file.drawn()
    const first = drawn[0]
    if (!first) return fail('mesh-missing', 'There is no mesh in the file.', 'Ship it again.')
    const moment = file.at()
    const scale = target ? gltfScale(target) : scaleSaid(file)
    const rest = file.posed(first, moment).map((v) => v / scale)
    const bounds = boundsOf(rest)
    const facts: ShippedFacts = {
      triangles: first.triangles.length / 3,
      vertices: first.positions.length / 3,
      bones: first.skin === null ? 0 : file.jointsOf(first.skin).length,
      levels: drawn.length,
      clips: file.clips().map((c) => c.name),
      height: bounds.max[1]! - bounds.min[1]!,
      bytes: bytes.length,
      recipe: recipeIn(file, where),
    }
    const problems: Problem[] = []
    const passed: string[] = []
    for (const check of CHECKS) {
      const found = check({ file, drawn, first, moment, rest, bounds, facts, called, target, scale })
      if ('good' in found) {
        if (found.good) passed.push(found.good)
      } else problems.push(problem(found.code, where, found.bad, found.remedy, found.severity))
    }
    return { facts, problems, passed }
  } catch (error) {
    const detail = error instanceof Error ? error.message : String(error)
    return fail('glb-broken', `The file cannot be read: ${detail}.`, 'Ship it again; if it was copied, copy it anew.')
  }
}

/** How many of its units a file says that a metre is. */
function scaleSaid({ json }: ShippedFile): number {
  const { scale } = (json.asset?.extras?.[EXTRAS_KEY] ?? {}) as Partial<FileExtras>
  return typeof scale === 'number' && scale > 0 && Number.isFinite(scale) ? scale : 1
}

function recipeIn(file: ShippedFile, where: string): Recipe | null {
  const inside = file.json.asset?.extras?.[EXTRAS_KEY] as { recipe?: unknown } | undefined
  return inside?.recipe ? readRecipe(inside.recipe, `${where}/recipe`).value : null
}

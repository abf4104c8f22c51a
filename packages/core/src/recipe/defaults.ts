import type { Kit } from '../kit/readKit.ts'
import { RECIPE_FORMAT, TARGET_FORMAT, type Recipe, type Target } from './schema.ts'
import { partReference } from './shuffle.ts'

/** A new figure on a body: its required parts, every slider at rest. Throws if the kit lacks the body. */
export function newRecipe(kit: Pick<Kit, 'manifest'>, body: string, name: string): Recipe {
  const def = kit.manifest.bodies.find((b) => b.id === body)
  if (!def) throw new RangeError(`no body ${body} in ${kit.manifest.id}`)
  const parts: Recipe['parts'] = {}
  for (const [slot, id] of Object.entries(def.defaults)) parts[slot] = partReference(kit, id)
  return {
    format: RECIPE_FORMAT,
    version: 1,
    name,
    body: partReference(kit, body),
    parts,
    sliders: {},
    colors: {},
    locks: [],
  }
}

const MIB = 1 << 20

/** The targets that ship with the workshop: those of Lantern Tide. */
export const TARGETS: readonly Target[] = [
  target('near', 'Lantern Tide, near the camera', 'near', 4, 128, 3500, 9000, 45, 64 << 10, 2 * MIB, [1600, 700]),
  target('standard', 'Lantern Tide, middle distance', 'standard', 4, 128, 2200, 6500, 34, 64 << 10, MIB, [900, 400]),
  target('crowd', 'Lantern Tide, crowd', 'crowd', 2, 64, 900, 2700, 24, 16 << 10, 200 << 10, [500, 250]),
  target('far', 'Lantern Tide, far', 'crowd', 1, 64, 250, 750, 24, 16 << 10, 100 << 10, []),
]

function target(
  id: string,
  name: string,
  detail: Target['detail'],
  influences: Target['influences'],
  atlas: Target['atlas'],
  triangles: number,
  vertices: number,
  bones: number,
  textureBytes: number,
  fileBytes: number,
  lods: number[],
): Target {
  return {
    format: TARGET_FORMAT,
    version: 1,
    id,
    name,
    detail,
    influences,
    atlas,
    limits: { triangles, vertices, bones, drawCalls: 1, textureBytes, fileBytes },
    lods,
    keepSliders: [],
  }
}

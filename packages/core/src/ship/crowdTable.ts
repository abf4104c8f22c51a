import { csvFormat } from 'd3-dsv'
import type { Costs } from '../budget/costs.ts'
import { compareVariants } from '../crowd/compareVariants.ts'
import { createPortraitist } from '../crowd/distance.ts'
import type { Mix } from '../crowd/mix.ts'
import { fullName } from '../kit/library.ts'
import type { Kits } from '../recipe/resolve.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'

export interface ShippedVariant {
  file: string
  recipe: Recipe
  costs: Costs
}

/**
 * What stands beside the files of a shipped crowd as `crowd.json`: the mix it came from (null if it
 * was put together otherwise), the target, and each variant with its file, recipe, costs and the
 * variant most like it, `nearest` (null where no other has its body); `twins` are the pairs that
 * look alike.
 */
export function crowdTable(mix: Mix | null, target: Target, variants: readonly ShippedVariant[], kits: Kits): string {
  const bodies = new Map<string, number[]>()
  variants.forEach(({ recipe: { body } }, i) => {
    const key = JSON.stringify([body.kit, body.id])
    bodies.set(key, [...(bodies.get(key) ?? []), i])
  })
  const nearest: ({ index: number; distance: number } | null)[] = variants.map(() => null)
  const twins: { a: number; b: number; distance: number }[] = []
  for (const places of bodies.values()) {
    const { body } = variants[places[0]!]!.recipe
    if (!kits.has(body.kit) || places.length < 2) continue
    const painter = createPortraitist(kits, body)
    const found = compareVariants(
      places.map((i) => painter.portrait(variants[i]!.recipe)),
      painter.weights,
    )
    found.nearest.forEach(({ index, distance }, i) => (nearest[places[i]!] = { index: places[index]!, distance }))
    twins.push(...found.twins.map(({ a, b, distance }) => ({ a: places[a]!, b: places[b]!, distance })))
  }
  const rows = variants.map((variant, i) => ({ ...variant, nearest: nearest[i] }))
  return `${JSON.stringify({ mix, target, variants: rows, twins }, null, 2)}\n`
}

/**
 * The same for a spreadsheet, as RFC 4180: a row a figure with its file, name, body, costs, a column for each slot that
 * any of them fills, by the ids of its parts, and one for each slider that any of them moves.
 */
export function crowdCsv(variants: readonly ShippedVariant[]): string {
  const columns = new Set(['file', 'name', 'body', 'triangles', 'vertices', 'bones', 'bytes'])
  const rows = variants.map(({ file, recipe, costs }) => {
    const { triangles, vertices, bones, fileBytes: bytes } = costs
    const row: Record<string, string | number> = {
      ...{ file, name: recipe.name, body: fullName(recipe.body) },
      ...{ triangles, vertices, bones, bytes },
    }
    for (const { slot, part } of recipe.parts) {
      const column = `slot ${slot}`
      row[column] = Object.hasOwn(row, column) ? `${row[column]} ${fullName(part)}` : fullName(part)
    }
    for (const [id, value] of Object.entries(recipe.sliders))
      row[`slider ${id}`] = typeof value === 'number' ? value : value.join(' / ')
    return row
  })
  const kinds = ['slot ', 'slider ']
  for (const kind of kinds)
    for (const name of rows.flatMap((row) => Object.keys(row).filter((k) => k.startsWith(kind))).sort())
      columns.add(name)
  return `${csvFormat(rows, [...columns])}\n`
}

import {
  createNormalScratch,
  expressionName,
  morphCorners,
  type Builder,
  type Kit,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import type { Moves } from './protocol'

/**
 * How a figure's mesh moves from the face it has to expressions of its body, by what these are called; those that it has
 * already are not among them.
 *
 * @param reduce brought under its limit it can do no more than what ships
 * @param wanted which, by what they are called; all where nothing is said
 */
export function facesOf(
  builder: Builder,
  kits: ReadonlyMap<string, Kit>,
  recipe: Recipe,
  target: Target,
  reduce: boolean,
  wanted?: readonly string[],
): Record<string, Moves> {
  const { keepExpressions: keeps = [] } = target
  const expressions = (kits.get(recipe.body.kit)?.bodies.get(recipe.body.id)?.def.expressions ?? []).filter(
    (e) => (!wanted || wanted.includes(expressionName(e))) && (!reduce || keeps === 'all' || keeps.includes(e.id)),
  )
  if (expressions.length === 0) return {}
  const asked = reduce ? target : { ...target, keepSliders: [], keepExpressions: expressions.map((e) => e.id) }
  const mesh = builder.build(recipe, asked, { reduce }).figure?.mesh
  if (!mesh) return {}
  const names = new Set(expressions.map(expressionName))
  const scratch = createNormalScratch(mesh)
  return Object.fromEntries(
    mesh.morphs
      .filter(({ name }) => names.has(name))
      .map((morph) => {
        const { corners: vertices, ...moves } = morphCorners(mesh, morph, scratch)
        return [morph.name, { vertices, ...moves }]
      }),
  )
}

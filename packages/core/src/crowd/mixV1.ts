import { Type, type Static } from '@sinclair/typebox'
import { RecipeV1Schema, upgradeRecipeV1 } from '../recipe/recipeV1.ts'

/* Mixes as they were: parts of one kit, pins as recipes of version 1. Kept as it stood; see recipeV1.ts. */

const closed = { additionalProperties: false }
const Id = Type.String({ pattern: '^[a-z0-9][a-zA-Z0-9-]{0,63}$' })
const Key = Type.String({ pattern: '^[\\s\\S]*$' })
const Share = Type.Number({ minimum: 0, maximum: 1000 })
const Limit = Type.Number({ minimum: -2, maximum: 2 })

export const MixV1Schema = Type.Object(
  {
    format: Type.Literal('idle-tinker-mix'),
    version: Type.Literal(1),
    id: Id,
    name: Type.String({ minLength: 1, maxLength: 80 }),
    body: Type.Object({ kit: Id, kitVersion: Type.String({ maxLength: 32 }), id: Id }, closed),
    count: Type.Integer({ minimum: 1, maximum: 2000 }),
    seed: Type.Integer({ minimum: 0, maximum: 2147483647 }),
    slots: Type.Record(
      Key,
      Type.Array(Type.Object({ part: Type.Union([Id, Type.Null()]), share: Share }, closed), { maxItems: 100 }),
      closed,
    ),
    sliders: Type.Record(Key, Type.Tuple([Limit, Limit]), closed),
    palettes: Type.Array(Type.Object({ id: Id, share: Share }, closed), { maxItems: 40 }),
    atMostOnce: Type.Array(Id, { maxItems: 100 }),
    triangles: Type.Integer({ minimum: 50, maximum: 100000 }),
    pins: Type.Optional(Type.Record(Type.String({ pattern: '^[0-9]{1,4}$' }), RecipeV1Schema, closed)),
    rerolls: Type.Optional(Type.Array(Type.Integer({ minimum: 0, maximum: 1999 }), { maxItems: 2000 })),
  },
  closed,
)

export function upgradeMixV1({ pins, ...rest }: Static<typeof MixV1Schema>) {
  return {
    ...rest,
    version: 2,
    ...(pins && {
      pins: Object.fromEntries(Object.entries(pins).map(([place, recipe]) => [place, upgradeRecipeV1(recipe)])),
    }),
  }
}

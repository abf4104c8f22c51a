import { Type, type Static } from '@sinclair/typebox'
import type { Read } from '../base/problem.ts'
import { Id } from '../kit/schema.ts'
import { readDocument } from '../recipe/read.ts'
import { RecipeSchema, ReferenceSchema } from '../recipe/schema.ts'

export const MIX_FORMAT = 'idle-tinker-mix'
const closed = { additionalProperties: false }
const Share = Type.Number({ minimum: 0, maximum: 1000 })

/** The rules a crowd is made from. */
export const MixSchema = Type.Object(
  {
    format: Type.Literal(MIX_FORMAT),
    version: Type.Literal(1),
    id: Id,
    name: Type.String({ minLength: 1, maxLength: 80 }),
    body: ReferenceSchema,
    count: Type.Integer({ minimum: 1, maximum: 2000 }),
    seed: Type.Integer({ minimum: 0, maximum: 2147483647 }),
    /** Slot to what may fill it; a null part leaves it empty. Shares are relative to each other. */
    slots: Type.Record(
      Type.String(),
      Type.Array(Type.Object({ part: Type.Union([Id, Type.Null()]), share: Share }, closed), { maxItems: 100 }),
    ),
    /** Slider to the range its values are drawn from. */
    sliders: Type.Record(
      Type.String(),
      Type.Tuple([Type.Number({ minimum: -2, maximum: 2 }), Type.Number({ minimum: -2, maximum: 2 })]),
    ),
    palettes: Type.Array(Type.Object({ id: Id, share: Share }, closed), { maxItems: 40 }),
    /** Parts too striking to be seen twice. */
    atMostOnce: Type.Array(Id, { maxItems: 100 }),
    /** Most triangles a variant may have. */
    triangles: Type.Integer({ minimum: 50, maximum: 100000 }),
    /** Variants that stay as they are, by their place in the crowd (from 0). */
    pins: Type.Optional(Type.Record(Type.String({ pattern: '^[0-9]{1,4}$' }), RecipeSchema, closed)),
    /** Places that were made anew, one after another. */
    rerolls: Type.Optional(Type.Array(Type.Integer({ minimum: 0, maximum: 1999 }), { maxItems: 2000 })),
  },
  closed,
)

export type Mix = Static<typeof MixSchema>

export function readMix(input: unknown, where = 'mix'): Read<Mix> {
  return readDocument(MixSchema, MIX_FORMAT, 'mix', input, where)
}

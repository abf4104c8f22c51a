import { Type, type Static } from '@sinclair/typebox'
import type { Read } from '../base/problem.ts'
import { readDocument, type DocumentKind } from '../base/readDocument.ts'
import { closed, Id, list, Name, record } from '../base/schemas.ts'
import { KitName } from '../kit/schema.ts'
import { RecipeSchema, ReferenceSchema } from '../recipe/schema.ts'
import { MixV1Schema, upgradeMixV1 } from './mixV1.ts'
import { MixV2Schema, upgradeMixV2 } from './mixV2.ts'

export const MIX_FORMAT = 'idle-tinker-mix'
const Share = Type.Number({ minimum: 0, maximum: 1000 })
const Limit = Type.Number({ minimum: -2, maximum: 2 })

/** One kind of figure in a crowd: its body, and what its figures are drawn from. */
export const MixKindSchema = Type.Object(
  {
    id: Id,
    /** How many of the crowd are of this kind, against the others. */
    share: Share,
    body: ReferenceSchema,
    /**
     * Slot to what may fill it; a null part leaves it empty. Parts are those of the body's kit, or
     * "kit/part". Shares are relative to each other.
     */
    slots: record(list(Type.Object({ part: Type.Union([KitName, Type.Null()]), share: Share }, closed), 100)),
    /** Slider to the range its values are drawn from. */
    sliders: record(Type.Tuple([Limit, Limit])),
    palettes: list(Type.Object({ id: Id, share: Share }, closed), 40),
    /** The faces they make, each by its share; null is a face at rest. All are at rest if not said. */
    expressions: Type.Optional(list(Type.Object({ id: Type.Union([Id, Type.Null()]), share: Share }, closed), 100)),
    /** Parts too striking to be seen twice. */
    atMostOnce: list(KitName, 100),
  },
  closed,
)

/** The rules a crowd is made from. */
export const MixSchema = Type.Object(
  {
    format: Type.Literal(MIX_FORMAT),
    version: Type.Literal(3),
    id: Id,
    name: Name,
    count: Type.Integer({ minimum: 1, maximum: 2000 }),
    seed: Type.Integer({ minimum: 0, maximum: 2147483647 }),
    kinds: Type.Array(MixKindSchema, { minItems: 1, maxItems: 20 }),
    /** Most triangles a variant may have. */
    triangles: Type.Integer({ minimum: 50, maximum: 100000 }),
    /** Variants that stay as they are, by their place in the crowd (from 0). */
    pins: Type.Optional(Type.Record(Type.String({ pattern: '^[0-9]{1,4}$' }), RecipeSchema, closed)),
    /** Places that were made anew, one after another. */
    rerolls: Type.Optional(Type.Array(Type.Integer({ minimum: 0, maximum: 1999 }), { maxItems: 2000 })),
  },
  closed,
)

export type MixKind = Static<typeof MixKindSchema>
export type Mix = Static<typeof MixSchema>

export const MIX_KIND: DocumentKind<typeof MixSchema> = {
  format: MIX_FORMAT,
  noun: 'mix',
  schema: MixSchema,
  older: [
    { schema: MixV1Schema, upgrade: upgradeMixV1 },
    { schema: MixV2Schema, upgrade: upgradeMixV2 },
  ],
}

/** Reads a mix of any version. */
export function readMix(input: unknown, where = 'mix'): Read<Mix> {
  return readDocument(MIX_KIND, input, where)
}

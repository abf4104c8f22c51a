import { Type, type Static } from '@sinclair/typebox'

/* Mixes as they were: figures of one body. Kept as it stood; pins are recipes of the version that still is. */

const closed = { additionalProperties: false }
const Id = Type.String({ pattern: '^[a-z0-9][a-zA-Z0-9-]{0,63}$' })
const PartName = Type.String({ pattern: '^(?:[a-z0-9][a-zA-Z0-9-]{0,63}/)?[a-z0-9][a-zA-Z0-9-]{0,63}$' })
const Key = Type.String({ pattern: '^[\\s\\S]*$' })
const Share = Type.Number({ minimum: 0, maximum: 1000 })
const Limit = Type.Number({ minimum: -2, maximum: 2 })

export const MixV2Schema = Type.Object(
  {
    format: Type.Literal('idle-tinker-mix'),
    version: Type.Literal(2),
    id: Id,
    name: Type.String({ minLength: 1, maxLength: 80 }),
    body: Type.Object({ kit: Id, kitVersion: Type.String({ maxLength: 32 }), id: Id }, closed),
    count: Type.Integer({ minimum: 1, maximum: 2000 }),
    seed: Type.Integer({ minimum: 0, maximum: 2147483647 }),
    slots: Type.Record(
      Key,
      Type.Array(Type.Object({ part: Type.Union([PartName, Type.Null()]), share: Share }, closed), { maxItems: 100 }),
      closed,
    ),
    sliders: Type.Record(Key, Type.Tuple([Limit, Limit]), closed),
    palettes: Type.Array(Type.Object({ id: Id, share: Share }, closed), { maxItems: 40 }),
    expressions: Type.Optional(
      Type.Array(Type.Object({ id: Type.Union([Id, Type.Null()]), share: Share }, closed), { maxItems: 100 }),
    ),
    atMostOnce: Type.Array(PartName, { maxItems: 100 }),
    triangles: Type.Integer({ minimum: 50, maximum: 100000 }),
    pins: Type.Optional(Type.Record(Type.String({ pattern: '^[0-9]{1,4}$' }), Type.Unknown(), closed)),
    rerolls: Type.Optional(Type.Array(Type.Integer({ minimum: 0, maximum: 1999 }), { maxItems: 2000 })),
  },
  closed,
)

/** What was said of the one body becomes the one kind of figure there is. */
export function upgradeMixV2(mix: Static<typeof MixV2Schema>) {
  const { body, slots, sliders, palettes, expressions, atMostOnce, ...rest } = mix
  const kind = {
    id: body.id,
    share: 1,
    body,
    slots,
    sliders,
    palettes,
    ...(expressions && { expressions }),
    atMostOnce,
  }
  return { ...rest, version: 3, kinds: [kind] }
}

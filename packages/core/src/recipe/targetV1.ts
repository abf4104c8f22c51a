import { Type, type Static } from '@sinclair/typebox'

/* Targets as they were: limits alone. Kept as it stood; see recipeV1.ts. */

const closed = { additionalProperties: false }
const Id = Type.String({ pattern: '^[a-z0-9][a-zA-Z0-9-]{0,63}$' })
const limit = (maximum: number) => Type.Integer({ minimum: 1, maximum })

export const TargetV1Schema = Type.Object(
  {
    format: Type.Literal('idle-tinker-target'),
    version: Type.Literal(1),
    id: Id,
    name: Type.String({ minLength: 1, maxLength: 80 }),
    detail: Type.Union((['crowd', 'standard', 'near'] as const).map((l) => Type.Literal(l))),
    influences: Type.Union([Type.Literal(4), Type.Literal(2), Type.Literal(1)]),
    atlas: Type.Union([64, 128, 256, 512].map((n) => Type.Literal(n))),
    limits: Type.Object(
      {
        triangles: limit(200_000),
        vertices: limit(400_000),
        bones: limit(256),
        drawCalls: limit(64),
        textureBytes: limit(64 << 20),
        fileBytes: limit(64 << 20),
      },
      closed,
    ),
    lods: Type.Array(limit(200_000), { maxItems: 4 }),
    keepSliders: Type.Array(Id, { maxItems: 40 }),
  },
  closed,
)

/** Everything left in metres, +Y up, facing +Z, with VRM names; levels were triangle limits alone. */
export function upgradeTargetV1({ lods, ...rest }: Static<typeof TargetV1Schema>) {
  return {
    ...rest,
    version: 2,
    convention: {
      unit: 1,
      up: '+y',
      front: '+z',
      rest: 'built',
      bones: { names: 'vrm', table: {} },
      root: '',
    },
    lods: lods.map((triangles) => ({ triangles })),
  }
}

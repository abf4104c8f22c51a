import { Type, type Static } from '@sinclair/typebox'
import { Color, Id } from '../kit/schema.ts'
import { DETAIL_LEVELS } from '../kit/skeletonPlan.ts'

export const RECIPE_FORMAT = 'idle-tinker-recipe'
export const TARGET_FORMAT = 'idle-tinker-target'

const closed = { additionalProperties: false }
const Name = Type.String({ minLength: 1, maxLength: 80 })

/** A kit's part or body, named so that it can be found again. */
export const ReferenceSchema = Type.Object({ kit: Id, kitVersion: Type.String({ maxLength: 32 }), id: Id }, closed)

/** A figure, whole: everything it is built from. */
export const RecipeSchema = Type.Object(
  {
    format: Type.Literal(RECIPE_FORMAT),
    version: Type.Literal(1),
    name: Name,
    body: ReferenceSchema,
    /** Slot to the part that fills it. */
    parts: Type.Record(Type.String({ maxLength: 64 }), ReferenceSchema),
    /** Slider to value; those at their default are left out. */
    sliders: Type.Record(Type.String({ maxLength: 64 }), Type.Number({ minimum: -2, maximum: 2 })),
    /** Color region to swatch; those at the kit's own color are left out. */
    colors: Type.Record(Type.String({ maxLength: 64 }), Color),
    /** Slots that shuffling leaves alone. */
    locks: Type.Array(Type.String({ maxLength: 64 }), { maxItems: 100 }),
  },
  closed,
)

export type Reference = Static<typeof ReferenceSchema>
export type Recipe = Static<typeof RecipeSchema>

const limit = (maximum: number) => Type.Integer({ minimum: 1, maximum })

/** The game a figure goes to, as limits. */
export const TargetSchema = Type.Object(
  {
    format: Type.Literal(TARGET_FORMAT),
    version: Type.Literal(1),
    id: Id,
    name: Name,
    detail: Type.Union(DETAIL_LEVELS.map((l) => Type.Literal(l))),
    influences: Type.Union([Type.Literal(4), Type.Literal(2), Type.Literal(1)]),
    /** Side of the square color atlas, pixels. */
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
    /** Triangle limits of the coarser levels of detail, LOD1 on. */
    lods: Type.Array(limit(200_000), { maxItems: 4 }),
    /** Sliders that stay adjustable in the game, as morph targets. */
    keepSliders: Type.Array(Id, { maxItems: 40 }),
  },
  closed,
)

export type Target = Static<typeof TargetSchema>

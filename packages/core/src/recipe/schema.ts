import { Type, type Static, type TNumber } from '@sinclair/typebox'
import type { DocumentKind } from '../base/readDocument.ts'
import { closed, Color, Id, Key, Name, record } from '../base/schemas.ts'
import { DIAL_RANGES, type NumberDial } from '../motion/dials.ts'
import { SPRING_RANGES, type Spring } from '../motion/springs.ts'
import { RecipeV1Schema, upgradeRecipeV1 } from './recipeV1.ts'

export const RECIPE_FORMAT = 'idle-tinker-recipe'
const Degrees = Type.Number({ minimum: -360, maximum: 360 })
const Scale = Type.Number({ minimum: 0.05, maximum: 20 })
const Share = Type.Number({ minimum: 0, maximum: 1 })

/** A kit's part or body, named so that it can be found again. */
export const ReferenceSchema = Type.Object({ kit: Id, kitVersion: Type.String({ maxLength: 32 }), id: Id }, closed)

/** Where a part sits: at a socket of the body, or at a spot on its surface; where its kit puts it if not said. */
export const PlaceSchema = Type.Object(
  {
    at: Type.Optional(
      Type.Union([
        Type.Object({ socket: Id }, closed),
        /** A triangle of the body's mesh, or of what an instance wears, and the shares of its three points. */
        Type.Object(
          {
            on: Type.Optional(Type.Object({ instance: Key, part: Id }, closed)),
            triangle: Type.Integer({ minimum: 0, maximum: 1e6 }),
            shares: Type.Tuple([Share, Share, Share]),
          },
          closed,
        ),
      ]),
    ),
    /** About the place's own x, y and z, in degrees, applied in the order y, x, z. */
    turn: Type.Optional(Type.Tuple([Degrees, Degrees, Degrees])),
    /** Of all of it, or along its own x, y and z. */
    scale: Type.Optional(Type.Union([Scale, Type.Tuple([Scale, Scale, Scale])])),
    /** Left and right of the part exchanged. */
    mirrored: Type.Optional(Type.Boolean()),
  },
  closed,
)

/** One part on the figure. */
export const PartInstanceSchema = Type.Object(
  {
    /** The instance's own name in the recipe. */
    id: Key,
    slot: Key,
    part: ReferenceSchema,
    place: Type.Optional(PlaceSchema),
    /** Instead of the kit's own: garments with a higher layer lie over those with a lower one. */
    layer: Type.Optional(Type.Integer({ minimum: 0, maximum: 9 })),
    /** Instead of the kit's own: the least gap to what lies beneath, millimetres. */
    clearance: Type.Optional(Type.Number({ minimum: 0, maximum: 50 })),
  },
  closed,
)

const Offset = Type.Number({ minimum: -500, maximum: 500 })

/** What a brush has moved on the body, or on what an instance wears, where no slider reaches. */
export const NudgeSchema = Type.Object(
  {
    /** The instance; the body if not said. */
    on: Type.Optional(Key),
    /** Hash of the mesh's triangles: on another mesh it means nothing. */
    topology: Type.String({ pattern: '^[0-9a-f]{32}$' }),
    /** Ascending. */
    points: Type.Array(Type.Integer({ minimum: 0, maximum: 1e6 }), { minItems: 1, maxItems: 20_000 }),
    /** Three numbers a point, millimetres in the surface's own frame there: along, across and out of it. */
    offsets: Type.Array(Offset, { minItems: 3, maxItems: 60_000 }),
  },
  closed,
)

const Value = Type.Number({ minimum: -2, maximum: 2 })

const dial = (id: NumberDial) =>
  Type.Optional(Type.Number({ minimum: DIAL_RANGES[id][0], maximum: DIAL_RANGES[id][2] }))

/** How a figure plays a clip, where that is not as it was made; see `Dials`. */
export const DialsSchema = Type.Object(
  {
    pace: dial('pace'),
    stride: dial('stride'),
    energy: dial('energy'),
    clearance: dial('clearance'),
    lean: dial('lean'),
    turn: dial('turn'),
    mirrored: Type.Optional(Type.Boolean()),
    trim: Type.Optional(Type.Tuple([Share, Share])),
  },
  closed,
)

export const SpringSchema = Type.Object(
  Object.fromEntries(
    Object.entries(SPRING_RANGES).map(([key, [minimum, , maximum]]) => [key, Type.Number({ minimum, maximum })]),
  ) as Record<keyof Spring, TNumber>,
  closed,
)

/** A figure, whole: everything it is built from. */
export const RecipeSchema = Type.Object(
  {
    format: Type.Literal(RECIPE_FORMAT),
    version: Type.Literal(2),
    name: Name,
    body: ReferenceSchema,
    /** What the figure has on. Their order means nothing; ids are different from each other. */
    parts: Type.Array(PartInstanceSchema, { maxItems: 200 }),
    /** Slider to value, or to its values on the figure's left and right; those at their default are left out. */
    sliders: record(Type.Union([Value, Type.Tuple([Value, Value])])),
    /** Color region to swatch; those at the kit's own color are left out. */
    colors: record(Color),
    nudges: Type.Optional(Type.Array(NudgeSchema, { maxItems: 60 })),
    /** Joint to how much softer (to 1) or stiffer (to -1) it bends than its kit has it. */
    joints: Type.Optional(record(Type.Number({ minimum: -1, maximum: 1 }), 200)),
    /** Clip to how the figure plays it. */
    dials: Type.Optional(record(DialsSchema, 300)),
    /** Chain, by its limb, to how it swings; others go as their clips have them. */
    springs: Type.Optional(record(SpringSchema, 100)),
    /** Slots that shuffling leaves alone. */
    locks: Type.Array(Key, { maxItems: 100 }),
    /** Slider groups and color regions that it leaves alone as well. */
    held: Type.Optional(
      Type.Object(
        {
          groups: Type.Optional(Type.Array(Key, { maxItems: 100 })),
          colors: Type.Optional(Type.Array(Key, { maxItems: 300 })),
        },
        closed,
      ),
    ),
  },
  closed,
)

export type Reference = Static<typeof ReferenceSchema>
export type Place = Static<typeof PlaceSchema>
/** A spot on a surface: the body's, or that of what an instance wears. */
export type Spot = Extract<NonNullable<Place['at']>, { triangle: number }>
export type Nudge = Static<typeof NudgeSchema>
export type PartInstance = Static<typeof PartInstanceSchema>
export type Recipe = Static<typeof RecipeSchema>
/** What of a recipe can be held besides its slots. */
export type HeldKind = keyof NonNullable<Recipe['held']>
/** One value for both sides, or [left, right]. */
export type SliderValue = Recipe['sliders'][string]

export const RECIPE_KIND: DocumentKind<typeof RecipeSchema> = {
  format: RECIPE_FORMAT,
  noun: 'recipe',
  schema: RecipeSchema,
  older: [{ schema: RecipeV1Schema, upgrade: upgradeRecipeV1 }],
}

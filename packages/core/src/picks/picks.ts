import { Type, type Static } from '@sinclair/typebox'
import type { Read } from '../base/problem.ts'
import { readDocument, type DocumentKind } from '../base/readDocument.ts'
import { closed, Color, Id, Key, list, Name, record } from '../base/schemas.ts'
import { KitName } from '../kit/schema.ts'
import { ReferenceSchema, SpringSchema } from '../recipe/schema.ts'

export const PICKS_FORMAT = 'idle-tinker-picks'
/** So many of one kind can be told apart in a look that is written as a string. */
export const MOST_CODES = 254
/** Side of the pictures of parts where nothing is said, pixels. */
export const ICON = 96
const Value = Type.Number({ minimum: -2, maximum: 2 })

/** A slot whose parts a player may choose. Parts are those of the body's kit, or "kit/part". */
const PickSlotSchema = Type.Object(
  {
    slot: Id,
    name: Type.Optional(Name),
    parts: Type.Array(
      Type.Object(
        {
          part: KitName,
          name: Type.Optional(Name),
          tags: Type.Optional(list(Id, 20)),
          /** A flag of the game: until it is set the part is shown, and cannot be chosen. */
          earned: Type.Optional(Id),
        },
        closed,
      ),
      { minItems: 1, maxItems: 200 },
    ),
    /** What the player begins with; null for nothing. */
    start: Type.Union([KitName, Type.Null()]),
    /** Whether something has to be on. */
    needed: Type.Boolean(),
  },
  closed,
)

const PickRuleSchema = Type.Union([
  Type.Object({ kind: Type.Literal('excludes'), parts: Type.Tuple([KitName, KitName]) }, closed),
  Type.Object({ kind: Type.Literal('together'), parts: Type.Tuple([KitName, KitName]) }, closed),
  /** While the part is on, what is chosen in the slots is not worn. */
  Type.Object({ kind: Type.Literal('replaces'), part: KitName, slots: list(Id, 60) }, closed),
])

/** A look that is ready. */
const PickLookSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** Slot to its part; null for nothing. */
    parts: Type.Optional(record(Type.Union([KitName, Type.Null()]), 60)),
    sliders: Type.Optional(record(Value, 100)),
    colors: Type.Optional(record(Color, 200)),
    expression: Type.Optional(Id),
  },
  closed,
)

const PickBodySchema = Type.Object(
  {
    id: Id,
    name: Name,
    body: ReferenceSchema,
    slots: list(PickSlotSchema, 60),
    sliders: list(
      Type.Object({ slider: Id, name: Type.Optional(Name), min: Value, max: Value, start: Value }, closed),
      100,
    ),
    /** Color region to the swatches a player has, and the one to begin with. */
    colors: record(
      Type.Object({ swatches: Type.Array(Color, { minItems: 1, maxItems: 60 }), start: Color }, closed),
      200,
    ),
    expressions: list(Id, 60),
    rules: list(PickRuleSchema, 500),
    /** Regions of the body that nothing a player does may leave bare. */
    covered: list(Id, 60),
    /** Clips that go along; those that kits do not hold back if not said. */
    clips: Type.Optional(Type.Union([Type.Literal('all'), list(Id, 200)])),
    /** How chains swing, by their limbs' ids. */
    springs: Type.Optional(record(SpringSchema, 100)),
    /** Looks to begin with. What is not said of one is as everybody begins. */
    looks: Type.Optional(list(PickLookSchema, 60)),
  },
  closed,
)

/** What players' looks are written by: everything that was ever there keeps its place in its list, and so its number. */
const BodyCodesSchema = Type.Object(
  {
    slots: list(Id, MOST_CODES),
    /** By slot, full names. */
    parts: record(list(KitName, MOST_CODES)),
    sliders: list(Id, MOST_CODES),
    colors: list(Key, MOST_CODES),
    /** By color region. */
    swatches: record(list(Color, MOST_CODES)),
    expressions: list(Id, MOST_CODES),
  },
  closed,
)

/** What a player may choose in the game. */
export const PicksSchema = Type.Object(
  {
    format: Type.Literal(PICKS_FORMAT),
    version: Type.Literal(1),
    id: Id,
    name: Name,
    bodies: Type.Array(PickBodySchema, { minItems: 1, maxItems: 12 }),
    /** Side of the pictures of parts, pixels. */
    icons: Type.Optional(Type.Integer({ minimum: 32, maximum: 256 })),
    codes: Type.Optional(Type.Object({ bodies: list(Id, 60), ofBody: record(BodyCodesSchema, 60) }, closed)),
  },
  closed,
)

export type Picks = Static<typeof PicksSchema>
export type PicksCodes = NonNullable<Picks['codes']>
export type BodyCodes = Static<typeof BodyCodesSchema>
export type PickLook = Static<typeof PickLookSchema>
export type PickBody = Static<typeof PickBodySchema>
export type PickSlot = Static<typeof PickSlotSchema>
export type PickPart = PickSlot['parts'][number]

export const PICKS_KIND: DocumentKind<typeof PicksSchema> = {
  format: PICKS_FORMAT,
  noun: 'package of picks',
  schema: PicksSchema,
  older: [],
}

/** Reads what a player may choose. */
export function readPicks(input: unknown, where = 'picks'): Read<Picks> {
  return readDocument(PICKS_KIND, input, where)
}

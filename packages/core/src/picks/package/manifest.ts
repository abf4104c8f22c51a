import { Type, type Static } from '@sinclair/typebox'
import { closed, Color, Id, list, Name } from '../../base/schemas.ts'

export const PACKAGE_FORMAT = 'idle-tinker-picks-package'

const Count = Type.Integer({ minimum: 0, maximum: 1e9 })
const Metres = Type.Number({ minimum: -1e3, maximum: 1e3 })
const File = Type.Object({ path: Type.String({ maxLength: 200 }), bytes: Count }, closed)
/** Place in a list of the same body. */
const Place = Type.Integer({ minimum: 0, maximum: 1e5 })
const Code = Type.Integer({ minimum: 0, maximum: 255 })
const Text = Type.String({ minLength: 1, maxLength: 200 })

const OptionSchema = Type.Object(
  {
    /** "kit/part": stays the same for ever. */
    id: Text,
    name: Name,
    slot: Place,
    code: Code,
    tags: list(Id, 60),
    /** A flag of the game, until which it cannot be chosen. */
    earned: Type.Optional(Id),
    icon: File,
    /** Of its own, if nothing hides any of it. */
    triangles: Count,
  },
  closed,
)

const SlotSchema = Type.Object(
  {
    id: Id,
    name: Name,
    code: Code,
    /** Whether something has to be on. */
    needed: Type.Boolean(),
    /** Whether a player chooses; else what it starts with is always on. */
    chosen: Type.Boolean(),
    start: Type.Union([Place, Type.Null()]),
    options: list(Place, 300),
    chunk: File,
  },
  closed,
)

/** By options: see `ChoiceRule`. */
const RuleSchema = Type.Union([
  Type.Object({ kind: Type.Literal('excludes'), one: Place, other: Place }, closed),
  Type.Object({ kind: Type.Literal('together'), one: Place, other: Place }, closed),
  Type.Object({ kind: Type.Literal('needs'), one: Place, oneOf: list(Place, 300) }, closed),
  Type.Object({ kind: Type.Literal('covers'), one: Place, others: list(Place, 3000) }, closed),
])

/** A movement that pieces have as a morph target of its name. */
const MorphSchema = Type.Object(
  {
    name: Text,
    kind: Type.Union([Type.Literal('slider'), Type.Literal('corrective'), Type.Literal('expression')]),
    /** It plays as strongly as the product of these ends of sliders. */
    when: list(Type.Object({ slider: Place, end: Type.Union([Type.Literal('up'), Type.Literal('down')]) }, closed), 8),
    /** How joints move at full effect: bone, x, y, z. */
    joints: list(Type.Tuple([Place, Metres, Metres, Metres]), 400),
  },
  closed,
)

const LookSchema = Type.Object(
  {
    parts: Type.Record(Type.String(), Type.Union([Text, Type.Null()])),
    sliders: Type.Record(Type.String(), Type.Number()),
    colors: Type.Record(Type.String(), Color),
    expression: Type.Union([Text, Type.Null()]),
  },
  closed,
)

const BodySchema = Type.Object(
  {
    id: Id,
    name: Name,
    code: Code,
    /** Metres in one of the units that vertices and their moves are counted in. */
    unit: Type.Number({ exclusiveMinimum: 0, maximum: 1 }),
    /** Skeleton, clips and the body's own patches. */
    base: File,
    atlas: Type.Composite([File, Type.Object({ size: Count, smooth: Type.Boolean() }, closed)], closed),
    /** `of`: the option that brings a bone; null for the body's. */
    bones: list(
      Type.Object(
        {
          name: Text,
          parent: Type.Integer({ minimum: -1, maximum: 1e4 }),
          of: Type.Union([Place, Type.Null()]),
          at: Type.Tuple([Metres, Metres, Metres]),
        },
        closed,
      ),
      1000,
    ),
    slots: list(SlotSchema, 120),
    options: list(OptionSchema, 3000),
    rules: list(RuleSchema, 100_000),
    sliders: list(
      Type.Object(
        { id: Id, name: Name, code: Code, min: Type.Number(), max: Type.Number(), start: Type.Number() },
        closed,
      ),
      100,
    ),
    morphs: list(MorphSchema, 500),
    /** What can be given another color. */
    colors: list(
      Type.Object(
        {
          id: Text,
          name: Name,
          code: Code,
          start: Place,
          swatches: list(Type.Object({ color: Color, code: Code }, closed), 60),
        },
        closed,
      ),
      200,
    ),
    /**
     * Regions of color, by the number that vertices have. One with cells lies in the atlas as one cell a swatch, in the order
     * of its color's; one with a rectangle is a picture there, and its swatch is multiplied in. Shares of the atlas's side.
     */
    regions: list(
      Type.Object(
        {
          name: Text,
          color: Type.Union([Place, Type.Null()]),
          cells: list(Type.Tuple([Type.Number(), Type.Number()]), 60),
          picture: Type.Union([Type.Tuple([Type.Number(), Type.Number(), Type.Number(), Type.Number()]), Type.Null()]),
        },
        closed,
      ),
      500,
    ),
    expressions: list(Type.Object({ id: Id, name: Name, code: Code, morph: Place }, closed), 60),
    clips: list(
      Type.Object({ id: Id, name: Name, loop: Type.Boolean(), duration: Type.Number(), travel: Type.Number() }, closed),
      200,
    ),
    springs: list(
      Type.Object(
        { bones: list(Place, 60), stiffness: Type.Number(), drag: Type.Number(), gravity: Type.Number() },
        closed,
      ),
      100,
    ),
    looks: list(Type.Object({ id: Id, name: Name, look: LookSchema }, closed), 60),
    /** How many levels of detail pieces have, the finest one counted. */
    levels: Type.Integer({ minimum: 1, maximum: 5 }),
    /** What any look costs, proved: by level. */
    triangles: list(Type.Object({ least: Count, most: Count }, closed), 5),
  },
  closed,
)

/** What lies beside the pieces of a package and tells how they go together. */
export const PackageSchema = Type.Object(
  {
    format: Type.Literal(PACKAGE_FORMAT),
    version: Type.Literal(1),
    id: Id,
    name: Name,
    bodies: Type.Array(BodySchema, { minItems: 1, maxItems: 12 }),
  },
  { ...closed, $id: 'https://idle-tinker.example/schemas/picks-package-1.json' },
)

export type PackageManifest = Static<typeof PackageSchema>
export type PackageBody = Static<typeof BodySchema>

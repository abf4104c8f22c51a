import { Type, type Static, type TSchema } from '@sinclair/typebox'

/** The kit format, version 1. `docs/kit-format.md` tells how to write one by hand. */
export const KIT_FORMAT = 'idle-tinker-kit'

const closed = { additionalProperties: false }
export const Id = Type.String({ pattern: '^[a-z0-9][a-zA-Z0-9-]{0,63}$' })
const Name = Type.String({ minLength: 1, maxLength: 80 })
const Vec3 = Type.Tuple([Type.Number(), Type.Number(), Type.Number()])
const File = Type.String({ pattern: '^[A-Za-z0-9_-]+(/[A-Za-z0-9_.-]+)*\\.glb$' })
export const Color = Type.String({ pattern: '^#[0-9a-f]{6}$' })
const list = <S extends TSchema>(s: S, maxItems = 500) => Type.Array(s, { maxItems })

/** How finely reduction keeps something against the rest of a figure; 1 if not said. */
const Care = Type.Optional(Type.Number({ minimum: 0.2, maximum: 8 }))

export const SliderSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** One of the body's slider groups. */
    group: Id,
    min: Type.Number({ minimum: -2, maximum: 0 }),
    max: Type.Number({ minimum: 0, maximum: 2 }),
    default: Type.Number(),
    /** Names of the morph targets for values above and below zero. */
    up: Type.String(),
    down: Type.Optional(Type.String()),
    /** Words for the two ends. */
    ends: Type.Tuple([Name, Name]),
    /** Where on the figure it can be pulled, and the direction in which pulling raises it. */
    pull: Type.Optional(Type.Object({ landmark: Id, direction: Vec3 }, closed)),
  },
  closed,
)

export const BodySchema = Type.Object(
  {
    id: Id,
    name: Name,
    plan: Type.Literal('biped'),
    file: File,
    sliders: list(SliderSchema, 100),
    /** How sliders are grouped, in order; "whole" holds those that move the whole figure. */
    sliderGroups: list(Type.Object({ id: Id, name: Name }, closed), 40),
    regions: list(Type.Object({ id: Id, name: Name, bones: list(Id, 100), care: Care }, closed), 40),
    /** Named places in the rest shape, metres. One named like a bone is that bone's joint. */
    landmarks: list(Type.Object({ id: Id, at: Vec3 }, closed), 200),
    sockets: list(Type.Object({ id: Id, name: Name, bone: Id, at: Vec3 }, closed), 40),
    /** Closed loops where a part that replaces a region must meet the rest. */
    seams: list(Type.Object({ id: Id, name: Name, region: Id, points: list(Vec3, 200) }, closed), 40),
    bones: list(
      Type.Object(
        {
          name: Id,
          parent: Id,
          level: Type.Union([Type.Literal('crowd'), Type.Literal('standard'), Type.Literal('near')]),
        },
        closed,
      ),
      40,
    ),
    /** Slots that are never empty, with the part that fills them. */
    defaults: Type.Record(Type.String(), Id),
  },
  closed,
)

export const SlotSchema = Type.Object(
  {
    id: Id,
    name: Name,
    singular: Name,
    bodies: list(Id, 40),
    region: Id,
    care: Care,
    /** How much a difference here tells two figures apart at street distance; 0.4 if not said. */
    weight: Type.Optional(Type.Number({ minimum: 0, maximum: 2 })),
    /** How often shuffling leaves the slot empty, 0..1; 0.45 if not said. */
    empty: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
    /** How its parts are best shown in small: by themselves if not said, on the head, on the face, or from behind. */
    picture: Type.Optional(
      Type.Union([Type.Literal('alone'), Type.Literal('head'), Type.Literal('face'), Type.Literal('behind')]),
    ),
  },
  closed,
)

const partCommon = {
  id: Id,
  name: Name,
  slot: Id,
  bodies: list(Id, 40),
  file: File,
  tags: list(Id, 20),
  /** Part ids or tags that must be on the figure as well. */
  requires: Type.Optional(list(Id, 20)),
  /** Part ids or tags that cannot be on the figure at the same time. */
  excludes: Type.Optional(list(Id, 20)),
  /** Slots that are not drawn while this part is on. */
  covers: Type.Optional(list(Id, 20)),
}

export const PartSchema = Type.Union([
  Type.Object(
    {
      ...partCommon,
      how: Type.Literal('worn'),
      /** Garments with a higher layer lie over those with a lower one. */
      layer: Type.Integer({ minimum: 0, maximum: 9 }),
      /** Least gap to what lies beneath, millimetres. */
      clearance: Type.Number({ minimum: 0, maximum: 50 }),
      /** The body regions it follows; all of them if not said. */
      binds: Type.Optional(list(Id, 20)),
      /** Slots whose parts are drawn in beneath it: hair under a hat, a shirt under a belt. */
      presses: Type.Optional(list(Id, 20)),
    },
    closed,
  ),
  Type.Object(
    {
      ...partCommon,
      how: Type.Literal('attached'),
      socket: Id,
      /** rigid: keeps its size and form; shape: takes on the form of the bone's part of the body. */
      fit: Type.Union([Type.Literal('rigid'), Type.Literal('shape')]),
    },
    closed,
  ),
  Type.Object({ ...partCommon, how: Type.Literal('replaces'), seam: Id }, closed),
])

export const ColorRegionSchema = Type.Object(
  {
    id: Id,
    name: Name,
    color: Color,
    /** Belongs to the person (skin, hair, fur), not to what is worn: choosing a palette leaves it. */
    own: Type.Optional(Type.Boolean()),
  },
  closed,
)

export const PaletteSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** For a color region, the swatches that go with the rest of the palette. */
    swatches: Type.Record(Type.String(), Type.Array(Color, { minItems: 1, maxItems: 24 })),
  },
  closed,
)

const Curve = Type.Array(Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number()]), {
  minItems: 1,
  maxItems: 64,
})

export const ClipSchema = Type.Object(
  {
    id: Id,
    name: Name,
    plan: Type.Literal('biped'),
    duration: Type.Number({ exclusiveMinimum: 0, maximum: 60 }),
    loop: Type.Boolean(),
    /** Ground covered in one loop, in leg lengths. */
    travel: Type.Number({ minimum: 0, maximum: 10 }),
    /** Share of the loop in which the left foot stands; the right foot runs half a loop later when `alternate`. */
    stance: Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: 0, maximum: 1 })]),
    alternate: Type.Boolean(),
    /** Channel name to [phase 0..1, value]: see docs/kit-format.md. */
    curves: Type.Record(Type.String(), Curve),
  },
  closed,
)

export const KitSchema = Type.Object(
  {
    format: Type.Literal(KIT_FORMAT),
    version: Type.Literal(1),
    id: Id,
    name: Name,
    kitVersion: Type.String({ pattern: '^\\d+\\.\\d+\\.\\d+$' }),
    license: Type.Optional(Type.String({ maxLength: 200 })),
    bodies: list(BodySchema, 20),
    slots: list(SlotSchema, 60),
    parts: list(PartSchema, 2000),
    colorRegions: list(ColorRegionSchema, 200),
    palettes: list(PaletteSchema, 60),
    clips: list(ClipSchema, 60),
  },
  closed,
)

export type KitManifest = Static<typeof KitSchema>
export type BodyDef = Static<typeof BodySchema>
export type SliderDef = Static<typeof SliderSchema>
export type SlotDef = Static<typeof SlotSchema>
export type PartDef = Static<typeof PartSchema>
export type ClipDef = Static<typeof ClipSchema>
export type PaletteDef = Static<typeof PaletteSchema>
export type ColorRegionDef = Static<typeof ColorRegionSchema>

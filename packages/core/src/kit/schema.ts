import { Type, type Static } from '@sinclair/typebox'
import { closed, Color, Id, list, Name, record, Vec3 } from '../base/schemas.ts'
import { BodyPlanSchema, BoneSchema, LimbSchema } from './plan.ts'

/** The kit format, version 2. `docs/kit-format.md` tells how to write one by hand. */
export const KIT_FORMAT = 'idle-tinker-kit'

const File = Type.String({ pattern: '^[A-Za-z0-9_-]+(/[A-Za-z0-9_.-]+)*\\.glb$', maxLength: 200 })

/** A body or a part: its id in the same kit, or "kit/id" of another. */
export const KitName = Type.String({ pattern: `^(?:[a-z0-9][a-zA-Z0-9-]{0,63}/)?[a-z0-9][a-zA-Z0-9-]{0,63}$` })

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
    default: Type.Number({ minimum: -2, maximum: 2 }),
    /** Names of the morph targets for values above and below zero. */
    up: Name,
    down: Type.Optional(Name),
    /** Words for the two ends. */
    ends: Type.Tuple([Name, Name]),
    /** Where on the figure it can be pulled, and the direction in which pulling raises it. */
    pull: Type.Optional(Type.Object({ landmark: Id, direction: Vec3 }, closed)),
  },
  closed,
)

/** A morph target played by the product of sliders: what two extremes need where they meet. */
export const CorrectiveSchema = Type.Object(
  {
    morph: Name,
    /** Each slider counts from zero to its upper ("up") or lower ("down") end. */
    when: Type.Array(Type.Object({ slider: Id, end: Type.Union([Type.Literal('up'), Type.Literal('down')]) }, closed), {
      minItems: 1,
      maxItems: 4,
    }),
  },
  closed,
)

const Values = record(
  Type.Union([
    Type.Number({ minimum: -2, maximum: 2 }),
    Type.Tuple([Type.Number({ minimum: -2, maximum: 2 }), Type.Number({ minimum: -2, maximum: 2 })]),
  ]),
  100,
)

/** A face somebody makes: values of moving sliders, or left and right of them. All others are at rest in it. */
export const ExpressionSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** What the open VRM standard calls it, if it has a name for it. */
    preset: Type.Optional(Id),
    /** Whether it is a mood: neighbours in the list are akin, and may be blended. */
    mood: Type.Optional(Type.Boolean()),
    values: Values,
  },
  closed,
)

/** A kind of figure one believes in: what shuffling draws around. */
export const ArchetypeSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** Slider to its middle and how far it strays from there: a standard deviation. */
    sliders: record(
      Type.Tuple([Type.Number({ minimum: -2, maximum: 2 }), Type.Number({ minimum: 0, maximum: 2 })]),
      200,
    ),
    /** Slot to the parts of this kit that fill it, all alike; null for nothing. Other slots take any part. */
    parts: Type.Optional(record(Type.Array(Type.Union([Id, Type.Null()]), { minItems: 1, maxItems: 100 }), 100)),
    /** Palettes of this kit that color it; any if not said. */
    palettes: Type.Optional(list(Id, 40)),
    /** Color region to swatches that stand for the palette's. */
    swatches: Type.Optional(record(Type.Array(Color, { minItems: 1, maxItems: 40 }), 100)),
  },
  closed,
)

/** Archetypes of one sort (people, faces): of each set a figure takes one; or one and a little of another. */
export const ArchetypeSetSchema = Type.Object(
  {
    id: Id,
    name: Name,
    blends: Type.Optional(Type.Boolean()),
    archetypes: Type.Array(ArchetypeSchema, { minItems: 1, maxItems: 60 }),
  },
  closed,
)

export const BodySchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** One of the kit's own plans, or one that comes with the workshop. */
    plan: Id,
    file: File,
    sliders: list(SliderSchema, 200),
    correctives: Type.Optional(list(CorrectiveSchema, 200)),
    /** How sliders are grouped, in order; "whole" holds those that move the whole figure. */
    sliderGroups: list(
      Type.Object(
        {
          id: Id,
          name: Name,
          /** Its sliders are movements, as of a face: expressions set them, shuffling and crowds leave them alone. */
          moves: Type.Optional(Type.Boolean()),
        },
        closed,
      ),
      60,
    ),
    expressions: Type.Optional(list(ExpressionSchema, 100)),
    archetypes: Type.Optional(list(ArchetypeSetSchema, 10)),
    regions: list(Type.Object({ id: Id, name: Name, bones: list(Id, 100), care: Care }, closed), 60),
    /** Named places in the rest shape, metres. One named like a bone is that bone's joint. */
    landmarks: list(Type.Object({ id: Id, at: Vec3 }, closed), 400),
    sockets: list(Type.Object({ id: Id, name: Name, bone: Id, at: Vec3 }, closed), 100),
    /**
     * Closed loops of the body's own edges, around what a part may replace: all of the region; or, with a place
     * `within` it, what lies on that side of the loop (one of two hands, a patch out of which a tail grows).
     */
    seams: list(
      Type.Object({ id: Id, name: Name, region: Id, points: list(Vec3, 200), within: Type.Optional(Vec3) }, closed),
      60,
    ),
    /** Bones beyond the plan. */
    bones: list(BoneSchema, 120),
    /** Limbs beyond the plan's: chains of such bones. */
    limbs: Type.Optional(list(LimbSchema, 40)),
    /** Slots that are never empty, with the part that fills them. */
    defaults: record(Id, 100),
  },
  closed,
)

export const SlotSchema = Type.Object(
  {
    id: Id,
    name: Name,
    singular: Name,
    /** Bodies, of this kit or as "kit/body" of others. */
    bodies: list(KitName, 60),
    region: Id,
    care: Care,
    /** How many parts it can hold; 1 if not said. */
    most: Type.Optional(Type.Integer({ minimum: 1, maximum: 60 })),
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
  /** A slot of this kit, or of the kits of its bodies. */
  slot: Id,
  /** Bodies, of this kit or as "kit/body" of others. */
  bodies: list(KitName, 60),
  file: File,
  tags: list(Id, 20),
  /** Part ids or tags that must be on the figure as well. */
  requires: Type.Optional(list(Id, 20)),
  /** Part ids or tags that cannot be on the figure at the same time. */
  excludes: Type.Optional(list(Id, 20)),
  /** Slots that are not drawn while this part is on. */
  covers: Type.Optional(list(Id, 20)),
  /** Bones it brings: joints of its skin, by name; a parent is a bone of the body or one of these before it. */
  bones: Type.Optional(list(BoneSchema, 60)),
  /** Chains of such bones that move as one: a stalk, a tail. */
  limbs: Type.Optional(list(LimbSchema, 12)),
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
      /** own: it moves by the skin of its own model, whose joints are the body's bones; else by what it lies on. */
      skin: Type.Optional(Type.Literal('own')),
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
      /** How many of it a figure can have; as many as its slot holds if not said. */
      most: Type.Optional(Type.Integer({ minimum: 1, maximum: 60 })),
    },
    closed,
  ),
  Type.Object(
    {
      ...partCommon,
      how: Type.Literal('replaces'),
      seam: Id,
      /**
       * surface (if not said): follows the body's surface where it lies on it, as a shin in place of a shin;
       * shape: keeps its form, takes on the size of what it replaces, and moves with the bone of that.
       */
      fit: Type.Optional(Type.Union([Type.Literal('surface'), Type.Literal('shape')])),
    },
    closed,
  ),
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
    swatches: record(Type.Array(Color, { minItems: 1, maxItems: 24 })),
  },
  closed,
)

const Curve = Type.Array(
  Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: -1e4, maximum: 1e4 })]),
  { minItems: 1, maxItems: 64 },
)

/** From one phase to another; beyond 1 it runs over the end. A stance of no length is none: the leg never stands. */
const Stance = Type.Tuple([Type.Number({ minimum: 0, maximum: 1 }), Type.Number({ minimum: 0, maximum: 2 })])

export const ClipSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** The plan of the bodies it is made for. */
    plan: Id,
    duration: Type.Number({ exclusiveMinimum: 0, maximum: 60 }),
    loop: Type.Boolean(),
    /** Ground covered in one loop, in leg lengths. */
    travel: Type.Number({ minimum: 0, maximum: 10 }),
    /** How far the way turns to the left in one loop, degrees. */
    arc: Type.Optional(Type.Number({ minimum: -90, maximum: 90 })),
    /** Share of the loop in which the first leg stands; the others run later by their phase when `alternate`. */
    stance: Stance,
    alternate: Type.Boolean(),
    /** Goes along only where a target asks for it. */
    optional: Type.Optional(Type.Boolean()),
    /** More than feet may come to the ground: of the trunk nothing goes through it. */
    lies: Type.Optional(Type.Boolean()),
    /** What hands hold that is no part of the figure: one thing in both, or a rope or rail, `each` hand its own or one for all. */
    grip: Type.Optional(
      Type.Union([
        Type.Object({ kind: Type.Literal('thing') }, closed),
        Type.Object({ kind: Type.Literal('line'), along: Vec3, each: Type.Optional(Type.Boolean()) }, closed),
      ]),
    ),
    /** Leg to its phase, where that is not the plan's. */
    phases: Type.Optional(record(Type.Number({ minimum: 0, maximum: 1 }), 60)),
    /** Leg to the share of its loop in which it stands, where that is not the clip's. */
    stances: Type.Optional(record(Stance, 60)),
    /** Channel name to [phase 0..1, value]: see docs/kit-format.md. */
    curves: record(Curve, 200),
  },
  closed,
)

/** A pose that is ready: a moment of a clip, so that it fits every figure as the clip does. */
export const ReadyPoseSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** A clip of this kit. */
    clip: Id,
    /** The share of the clip at which it is taken, 0 to 1. */
    at: Type.Number({ minimum: 0, maximum: 1 }),
  },
  closed,
)

/** A figure that is ready, to start from. */
export const LookSchema = Type.Object(
  {
    id: Id,
    name: Name,
    /** A body of this kit, or "kit/body" of another. */
    body: KitName,
    /** Archetypes of the body that it is one of. */
    archetypes: Type.Optional(list(Id, 10)),
    /** What it has on besides what its body always has: parts of this kit, or "kit/part" of others. */
    parts: list(KitName, 60),
    sliders: Values,
    /** An expression of the body, and how strongly. */
    face: Type.Optional(Type.Tuple([Id, Type.Number({ minimum: 0, maximum: 1 })])),
    /** Color region to swatch. */
    colors: record(Color, 200),
  },
  closed,
)

export const KitSchema = Type.Object(
  {
    format: Type.Literal(KIT_FORMAT),
    version: Type.Literal(2),
    id: Id,
    name: Name,
    kitVersion: Type.String({ pattern: '^\\d+\\.\\d+\\.\\d+$', maxLength: 32 }),
    license: Type.Optional(Type.String({ maxLength: 200 })),
    plans: Type.Optional(list(BodyPlanSchema, 20)),
    bodies: list(BodySchema, 20),
    slots: list(SlotSchema, 60),
    parts: list(PartSchema, 2000),
    colorRegions: list(ColorRegionSchema, 200),
    palettes: list(PaletteSchema, 60),
    clips: list(ClipSchema, 60),
    poses: Type.Optional(list(ReadyPoseSchema, 100)),
    looks: Type.Optional(list(LookSchema, 200)),
  },
  closed,
)

export type KitManifest = Static<typeof KitSchema>
export type BodyDef = Static<typeof BodySchema>
export type SliderDef = Static<typeof SliderSchema>
export type ExpressionDef = Static<typeof ExpressionSchema>
export type ArchetypeDef = Static<typeof ArchetypeSchema>
export type SlotDef = Static<typeof SlotSchema>
export type PartDef = Static<typeof PartSchema>
export type ClipDef = Static<typeof ClipSchema>
export type ReadyPoseDef = Static<typeof ReadyPoseSchema>
export type LookDef = Static<typeof LookSchema>
export type PaletteDef = Static<typeof PaletteSchema>
export type ColorRegionDef = Static<typeof ColorRegionSchema>

import { Type, type Static, type TInteger } from '@sinclair/typebox'
import type { DocumentKind } from '../base/readDocument.ts'
import { closed, Id, list, Name, record } from '../base/schemas.ts'
import { CHAIN_KINDS, LevelSchema, type ChainKind } from '../kit/plan.ts'
import { KeptPoseSchema } from '../motion/poses/keptPose.ts'
import { LicenseSchema } from './license.ts'
import { TargetV1Schema, upgradeTargetV1 } from './targetV1.ts'

export const TARGET_FORMAT = 'idle-tinker-target'

/** So many bones a chain can have. */
export const MOST_IN_CHAIN = 12

const limit = (maximum: number) => Type.Integer({ minimum: 1, maximum })
const Axis = Type.Union((['+x', '-x', '+y', '-y', '+z', '-z'] as const).map((a) => Type.Literal(a)))
const Influences = Type.Union([Type.Literal(4), Type.Literal(2), Type.Literal(1)])

/** What a name can be made of: {project}, {figure}, {number}, {level}, {clip}, {target} and {date} are filled in. */
const Pattern = Type.String({ minLength: 1, maxLength: 120 })
const Share = Type.Number({ minimum: -1.001, maximum: 1.001 })

/** Joints are scaled by no less than this, and by no more than its inverse. */
export const LEAST_SCALE = 1e-4

/** A joint of a game's own skeleton: what it hangs on, and how it is turned at rest, xyzw, in our axes. */
const JointSchema = Type.Object(
  {
    name: Name,
    parent: Type.Union([Name, Type.Null()]),
    turn: Type.Tuple([Share, Share, Share, Share]),
    /** How much longer a unit of what hangs on it is than one of the file's; as long if not said. */
    scale: Type.Optional(Type.Number({ minimum: LEAST_SCALE, maximum: 1 / LEAST_SCALE })),
    /**
     * Of joints above our root: how far up they stand, 0 on the ground and 1 where the root is. If not said the lowest is on
     * the ground and all others are where the root is.
     */
    height: Type.Optional(Type.Number({ minimum: 0, maximum: 1 })),
  },
  closed,
)
export type ConventionJoint = Static<typeof JointSchema>

/** Units that games are commonly counted in: metres in one, and what COLLADA calls it. */
export const UNITS = [
  { metres: 1, name: 'Metres', collada: 'meter' },
  { metres: 0.1, name: 'Decimetres', collada: 'decimeter' },
  { metres: 0.01, name: 'Centimetres', collada: 'centimeter' },
  { metres: 0.001, name: 'Millimetres', collada: 'millimeter' },
  { metres: 0.0254, name: 'Inches', collada: 'inch' },
  { metres: 0.3048, name: 'Feet', collada: 'foot' },
] as const

/** How a game wants its figures to lie, stand and be called. */
export const ConventionSchema = Type.Object(
  {
    /** Metres in one of its units: 1 for metres, 0.01 for centimetres. */
    unit: Type.Number({ minimum: 1e-4, maximum: 1e3 }),
    /** How much larger figures are there than they were built; as large if not said. */
    scale: Type.Optional(Type.Number({ minimum: 0.01, maximum: 100 })),
    up: Axis,
    front: Axis,
    /** From where OBJ and COLLADA count the rows of a picture: from below, as is usual, if not said. glTF counts from above. */
    rows: Type.Optional(Type.Union([Type.Literal('below'), Type.Literal('above')])),
    /** How figures stand at rest: as they were built, arms straight out, half way down or hanging, or in a pose. */
    rest: Type.Union((['built', 't', 'a', 'hanging', 'pose'] as const).map((r) => Type.Literal(r))),
    /** That pose, for figures of its plan. */
    pose: Type.Optional(Type.Omit(KeptPoseSchema, ['format', 'version'], closed)),
    bones: Type.Object(
      {
        /** What bones are called: as the open VRM standard has it, numbered, or by the table. */
        names: Type.Union([Type.Literal('vrm'), Type.Literal('numbered'), Type.Literal('table')]),
        /** Our name to the game's; names that are not in it stay. */
        table: record(Name, 300),
        /**
         * How joints are turned at rest: not at all, their y along their bone, or as those of the game's skeleton; not at
         * all if not said. Joints that are not in it hang unturned.
         */
        axes: Type.Optional(Type.Union([Type.Literal('unturned'), Type.Literal('along'), Type.Literal('joints')])),
        /** The game's own skeleton, parents first: what is between bones of ours, or above them, comes along. */
        joints: Type.Optional(list(JointSchema, 400)),
        /** Whether joints stay on which no vertex hangs; they do if not said. */
        unused: Type.Optional(Type.Union([Type.Literal('kept'), Type.Literal('left-out')])),
      },
      closed,
    ),
    /** Name of a bone on the ground from which the skeleton hangs; none if empty. */
    root: Type.String({ maxLength: 80 }),
    /** What things are called; files by their figure, clips and meshes as in the workshop if not said. */
    names: Type.Optional(Type.Partial(Type.Object({ file: Pattern, mesh: Pattern, clip: Pattern }, closed))),
  },
  closed,
)

export type Convention = Static<typeof ConventionSchema>

/** Metres, +Y up, facing +Z, as built, VRM names: what is inside the workshop. */
export const OUR_CONVENTION: Convention = {
  unit: 1,
  up: '+y',
  front: '+z',
  rest: 'built',
  bones: { names: 'vrm', table: {} },
  root: '',
}

/** A coarser level of detail: its triangles, and what else is less than in the finest. */
export const LodSchema = Type.Object(
  {
    triangles: limit(200_000),
    vertices: Type.Optional(limit(400_000)),
    bones: Type.Optional(limit(256)),
    detail: Type.Optional(LevelSchema),
    influences: Type.Optional(Influences),
  },
  closed,
)

/** The game a figure goes to: its limits and its conventions. */
export const TargetSchema = Type.Object(
  {
    format: Type.Literal(TARGET_FORMAT),
    version: Type.Literal(2),
    id: Id,
    name: Name,
    convention: ConventionSchema,
    detail: LevelSchema,
    influences: Influences,
    /** How many bones chains have, by kind; as many as their kit gives them if not said. */
    chains: Type.Optional(
      Type.Partial(
        Type.Object(
          Object.fromEntries(
            CHAIN_KINDS.map((kind) => [kind, Type.Integer({ minimum: 1, maximum: MOST_IN_CHAIN })]),
          ) as Record<ChainKind, TInteger>,
          closed,
        ),
      ),
    ),
    /** Side of the square color atlas, pixels. */
    atlas: Type.Union([64, 128, 256, 512, 1024, 2048].map((n) => Type.Literal(n))),
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
    /** The coarser levels of detail, LOD1 on. */
    lods: list(LodSchema, 4),
    /** Sliders that stay adjustable in the game, as morph targets. */
    keepSliders: list(Id, 40),
    /** Expressions that the game can play, as morph targets: all the body has, or those named; none if not said. */
    keepExpressions: Type.Optional(Type.Union([Type.Literal('all'), list(Id, 100)])),
    /** Clips that go along: all the figure can play, or those named; where not said, those that kits do not hold back. */
    keepClips: Type.Optional(Type.Union([Type.Literal('all'), list(Id, 200)])),
    /** How clips are written. */
    motion: Type.Optional(
      Type.Object(
        {
          /** Keys a second at most; thirty if not said. */
          rate: Type.Optional(Type.Integer({ minimum: 5, maximum: 30 })),
          /** How far a joint may be off where keys are left out, millimetres; two to five if not said. */
          tolerance: Type.Optional(Type.Number({ minimum: 0, maximum: 50 })),
          /** Whether a figure goes along in its clips; it stays on the spot if not said. */
          travels: Type.Optional(Type.Boolean()),
        },
        closed,
      ),
    ),
    /** How figures lie in glTF files: in full and all in one, where it is not said. */
    gltf: Type.Optional(
      Type.Partial(
        Type.Object(
          {
            /** In metres, as the standard has it, or in the target's own unit, where its game takes such files. */
            counted: Type.Union((['metres', 'unit'] as const).map((c) => Type.Literal(c))),
            /** In full, as whole numbers of 16 and 8 bits (KHR_mesh_quantization), or those packed (EXT_meshopt_compression). */
            vertices: Type.Union((['full', 'quantized', 'packed'] as const).map((v) => Type.Literal(v))),
            /** In a picture, or on the vertices; figures with pictures on them have theirs in a picture always. */
            colors: Type.Union((['picture', 'vertices'] as const).map((v) => Type.Literal(v))),
            /** Levels of detail in the figure's file (MSFT_lod), or each in a file of its own. */
            levels: Type.Union((['together', 'files'] as const).map((v) => Type.Literal(v))),
            /** Clips in the figure's file, each in a file with the figure, or each in one with its bones alone. */
            clips: Type.Union((['together', 'files', 'apart'] as const).map((v) => Type.Literal(v))),
          },
          closed,
        ),
      ),
    ),
    /** Who made what ships, and what others may do with it; formats that hold a license ask for it. */
    license: Type.Optional(LicenseSchema),
    /** Whether places that games ask for go along as nodes: eyes, grips, soles; they do if not said. */
    helperPoints: Type.Optional(Type.Boolean()),
  },
  closed,
)

export type Target = Static<typeof TargetSchema>

export const TARGET_KIND: DocumentKind<typeof TargetSchema> = {
  format: TARGET_FORMAT,
  noun: 'target',
  schema: TargetSchema,
  older: [{ schema: TargetV1Schema, upgrade: upgradeTargetV1 }],
}

/** How many of the units that a target's glTF files count in are a metre. */
export const gltfScale = ({ gltf, convention: { unit } }: Pick<Target, 'gltf' | 'convention'>): number =>
  gltf?.counted === 'unit' ? 1 / unit : 1

/** A target to start one's own from: what an ordinary figure near the camera may cost. */
export function newTarget(id: string, name: string): Target {
  return {
    format: TARGET_FORMAT,
    version: 2,
    id,
    name,
    convention: OUR_CONVENTION,
    detail: 'standard',
    influences: 4,
    atlas: 128,
    limits: {
      triangles: 2500,
      vertices: 7500,
      bones: 60,
      drawCalls: 1,
      textureBytes: 128 * 128 * 4,
      fileBytes: 1 << 20,
    },
    lods: [],
    keepSliders: [],
  }
}

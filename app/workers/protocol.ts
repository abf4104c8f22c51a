import type {
  BendScore,
  Bone,
  Landmark,
  Point,
  CarriedClip,
  Clip,
  ListedClip,
  ClipNumbers,
  Costs,
  Crowd,
  Finding,
  HelperPoint,
  KeptClip,
  KitManifest,
  Mendable,
  Mix,
  Motion,
  MotionMatch,
  PieceCost,
  Placing,
  DrawnChain,
  FigureSurvey,
  PlacingGiven,
  RigGiven,
  Problem,
  Read,
  ReadyPoseOn,
  Recipe,
  RefitAdjust,
  LearnRead,
  ShipFormat,
  ShippedAs,
  Side,
  Skeleton,
  SlotGuess,
  Spot,
  SpotAsk,
  Stroke,
  Target,
  WorstEnd,
} from '@idle-tinker/core'

/** A mesh ready for the renderer: one vertex a corner. */
export interface DrawMesh {
  positions: Float32Array
  normals: Float32Array
  uvs: Float32Array
  colors: Float32Array // rgb a vertex, baked light
  joints: Uint16Array
  weights: Float32Array
  indices: Uint32Array
}

export type DrawBone = Bone

export interface DrawPiece {
  instance: string
  slot: string
  kit: string
  id: string
  name: string
  /** Whether things can be put on it: the body, and what is worn. */
  holds: boolean
  /** Movements that act on it, by name. */
  morphs: string[]
  /** Index range in the mesh. */
  start: number
  count: number
}

/** A built figure as the interface sees it. */
export interface FigureView {
  /** Equal for figures whose meshes differ in positions and normals alone. */
  topology: string
  mesh: DrawMesh
  pieces: DrawPiece[]
  bones: DrawBone[]
  /** Its limbs, as posing knows them. */
  limbs: Skeleton['limbs']
  /** Bones that mirror each other. */
  pairs: Skeleton['pairs']
  landmarks: Record<string, [number, number, number]>
  /** `painted`: it has pictures in it, and wants smooth filtering. */
  atlas: { size: number; pixels: Uint8Array; painted: boolean }
  doubleSided: boolean
  costs: Costs
  pieceCosts: PieceCost[]
  reductionError: number
}

/** How some vertices of a mesh move, xyz a vertex, metres, and by what their normals differ then. */
export interface Moves {
  vertices: Uint32Array
  offsets: Float32Array
  turns: Float32Array
}

/** A clip of keys on a figure, and what is measured of it there, where that was asked for. */
export interface PlayedKeys {
  clip: Clip | null
  numbers: ClipNumbers | null
  problems: Problem[]
}

export interface BuildAnswer {
  view: FigureView | null
  problems: Problem[]
}

/** A pack to be sorted on a body. */
export interface PackAsk {
  body: { kit: string; id: string }
  /** By path; null for the pack that lies open. */
  files: readonly (readonly [string, Uint8Array])[] | null
  given: PlacingGiven
  /** Pieces that are taken apart, and bits that were joined again; without, whole figures are. */
  arrangement: { apart: readonly string[]; joined: readonly (readonly string[])[] } | null
}

/** One piece of a pack: where it may go, and what is wrong with it. */
export interface PackedPiece {
  id: string
  names: string[]
  triangles: number
  guesses: SlotGuess[]
  findings: PieceFinding[]
  /** Of a bit of something that was taken apart: of what, and why it is by itself. */
  bitOf?: { piece: string; why: string }
  view: FigureView
}

export type PieceFinding = Pick<Finding, 'code' | 'severity' | 'message' | 'remedy'>

/** How a pack lies, and where its pieces may go. */
export interface SortedPack {
  placing: Omit<Placing, 'toBody'>
  pieces: PackedPiece[]
  /** Pieces that were taken apart. */
  apart: string[]
  /** How many pieces have pictures that can be taken along. */
  painted: number
  /** Of pieces that hang on bones: how many these are, which pieces seem the body, and whether all is a figure of its own. */
  figure: { bones: number; body: string[]; likely: boolean } | null
  /** The body, a rod of one metre, and the pack. */
  beside: FigureView
}

export interface PackAnswer {
  sorted: SortedPack | null
  problems: Problem[]
}

/** What becomes of the pack that lies open: the kit, and piece to slot. */
export interface PackToMake {
  id: string
  name: string
  slots: readonly (readonly [string, string])[]
  /** Piece to what a person calls it. */
  names: readonly (readonly [string, string])[]
  /** Piece to what of it is mended. */
  mend: readonly (readonly [string, readonly Mendable[]])[]
  /** Pieces whose slot is sure. */
  sure: readonly string[]
  /** Whether it has a body of its own. */
  own: boolean
  /** The longest side of pictures that are taken along, pixels; 0 for none. */
  pictures: number
}

/** A mesh without bones, to be looked at. */
export interface MeshAsk {
  /** By path; null for the one that lies open. */
  files: readonly (readonly [string, Uint8Array])[] | null
  given: RigGiven
}

/** How it lies, and where its joints are; null where it cannot be read at all. */
export interface MeshAnswer {
  mesh: {
    placing: Omit<Placing, 'toBody'>
    /** None where no bones are made for what it is. */
    landmarks: Landmark[]
    /** What it stands on; null where that is none of what is known. */
    build: FigureSurvey['build'] | null
    view: FigureView
    /** The ends of its box, metres. */
    box: { min: Point; max: Point }
    /** Where its left and right meet, along x. */
    plane: number
  } | null
  problems: Problem[]
}

export interface KitAddress {
  id: string
  /** Of all its files: another hash, another kit. */
  hash: string
  files: string[]
  /** Where the server gives it as it has read it: a path with the hash and the build in it. */
  reading: string
}

export interface LoadedKit {
  manifest: KitManifest
  hash: string
  /** Color regions of each part and body by id. */
  regions: Record<string, string[]>
  problems: Problem[]
}

/** Kits as far as they could be had and read, and those that could not. */
export interface LoadedKits {
  loaded: LoadedKit[]
  broken: { id: string; problems: Problem[] }[]
}

/** A kit as it is to become: its description, and the files that are new. */
export interface KitDraft {
  /** The kit as it is. */
  address: KitAddress
  base: string
  json: string
  files: readonly (readonly [string, Uint8Array])[]
}

export interface DraftAnswer {
  /** As it was read; null where it cannot be. */
  manifest: KitManifest | null
  /** Color regions of each part by id. */
  regions: Record<string, string[]>
  /** The figure that was asked for, with the kit as it is to become. */
  view: FigureView | null
  problems: Problem[]
}

/** A part that is to be carried over to another body, and the kit it comes to be in. */
export interface RefitAsk {
  id: string
  name: string
  part: { kit: string; id: string }
  from: { kit: string; id: string }
  to: { kit: string; id: string }
  adjust: RefitAdjust
}

export interface RefitAnswer {
  /** Null where it cannot be carried over. */
  made: {
    /** Of a kit with this part alone. */
    files: [string, Uint8Array][]
    /** The other body in it. */
    worn: FigureView | null
    /** The same, what is doubtful in a color of its own. */
    places: FigureView
    moved: { mean: number; most: number }
    /** Shares of its points that got into the body, and that are doubtful. */
    within: number
    doubtful: number
    end: WorstEnd | null
  } | null
  problems: Problem[]
}

/** The motions of a file, as they are kept. */
export interface BroughtMotions {
  motions: Motion[]
  problems: Problem[]
}

/** A kept motion as a clip of a figure, what is measured of it there, and which bones are in doubt. */
export interface CarriedMotion {
  carried: (CarriedClip & { numbers: ClipNumbers }) | null
  problems: Problem[]
}

/** Told how much of a piece of work is done, 0 to 1, every moment; what it answers says whether to go on. */
export type Watch = (share: number) => boolean | Promise<boolean>

/** What the browser side of the core can be asked. Everything heavy happens behind it. */
/** One figure to ship. */
export interface ShipOne {
  recipe: Recipe
  target: Target
  formats: ShipFormat[]
  lods: boolean
  /** What files are called, without endings. */
  stem: string
  motions: Motion[]
  keyed: KeptClip[]
  /** Whether what the checks found at fault goes as well. */
  insist: boolean
}

export interface ShipAnswer {
  /** The one file, or a zip of several; null where nothing can go. */
  file: { name: string; bytes: Uint8Array } | null
  /** What came of each format; `files` are the names of what goes. */
  shipped: (Omit<ShippedAs, 'files'> & { files: string[] })[]
}

export interface Workshop {
  loadKits(kits: KitAddress[], base: string): Promise<LoadedKits>
  build(recipe: Recipe, target: Target, reduce: boolean): Promise<BuildAnswer>
  /** What a figure can play. */
  clips(recipe: Recipe, target: Target): Promise<ListedClip[]>
  /** How its skin takes bending, the worst joint first. */
  bends(recipe: Recipe, target: Target): Promise<BendScore[]>
  /** Poses of its kits, on it. */
  poses(recipe: Recipe, target: Target): Promise<ReadyPoseOn[]>
  /** Places on the figure that games ask for, by the bones of the target. */
  helperPoints(recipe: Recipe, target: Target): Promise<HelperPoint[]>
  /** One of them, fitted to the figure as it stands; null where it cannot be played. */
  clip(recipe: Recipe, target: Target, id: string): Promise<Clip | null>
  /** Reads the motions in a file, with the buffers that lie beside it; of skeletons that are known their bones are. */
  bringMotions(
    file: string,
    bytes: Uint8Array,
    beside: ReadonlyMap<string, Uint8Array>,
    recipe: Recipe,
    known: MotionMatch[],
  ): Promise<BroughtMotions>
  carryMotion(recipe: Recipe, target: Target, motion: Motion): Promise<CarriedMotion>
  /** A figure with motions from elsewhere as its clips, as a GLB. */
  shipMotions(
    recipe: Recipe,
    target: Target,
    motions: Motion[],
  ): Promise<{ bytes: Uint8Array | null; problems: Problem[] }>
  /** How its mesh moves to expressions of its body, by what these are called; some of them, or all. */
  faces(recipe: Recipe, target: Target, reduce: boolean, wanted?: string[]): Promise<Record<string, Moves>>
  /** A clip of keys as this figure plays it; measuring it takes ten times as long. */
  playKeys(recipe: Recipe, target: Target, kept: KeptClip, measured: boolean): Promise<PlayedKeys>
  /** A figure after a stroke of the brush, on the body or on what an instance wears. */
  nudge(recipe: Recipe, on: string | undefined, stroke: Stroke): Promise<Recipe>
  /** The regions of its body in which a figure was nudged, and whether its sides were differently. */
  nudged(recipe: Recipe): Promise<{ regions: string[]; uneven: boolean }>
  /** A figure with what was nudged on its body alike on both sides. */
  evenNudge(recipe: Recipe, like: Side): Promise<Recipe>
  /** A figure whose body is brought back, in one region or everywhere. */
  unnudge(recipe: Recipe, region: string | null): Promise<Recipe>
  /** Where on a figure something may sit; null where there is no such surface. */
  spot(recipe: Recipe, ask: SpotAsk): Promise<Spot | null>
  /** The crowd of a mix; null if the watch has stopped it. */
  crowd(mix: Mix, watch: Watch): Promise<Crowd | null>
  /** Reads a pack, or takes up the one that lies open, and sorts it. */
  sortPack(ask: PackAsk): Promise<PackAnswer>
  /** The kit of the pack that lies open, as a zip. */
  packKit(order: PackToMake): Promise<{ zip: Uint8Array | null; problems: Problem[] }>
  /** Reads a mesh without bones, or takes up the one that lies open, and looks for its joints. */
  openMesh(ask: MeshAsk): Promise<MeshAnswer>
  /** A landmark of it in the middle of the limb behind it, seen along an axis; null where no mesh lies open. */
  settle(at: Point, axis: 0 | 2): Promise<Point | null>
  /** The kit of the mesh that lies open, as a zip, with bones by its landmarks. */
  rigMesh(order: {
    id: string
    name: string
    landmarks: Landmark[]
    chains: DrawnChain[]
  }): Promise<{ zip: Uint8Array | null; problems: Problem[] }>
  /** A piece of the pack that lies open as it was found, its faults marked, and as it is mended. */
  pieceHealth(piece: string, mend: readonly Mendable[]): Promise<{ found: FigureView; mended: FigureView } | null>
  /** Reads a kit as it is to become, and builds a figure with it. */
  tryDraft(draft: KitDraft, recipe: Recipe | null, target: Target): Promise<DraftAnswer>
  /** Carries a part over to another body, and shows it there. */
  tryRefit(ask: RefitAsk, target: Target): Promise<RefitAnswer>
  /** A piece of the pack that lies open as it was found, as a GLB; null where it is none. */
  pieceFile(piece: string): Promise<Uint8Array | null>
  /** The figure in a file, or what stands in its way. */
  open(bytes: Uint8Array, name: string): Promise<Read<Recipe>>
  /** A figure within its target in some formats, with the clips of its kit and, after them, clips of keys and motions. */
  ship(order: ShipOne): Promise<ShipAnswer>
  /** What a file of a game says of its skeleton, as a target that is otherwise like another. */
  /** The crowd in a file, as its mix. */
  openCrowd(bytes: Uint8Array, file: string): Promise<Read<Mix>>
  learn(bytes: Uint8Array, file: string, base: Target, match?: MotionMatch): Promise<LearnRead>
}

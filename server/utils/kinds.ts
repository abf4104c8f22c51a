import {
  readClip,
  readKept,
  readMix,
  readMotionDocument,
  readPicks,
  readPose,
  readRecipe,
  readTarget,
  type Kept,
  type KeptClip,
  type KeptPose,
  type Mix,
  type Motion,
  type Picks,
  type Read,
  type Recipe,
  type Target,
} from '@idle-tinker/core'

/** What the workshop keeps with versions, and what a document of each kind is. */
export interface Contents {
  figure: Recipe
  mix: Mix
  target: Target
  kept: Kept
  motion: Motion
  pose: KeptPose
  clip: KeptClip
  picks: Picks
}
export type Kind = keyof Contents

interface KindOf<T> {
  /** Of any version that has ever been out, as it is today. */
  read: (document: unknown, where: string) => Read<T>
  /** Bytes a document may have. */
  limit: number
  /** Whether every save is kept to go back to: not of what is large and hardly changes. */
  versions: boolean
  /** Why it cannot do without the last one; null if it can. */
  needsOne: string | null
}

export const KINDS: { [K in Kind]: KindOf<Contents[K]> } = {
  figure: { read: readRecipe, limit: 256 << 10, versions: true, needsOne: null },
  // it carries the recipes of its pinned variants
  mix: { read: readMix, limit: 4 << 20, versions: true, needsOne: null },
  // a recipe, and a little about it
  kept: { read: readKept, limit: 260 << 10, versions: true, needsOne: null },
  // with the numbers of its frames
  motion: { read: readMotionDocument, limit: 4 << 20, versions: false, needsOne: null },
  // a turn a bone
  pose: { read: readPose, limit: 64 << 10, versions: true, needsOne: null },
  // a pose a key
  clip: { read: readClip, limit: 2 << 20, versions: true, needsOne: null },
  // what is offered, and the numbers of all that ever was
  picks: { read: readPicks, limit: 2 << 20, versions: true, needsOne: null },
  target: {
    read: readTarget,
    limit: 256 << 10,
    versions: true,
    needsOne: 'This is the only target; figures need one to be measured against.',
  },
}

export function isKind(name: string): name is Kind {
  return Object.hasOwn(KINDS, name)
}

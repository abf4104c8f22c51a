/** Under this key stands in a file's asset extras what it was made from. */
export const EXTRAS_KEY = 'idleTinker'

/** What stands there. */
export interface FileExtras {
  recipe: unknown
  /** The target's id. */
  target: string
  /** The size of the figure at rest as it was built, metres along x, y and z: what should come out again. */
  size?: [number, number, number]
  /** How many of its units are a metre, where its game counts otherwise. */
  scale?: number
}

/** What stands in the extras of a clip. */
export interface ClipExtras {
  /** Whether it goes round: it ends as it begins. */
  loop: boolean
}

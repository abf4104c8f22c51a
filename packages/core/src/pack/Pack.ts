import type { ForeignJoint } from '../rig/foreignSkeleton.ts'
import type { PiecePaint } from './pictures.ts'

/** One thing a pack holds, as it lies in its file: the triangles of one mesh, where the scene puts them. */
export interface PackPiece {
  /** Unique in its pack: the file, and the mesh in it. */
  id: string
  /** What it is called: mesh, node or group, and the file. */
  names: string[]
  /** xyz a vertex, in the file's own unit and axes. Triangles that share a vertex are shaded as one surface. */
  positions: Float32Array
  /** Three vertices a triangle, counter-clockwise seen from outside. */
  triangles: Uint32Array
  /** In order of use; each triangle's is one of them. */
  materials: PackMaterial[]
  materialOf: Uint16Array
  /** Where the corners of each triangle lie on its picture, uv three times, 0 to 1 from the upper left; without pictures left out. */
  uvs?: Float32Array
  /** What its vertices hang on: four of the pack's joints each, strongest first, and how much; null without a skin. */
  skin: { joints: Uint16Array; weights: Float32Array } | null
  found: PieceFacts
  /** Of a bit of something that was taken apart: of which piece, and why it is by itself. */
  bitOf?: { piece: string; why: string }
}

/** What its file had of a piece that is not kept: told in the report of its health. */
export interface PieceFacts {
  /** Vertices of its largest run, before those at one place became one. */
  vertices: number
  /** The most bones one of them hangs on. */
  influences: number
  /** Vertices whose weights do not sum to one. */
  weightsOff: number
  /** Whether it has normals. */
  normals: boolean
  /** Triangles whose normals point to the other side. */
  against: number
  /** Triangles that had a corner that is no place, and are left out; none if not said. */
  lost?: number
  /** Whether the node it hangs on stretches it one way more than another, or mirrors it. */
  scaled: boolean
}

export interface PackMaterial {
  name: string
  /** What the file calls the material it is of, where it is one color of several. */
  of?: string
  /** Its one color, as #rrggbb. */
  color: string
  /** Whether it has a picture that is more than a few colors; the color is the mean of it. */
  picture: boolean
  /** That picture, where it can be taken along. */
  paint?: PiecePaint
}

/** Everything that was found in some files that somebody dropped: nothing has been turned, scaled or left out for looks. */
export interface Pack {
  pieces: PackPiece[]
  /** Joints that meshes hang on, in the file's own unit and axes. */
  joints: ForeignJoint[]
}

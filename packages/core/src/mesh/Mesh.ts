/**
 * The one mesh type. A mesh has *points*, which carry shape and skin, and *corners*, which carry
 * look. A point where several facets meet has one corner for each of them, so that shading and
 * color may break there while sliders and bones move the point once.
 */
export interface Mesh {
  /** xyz a point, metres, +Y up, +Z to the front, +X to the figure's left; length 3p. */
  positions: Float32Array
  /** Four bone indices a point; length 4p. */
  joints: Uint16Array
  /** Four weights a point, in falling order, summing to one (all zero: not skinned); length 4p. */
  weights: Float32Array
  /** Named sparse displacements of points. */
  morphs: Morph[]
  /** The point under each corner; length c. */
  cornerPoints: Uint32Array
  /** Unit normals, xyz a corner; length 3c. */
  normals: Float32Array
  /** 0: the facet's own normal; 255: the point's smooth normal; length c. */
  softness: Uint8Array
  /** Baked light, 255: full; multiplies the color; length c. */
  shades: Uint8Array
  /** Index into `regionNames`: the color region; length c. */
  regions: Uint16Array
  regionNames: string[]
  /**
   * Texture coordinates, uv a corner, origin upper left as in glTF; length 2c. In a part or body:
   * within its region's own picture. In a built figure: within the atlas.
   */
  uvs: Float32Array
  /** Corners of triangles, counter-clockwise seen from outside; length 3t. */
  indices: Uint32Array
}

export interface Morph {
  name: string
  /** The points that move, ascending; length m. */
  points: Uint32Array
  /** Displacement at full effect, xyz, metres; length 3m. */
  deltas: Float32Array
}

export interface Bounds {
  min: [number, number, number]
  max: [number, number, number]
}

export function pointCount(mesh: Mesh): number {
  return mesh.positions.length / 3
}

export function cornerCount(mesh: Mesh): number {
  return mesh.cornerPoints.length
}

export function triangleCount(mesh: Mesh): number {
  return mesh.indices.length / 3
}

/** The three points of every triangle (indices look through the corners); length 3t. */
export function pointTriangles(mesh: Pick<Mesh, 'indices' | 'cornerPoints'>): Uint32Array {
  const out = new Uint32Array(mesh.indices.length)
  for (let i = 0; i < out.length; i++) out[i] = mesh.cornerPoints[mesh.indices[i]!]!
  return out
}

/** The points that some corner lies on, ascending. */
export function pointsInUse({ joints, cornerPoints }: Pick<Mesh, 'joints' | 'cornerPoints'>): Uint32Array {
  const used = new Uint8Array(joints.length / 4)
  for (let c = 0; c < cornerPoints.length; c++) used[cornerPoints[c]!] = 1
  const points = new Uint32Array(used.length)
  let count = 0
  for (let p = 0; p < used.length; p++) if (used[p]) points[count++] = p
  return points.slice(0, count)
}

/** Axis-aligned bounds of xyz triples; an empty list gives a box at the origin. */
export function boundsOf(positions: ArrayLike<number>): Bounds {
  if (positions.length === 0) return { min: [0, 0, 0], max: [0, 0, 0] }
  const min: Bounds['min'] = [Infinity, Infinity, Infinity]
  const max: Bounds['max'] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const v = positions[i + k]!
      if (v < min[k]!) min[k] = v
      if (v > max[k]!) max[k] = v
    }
  return { min, max }
}

/** Pixels along the longer side of a view: about 14 mm each on a grown figure. */
const SIZE = 128
/**
 * Where one looks from: elevation in degrees and number of turns over half a circle about the
 * vertical. Each is looked along both ways: from there, and from straight across.
 */
export type Views = readonly { elevation: number; turns: number }[]
export const ALL_ROUND: Views = [
  { elevation: 8, turns: 4 },
  { elevation: 40, turns: 3 },
]

/**
 * Which triangles can be seen from around, by drawing their numbers into a depth buffer from
 * each view (an item buffer after Weghorst, Hooper & Greenberg 1984). What fills no pixel
 * from anywhere is lost on nobody. Both sides of a triangle count.
 *
 * @param positions xyz a point, metres
 * @param triangles three points each
 * @param seen      one byte a triangle, set to 1 where it is seen; others are left as they are
 */
export function markViewed(
  positions: Float32Array,
  triangles: Uint32Array,
  seen: Uint8Array,
  views: Views = ALL_ROUND,
): void {
  const near: Buffer = { depth: new Float32Array(SIZE * SIZE), item: new Int32Array(SIZE * SIZE) }
  const far: Buffer = { depth: new Float32Array(SIZE * SIZE), item: new Int32Array(SIZE * SIZE) }
  const flat = new Float32Array(positions.length)
  for (const { elevation, turns } of views)
    for (let k = 0; k < turns; k++) {
      project(positions, (elevation * Math.PI) / 180, ((k + elevation / 90) / turns) * Math.PI, flat)
      near.depth.fill(-Infinity)
      far.depth.fill(Infinity)
      near.item.fill(-1)
      far.item.fill(-1)
      for (let t = 0; t < triangles.length; t += 3)
        fill(flat, triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3, t / 3, near, far)
      for (const { item } of [near, far]) for (let i = 0; i < item.length; i++) if (item[i]! >= 0) seen[item[i]!] = 1
      for (let t = 0; t < triangles.length; t += 3)
        if (!seen[t / 3] && shows(flat, triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3, near, far))
          seen[t / 3] = 1
    }
}

/** What is drawn at each pixel, and how near to the eye it is. */
interface Buffer {
  depth: Float32Array
  item: Int32Array
}

/** Triangles smaller than this, pixels, can fall between pixel centers: they are asked for by their middle. */
const SMALL = 3
/** How far behind what is drawn a small triangle may lie and still belong to it, metres. */
const SLACK = 0.006

function shows(flat: Float32Array, a: number, b: number, c: number, near: Buffer, far: Buffer): boolean {
  const [ax, ay] = [flat[a]!, flat[a + 1]!]
  const area = (flat[b]! - ax) * (flat[c + 1]! - ay) - (flat[b + 1]! - ay) * (flat[c]! - ax)
  if (Math.abs(area) > 2 * SMALL) return false
  const x = Math.floor((ax + flat[b]! + flat[c]!) / 3)
  const y = Math.floor((ay + flat[b + 1]! + flat[c + 1]!) / 3)
  const z = (flat[a + 2]! + flat[b + 2]! + flat[c + 2]!) / 3
  return z > near.depth[y * SIZE + x]! - SLACK || z < far.depth[y * SIZE + x]! + SLACK
}

/** Turns points into a view and scales them to the buffer: x and y in pixels, z towards the eye. */
function project(positions: Float32Array, elevation: number, turn: number, out: Float32Array): void {
  const [st, ct, se, ce] = [Math.sin(turn), Math.cos(turn), Math.sin(elevation), Math.cos(elevation)]
  const low = [Infinity, Infinity]
  const high = [-Infinity, -Infinity]
  for (let i = 0; i < positions.length; i += 3) {
    const x = positions[i]! * ct - positions[i + 2]! * st
    const toEye = positions[i]! * st + positions[i + 2]! * ct
    const y = positions[i + 1]! * ce - toEye * se
    out[i] = x
    out[i + 1] = y
    out[i + 2] = positions[i + 1]! * se + toEye * ce
    low[0] = Math.min(low[0]!, x)
    low[1] = Math.min(low[1]!, y)
    high[0] = Math.max(high[0]!, x)
    high[1] = Math.max(high[1]!, y)
  }
  const scale = (SIZE - 2) / Math.max(high[0]! - low[0]!, high[1]! - low[1]!, 1e-6)
  for (let i = 0; i < out.length; i += 3) {
    out[i] = (out[i]! - low[0]!) * scale + 1
    out[i + 1] = (out[i + 1]! - low[1]!) * scale + 1
  }
}

/** Draws one triangle's number where it is nearer to either eye than what is there, row by row between its edges. */
function fill(flat: Float32Array, a: number, b: number, c: number, id: number, near: Buffer, far: Buffer): void {
  const ax = flat[a]!
  const ay = flat[a + 1]!
  const ux = flat[b]! - ax
  const uy = flat[b + 1]! - ay
  const vx = flat[c]! - ax
  const vy = flat[c + 1]! - ay
  const area = ux * vy - uy * vx
  if (area > -1e-9 && area < 1e-9) return
  // weight of b is sb * x + rb on a row, of c likewise; a has the rest
  const sb = vy / area
  const sc = -uy / area
  const az = flat[a + 2]!
  const uz = flat[b + 2]! - az
  const vz = flat[c + 2]! - az
  const { depth: nearDepth, item: nearItem } = near
  const { depth: farDepth, item: farItem } = far
  const y0 = Math.max(0, Math.ceil(ay + Math.min(0, uy, vy) - 0.5))
  const y1 = Math.min(SIZE - 1, Math.floor(ay + Math.max(0, uy, vy) - 0.5))
  const left = Math.max(0, Math.ceil(ax + Math.min(0, ux, vx) - 0.5))
  const right = Math.min(SIZE - 1, Math.floor(ax + Math.max(0, ux, vx) - 0.5))
  for (let y = y0; y <= y1; y++) {
    const py = y + 0.5 - ay
    const rb = (-py * vx) / area - sb * (ax - 0.5)
    const rc = (py * ux) / area - sc * (ax - 0.5)
    let x0 = left
    let x1 = right
    // where each of the three weights is not negative
    for (let edge = 0; edge < 3; edge++) {
      const slope = edge === 0 ? sb : edge === 1 ? sc : -sb - sc
      const rest = edge === 0 ? rb : edge === 1 ? rc : 1 - rb - rc
      if (slope > 1e-12) x0 = Math.max(x0, Math.ceil(-rest / slope))
      else if (slope < -1e-12) x1 = Math.min(x1, Math.floor(-rest / slope))
      else if (rest < 0) x1 = -1
    }
    for (let x = x0; x <= x1; x++) {
      const z = az + (sb * x + rb) * uz + (sc * x + rc) * vz
      const at = y * SIZE + x
      if (z > nearDepth[at]!) {
        nearDepth[at] = z
        nearItem[at] = id
      }
      if (z < farDepth[at]!) {
        farDepth[at] = z
        farItem[at] = id
      }
    }
  }
}

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
      const frame = project(positions, (elevation * Math.PI) / 180, ((k + elevation / 90) / turns) * Math.PI, flat)
      const used = frame.width * frame.height
      near.depth.fill(-Infinity, 0, used)
      far.depth.fill(Infinity, 0, used)
      near.item.fill(-1, 0, used)
      far.item.fill(-1, 0, used)
      for (let t = 0; t < triangles.length; t += 3)
        fill(flat, triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3, t / 3, near, far, frame)
      for (let i = 0; i < used; i++) {
        if (near.item[i]! >= 0) seen[near.item[i]!] = 1
        if (far.item[i]! >= 0) seen[far.item[i]!] = 1
      }
      for (let t = 0; t < triangles.length; t += 3)
        if (
          !seen[t / 3] &&
          shows(flat, triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3, near, far, frame)
        )
          seen[t / 3] = 1
    }
}

/** How much of the buffer a view takes, pixels. */
interface Frame {
  width: number
  height: number
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

function shows(
  flat: Float32Array,
  a: number,
  b: number,
  c: number,
  near: Buffer,
  far: Buffer,
  { width }: Frame,
): boolean {
  const ax = flat[a]!
  const ay = flat[a + 1]!
  const area = (flat[b]! - ax) * (flat[c + 1]! - ay) - (flat[b + 1]! - ay) * (flat[c]! - ax)
  if (Math.abs(area) > 2 * SMALL) return false
  const x = Math.floor((ax + flat[b]! + flat[c]!) / 3)
  const y = Math.floor((ay + flat[b + 1]! + flat[c + 1]!) / 3)
  const z = (flat[a + 2]! + flat[b + 2]! + flat[c + 2]!) / 3
  return z > near.depth[y * width + x]! - SLACK || z < far.depth[y * width + x]! + SLACK
}

/** Turns points into a view and scales them to the buffer: x and y in pixels, z towards the eye. */
function project(positions: Float32Array, elevation: number, turn: number, out: Float32Array): Frame {
  const [st, ct, se, ce] = [Math.sin(turn), Math.cos(turn), Math.sin(elevation), Math.cos(elevation)]
  let [left, right, bottom, top] = [Infinity, -Infinity, Infinity, -Infinity]
  for (let i = 0; i < positions.length; i += 3) {
    const x = positions[i]! * ct - positions[i + 2]! * st
    const toEye = positions[i]! * st + positions[i + 2]! * ct
    const y = positions[i + 1]! * ce - toEye * se
    out[i] = x
    out[i + 1] = y
    out[i + 2] = positions[i + 1]! * se + toEye * ce
    if (x < left) left = x
    if (x > right) right = x
    if (y < bottom) bottom = y
    if (y > top) top = y
  }
  const scale = (SIZE - 2) / Math.max(right - left, top - bottom, 1e-6)
  for (let i = 0; i < out.length; i += 3) {
    out[i] = (out[i]! - left) * scale + 1
    out[i + 1] = (out[i + 1]! - bottom) * scale + 1
  }
  const across = (from: number, to: number) => Math.min(SIZE, Math.ceil((to - from) * scale) + 2)
  return { width: across(left, right), height: across(bottom, top) }
}

/** Draws one triangle's number where it is nearer to either eye than what is there, pixel by pixel in the box around it. */
function fill(
  flat: Float32Array,
  a: number,
  b: number,
  c: number,
  id: number,
  near: Buffer,
  far: Buffer,
  { width, height }: Frame,
): void {
  const ax = flat[a]!
  const ay = flat[a + 1]!
  const ux = flat[b]! - ax
  const uy = flat[b + 1]! - ay
  const vx = flat[c]! - ax
  const vy = flat[c + 1]! - ay
  const y0 = Math.max(0, Math.ceil(ay + Math.min(0, uy, vy) - 0.5))
  const y1 = Math.min(height - 1, Math.floor(ay + Math.max(0, uy, vy) - 0.5))
  const x0 = Math.max(0, Math.ceil(ax + Math.min(0, ux, vx) - 0.5))
  const x1 = Math.min(width - 1, Math.floor(ax + Math.max(0, ux, vx) - 0.5))
  // most triangles are small, and many lie between pixel centers
  if (y0 > y1 || x0 > x1) return
  const area = ux * vy - uy * vx
  if (area > -1e-9 && area < 1e-9) return
  // weights of b, c and a change by these from pixel to pixel
  const bx = vy / area
  const by = -vx / area
  const cx = -uy / area
  const cy = ux / area
  const rx = -bx - cx
  // where each of them is nothing, pixels from the left of the box, is known of a row by these
  const bEdge = -1 / bx
  const cEdge = -1 / cx
  const rEdge = -1 / rx
  const az = flat[a + 2]!
  const uz = flat[b + 2]! - az
  const vz = flat[c + 2]! - az
  const { depth: nearDepth, item: nearItem } = near
  const { depth: farDepth, item: farItem } = far
  // all three stay from nothing to one over one run of pixels a row
  const dz = bx * uz + cx * vz
  const left = x0 + 0.5 - ax
  for (let y = y0; y <= y1; y++) {
    const py = y + 0.5 - ay
    const b0 = bx * left + by * py
    const c0 = cx * left + cy * py
    let from = 0
    let to = x1 - x0
    const bAt = b0 * bEdge
    if (bx > 0) {
      if (bAt > from) from = bAt
    } else if (bx < 0) {
      if (bAt < to) to = bAt
    } else if (b0 < 0) continue
    const cAt = c0 * cEdge
    if (cx > 0) {
      if (cAt > from) from = cAt
    } else if (cx < 0) {
      if (cAt < to) to = cAt
    } else if (c0 < 0) continue
    const rest = 1 - b0 - c0
    const rAt = rest * rEdge
    if (rx > 0) {
      if (rAt > from) from = rAt
    } else if (rx < 0) {
      if (rAt < to) to = rAt
    } else if (rest < 0) continue
    const first = Math.ceil(from)
    if (first > to) continue
    let z = az + (b0 + bx * first) * uz + (c0 + cx * first) * vz
    for (let at = y * width + x0 + first, end = y * width + x0 + Math.floor(to); at <= end; at++, z += dz) {
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

/**
 * How often closed triangles go round places: 1 inside, 0 outside, by the solid angles of all triangles (van Oosterom and
 * Strackee, 1983; as generalized winding number: Jacobson and others, 2013). Angles are added as products of complex
 * numbers with the turns counted, which takes no arc tangent a triangle.
 */
export class Winding {
  private readonly corners: Uint32Array
  private readonly points: Uint32Array
  /** Of each point, from the place that is asked about: x, y, z and how far. */
  private readonly away: Float64Array

  /** @param triangles three points each, indices into positions that come later */
  constructor(triangles: ArrayLike<number>) {
    const place = new Map<number, number>()
    this.corners = Uint32Array.from(triangles, (p) => {
      let own = place.get(p)
      if (own === undefined) place.set(p, (own = place.size))
      return own * 4
    })
    this.points = Uint32Array.from(place.keys())
    this.away = new Float64Array(this.points.length * 4)
  }

  /**
   * Whole turns round a place; between two whole numbers where the triangles do not close.
   *
   * @param positions xyz a point, as they stand now
   */
  at(positions: ArrayLike<number>, x: number, y: number, z: number): number {
    const { away, points, corners } = this
    for (let i = 0, o = 0; i < points.length; i++, o += 4) {
      const p = points[i]! * 3
      const dx = positions[p]! - x
      const dy = positions[p + 1]! - y
      const dz = positions[p + 2]! - z
      away[o] = dx
      away[o + 1] = dy
      away[o + 2] = dz
      away[o + 3] = Math.sqrt(dx * dx + dy * dy + dz * dz)
    }
    // the product so far, and how often it has gone past half a turn
    let re = 1
    let im = 0
    let turns = 0
    for (let t = 0; t < corners.length; t += 3) {
      const i = corners[t]!
      const j = corners[t + 1]!
      const k = corners[t + 2]!
      const ax = away[i]!
      const ay = away[i + 1]!
      const az = away[i + 2]!
      const a = away[i + 3]!
      const bx = away[j]!
      const by = away[j + 1]!
      const bz = away[j + 2]!
      const b = away[j + 3]!
      const cx = away[k]!
      const cy = away[k + 1]!
      const cz = away[k + 2]!
      const c = away[k + 3]!
      const volume = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
      const rest =
        a * b * c +
        (ax * bx + ay * by + az * bz) * c +
        (bx * cx + by * cy + bz * cz) * a +
        (cx * ax + cy * ay + cz * az) * b
      // a triangle without area, or seen from a corner of it, turns nothing
      if (volume === 0 && rest >= 0) continue
      const nextRe = re * rest - im * volume
      const nextIm = re * volume + im * rest
      if (im >= 0 && volume >= 0 && nextIm < 0) turns++
      else if (im < 0 && volume < 0 && nextIm >= 0) turns--
      re = nextRe
      im = nextIm
      const size = Math.abs(re) + Math.abs(im)
      // far from what numbers cannot hold any more, however many triangles there are
      if (size < 1e-100 || size > 1e100) {
        re /= size
        im /= size
      }
    }
    return (Math.atan2(im, re) + turns * 2 * Math.PI) / (2 * Math.PI)
  }
}

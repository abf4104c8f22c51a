/** Points of a pair lie within this share of the mesh's size of each other's mirror images: programs round. */
const NEAR = 1e-3

/**
 * The counterpart of each point on the other side of the plane x = 0: itself in that plane, -1 where there is none.
 *
 * @param positions xyz a point
 */
export function mirroredPoints(positions: Float32Array): Int32Array {
  const count = positions.length / 3
  let size = 0
  for (const v of positions) size = Math.max(size, Math.abs(v))
  const near = size * NEAR
  const cell = (x: number, y: number, z: number) =>
    `${Math.floor(x / near)} ${Math.floor(y / near)} ${Math.floor(z / near)}`
  const cells = new Map<string, number[]>()
  const at = (p: number) => [positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!] as const
  for (let p = 0; near > 0 && p < count; p++) {
    const key = cell(...at(p))
    const there = cells.get(key)
    if (there) there.push(p)
    else cells.set(key, [p])
  }
  const others = new Int32Array(count).fill(-1)
  for (let p = 0; p < count; p++) {
    const [x, y, z] = at(p)
    let best = near
    for (let i = 0; i < 27; i++) {
      const step = (n: number) => ((Math.floor(i / 3 ** n) % 3) - 1) * near
      for (const q of cells.get(cell(-x + step(0), y + step(1), z + step(2))) ?? []) {
        const [qx, qy, qz] = at(q)
        const far = Math.hypot(qx + x, qy - y, qz - z)
        // of two that lie on each other, the same each time
        if (far < best) [best, others[p]] = [far, q]
      }
    }
  }
  return others
}

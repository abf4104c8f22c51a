/** Where a full slider would move the thing that is pulled, pixels on the screen. */
export interface PullDirection {
  x: number
  y: number
}

/** Two directions closer to one line than this cannot be told apart by a hand; sine of the angle. */
const ONE_LINE = 0.35

/**
 * How much each of one or two sliders moves when a thing is pulled, so that it stays under the
 * pointer as well as they allow: exactly where two directions span the screen; else along the
 * first, which is the one that was grasped.
 *
 * @param by the pull, pixels
 */
export function pullBy(by: PullDirection, directions: readonly PullDirection[]): number[] {
  const [a, b] = directions
  if (!a) return []
  const alone = () => (by.x * a.x + by.y * a.y) / (a.x * a.x + a.y * a.y)
  const rest = directions.slice(2).map(() => 0)
  if (!b) return [alone()]
  const cross = a.x * b.y - a.y * b.x
  if (Math.abs(cross) < ONE_LINE * Math.hypot(a.x, a.y) * Math.hypot(b.x, b.y)) return [alone(), 0, ...rest]
  return [(by.x * b.y - by.y * b.x) / cross, (a.x * by.y - a.y * by.x) / cross, ...rest]
}

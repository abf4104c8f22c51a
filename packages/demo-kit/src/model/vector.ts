export type V3 = readonly [number, number, number]

export const add = (a: V3, b: V3): V3 => [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
export const sub = (a: V3, b: V3): V3 => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const scale = (a: V3, s: number): V3 => [a[0] * s, a[1] * s, a[2] * s]
/** a + b * s */
export const along = (a: V3, b: V3, s: number): V3 => [a[0] + b[0] * s, a[1] + b[1] * s, a[2] + b[2] * s]
export const dot = (a: V3, b: V3): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
export const cross = (a: V3, b: V3): V3 => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
export const size = (a: V3): number => Math.hypot(a[0], a[1], a[2])
export const unit = (a: V3): V3 => scale(a, 1 / (size(a) || 1))
export const lerp = (a: V3, b: V3, t: number): V3 => [
  a[0] + (b[0] - a[0]) * t,
  a[1] + (b[1] - a[1]) * t,
  a[2] + (b[2] - a[2]) * t,
]
export const mean = (points: readonly V3[]): V3 => scale(points.reduce(add, [0, 0, 0]), 1 / points.length)
export const flipX = (a: V3): V3 => [-a[0], a[1], a[2]]
export const clamp = (v: number, low: number, high: number): number => Math.min(high, Math.max(low, v))
export const smoothstep = (low: number, high: number, v: number): number => {
  const t = clamp((v - low) / (high - low), 0, 1)
  return t * t * (3 - 2 * t)
}
/** 1 at the center, falling to 0.37 one width away. */
export const bump = (v: number, center: number, width: number): number => Math.exp(-(((v - center) / width) ** 2))

/** Piecewise linear through [at, value] pairs in rising order; held at the ends. */
export function curve(pairs: readonly (readonly [number, number])[], at: number): number {
  const i = pairs.findIndex(([x]) => x >= at)
  if (i === 0) return pairs[0]![1]
  if (i < 0) return pairs[pairs.length - 1]![1]
  const [x0, y0] = pairs[i - 1]!
  const [x1, y1] = pairs[i]!
  return y0 + ((y1 - y0) * (at - x0)) / (x1 - x0)
}

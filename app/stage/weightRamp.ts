import { interpolateInferno } from 'd3'

/** Where the ramp ends: at its very end is black, in which no form can be seen. */
const DARKEST = 0.14

/** The color of a weight from 0 to 1: pale to a dark violet, its lightness falling steadily, so that it reads without color. */
export function weightColor(weight: number): string {
  return interpolateInferno(1 - (1 - DARKEST) * Math.min(1, Math.max(0, weight)))
}

/** The same ramp, from left to right, for style sheets. */
export function weightGradient(): string {
  const stops = Array.from({ length: 9 }, (_, i) => weightColor(i / 8))
  return `linear-gradient(90deg, ${stops.join(', ')})`
}

import { assembleOutfit, dressOutfit } from '../../dress/outfit.ts'
import type { Standing } from './standing.ts'

/** How the points of one option lie otherwise while another is worn: out over it, or pressed in beneath it. */
export interface Fit {
  option: number
  with: number
  /** Points of the standing mesh, ascending. */
  points: Uint32Array
  /** xyz a point, metres. */
  moves: Float32Array
}

/** Nobody sees less, metres. */
const UNSEEN = 2e-4

/**
 * Dresses every pair of options that can be worn together and touch each other, and keeps how each lies otherwise than
 * alone. What three do to each other that no two of them do is not in it.
 *
 * @param apart for each option those that are never worn beside it
 */
export function fitPairs(
  { body, outfit, merged, options, active }: Standing,
  apart: ReadonlyMap<string, ReadonlySet<string>>,
  progress: (done: number, of: number) => void = () => undefined,
): Fit[] {
  const fits: Fit[] = []
  options.forEach((one, i) => {
    progress(i, options.length)
    options.slice(i + 1).forEach((other, k) => {
      const j = i + 1 + k
      if (one.part.slot === other.part.slot || apart.get(one.name)?.has(other.name)) return
      const pair = [one, other].map((o) => outfit.layers[o.layer]!.bound)
      if (!pair.every(({ part }) => part.def.how === 'worn')) return
      const both = assembleOutfit(body, [one.part, other.part])
      // nothing lies otherwise that neither was let out, nor pressed, nor kept off the other
      if (!both.layers.some((l) => l.onLayers.length || l.liftedBy.length || l.pressed.length)) return
      dressOutfit(both, merged.bodyPositions, active)
      for (const [own, at, by] of [
        [one, i, j],
        [other, j, i],
      ] as const) {
        const { positions } = both.layers.find((l) => l.instance === own.part.instance)!
        const [start, end] = own.piece.points
        const alone = merged.mesh.positions.subarray(start * 3, end * 3)
        const points: number[] = []
        const moves: number[] = []
        for (let p = 0; p < end - start; p++) {
          const way = [0, 1, 2].map((k) => positions[p * 3 + k]! - alone[p * 3 + k]!)
          if (Math.hypot(...way) <= UNSEEN * body.scale) continue
          points.push(start + p)
          moves.push(...way)
        }
        if (points.length)
          fits.push({
            ...{ option: at, with: by },
            points: Uint32Array.from(points),
            moves: Float32Array.from(moves),
          })
      }
    })
  })
  return fits
}

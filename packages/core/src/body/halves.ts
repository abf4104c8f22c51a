import type { Mesh, Morph } from '../mesh/Mesh.ts'

/** A delta's effect on the figure's left and on its right; together they are the whole. */
export interface Halves {
  left: Morph
  right: Morph
}

/** Over this share of the body's width the one half fades into the other, so that no crease shows. */
const FADE = 0.06

const made = new WeakMap<Morph, Halves>()

/** The two halves of a delta; both act on the points at the middle. */
export function halvesOf(mesh: Pick<Mesh, 'positions'>, morph: Morph): Halves {
  let halves = made.get(morph)
  if (!halves) made.set(morph, (halves = split(mesh.positions, morph)))
  return halves
}

function split(positions: Float32Array, { name, points, deltas }: Morph): Halves {
  let width = 0
  for (let i = 0; i < positions.length; i += 3) width = Math.max(width, Math.abs(positions[i]!))
  const fade = Math.max(1e-6, width * FADE)
  const half = (side: 1 | -1): Morph => {
    const kept: number[] = []
    const moves: number[] = []
    points.forEach((p, i) => {
      const t = Math.min(1, Math.max(0, (side * positions[p * 3]!) / (2 * fade) + 0.5))
      const share = t * t * (3 - 2 * t)
      if (share === 0) return
      kept.push(p)
      for (let k = 0; k < 3; k++) moves.push(deltas[i * 3 + k]! * share)
    })
    return {
      name: `${name} ${side > 0 ? 'left' : 'right'}`,
      points: Uint32Array.from(kept),
      deltas: Float32Array.from(moves),
    }
  }
  return { left: half(1), right: half(-1) }
}

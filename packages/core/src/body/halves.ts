import type { Mesh, Morph } from '../mesh/Mesh.ts'

/** A delta's effect on the figure's left and on its right; together they are the whole. */
export interface Halves {
  left: Morph
  right: Morph
}

/** Over this share of the body's width the one half fades into the other, so that no crease shows. */
const FADE = 0.06

const made = new WeakMap<Morph, Halves>()

/** What a half is a half of, so that whoever has a whole of that name can halve it in the same way. */
export interface HalfOf {
  whole: string
  side: 'left' | 'right'
  /** Half the width of the fade, metres. */
  fade: number
}

const halves = new WeakMap<Morph, HalfOf>()

/** What a delta is a half of; undefined if it is none. */
export const halfOf = (delta: Morph): HalfOf | undefined => halves.get(delta)

/** The two halves of a delta; both act on the points at the middle. */
export function halvesOf({ positions }: Pick<Mesh, 'positions'>, morph: Morph, fade = fadeOf(positions)): Halves {
  let both = made.get(morph)
  if (!both) made.set(morph, (both = split(positions, morph, fade)))
  return both
}

function fadeOf(positions: Float32Array): number {
  let width = 0
  for (let i = 0; i < positions.length; i += 3) width = Math.max(width, Math.abs(positions[i]!))
  return Math.max(1e-6, width * FADE)
}

function split(positions: Float32Array, { name, points, deltas }: Morph, fade: number): Halves {
  const half = (side: 'left' | 'right'): Morph => {
    const sign = side === 'left' ? 1 : -1
    const kept: number[] = []
    const moves: number[] = []
    points.forEach((p, i) => {
      const t = Math.min(1, Math.max(0, (sign * positions[p * 3]!) / (2 * fade) + 0.5))
      const share = t * t * (3 - 2 * t)
      if (share === 0) return
      kept.push(p)
      for (let k = 0; k < 3; k++) moves.push(deltas[i * 3 + k]! * share)
    })
    const morph: Morph = {
      name: `${name} ${side}`,
      points: Uint32Array.from(kept),
      deltas: Float32Array.from(moves),
    }
    halves.set(morph, { whole: name, side, fade })
    return morph
  }
  return { left: half('left'), right: half('right') }
}

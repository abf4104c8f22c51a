import type { Point } from '../autorig/landmarks.ts'
import type { PackPiece } from '../pack/Pack.ts'
import { BLOCKS, blockFigure } from './blockFigure.ts'

/** How an animal of tubes is built: along its middle y and z, of legs the left one, and how thick each place is; metres. */
interface Beast {
  /** From the rump to the root of the neck: y, z, how high and how wide. */
  trunk: readonly [number, number, number, number][]
  /** From the root of the neck to where the head turns: y, z, how thick. */
  neck: readonly [number, number, number][]
  /** From there to the nose. */
  head: readonly [number, number, number][]
  ears?: number
  /** From its root to its tip. */
  tail?: readonly [number, number, number][]
  /** Hip, knee, ankle, ball, toe: x, y, z, how thick. */
  hind: readonly Limb[]
  /** Shoulder, elbow, wrist, ball, toe. */
  fore: readonly Limb[]
}
type Limb = [number, number, number, number]

/** Drawn after animals, by proportions that books of their bones have, and after toys; none is a demo's. */
export const BEASTS: Record<string, Beast> = {
  dog: {
    trunk: [
      [0.53, -0.36, 0.14, 0.13],
      [0.52, -0.25, 0.2, 0.17],
      [0.5, 0, 0.2, 0.16],
      [0.48, 0.2, 0.26, 0.19],
      [0.52, 0.31, 0.2, 0.16],
    ],
    neck: [
      [0.56, 0.3, 0.15],
      [0.66, 0.4, 0.12],
      [0.72, 0.45, 0.11],
    ],
    head: [
      [0.73, 0.45, 0.14],
      [0.74, 0.53, 0.13],
      [0.71, 0.6, 0.08],
      [0.7, 0.67, 0.06],
    ],
    ears: 0.09,
    tail: [
      [0.58, -0.4, 0.05],
      [0.52, -0.5, 0.04],
      [0.47, -0.62, 0.02],
    ],
    hind: [
      [0.07, 0.53, -0.3, 0.13],
      [0.08, 0.34, -0.23, 0.09],
      [0.08, 0.17, -0.36, 0.045],
      [0.08, 0.035, -0.33, 0.045],
      [0.08, 0.015, -0.26, 0.03],
    ],
    fore: [
      [0.07, 0.44, 0.27, 0.11],
      [0.08, 0.31, 0.18, 0.08],
      [0.08, 0.13, 0.2, 0.045],
      [0.08, 0.035, 0.22, 0.045],
      [0.08, 0.015, 0.28, 0.03],
    ],
  },
  horse: {
    trunk: [
      [1.3, -0.75, 0.3, 0.32],
      [1.25, -0.5, 0.55, 0.5],
      [1.15, 0, 0.6, 0.52],
      [1.15, 0.45, 0.62, 0.44],
      [1.25, 0.68, 0.48, 0.34],
    ],
    neck: [
      [1.35, 0.68, 0.4],
      [1.6, 0.9, 0.28],
      [1.82, 1.02, 0.2],
    ],
    head: [
      [1.82, 1.02, 0.24],
      [1.72, 1.18, 0.24],
      [1.56, 1.34, 0.15],
      [1.48, 1.42, 0.13],
    ],
    ears: 0.14,
    tail: [
      [1.36, -0.86, 0.12],
      [1.1, -0.98, 0.14],
      [0.7, -1.02, 0.1],
    ],
    hind: [
      [0.16, 1.2, -0.6, 0.34],
      [0.18, 0.93, -0.45, 0.26],
      [0.17, 0.57, -0.78, 0.12],
      [0.17, 0.2, -0.72, 0.09],
      [0.17, 0.03, -0.66, 0.13],
    ],
    fore: [
      [0.15, 1.05, 0.62, 0.26],
      [0.17, 0.85, 0.45, 0.18],
      [0.16, 0.48, 0.48, 0.11],
      [0.16, 0.2, 0.48, 0.08],
      [0.16, 0.03, 0.54, 0.12],
    ],
  },
  bear: {
    trunk: [
      [0.75, -0.7, 0.45, 0.45],
      [0.78, -0.4, 0.68, 0.64],
      [0.8, 0, 0.72, 0.7],
      [0.82, 0.45, 0.68, 0.6],
      [0.84, 0.65, 0.5, 0.46],
    ],
    neck: [
      [0.86, 0.68, 0.44],
      [0.88, 0.82, 0.36],
      [0.88, 0.92, 0.32],
    ],
    head: [
      [0.88, 0.92, 0.36],
      [0.87, 1.05, 0.34],
      [0.82, 1.2, 0.2],
      [0.8, 1.3, 0.14],
    ],
    ears: 0.08,
    hind: [
      [0.22, 0.72, -0.5, 0.4],
      [0.24, 0.4, -0.42, 0.27],
      [0.24, 0.11, -0.6, 0.17],
      [0.24, 0.045, -0.44, 0.13],
      [0.24, 0.035, -0.34, 0.1],
    ],
    fore: [
      [0.22, 0.72, 0.55, 0.34],
      [0.25, 0.42, 0.42, 0.24],
      [0.25, 0.1, 0.47, 0.16],
      [0.25, 0.045, 0.58, 0.13],
      [0.25, 0.035, 0.66, 0.1],
    ],
  },
  toy: {
    trunk: [
      [0.3, -0.22, 0.26, 0.3],
      [0.3, 0.22, 0.26, 0.3],
    ],
    neck: [
      [0.36, 0.22, 0.16],
      [0.42, 0.27, 0.16],
    ],
    head: [
      [0.46, 0.27, 0.26],
      [0.48, 0.36, 0.28],
      [0.46, 0.5, 0.2],
    ],
    tail: [
      [0.36, -0.24, 0.06],
      [0.46, -0.34, 0.05],
      [0.56, -0.36, 0.04],
    ],
    hind: [
      [0.11, 0.3, -0.2, 0.12],
      [0.11, 0.17, -0.2, 0.12],
      [0.11, 0.07, -0.2, 0.12],
      [0.11, 0.03, -0.19, 0.12],
      [0.11, 0.03, -0.13, 0.12],
    ],
    fore: [
      [0.11, 0.3, 0.18, 0.12],
      [0.11, 0.17, 0.18, 0.12],
      [0.11, 0.07, 0.18, 0.12],
      [0.11, 0.03, 0.19, 0.12],
      [0.11, 0.03, 0.25, 0.12],
    ],
  },
  pig: {
    trunk: [
      [0.46, -0.5, 0.34, 0.32],
      [0.45, -0.25, 0.46, 0.44],
      [0.44, 0.1, 0.48, 0.46],
      [0.46, 0.36, 0.42, 0.38],
      [0.47, 0.46, 0.34, 0.32],
    ],
    neck: [
      [0.48, 0.46, 0.32],
      [0.5, 0.55, 0.3],
    ],
    head: [
      [0.5, 0.55, 0.32],
      [0.48, 0.68, 0.26],
      [0.43, 0.82, 0.14],
      [0.42, 0.86, 0.13],
    ],
    ears: 0.12,
    tail: [
      [0.56, -0.6, 0.03],
      [0.6, -0.68, 0.03],
      [0.54, -0.72, 0.02],
    ],
    hind: [
      [0.14, 0.44, -0.4, 0.28],
      [0.16, 0.27, -0.32, 0.18],
      [0.16, 0.15, -0.43, 0.08],
      [0.16, 0.05, -0.41, 0.07],
      [0.16, 0.015, -0.36, 0.07],
    ],
    fore: [
      [0.14, 0.38, 0.36, 0.2],
      [0.16, 0.26, 0.28, 0.13],
      [0.16, 0.13, 0.3, 0.07],
      [0.16, 0.05, 0.31, 0.07],
      [0.16, 0.015, 0.36, 0.07],
    ],
  },
  giraffe: {
    trunk: [
      [2.2, -0.7, 0.5, 0.4],
      [2.25, -0.4, 0.75, 0.6],
      [2.3, 0, 0.8, 0.62],
      [2.45, 0.45, 0.85, 0.56],
      [2.6, 0.65, 0.6, 0.42],
    ],
    neck: [
      [2.7, 0.68, 0.5],
      [3.4, 0.98, 0.32],
      [4.1, 1.28, 0.22],
    ],
    head: [
      [4.15, 1.3, 0.26],
      [4.08, 1.46, 0.24],
      [3.94, 1.66, 0.16],
      [3.88, 1.76, 0.14],
    ],
    ears: 0.16,
    tail: [
      [2.4, -0.88, 0.08],
      [2, -0.96, 0.05],
      [1.5, -0.98, 0.05],
    ],
    hind: [
      [0.2, 2.15, -0.55, 0.42],
      [0.22, 1.65, -0.42, 0.28],
      [0.2, 0.95, -0.66, 0.14],
      [0.2, 0.25, -0.6, 0.11],
      [0.2, 0.04, -0.54, 0.17],
    ],
    fore: [
      [0.2, 2.3, 0.55, 0.36],
      [0.22, 1.75, 0.42, 0.22],
      [0.2, 0.95, 0.45, 0.14],
      [0.2, 0.25, 0.46, 0.1],
      [0.2, 0.04, 0.54, 0.16],
    ],
  },
  cat: {
    trunk: [
      [0.25, -0.17, 0.09, 0.08],
      [0.245, -0.1, 0.12, 0.1],
      [0.235, 0.02, 0.13, 0.11],
      [0.235, 0.12, 0.13, 0.1],
      [0.25, 0.17, 0.1, 0.08],
    ],
    neck: [
      [0.26, 0.17, 0.085],
      [0.3, 0.21, 0.07],
    ],
    head: [
      [0.31, 0.215, 0.09],
      [0.32, 0.25, 0.095],
      [0.305, 0.29, 0.06],
      [0.3, 0.305, 0.03],
    ],
    ears: 0.05,
    tail: [
      [0.275, -0.19, 0.028],
      [0.38, -0.24, 0.024],
      [0.46, -0.19, 0.02],
    ],
    hind: [
      [0.035, 0.245, -0.14, 0.08],
      [0.042, 0.165, -0.1, 0.05],
      [0.042, 0.075, -0.165, 0.024],
      [0.042, 0.016, -0.145, 0.026],
      [0.042, 0.01, -0.11, 0.02],
    ],
    fore: [
      [0.035, 0.205, 0.155, 0.06],
      [0.04, 0.145, 0.11, 0.042],
      [0.04, 0.05, 0.125, 0.024],
      [0.04, 0.016, 0.13, 0.026],
      [0.04, 0.01, 0.16, 0.02],
    ],
  },
  lizard: {
    trunk: [
      [0.2, -0.35, 0.13, 0.18],
      [0.2, -0.1, 0.16, 0.26],
      [0.2, 0.15, 0.15, 0.24],
      [0.21, 0.32, 0.12, 0.16],
    ],
    neck: [
      [0.22, 0.34, 0.12],
      [0.24, 0.42, 0.11],
    ],
    head: [
      [0.24, 0.43, 0.13],
      [0.24, 0.52, 0.14],
      [0.22, 0.64, 0.06],
    ],
    tail: [
      [0.2, -0.42, 0.1],
      [0.12, -0.7, 0.07],
      [0.05, -1.05, 0.02],
    ],
    hind: [
      [0.08, 0.19, -0.32, 0.1],
      [0.22, 0.2, -0.26, 0.075],
      [0.22, 0.045, -0.34, 0.05],
      [0.24, 0.02, -0.27, 0.04],
      [0.26, 0.015, -0.2, 0.03],
    ],
    fore: [
      [0.08, 0.19, 0.26, 0.09],
      [0.2, 0.19, 0.2, 0.065],
      [0.21, 0.045, 0.25, 0.045],
      [0.22, 0.02, 0.3, 0.035],
      [0.23, 0.015, 0.35, 0.03],
    ],
  },
}

const LEGS = {
  Hind: ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'],
  Fore: ['UpperLeg', 'LowerLeg', 'Foot', 'Toes'],
} as const

/** An animal of closed tubes that stick into each other, with the places of its joints. */
export function beast({ trunk, neck, head, ears, tail, hind, fore }: Beast): {
  piece: PackPiece
  joints: Map<string, Point>
} {
  const positions: number[] = []
  const triangles: number[] = []
  const joints = new Map<string, Point>()
  const round = (rows: readonly [number, number, number][]) =>
    rows.map(([y, z, thick]): Ring => ({ at: [0, y, z], high: thick, wide: thick }))
  const tube = (rings: readonly Ring[], sides: number) => addTube(positions, triangles, rings, sides)
  tube(
    trunk.map(([y, z, high, wide]) => ({ at: [0, y, z], high, wide })),
    12,
  )
  // each begins inside what it grows from
  const inside = (rows: readonly [number, number, number][], from: readonly [number, number, number]) =>
    round([[from[0], from[1], Math.min(from[2], rows[0]![2])], ...rows])
  const middle = ([y, z, high, wide]: readonly [number, number, number, number]) =>
    [y, z, Math.min(high, wide)] as const
  tube(inside(neck, middle(trunk.at(-2)!)), 10)
  tube(inside(head, neck.at(-2)!), 10)
  joints.set('neck', [0, neck[0]![0], neck[0]![1]])
  joints.set('head', [0, neck.at(-1)![0], neck.at(-1)![1]])
  if (tail) {
    tube(inside(tail, middle(trunk[1]!)), 8)
    joints.set('tail1', [0, tail[0]![0], tail[0]![1]])
  }
  for (const [side, sign] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    if (ears) {
      const [y, z, thick] = head[0]!
      const x = sign * thick * 0.3
      tube(
        [
          { at: [x, y + thick * 0.3, z], high: ears * 0.4, wide: ears * 0.4 },
          { at: [x * 1.3, y + thick * 0.4 + ears, z], high: ears * 0.1, wide: ears * 0.1 },
        ],
        6,
      )
    }
    for (const [end, rows] of [
      ['Hind', hind],
      ['Fore', fore],
    ] as const) {
      tube(
        rows.map(([x, y, z, thick]) => ({ at: [x * sign, y, z], high: thick, wide: thick })),
        8,
      )
      LEGS[end].forEach((stem, i) => joints.set(`${side}${end}${stem}`, [rows[i]![0] * sign, rows[i]![1], rows[i]![2]]))
    }
  }
  return { joints, piece: pieceOf(positions, triangles) }
}

/** Closed tubes as one piece: each a way of places and how thick it is there. */
export function tubes(ways: readonly (readonly [...Point, number][])[]): PackPiece {
  const positions: number[] = []
  const triangles: number[] = []
  for (const way of ways)
    addTube(
      positions,
      triangles,
      way.map(([x, y, z, thick]) => ({ at: [x, y, z], high: thick, wide: thick })),
      8,
    )
  return pieceOf(positions, triangles)
}

const pieceOf = (positions: readonly number[], triangles: readonly number[]): PackPiece => ({
  ...blockFigure(BLOCKS.tall!).piece,
  id: 'beast.glb#1',
  names: ['beast'],
  positions: Float32Array.from(positions),
  triangles: Uint32Array.from(triangles),
  materialOf: new Uint16Array(triangles.length / 3),
})

interface Ring {
  at: Point
  high: number
  wide: number
}

/** A closed tube through rings that stand across its way. */
function addTube(positions: number[], triangles: number[], rings: readonly Ring[], sides: number): void {
  const first = positions.length / 3
  rings.forEach(({ at, high, wide }, r) => {
    const [a, b] = [rings[Math.max(0, r - 1)]!.at, rings[Math.min(rings.length - 1, r + 1)]!.at]
    const way = unit(b.map((v, k) => v - a[k]!))
    const across = unit(
      Math.abs(way[0]!) > 0.9 ? cross([0, 1, 0], way) : [1, 0, 0].map((v, k) => v - way[0]! * way[k]!),
    )
    const up = cross(way, across)
    for (let s = 0; s < sides; s++) {
      const [c, d] = [Math.cos((s / sides) * 2 * Math.PI), Math.sin((s / sides) * 2 * Math.PI)]
      for (let k = 0; k < 3; k++) positions.push(at[k]! + (across[k]! * c * wide) / 2 + (up[k]! * d * high) / 2)
    }
  })
  for (let r = 0; r + 1 < rings.length; r++)
    for (let s = 0; s < sides; s++) {
      const next = (s + 1) % sides
      const [a, b, c, d] = [r * sides + s, r * sides + next, (r + 1) * sides + next, (r + 1) * sides + s]
      triangles.push(...[a, b, c, a, c, d].map((v) => v + first))
    }
  for (const [end, turned] of [
    [0, true],
    [rings.length - 1, false],
  ] as const) {
    const middle = positions.length / 3
    positions.push(...rings[end]!.at)
    for (let s = 0; s < sides; s++) {
      const [a, b] = [first + end * sides + s, first + end * sides + ((s + 1) % sides)]
      triangles.push(...(turned ? [middle, b, a] : [middle, a, b]))
    }
  }
}

function cross(a: readonly number[], b: readonly number[]): number[] {
  return [a[1]! * b[2]! - a[2]! * b[1]!, a[2]! * b[0]! - a[0]! * b[2]!, a[0]! * b[1]! - a[1]! * b[0]!]
}
function unit(v: readonly number[]): number[] {
  const long = Math.hypot(...v) || 1
  return v.map((x) => x / long)
}

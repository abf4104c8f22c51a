import { Matrix4, Quaternion, Vector3 } from 'three'
import { problem, type Problem } from '../base/problem.ts'
import type { Convention } from '../recipe/target.ts'

type Vector = readonly [number, number, number]

const AXES: Record<Convention['up'], Vector> = {
  '+x': [1, 0, 0],
  '-x': [-1, 0, 0],
  '+y': [0, 1, 0],
  '-y': [0, -1, 0],
  '+z': [0, 0, 1],
  '-z': [0, 0, -1],
}

/** What was measured in metres, +Y up, facing +Z, in a game's own axes, its unit, and its way to count rows of pictures. */
export interface Converted {
  /** A place: turned and scaled. */
  point(x: number, y: number, z: number): [number, number, number]
  /** A direction: turned. */
  direction(x: number, y: number, z: number): [number, number, number]
  /** A place on a picture, of 0 to 1 from above. */
  row(v: number): number
  /** The turn from our axes to theirs. */
  turn: Quaternion
}

/** Why a convention has no axes. */
export const axesClash = ({ up, front }: Pick<Convention, 'up' | 'front'>): Problem =>
  problem(
    'axes-clash',
    'target/convention',
    `Up (${up}) and front (${front}) lie along one axis.`,
    'Choose another front.',
  )

/** Null where up and front lie along one axis. The turn has no mirror in it: faces keep their order, and left stays left. */
export function conventionAxes({
  unit,
  up,
  front,
  rows = 'below',
}: Pick<Convention, 'unit' | 'up' | 'front' | 'rows'>): Converted | null {
  const [u, f] = [AXES[up], AXES[front]]
  if (up[1] === front[1]) return null
  // our x is up × front
  const side: Vector = [u[1] * f[2] - u[2] * f[1], u[2] * f[0] - u[0] * f[2], u[0] * f[1] - u[1] * f[0]]
  const along = (k: number, x: number, y: number, z: number) => side[k]! * x + u[k]! * y + f[k]! * z
  const direction = (x: number, y: number, z: number): [number, number, number] => [
    along(0, x, y, z),
    along(1, x, y, z),
    along(2, x, y, z),
  ]
  const basis = new Matrix4().makeBasis(new Vector3(...side), new Vector3(...u), new Vector3(...f))
  return {
    direction,
    row: (v) => (rows === 'below' ? 1 - v : v),
    turn: new Quaternion().setFromRotationMatrix(basis),
    point(x, y, z) {
      const [a, b, c] = direction(x, y, z)
      return [a / unit, b / unit, c / unit]
    },
  }
}

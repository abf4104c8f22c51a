import { Euler, Quaternion } from 'three'

/** A turn as people set it: nodding forward, turning to the left, tilting to the left, degrees. */
export type Angles = [nod: number, turn: number, tilt: number]

const DEGREES = 180 / Math.PI

/** Turned to a side first, then nodded, then tilted: as channels of clips are, see `turnAt`. */
export function turnOfAngles([nod, turn, tilt]: Readonly<Angles>): Quaternion {
  return new Quaternion().setFromEuler(new Euler(nod / DEGREES, turn / DEGREES, tilt / DEGREES, 'YXZ'))
}

export function anglesOfTurn(turn: Quaternion): Angles {
  const { x, y, z } = new Euler().setFromQuaternion(turn, 'YXZ')
  return [x * DEGREES, y * DEGREES, z * DEGREES]
}

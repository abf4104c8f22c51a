import type { PackPiece } from '../pack/Pack.ts'

type Place = [number, number, number]

/** How somebody who is made of blocks is built; lengths in metres. */
export interface Blocks {
  /** From the ground to the hips, of the trunk to the neck, of the head. */
  legs: number
  trunk: number
  head: number
  /** From shoulder to wrist, and how far down it slopes, degrees. */
  arms: number
  slope: number
  /** From shoulder to shoulder, and how thick limbs are. */
  shoulders: number
  thick: number
}

export const BLOCKS: Record<string, Blocks> = {
  tall: { legs: 0.9, trunk: 0.52, head: 0.24, arms: 0.52, slope: 45, shoulders: 0.36, thick: 0.1 },
  spread: { legs: 0.86, trunk: 0.5, head: 0.25, arms: 0.5, slope: 0, shoulders: 0.36, thick: 0.09 },
  toy: { legs: 0.34, trunk: 0.34, head: 0.42, arms: 0.3, slope: 35, shoulders: 0.3, thick: 0.11 },
  heavy: { legs: 0.6, trunk: 0.62, head: 0.26, arms: 0.56, slope: 55, shoulders: 0.62, thick: 0.17 },
  thin: { legs: 1.05, trunk: 0.5, head: 0.22, arms: 0.6, slope: 70, shoulders: 0.3, thick: 0.06 },
}

/** Somebody made of closed blocks that stick into each other, as one would begin a figure; with the places of its joints. */
export function blockFigure({ legs, trunk, head, arms, slope, shoulders, thick }: Blocks): {
  piece: PackPiece
  joints: Map<string, Place>
} {
  const positions: number[] = []
  const triangles: number[] = []
  const joints = new Map<string, Place>()
  const block = (from: Place, to: Place, wide: number, deep: number) => {
    // along its way, across it in the frontal plane, and forward
    const way = to.map((v, k) => v - from[k]!) as Place
    const long = Math.hypot(...way)
    const along = way.map((v) => v / long) as Place
    const ahead: Place = Math.abs(along[2]) > 0.9 ? [0, 1, 0] : [0, 0, 1]
    const across: Place = [
      along[1] * ahead[2] - along[2] * ahead[1],
      along[2] * ahead[0] - along[0] * ahead[2],
      along[0] * ahead[1] - along[1] * ahead[0],
    ]
    const first = positions.length / 3
    for (let i = 0; i < 8; i++) {
      const [a, b, c] = [i & 1 ? to : from, i & 2 ? wide / 2 : -wide / 2, i & 4 ? deep / 2 : -deep / 2]
      for (let k = 0; k < 3; k++) positions.push(a[k]! + across[k]! * b + ahead[k]! * c)
    }
    const quads = [
      [0, 2, 3, 1],
      [4, 5, 7, 6],
      [0, 1, 5, 4],
      [2, 6, 7, 3],
      [0, 4, 6, 2],
      [1, 3, 7, 5],
    ]
    for (const [a, b, c, d] of quads) triangles.push(...[a!, c!, b!, a!, d!, c!].map((v) => v + first))
  }
  const neck = legs + trunk
  block([0, legs - 0.02, 0], [0, neck, 0], shoulders * 0.8, thick * 1.9)
  block([0, neck - 0.02, 0], [0, neck + head * 0.2, 0.01], head * 0.4, head * 0.4)
  block([0, neck + head * 0.18, 0.02], [0, neck + head * 1.1, 0.02], head * 0.75, head * 0.85)
  // a nose, and eyes: faces have more corners
  block([0, neck + head * 0.55, head * 0.4], [0, neck + head * 0.65, head * 0.52], head * 0.1, head * 0.1)
  for (const x of [-1, 1])
    block(
      [x * head * 0.2, neck + head * 0.7, head * 0.42],
      [x * head * 0.2, neck + head * 0.78, head * 0.46],
      0.03,
      0.03,
    )
  joints.set('neck', [0, neck, 0])
  for (const [side, x] of [
    ['left', 1],
    ['right', -1],
  ] as const) {
    const hip: Place = [x * shoulders * 0.24, legs, 0]
    const ankle: Place = [hip[0], legs * 0.09, 0]
    const knee: Place = [hip[0], legs * 0.52, 0.01]
    block(hip, knee, thick * 1.3, thick * 1.4)
    block(knee, [ankle[0], 0.02, 0], thick * 1.1, thick * 1.15)
    const foot = legs * 0.2 + thick
    block([hip[0], legs * 0.045, -thick * 0.5], [hip[0], legs * 0.045, foot], thick * 1.1, legs * 0.09)
    const [dx, dy] = [Math.cos((slope * Math.PI) / 180), -Math.sin((slope * Math.PI) / 180)]
    const shoulder: Place = [x * shoulders * 0.5, neck - thick * 0.7, 0]
    const at = (t: number): Place => [shoulder[0] + x * dx * arms * t, shoulder[1] + dy * arms * t, 0]
    const inside: Place = [x * shoulders * 0.3, shoulder[1], 0]
    block(inside, shoulder, thick, thick)
    block(shoulder, at(0.53), thick, thick)
    block(at(0.52), at(1), thick * 0.85, thick * 0.85)
    block(at(0.98), at(1.36), thick * 0.8, thick * 0.5)
    const places = { UpperArm: shoulder, LowerArm: at(0.53), Hand: at(1), UpperLeg: hip, LowerLeg: knee, Foot: ankle }
    for (const [bone, place] of Object.entries(places)) joints.set(side + bone, place)
  }
  return {
    joints,
    piece: {
      id: 'blocks.glb#1',
      names: ['blocks'],
      positions: Float32Array.from(positions),
      triangles: Uint32Array.from(triangles),
      materials: [{ name: 'm', color: '#888888', picture: false }],
      materialOf: new Uint16Array(triangles.length / 3),
      skin: null,
      found: {
        vertices: positions.length / 3,
        influences: 0,
        weightsOff: 0,
        normals: false,
        against: 0,
        scaled: false,
      },
    },
  }
}

import { Box3, Vector3 } from 'three'
import type { FigureView } from '../workers/protocol'

/** Where a body's own head is, hats and hair left out: between two heights, metres. */
export interface Head {
  /** Where it begins and where it ends. */
  low: number
  high: number
  /** How wide it is. */
  width: number
  /** Its middle, as far forward as its joint and the tip of its face are on the whole. */
  middle: Vector3
}

/** Where a vertex of a figure is drawn, as it is posed. */
export type Posed = (vertex: number, out: Vector3) => Vector3

/** One for all: this is asked for at every picture while a slider is dragged. */
const point = new Vector3()
const moved = new Vector3()

/**
 * The head of a figure, whatever its shape: a beak reaches forward, a hopper is mostly head.
 *
 * @param posed as it is drawn; without, it is at rest
 */
export function headOf({ mesh, pieces, landmarks: { head, crown } }: FigureView, height: number, posed?: Posed): Head {
  const low = head?.[1] ?? height * 0.85
  const high = crown?.[1] ?? height
  const box = new Box3()
  const away = new Vector3()
  let count = 0
  const body = pieces[0]
  for (let i = body?.start ?? 0; i < (body ? body.start + body.count : 0); i++) {
    const o = mesh.indices[i]! * 3
    if (mesh.positions[o + 1]! > low) {
      box.expandByPoint(point.fromArray(mesh.positions, o))
      if (posed) away.add(posed(o / 3, moved).sub(point))
      count++
    }
  }
  if (box.isEmpty()) box.setFromCenterAndSize(new Vector3(0, (low + high) / 2, 0), new Vector3(0.2, high - low, 0.2))
  const width = 2 * Math.max(box.max.x, -box.min.x)
  // a face as deep as it is wide is looked at from its joint; a longer one from between there and its tip
  const z = head?.[2] ?? 0
  const tip = Math.max(0, box.max.z - z - width / 2)
  const middle = new Vector3(0, (low + high) / 2, z + tip * 0.4).addScaledVector(away, 1 / Math.max(1, count))
  return { low, high, width, middle }
}

/** How far a box reaches to the side, seen from a turn about the vertical, on either side of a place. */
export function reachAcross({ min, max }: Box3, { x, z }: { x: number; z: number }, turn: number): number {
  const [c, s] = [Math.cos(turn), Math.sin(turn)]
  const corners = [min.x, max.x].flatMap((px) => [min.z, max.z].map((pz) => (px - x) * c - (pz - z) * s))
  return Math.max(...corners.map(Math.abs))
}

import { Vector3, type Object3D, type SkinnedMesh } from 'three'

/** What is drawn of a figure as it stands now: its height above the ground, and how far it reaches from its axis, metres. */
export interface Extent {
  low: number
  high: number
  reach: number
}

/** Of so many corners one is looked at: they lie close to each other. */
const EVERY = 5

/** The figure itself, whatever it hangs in; its buffers have room for more than is drawn. */
export function extentOf(figure: Object3D): Extent {
  figure.updateMatrixWorld(true)
  const mesh = figure.getObjectByProperty('isSkinnedMesh', true) as SkinnedMesh
  const { index, drawRange } = mesh.geometry
  const inFigure = figure.matrixWorld.clone().invert().multiply(mesh.matrixWorld)
  const extent = { low: Infinity, high: -Infinity, reach: 0 }
  const point = new Vector3()
  for (let i = 0; i < drawRange.count; i += EVERY) {
    mesh.getVertexPosition(index!.getX(i), point).applyMatrix4(inFigure)
    extent.low = Math.min(extent.low, point.y)
    extent.high = Math.max(extent.high, point.y)
    extent.reach = Math.max(extent.reach, Math.hypot(point.x, point.z))
  }
  return extent
}

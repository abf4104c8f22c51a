import { areaWithin, borderOf, type Area } from '../mesh/loops.ts'
import type { PreparedBody } from './PreparedBody.ts'

const areas = new WeakMap<PreparedBody, Map<string, Area | null>>()

/** What a part at one of the body's seams takes the place of; null where its border is not one closed loop. */
export function seamArea(body: PreparedBody, id: string): Area | null {
  let known = areas.get(body)
  if (!known) areas.set(body, (known = new Map()))
  let area = known.get(id)
  if (area === undefined) known.set(id, (area = findArea(body, id)))
  return area
}

function findArea(body: PreparedBody, id: string): Area | null {
  const { mesh, def } = body.model
  const seam = def.seams.find((s) => s.id === id)
  if (!seam) return null
  if (seam.within) return areaWithin(mesh.positions, body.triangles, seam.points, seam.within)
  const faces = facesOfRegion(body, seam.region)
  const loop = borderOf(body.triangles, faces, mesh.positions.length / 3)
  return loop.length ? { loop, faces } : null
}

/** The points on the border of a region, as one closed loop running with its triangles; empty if it is not one loop. */
export function regionLoop(body: PreparedBody, region: string): number[] {
  return borderOf(body.triangles, facesOfRegion(body, region), body.model.mesh.positions.length / 3)
}

/** 1 for each triangle of a region. */
export function facesOfRegion(body: PreparedBody, region: string): Uint8Array {
  const index = body.model.def.regions.findIndex((r) => r.id === region)
  return Uint8Array.from(body.regionOf, (r) => (r === index ? 1 : 0))
}

import type { Mesh } from '@idle-tinker/core'

/**
 * What a renderer without parts or clearance would do for a step of a slider: every vertex morphed, its facet normal
 * made anew. As anyone would write it first, which is what the limits of a step were set against; and the same written
 * as tightly as what it is measured against, its normals one long as glTF wants them.
 */
export function bareMorphs(mesh: Mesh, name: string): { plain: () => void; tight: () => void } {
  const base = mesh.positions.slice()
  const out = new Float32Array(base.length)
  const morph = mesh.morphs.find((m) => m.name === name)!
  const corners = new Float32Array(mesh.cornerPoints.length * 3)
  const normals = new Float32Array(mesh.cornerPoints.length * 3)
  const plain = () => {
    out.set(base)
    for (let k = 0; k < morph.points.length; k++)
      for (let d = 0; d < 3; d++) out[morph.points[k]! * 3 + d]! += 0.5 * morph.deltas[k * 3 + d]!
    for (let c = 0; c < mesh.cornerPoints.length; c++)
      for (let d = 0; d < 3; d++) corners[c * 3 + d] = out[mesh.cornerPoints[c]! * 3 + d]!
    normals.fill(0)
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const [a, b, c] = [mesh.indices[t]! * 3, mesh.indices[t + 1]! * 3, mesh.indices[t + 2]! * 3]
      const [ux, uy, uz] = [
        corners[b]! - corners[a]!,
        corners[b + 1]! - corners[a + 1]!,
        corners[b + 2]! - corners[a + 2]!,
      ]
      const [vx, vy, vz] = [
        corners[c]! - corners[a]!,
        corners[c + 1]! - corners[a + 1]!,
        corners[c + 2]! - corners[a + 2]!,
      ]
      for (const v of [a, b, c]) {
        normals[v]! += uy * vz - uz * vy
        normals[v + 1]! += uz * vx - ux * vz
        normals[v + 2]! += ux * vy - uy * vx
      }
    }
  }
  const tight = () => {
    out.set(base)
    for (let k = 0, o = 0; k < morph.points.length; k++, o += 3) {
      const p = morph.points[k]! * 3
      out[p]! += 0.5 * morph.deltas[o]!
      out[p + 1]! += 0.5 * morph.deltas[o + 1]!
      out[p + 2]! += 0.5 * morph.deltas[o + 2]!
    }
    for (let c = 0, o = 0; c < mesh.cornerPoints.length; c++, o += 3) {
      const p = mesh.cornerPoints[c]! * 3
      corners[o] = out[p]!
      corners[o + 1] = out[p + 1]!
      corners[o + 2] = out[p + 2]!
    }
    normals.fill(0)
    for (let t = 0; t < mesh.indices.length; t += 3) {
      const a = mesh.indices[t]! * 3
      const b = mesh.indices[t + 1]! * 3
      const c = mesh.indices[t + 2]! * 3
      const ax = corners[a]!
      const ay = corners[a + 1]!
      const az = corners[a + 2]!
      const ux = corners[b]! - ax
      const uy = corners[b + 1]! - ay
      const uz = corners[b + 2]! - az
      const vx = corners[c]! - ax
      const vy = corners[c + 1]! - ay
      const vz = corners[c + 2]! - az
      const x = uy * vz - uz * vy
      const y = uz * vx - ux * vz
      const z = ux * vy - uy * vx
      for (let at = a, k = 0; k < 3; at = k === 0 ? b : c, k++) {
        normals[at]! += x
        normals[at + 1]! += y
        normals[at + 2]! += z
      }
    }
    for (let o = 0; o < normals.length; o += 3) {
      const x = normals[o]!
      const y = normals[o + 1]!
      const z = normals[o + 2]!
      const length = Math.sqrt(x * x + y * y + z * z) || 1
      normals[o] = x / length
      normals[o + 1] = y / length
      normals[o + 2] = z / length
    }
  }
  return { plain, tight }
}

import { contentHash } from '../base/canonical.ts'
import { pointTriangles, type Mesh } from './Mesh.ts'

const hashes = new WeakMap<Mesh, string>()

/** Equal for meshes whose points and triangles are the same in number and order, whatever their shape. */
export function topologyOf(mesh: Mesh): string {
  let hash = hashes.get(mesh)
  if (!hash) {
    const { buffer, byteLength } = Uint32Array.from([mesh.positions.length / 3, ...pointTriangles(mesh)])
    hashes.set(mesh, (hash = contentHash(new Uint8Array(buffer, 0, byteLength)).slice(0, 32)))
  }
  return hash
}

import { problem, type Problem } from '../base/problem.ts'
import { isRead } from './extensions.ts'

/*
 * Looks at a glTF file's JSON before anything is allocated for it: a few kilobytes can name
 * gigabytes that are not there, or nodes that hang from each other in a ring.
 */

/** Far beyond any low-poly model; what is larger is told, not read. */
const MOST = { nodes: 20_000, depth: 400, accessors: 20_000, elements: 4_000_000, bytes: 128 << 20 }

const COMPONENT_BYTES: Record<number, number> = { 5120: 1, 5121: 1, 5122: 2, 5123: 2, 5125: 4, 5126: 4 }
const COMPONENTS: Record<string, number> = { SCALAR: 1, VEC2: 2, VEC3: 3, VEC4: 4, MAT2: 4, MAT3: 9, MAT4: 16 }

interface Json {
  extensionsRequired?: unknown
  nodes?: { children?: number[] }[]
  accessors?: {
    bufferView?: number
    byteOffset?: number
    count?: number
    type?: string
    componentType?: number
    sparse?: { count?: number }
  }[]
  bufferViews?: { buffer?: number; byteOffset?: number; byteLength?: number; byteStride?: number }[]
  buffers?: { byteLength?: number; uri?: string }[]
}

/**
 * What makes a parsed glTF document not fit to be read.
 */
export function checkGltf(json: unknown, where: string): Problem[] {
  const fault = (code: string, place: string, message: string) => [
    problem(code, `${where}${place}`, message, 'Export it again, or reduce it first.'),
  ]
  if (typeof json !== 'object' || json === null || Array.isArray(json))
    return fault('gltf-broken', '', 'Its description is not a glTF document.')
  const { extensionsRequired: needs } = json as Json
  const foreign = Array.isArray(needs) ? needs.find((name) => !isRead(name)) : undefined
  if (foreign !== undefined) {
    const message = `It needs “${String(foreign).slice(0, 60)}” of whoever reads it, which is not read here.`
    return [problem('gltf-needs', where, message, 'Export it without that, as without compression.')]
  }
  const { nodes = [], accessors = [], bufferViews = [], buffers = [] } = json as Json
  for (const [name, list] of Object.entries({ nodes, accessors, bufferViews, buffers }))
    if (!Array.isArray(list) || list.some((item) => typeof item !== 'object' || item === null))
      return fault('gltf-broken', `/${name}`, 'It is not a list of objects.')
  if (nodes.length > MOST.nodes) return fault('scene-large', '/nodes', `It has ${nodes.length} nodes.`)
  if (accessors.length > MOST.accessors)
    return fault('scene-large', '/accessors', `It has ${accessors.length} accessors.`)
  const ring = nodeFault(nodes)
  if (ring !== null)
    return fault('node-loop', `/nodes/${ring}`, 'The node hangs from itself, from two nodes, or too deep.')

  let bytes = 0
  for (const [i, a] of accessors.entries()) {
    const place = `/accessors/${i}`
    const size = (COMPONENT_BYTES[a.componentType ?? 0] ?? 0) * (COMPONENTS[a.type ?? ''] ?? 0)
    const count = a.count ?? 0
    if (size === 0) return fault('gltf-broken', place, 'Its type is not known.')
    if (!Number.isInteger(count) || count < 0) return fault('gltf-broken', place, 'Its count is not a number.')
    if (count > MOST.elements || (a.sparse?.count ?? 0) > count)
      return fault('scene-large', place, `It says it has ${count} elements.`)
    bytes += size * count
    if (bytes > MOST.bytes) return fault('scene-large', place, 'The file says it holds more than 128 MB.')
    if (a.bufferView === undefined) continue
    const view = bufferViews[a.bufferView]
    if (!view) return fault('gltf-broken', place, 'It reads from a place that is not there.')
    const stride = view.byteStride ?? size
    const end = (a.byteOffset ?? 0) + (count > 0 ? (count - 1) * stride + size : 0)
    if (!(end <= (view.byteLength ?? 0))) return fault('gltf-broken', place, 'It reads beyond its data.')
  }
  for (const [i, view] of bufferViews.entries()) {
    const buffer = buffers[view.buffer ?? -1]
    if (!buffer) return fault('gltf-broken', `/bufferViews/${i}`, 'Its buffer is not there.')
    if (!((view.byteOffset ?? 0) + (view.byteLength ?? 0) <= (buffer.byteLength ?? 0)))
      return fault('gltf-broken', `/bufferViews/${i}`, 'It reaches beyond its buffer.')
  }
  return []
}

/** The first node that has two parents, stands in a ring or too deep; null if the nodes are trees. */
function nodeFault(nodes: readonly { children?: number[] }[]): number | null {
  const parent = new Int32Array(nodes.length).fill(-1)
  for (const [i, { children = [] }] of nodes.entries()) {
    if (!Array.isArray(children)) return i
    for (const child of children) {
      if (!Number.isInteger(child) || child < 0 || child >= nodes.length || parent[child] !== -1) return i
      parent[child] = i
    }
  }
  // with one parent each, what never reaches a root stands in a ring
  const state = new Uint8Array(nodes.length) // 1: on the way, 2: reaches a root
  const depth = new Uint16Array(nodes.length)
  for (let i = 0; i < nodes.length; i++) {
    const way: number[] = []
    let at = i
    while (at >= 0 && state[at] === 0) {
      state[at] = 1
      way.push(at)
      at = parent[at]!
    }
    if (at >= 0 && state[at] === 1) return at
    const above = at < 0 ? 0 : depth[at]!
    way.reverse().forEach((n, k) => {
      state[n] = 2
      depth[n] = above + k + 1
    })
    if (depth[i]! > MOST.depth) return i
  }
  return null
}

import { ShapeUtils, Vector2, Vector3 } from 'three'
import { FileFault } from '../base/FileFault.ts'
import { childrenOf, type XmlElement } from '../base/readXml.ts'
import { numbersIn } from './colladaNodes.ts'

/** The elements of COLLADA that hold faces. */
export const FACE_KINDS: ReadonlySet<string> = new Set(['triangles', 'polylist', 'polygons', 'trifans', 'tristrips'])

/** The polygons of a run of faces: of each corner the numbers that say what it is made of. */
export function* polygonsOf(element: XmlElement, step: number, tell: (said: string) => void): Generator<number[][]> {
  const rings = childrenOf(element, 'p').map(numbersIn)
  const corner = (list: readonly number[], i: number) => list.slice(i * step, (i + 1) * step)
  if (childrenOf(element, 'ph').length) tell('Faces with holes are left out.')
  if (element.name === 'polylist') {
    const counts = childrenOf(element, 'vcount')[0]
    const list = rings[0] ?? []
    let next = 0
    for (const count of counts ? numbersIn(counts) : []) {
      const ring: number[][] = []
      for (let k = 0; k < count && (next + 1) * step <= list.length; k++) ring.push(corner(list, next++))
      if (ring.length < count) throw new FileFault('collada-index', 'Its faces have fewer corners than they say.')
      yield ring
    }
    return
  }
  for (const list of rings) {
    const count = Math.floor(list.length / step)
    const all = Array.from({ length: count }, (_, i) => corner(list, i))
    if (element.name === 'polygons') yield all
    else if (element.name === 'triangles') for (let i = 0; i + 2 < count; i += 3) yield all.slice(i, i + 3)
    else
      for (let i = 2; i < count; i++) {
        const first = element.name === 'trifans' ? 0 : i - 2
        const [a, b] = element.name === 'tristrips' && i % 2 ? [i - 1, first] : [first, i - 1]
        yield [all[a]!, all[b]!, all[i]!]
      }
  }
}

/** The triangles of a polygon, three corners each: its ears where it has more than four corners, a quad by its shorter diagonal. */
export function trianglesIn(ring: readonly Vector3[]): number[] {
  if (ring.length < 3) return []
  if (ring.length === 3) return [0, 1, 2]
  if (ring.length === 4) {
    const [a, b, c, d] = ring as [Vector3, Vector3, Vector3, Vector3]
    return a.distanceToSquared(c) <= b.distanceToSquared(d) ? [0, 1, 2, 0, 2, 3] : [0, 1, 3, 1, 2, 3]
  }
  // seen from where it faces (Newell's normal)
  const normal = new Vector3()
  ring.forEach((p, i) => {
    const q = ring[(i + 1) % ring.length]!
    normal.x += (p.y - q.y) * (p.z + q.z)
    normal.y += (p.z - q.z) * (p.x + q.x)
    normal.z += (p.x - q.x) * (p.y + q.y)
  })
  if (normal.lengthSq() === 0) return ring.slice(2).flatMap((_, i) => [0, i + 1, i + 2])
  normal.normalize()
  const along = new Vector3(...(Math.abs(normal.y) < 0.9 ? [0, 1, 0] : [1, 0, 0])).cross(normal).normalize()
  const across = normal.clone().cross(along)
  const flat = ring.map((p) => new Vector2(p.dot(along), p.dot(across)))
  return ShapeUtils.triangulateShape(flat, []).flat()
}

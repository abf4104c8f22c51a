import { beforeAll, describe, expect, it } from 'vitest'
import { prepareBody, type PreparedBody } from '../body/PreparedBody.ts'
import { seamArea } from '../body/seams.ts'
import { Builder } from '../build.ts'
import type { Kit, PartModel } from '../kit/Kit.ts'
import { areaWithin, openLoops } from '../mesh/loops.ts'
import { pointCount, pointTriangles, type Mesh } from '../mesh/Mesh.ts'
import { createRandom } from '../recipe/random.ts'
import { newTarget } from '../recipe/target.ts'
import { demoKit, dressed } from '../testing/demoKits.ts'
import { APART, joinSeam } from './joinSeam.ts'

let kit: Kit
let body: PreparedBody
let hook: PartModel
beforeAll(async () => {
  kit = await demoKit('saltwick-folk')
  body = prepareBody(kit.bodies.get('human')!)
  hook = kit.parts.get('hook-left')!
})

/** A sleeve of rings about the wrist, the first of which is its open edge; the last is shut by a point. */
function sleeve(edge: number, { wobble = 0, off = 0, size = 1, seed = 1, inward = false } = {}): PartModel {
  const loop = seamArea(body, 'leftWrist')!.loop.map((p) => [...body.model.mesh.positions.subarray(p * 3, p * 3 + 3)])
  const middle = [0, 1, 2].map((k) => loop.reduce((s, at) => s + at[k]!, 0) / loop.length)
  const random = createRandom(seed)
  const along = [Math.SQRT1_2, -Math.SQRT1_2, 0]
  const positions: number[] = []
  for (const ring of [0, 1, 2])
    for (let i = 0; i < edge; i++) {
      const at = (i / edge) * loop.length
      const [a, b] = [loop[Math.floor(at)]!, loop[(Math.floor(at) + 1) % loop.length]!]
      const t = at % 1
      for (let k = 0; k < 3; k++) {
        const on = a[k]! * (1 - t) + b[k]! * t
        const wide = middle[k]! + (on - middle[k]!) * size * (1 + ring * 0.1)
        positions.push(wide + along[k]! * (off + ring * 0.03) + (random.next() - 0.5) * wobble)
      }
    }
  positions.push(...middle.map((m, k) => m + along[k]! * (off + 0.09)))
  const triangles: number[] = []
  for (const ring of [0, 1])
    for (let i = 0; i < edge; i++) {
      const [a, b] = [ring * edge + i, ring * edge + ((i + 1) % edge)]
      triangles.push(a, b, b + edge, a, b + edge, a + edge)
    }
  for (let i = 0; i < edge; i++) triangles.push(2 * edge + i, 2 * edge + ((i + 1) % edge), 3 * edge)
  if (inward) for (let t = 0; t < triangles.length; t += 3) triangles.splice(t, 2, triangles[t + 1]!, triangles[t]!)
  const count = positions.length / 3
  const mesh: Mesh = {
    positions: Float32Array.from(positions),
    joints: new Uint16Array(count * 4),
    weights: new Float32Array(count * 4),
    morphs: [{ name: 'own', points: Uint32Array.from([0, edge]), deltas: Float32Array.from([1, 0, 0, 0, 1, 0]) }],
    cornerPoints: Uint32Array.from({ length: count }, (_, i) => i),
    normals: new Float32Array(count * 3),
    softness: new Uint8Array(count).fill(255),
    shades: new Uint8Array(count).fill(255),
    regions: new Uint16Array(count),
    regionNames: ['leather'],
    uvs: new Float32Array(count * 2),
    indices: Uint32Array.from(triangles),
  }
  return { ...hook, mesh, hash: `sleeve ${edge} ${wobble} ${off} ${size} ${seed}` }
}

/** The points of the body that the open edges of a joined part run along, as it runs. */
function edgeOnBody(part: PartModel): number[] {
  const loops = openLoops(pointTriangles(part.mesh), pointCount(part.mesh))
  expect(loops).toHaveLength(1)
  const { positions } = part.mesh
  const skin = body.model.mesh.positions
  return loops[0]!.map((p) => {
    const found = [...Array(skin.length / 3).keys()].find((q) =>
      [0, 1, 2].every((k) => skin[q * 3 + k] === positions[p * 3 + k]),
    )
    return found ?? -1
  })
}

const turned = (loop: readonly number[]) => {
  const from = loop.indexOf(Math.min(...loop))
  return [...loop.slice(from), ...loop.slice(0, from)]
}

describe('an edge drawn on to a seam', () => {
  it.each([3, 4, 5, 7, 8, 9, 12, 31, 150])('of %i points runs along the body’s own points, each once', (edge) => {
    for (let seed = 1; seed <= 12; seed++) {
      const part = sleeve(edge, { wobble: 0.012, off: 0.01, size: 1.3, seed })
      const joined = joinSeam(body, part)!
      expect(turned(edgeOnBody(joined.part))).toEqual(turned(seamArea(body, 'leftWrist')!.loop))
      expect(joined.drawn).toMatchObject({ edge, loop: 8 })
      // welded points are those of the edge, and no others
      const { weld, part: redrawn } = joined
      expect([...weld].filter((w) => w !== APART)).toHaveLength(8)
      // nothing degenerate, nothing lost but what collapsed
      const triangles = pointTriangles(redrawn.mesh)
      for (let t = 0; t < triangles.length; t += 3) expect(new Set(triangles.subarray(t, t + 3)).size).toBe(3)
      expect(triangles.length / 3).toBe(5 * edge + 8 - edge)
      expect(redrawn.mesh.regions).toHaveLength(redrawn.mesh.cornerPoints.length)
    }
  })

  it('that meets it already is left as it is, and its points are told', () => {
    const joined = joinSeam(body, hook)!
    expect(joined.part).toBe(hook)
    expect(joined.drawn).toBeNull()
    expect([...joined.weld].filter((w) => w !== APART).sort()).toEqual([...seamArea(body, 'leftWrist')!.loop].sort())
  })

  it('moves what lies near along, and leaves what lies far where it was', () => {
    const part = sleeve(8, { off: 0.02 })
    const { part: redrawn } = joinSeam(body, part)!
    const moved = (p: number, q: number) =>
      Math.hypot(...[0, 1, 2].map((k) => redrawn.mesh.positions[q * 3 + k]! - part.mesh.positions[p * 3 + k]!))
    // the second ring 3 cm on goes some of the way, the shut end none
    expect(moved(8, 0)).toBeGreaterThan(0.002)
    expect(moved(8, 0)).toBeLessThan(0.02)
    expect(moved(24, 16)).toBe(0)
  })

  it('keeps moves of its own on the points it had, and none at the edge', () => {
    const { part } = joinSeam(body, sleeve(12, { off: 0.02 }))!
    const [own] = part.mesh.morphs
    expect([[...own!.points], [...own!.deltas]]).toEqual([[0], [0, 1, 0]])
  })

  it('is no edge of a part turned inside out, of one far off, or of one that is shut', () => {
    expect(joinSeam(body, sleeve(8, { off: 0.01, inward: true }))).toBeNull()
    expect(joinSeam(body, sleeve(8, { off: 0.4 }))).toBeNull()
    expect(joinSeam(body, { ...hook, def: { ...hook.def, seam: 'nowhere' } as typeof hook.def })).toBeNull()
    const shut = sleeve(6)
    const cap = [1, 0, 2, 2, 0, 3, 3, 0, 4, 4, 0, 5]
    const mesh = { ...shut.mesh, indices: Uint32Array.from([...shut.mesh.indices, ...cap]) }
    expect(openLoops(pointTriangles(mesh), pointCount(mesh))).toEqual([])
    expect(joinSeam(body, { ...shut, mesh })).toBeNull()
  })
})

describe('a figure with a part drawn on to its seam', () => {
  const figureWith = (part: PartModel, sliders: Record<string, number> = {}) => {
    const kits = new Map([[kit.manifest.id, { ...kit, parts: new Map([...kit.parts, ['hook-left', part]]) }]])
    return new Builder(kits).build(dressed(kit, 'human', ['hook-left'], sliders), newTarget('any', 'Any'))
  }

  it('says so, and says it when there may be a gap', () => {
    const drawn = figureWith(sleeve(11, { off: 0.02 })).problems
    expect(drawn.map((p) => [p.code, p.severity, p.where])).toEqual([
      ['seam-drawn', 'info', 'recipe/parts/other-left-hand'],
    ])
    expect(drawn[0]!.message).toContain('It has 11 points there, the body 8.')
    const apart = figureWith(sleeve(8, { off: 0.4 })).problems
    expect(apart.map((p) => [p.code, p.severity])).toEqual([['seam-apart', 'warning']])
    expect(figureWith(hook).problems).toEqual([])
  })

  it('is shaded across it as one: where both sides are smooth, they share their normals', () => {
    const soft = (mesh: Mesh): Mesh => ({ ...mesh, softness: new Uint8Array(mesh.softness.length).fill(255) })
    const smooth = { ...body.model, mesh: soft(body.model.mesh) }
    const kits = new Map([
      [
        kit.manifest.id,
        {
          ...kit,
          bodies: new Map([['human', smooth]]),
          parts: new Map([...kit.parts, ['hook-left', sleeve(11, { off: 0.02 })]]),
        },
      ],
    ])
    const { mesh, pieces } = new Builder(kits).build(
      dressed(kit, 'human', ['hook-left']),
      newTarget('any', 'Any'),
    ).figure!
    const at = (corner: number) => [0, 1, 2].map((k) => mesh.positions[mesh.cornerPoints[corner]! * 3 + k]).join(' ')
    const normal = (corner: number) => [...mesh.normals.subarray(corner * 3, corner * 3 + 3)]
    const cornersOf = ([from, to]: readonly [number, number]) => new Set(mesh.indices.subarray(from * 3, to * 3))
    const skin = new Map([...cornersOf(pieces[0]!.triangles)].map((c) => [at(c), normal(c)]))
    const met = [...cornersOf(pieces.find((p) => p.id === 'hook-left')!.triangles)].filter((c) => skin.has(at(c)))
    expect(new Set(met.map(at)).size).toBe(8)
    for (const c of met) normal(c).forEach((v, k) => expect(v).toBeCloseTo(skin.get(at(c))![k]!, 6))
  })
})

describe('an area of a surface', () => {
  it('is what lies within a loop, and what lies loose beside it', () => {
    const head = body.model.def.seams.find((s) => s.id === 'neck')!
    const area = areaWithin(body.model.mesh.positions, body.triangles, head.points, head.within!)!
    const ys = [...area.faces.keys()]
      .filter((t) => area.faces[t])
      .flatMap((t) => [0, 1, 2].map((k) => body.model.mesh.positions[body.triangles[t * 3 + k]! * 3 + 1]!))
    // the chin hangs a little below the loop; shoulders would be 8 cm lower
    expect(Math.min(...ys)).toBeGreaterThan(Math.min(...head.points.map((p) => p[1])) - 0.02)
    // all that is above is within, the ears too, which are pieces apart
    const above = [...area.faces.keys()].filter((t) =>
      [0, 1, 2].every((k) => body.model.mesh.positions[body.triangles[t * 3 + k]! * 3 + 1]! > 1.48),
    )
    expect(above.every((t) => area.faces[t])).toBe(true)
  })

  it('is none where the loop has a gap, misses the surface or crosses itself', () => {
    const { points, within } = body.model.def.seams.find((s) => s.id === 'neck')!
    const area = (list: typeof points) => areaWithin(body.model.mesh.positions, body.triangles, list, within!)
    expect(area(points)).not.toBeNull()
    expect(area(points.filter((_, i) => i !== 3))).toBeNull()
    expect(area(points.map(([x, y, z]): [number, number, number] => [x, y + 0.001, z]))).toBeNull()
    expect(area(points.toSpliced(2, 2, points[3]!, points[2]!))).toBeNull()
    expect(area(points.slice(0, 2))).toBeNull()
    expect(area([])).toBeNull()
  })
})

import { describe, expect, it } from 'vitest'
import {
  boundsOf,
  checkEdges,
  connectedPieces,
  pointTriangles,
  readKit,
  shapeSlidersOf,
  signedVolume,
  type Kit,
} from '@idle-tinker/core'
import { kitFiles } from '../../core/src/testing/demoKits.ts'
import { folkKit } from './folk/kit.ts'
import { scenario } from './scenario.ts'
import { tideKit } from './tide/kit.ts'
import { writeKit } from './writeKit.ts'
import { glbFaults } from '../../core/src/testing/glbFaults.ts'

const sources = { 'saltwick-folk': folkKit, 'tide-creatures': tideKit }
const kits = new Map<string, Kit>()
for (const id of Object.keys(sources)) kits.set(id, (await readKit(kitFiles(id))).value!)

interface Piece {
  name: string
  positions: Float32Array
  triangles: Uint32Array
  closed: boolean
}

/** Every connected piece of every model of the kits. */
const pieces: Piece[] = [...kits.values()].flatMap((kit) =>
  [...kit.bodies.values(), ...kit.parts.values()].flatMap(({ def, mesh }) => {
    const triangles = pointTriangles(mesh)
    const points = mesh.positions.length / 3
    const { pieceOf, count } = connectedPieces(triangles, points)
    const split: number[][] = Array.from({ length: count }, () => [])
    for (let t = 0; t < triangles.length; t += 3)
      split[pieceOf[triangles[t]!]!]!.push(triangles[t]!, triangles[t + 1]!, triangles[t + 2]!)
    return split
      .filter((s) => s.length)
      .map((s, i): Piece => {
        const own = Uint32Array.from(s)
        return {
          name: `${def.id} #${i}`,
          positions: mesh.positions,
          triangles: own,
          closed: checkEdges(own, points).open.length === 0,
        }
      })
  }),
)

describe('the demo kits', () => {
  it.each(Object.keys(sources) as (keyof typeof sources)[])(
    '%s comes out the same to the byte when made again',
    async (id) => {
      const made = await writeKit(sources[id]())
      const kept = kitFiles(id)
      expect([...made.keys()].sort()).toEqual([...kept.keys()].sort())
      for (const [path, bytes] of made) expect(Buffer.from(bytes).equals(Buffer.from(kept.get(path)!)), path).toBe(true)
    },
  )

  it('have documents of the scenario that come out the same', () => {
    const kept = kitFiles('lantern-tide')
    for (const [name, document] of scenario(kits))
      expect(new TextDecoder().decode(kept.get(name))).toBe(`${JSON.stringify(document, null, 2)}\n`)
  })

  it('have closed pieces that wind outward', () => {
    const inside = pieces.filter((p) => p.closed && signedVolume(p.positions, p.triangles) <= 0).map((p) => p.name)
    expect(pieces.filter((p) => p.closed).length).toBeGreaterThan(100)
    expect(inside).toEqual([])
  })

  it('have no edge with more than two faces', () => {
    const bad = pieces
      .filter((p) => checkEdges(p.triangles, p.positions.length / 3).nonManifold.length > 0)
      .map((p) => p.name)
    expect(bad).toEqual([])
  })

  it('have hardly a sliver, and none without area', () => {
    let slivers = 0
    let total = 0
    const empty: string[] = []
    for (const { name, positions, triangles } of pieces)
      for (let t = 0; t < triangles.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((k) => [0, 1, 2].map((d) => positions[triangles[t + k]! * 3 + d]!))
        const edge = (p: number[], q: number[]) => Math.hypot(p[0]! - q[0]!, p[1]! - q[1]!, p[2]! - q[2]!)
        const [x, y, z] = [edge(a!, b!), edge(b!, c!), edge(c!, a!)]
        const s = (x + y + z) / 2
        const area = Math.sqrt(Math.max(0, s * (s - x) * (s - y) * (s - z)))
        // 1 for an equilateral triangle
        const quality = (4 * Math.sqrt(3) * area) / (x * x + y * y + z * z)
        total++
        if (area < 1e-9) empty.push(name)
        if (quality < 0.06) slivers++
      }
    expect(empty).toEqual([])
    expect(slivers / total).toBeLessThan(0.02)
  })

  it('have a human of 900 to 1,600 triangles, symmetric to the left and right', () => {
    const { mesh } = kits.get('saltwick-folk')!.bodies.get('human')!
    expect(mesh.indices.length / 3).toBeGreaterThan(900)
    expect(mesh.indices.length / 3).toBeLessThan(1600)
    const key = (x: number, y: number, z: number) => [x, y, z].map((v) => Math.round(v * 1e5) + 0).join()
    const all = new Set(
      Array.from({ length: mesh.positions.length / 3 }, (_, p) =>
        key(mesh.positions[p * 3]!, mesh.positions[p * 3 + 1]!, mesh.positions[p * 3 + 2]!),
      ),
    )
    for (let p = 0; p < mesh.positions.length; p += 3)
      expect(all.has(key(-mesh.positions[p]!, mesh.positions[p + 1]!, mesh.positions[p + 2]!))).toBe(true)
  })

  it('have creatures of 1,100 to 1,900 triangles with their eyes and teeth, closed and alike on both sides', () => {
    const tide = kits.get('tide-creatures')!
    for (const id of ['lampstrider', 'gulper']) {
      const { def, mesh } = tide.bodies.get(id)!
      const own = Object.values(def.defaults).map((id) => tide.parts.get(id)!.mesh)
      const count = [mesh, ...own].reduce((n, m) => n + m.indices.length / 3, 0)
      expect(count, def.id).toBeGreaterThanOrEqual(1100)
      expect(count, def.id).toBeLessThanOrEqual(1900)
      const { open, nonManifold } = checkEdges(pointTriangles(mesh), mesh.positions.length / 3)
      expect([def.id, open, nonManifold]).toEqual([def.id, [], []])
      const key = (x: number, y: number, z: number) => [x, y, z].map((v) => Math.round(v * 1e4) + 0).join()
      const all = new Set(
        Array.from({ length: mesh.positions.length / 3 }, (_, p) =>
          key(mesh.positions[p * 3]!, mesh.positions[p * 3 + 1]!, mesh.positions[p * 3 + 2]!),
        ),
      )
      for (let p = 0; p < mesh.positions.length; p += 3)
        expect(all.has(key(-mesh.positions[p]!, mesh.positions[p + 1]!, mesh.positions[p + 2]!))).toBe(true)
    }
  })

  it('have for each creature ten sliders, sixteen parts, four palettes, and clips to stand, go and act by', () => {
    const tide = kits.get('tide-creatures')!
    expect(tide.manifest.palettes.length).toBeGreaterThanOrEqual(4)
    for (const { def } of tide.bodies.values()) {
      expect(shapeSlidersOf(def).length, def.id).toBeGreaterThanOrEqual(10)
      const parts = [...tide.parts.values()].filter((p) => p.def.bodies.includes(def.id))
      expect(parts.length, def.id).toBeGreaterThanOrEqual(16)
      // what it is colored with is in every palette
      const { regionNames } = tide.bodies.get(def.id)!.mesh
      const skin = regionNames.filter((r) => ['fur', 'plume', 'hide'].includes(r))
      expect(skin).toHaveLength(1)
      for (const { id, swatches } of tide.manifest.palettes) expect([id, skin[0]! in swatches]).toEqual([id, true])
    }
    const clips = (plan: string) => tide.manifest.clips.filter((c) => c.plan === plan)
    for (const plan of ['wader', 'hopper']) {
      expect(clips(plan)).toHaveLength(8)
      expect(clips(plan).filter((c) => c.travel > 0)).toHaveLength(2)
    }
    const shared = [...tide.parts.values()].filter((p) => p.def.bodies.length > 1)
    expect(shared.length).toBeGreaterThanOrEqual(10)
  })

  it('have no slider that does nothing or tears the body apart', () => {
    for (const kit of kits.values())
      for (const { def, mesh } of kit.bodies.values())
        for (const slider of def.sliders)
          for (const name of [slider.up, slider.down]) {
            if (name === undefined) continue
            const morph = mesh.morphs.find((m) => m.name === name)!
            // the least that one moves is the ridge of a nose: three points
            expect(morph.points.length, `${def.id} ${name}`).toBeGreaterThanOrEqual(3)
            const most = Math.max(
              ...[...morph.points].map((_, i) => Math.hypot(...morph.deltas.subarray(i * 3, i * 3 + 3))),
            )
            // what changes the whole figure may make a child of it, a third shorter: the top of a chick that
            // has legs and neck still to grow comes down by more than half
            const height = boundsOf(mesh.positions).max[1]
            const share = slider.group === 'whole' ? 0.62 : 0.24
            expect(most, `${def.id} ${name}`).toBeLessThan(share * height)
          }
  })

  it('fit on a small disk and pass the glTF validator', async () => {
    const files = kitFiles('saltwick-folk')
    expect([...files.values()].reduce((s, b) => s + b.length, 0)).toBeLessThan(6 << 20)
    // the one warning: joints of zero weights are named
    for (const path of ['bodies/human.glb', 'parts/coat-quay.glb', 'parts/eyes-open.glb'])
      expect(await glbFaults(files.get(path)!, { warnings: false }), path).toEqual([])
  })
})

import type { Mesh, Morph } from '../mesh/Mesh.ts'
import { isCloth, type Outfit } from '../dress/outfit.ts'

/** One piece of a merged figure: the body (slot "body") or a part; ranges in the merged arrays. */
export interface Piece {
  slot: string
  id: string
  name: string
  /** Cloth hides what is beneath it; what lies flat on the skin (eyes, brows) does not; the rest stands by itself. */
  lies: 'over' | 'on' | 'free'
  /** Movements (by name) that act here: those that move a point of the piece by more than 2 mm. */
  morphs: string[]
  points: [start: number, end: number]
  corners: [start: number, end: number]
  /** In triangles, not indices. */
  triangles: [start: number, end: number]
}

export interface Merged {
  /** What can be seen, as one mesh. Positions hold every point; corners only those in use. */
  mesh: Mesh
  pieces: Piece[]
  /** 1 where a triangle is the inner wall of cloth. */
  lining: Uint8Array
  /** Every point before any slider: xyz, metres. */
  rest: Float32Array
  /** The body's part of `mesh.positions`. */
  bodyPositions: Float32Array
}

interface Source {
  slot: string
  id: string
  name: string
  lies: Piece['lies']
  rest: Float32Array
  mesh: Mesh
  joints: Uint8Array
  weights: Float32Array
  morphs: readonly Morph[]
  hidden: Uint8Array
  lining: Uint8Array | null
}

const acts = ({ deltas }: Morph) =>
  deltas.some((_, i) => i % 3 === 0 && Math.hypot(deltas[i]!, deltas[i + 1]!, deltas[i + 2]!) > 0.002)

/**
 * Joins the visible triangles of an outfit into one mesh. The layers' positions become views of
 * the merged ones, so that dressing writes straight into it.
 */
export function mergeOutfit(outfit: Outfit): Merged {
  const { model } = outfit.body
  const sources: Source[] = [
    {
      slot: 'body',
      id: model.def.id,
      name: model.def.name,
      lies: 'free',
      rest: model.mesh.positions,
      mesh: model.mesh,
      joints: model.mesh.joints,
      weights: model.mesh.weights,
      morphs: model.mesh.morphs,
      hidden: outfit.hiddenBody,
      lining: null,
    },
    ...outfit.layers.map(({ slot, bound, rest }, i): Source => ({
      slot,
      id: bound.part.def.id,
      name: bound.part.def.name,
      lies: isCloth(bound.part) ? 'over' : bound.part.def.how === 'worn' ? 'on' : 'free',
      rest,
      mesh: bound.part.mesh,
      joints: bound.joints,
      weights: bound.weights,
      morphs: bound.morphs,
      hidden: outfit.hiddenLayers[i]!,
      lining: outfit.linings[i]!,
    })),
  ]
  const points = sources.reduce((n, s) => n + s.mesh.positions.length / 3, 0)
  const positions = new Float32Array(points * 3)
  const rest = new Float32Array(points * 3)
  const joints = new Uint8Array(points * 4)
  const weights = new Float32Array(points * 4)
  const regionNames: string[] = []
  const cornerPoints: number[] = []
  const softness: number[] = []
  const shades: number[] = []
  const regions: number[] = []
  const indices: number[] = []
  const lining: number[] = []
  const pieces: Piece[] = []
  const morphParts = new Map<string, { points: number[]; deltas: number[] }>()
  let base = 0
  for (const [s, source] of sources.entries()) {
    const { mesh, hidden } = source
    const count = mesh.positions.length / 3
    if (s > 0) outfit.layers[s - 1]!.positions = positions.subarray(base * 3, (base + count) * 3)
    rest.set(source.rest, base * 3)
    joints.set(source.joints, base * 4)
    weights.set(source.weights, base * 4)
    const regionOf = mesh.regionNames.map((name) => {
      const at = regionNames.indexOf(name)
      return at >= 0 ? at : regionNames.push(name) - 1
    })
    const cornerOf = new Int32Array(mesh.cornerPoints.length).fill(-1)
    const cornerStart = cornerPoints.length
    const triangleStart = indices.length / 3
    for (let t = 0; t < hidden.length; t++) {
      if (hidden[t]) continue
      lining.push(source.lining?.[t] ?? 0)
      for (let k = 0; k < 3; k++) {
        const corner = mesh.indices[t * 3 + k]!
        if (cornerOf[corner]! < 0) {
          cornerOf[corner] = cornerPoints.push(base + mesh.cornerPoints[corner]!) - 1
          softness.push(mesh.softness[corner]!)
          shades.push(mesh.shades[corner]!)
          regions.push(regionOf[mesh.regions[corner]!]!)
        }
        indices.push(cornerOf[corner]!)
      }
    }
    for (const morph of source.morphs) {
      const entry = morphParts.get(morph.name) ?? { points: [], deltas: [] }
      for (const p of morph.points) entry.points.push(base + p)
      for (const d of morph.deltas) entry.deltas.push(d)
      morphParts.set(morph.name, entry)
    }
    pieces.push({
      slot: source.slot,
      id: source.id,
      name: source.name,
      lies: source.lies,
      morphs: source.morphs.filter(acts).map((m) => m.name),
      points: [base, base + count],
      corners: [cornerStart, cornerPoints.length],
      triangles: [triangleStart, indices.length / 3],
    })
    base += count
  }
  const mesh: Mesh = {
    positions,
    joints,
    weights,
    morphs: [...morphParts].map(([name, m]) => ({
      name,
      points: Uint32Array.from(m.points),
      deltas: Float32Array.from(m.deltas),
    })),
    cornerPoints: Uint32Array.from(cornerPoints),
    normals: new Float32Array(cornerPoints.length * 3),
    softness: Uint8Array.from(softness),
    shades: Uint8Array.from(shades),
    regions: Uint8Array.from(regions),
    regionNames,
    uvs: new Float32Array(cornerPoints.length * 2),
    indices: Uint32Array.from(indices),
  }
  return {
    mesh,
    pieces,
    lining: Uint8Array.from(lining),
    rest,
    bodyPositions: positions.subarray(0, model.mesh.positions.length),
  }
}

import { problem, type Problem } from '../base/problem.ts'
import type { Target } from '../recipe/schema.ts'

/** What a figure costs in a game. */
export interface Costs {
  triangles: number
  vertices: number
  bones: number
  influences: number
  drawCalls: number
  /** The atlas in video memory, RGBA, without mip levels. */
  textureBytes: number
  /** The GLB; estimated to a few percent until the file has been written. */
  fileBytes: number
}

/** Costs of one piece of a figure: the body or one part. The draw call and the atlas are the whole figure's. */
export interface PieceCost {
  slot: string
  id: string
  triangles: number
  vertices: number
  /** Bones that carry any of it. */
  bones: number
  /** Most influences on one of its points. */
  influences: number
  /** Its share of the GLB: vertices and indices. */
  fileBytes: number
}

/** Bytes of one vertex as `ship` writes it: position, normal, texture coordinates, shade, joints, weights. */
const VERTEX_BYTES = 12 + 12 + 8 + 4 + 4 + 4
/** JSON, skeleton, two clips and the recipe: measured on the demo figures. */
const FILE_OVERHEAD = 9_000
const BYTES_A_BONE = 900
const ATLAS_PNG_BYTES = 700

/** What vertices and triangles take in a GLB with 16-bit indices. */
export function meshBytes(vertices: number, triangles: number): number {
  return vertices * VERTEX_BYTES + triangles * 6
}

export function estimateFileBytes(costs: Pick<Costs, 'triangles' | 'vertices' | 'bones'>): number {
  return FILE_OVERHEAD + ATLAS_PNG_BYTES + meshBytes(costs.vertices, costs.triangles) + costs.bones * BYTES_A_BONE
}

const NAMES: Record<keyof Target['limits'], string> = {
  triangles: 'triangles',
  vertices: 'vertices',
  bones: 'bones',
  drawCalls: 'draw calls',
  textureBytes: 'texture bytes',
  fileBytes: 'file bytes',
}

const REMEDIES: Record<keyof Target['limits'], string> = {
  triangles: 'Bring the figure under the limit or take off the most expensive part.',
  vertices: 'Bring the triangles down; the vertices follow.',
  bones: 'Choose less skeleton detail.',
  drawCalls: 'Ship the figure with one atlas.',
  textureBytes: 'Choose a smaller atlas.',
  fileBytes: 'Bring the triangles down or ship fewer clips.',
}

/** Where costs are over a target's limits. */
export function overBudget(costs: Costs, target: Target): Problem[] {
  const problems: Problem[] = []
  for (const key of Object.keys(NAMES) as (keyof Target['limits'])[])
    if (costs[key] > target.limits[key])
      problems.push(
        problem(
          'over-budget',
          `costs/${key}`,
          `${costs[key]} ${NAMES[key]}, the target allows ${target.limits[key]}.`,
          REMEDIES[key],
          'warning',
        ),
      )
  if (costs.influences > target.influences)
    problems.push(
      problem(
        'over-budget',
        'costs/influences',
        `${costs.influences} influences a point, the target allows ${target.influences}.`,
        'Choose another target.',
        'warning',
      ),
    )
  return problems
}

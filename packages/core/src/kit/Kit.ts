import type { Mesh } from '../mesh/Mesh.ts'
import type { BodyPlan, Limb, PlannedBone } from './plan.ts'
import type { Paint } from './readModel.ts'
import type { BodyDef, KitManifest, PartDef } from './schema.ts'

/** A body ready for use: its mesh's joints index `bones`. */
export interface BodyModel {
  kit: string
  def: BodyDef
  /** Equal hashes, equal bodies: what is worked out for a body may be kept under it. */
  hash: string
  mesh: Mesh
  paints: ReadonlyMap<string, Paint>
  plan: BodyPlan
  /** Those of the plan that the body has landmarks for, then its own; parents first. */
  bones: PlannedBone[]
  /** The plan's and the body's limbs, with the bones that are there; those without any are left out. */
  limbs: Limb[]
}

/** A bone that a part brings, and where its joint stands in the part's own space. */
export interface PartBone extends PlannedBone {
  at: [number, number, number]
}

export interface PartModel {
  kit: string
  def: PartDef
  /** Equal hashes, equal parts. */
  hash: string
  /** Its joints index `bones`; points that hang on none of these have no weights. */
  mesh: Mesh
  paints: ReadonlyMap<string, Paint>
  bones: PartBone[]
  /** The skin of its model as the body's own bones have it, where it moves by that: four a point, by the names' numbers. */
  skin?: { names: string[]; joints: Uint16Array; weights: Float32Array }
  /** A spot on a surface, the body's or another instance's, where it sits instead of at its socket. */
  spot?: {
    on?: { instance: string; part: string }
    triangle: number
    shares: readonly [number, number, number]
  }
}

/** A kit that has been read and checked. What was broken is left out and told as problems. */
export interface Kit {
  manifest: KitManifest
  /** Content hash of every file. */
  hash: string
  bodies: Map<string, BodyModel>
  parts: Map<string, PartModel>
}

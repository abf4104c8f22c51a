import type { PartModel } from '../kit/Kit.ts'
import type { PartDef } from '../kit/schema.ts'
import type { BoundPart } from './bindPart.ts'
import type { Anchors } from './clearance.ts'
import type { Press } from './press.ts'

/** One worn, attached or replacing part on the figure, with the layers it has to stay clear of. */
export interface Layer {
  /** The instance's id in the recipe. */
  instance: string
  slot: string
  bound: BoundPart
  /** The part's rest shape, let out over the layers beneath: xyz a point. */
  rest: Float32Array
  /** Shaped and pushed clear: xyz a point. Rewritten by every `dressOutfit`. */
  positions: Float32Array
  /** Parts beneath that `rest` was let out for, by hash. */
  liftedBy: string[]
  onBody: Anchors | null
  /** How parts above press it flat. */
  pressed: Press[]
  /** What it sits on, if that is not the body: a layer by its place in the outfit, and a spot there. */
  ridesOn: { layer: number; corners: readonly number[]; shares: readonly number[] } | null
  /** Anchors on layers beneath, by their place in the outfit. */
  onLayers: { layer: number; anchors: Anchors }[]
}

/** Cloth lies in layers; what sits on the face or in the hand (clearance 0) does not. */
export function isCloth(part: PartModel): boolean {
  return part.def.how === 'worn' && part.def.clearance > 0
}

/** The layer of a garment; null for what is none. */
export const layerOfPart = (def: PartDef): number | null => (def.how === 'worn' ? def.layer : null)

/** Garments with a higher number lie over those with a lower one; what is not worn comes before all, what sits on them last. */
export function layerNumber(part: PartModel): number {
  if (part.spot?.on) return Infinity
  return part.def.how === 'worn' ? part.def.layer : -1
}

/** From the skin outward; 0 where neither lies over the other. */
export function compareLayers(a: PartModel, b: PartModel): number {
  const [x, y] = [layerNumber(a), layerNumber(b)]
  return x === y ? 0 : x - y
}

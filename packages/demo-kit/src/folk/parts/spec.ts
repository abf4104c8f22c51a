import type { PartDef } from '@idle-tinker/core'
import type { GlbSource } from '../../model/writeGlb.ts'
import type { Dummy } from '../../model/garment.ts'
import type { Point, Sculpt } from '../../model/Sculpt.ts'
import { add, cross, scale, unit, type V3 } from '../../model/vector.ts'

type Without<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never

/** A part of a demo kit: its entry in kit.json, and how it is made. */
export type PartSpec = Without<PartDef, 'file' | 'bodies' | 'skin'> & {
  make: (dummy: Dummy) => Sculpt
  /** Movements of its own, in place of those it would have from the body's of the same name. */
  morphs?: (dummy: Dummy) => { name: string; move: (p: Point) => V3 }[]
  /** Bodies it fits besides the one it was made on. */
  alsoOn?: string[]
  /** Of a part that brings bones: their joints, about its origin, and what hangs on them. */
  skin?: GlbSource['skin']
}

type Extra = Partial<Pick<PartDef, 'tags' | 'requires' | 'excludes' | 'covers'>>

/** A part worn on the head's surface. */
export function onHead(
  id: string,
  name: string,
  slot: string,
  layer: number,
  make: PartSpec['make'],
  extra: Extra & { presses?: string[]; morphs?: PartSpec['morphs'] } = {},
): PartSpec {
  return { id, name, slot, how: 'worn', layer, clearance: 0, binds: ['head'], tags: [], ...extra, make }
}

/** A garment. Clearance in millimetres. */
export function garment(
  id: string,
  name: string,
  slot: string,
  layer: number,
  clearance: number,
  binds: string[] | undefined,
  make: PartSpec['make'],
  extra: Extra & { presses?: string[] } = {},
): PartSpec {
  return { id, name, slot, how: 'worn', layer, clearance, ...(binds ? { binds } : {}), tags: [], ...extra, make }
}

/** Something carried at a socket, modeled about it. */
export function carried(
  id: string,
  name: string,
  slot: string,
  socket: string,
  make: PartSpec['make'],
  extra: Extra = {},
): PartSpec {
  return { id, name, slot, how: 'attached', socket, fit: 'rigid', tags: [], ...extra, make }
}

/**
 * Turns a thing made upright at a grip so that it is upright once the arm is down.
 *
 * @param up where the right hand's upright lies in the rest pose; the left hand's is its mirror image
 */
export function upright(s: Sculpt, side: 'left' | 'right', up: V3): Sculpt {
  const y = unit(side === 'right' ? up : [-up[0], up[1], up[2]])
  const x = unit(cross(y, [0, 0, 1]))
  const z = cross(x, y)
  return s.move((p) => add(add(scale(x, p[0]), scale(y, p[1])), scale(z, p[2])))
}

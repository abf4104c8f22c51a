import type { PartDef } from '@idle-tinker/core'
import type { Dummy } from '../../model/garment.ts'
import type { Sculpt } from '../../model/Sculpt.ts'

type Without<T, K extends PropertyKey> = T extends unknown ? Omit<T, K> : never

/** A part of a demo kit: its entry in kit.json, and how it is made. */
export type PartSpec = Without<PartDef, 'file' | 'bodies'> & { make: (dummy: Dummy) => Sculpt }

type Extra = Partial<Pick<PartDef, 'tags' | 'requires' | 'excludes' | 'covers'>>

/** A part worn on the head's surface. */
export function onHead(
  id: string,
  name: string,
  slot: string,
  layer: number,
  make: PartSpec['make'],
  extra: Extra & { presses?: string[] } = {},
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

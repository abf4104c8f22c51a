import type { ColorRegionDef, SlotDef } from '@idle-tinker/core'

/*
 * Short ways to write the entries of a kit.json.
 */

/** Makes the slots of some bodies. */
export const slotsOf =
  (...bodies: string[]) =>
  (
    id: string,
    name: string,
    singular: string,
    region: string,
    more: Pick<SlotDef, 'weight' | 'care' | 'empty' | 'picture' | 'most'> = {},
  ): SlotDef => ({ id, name, singular, bodies, region, ...more })

export const color = (id: string, name: string, hex: string): ColorRegionDef => ({ id, name, color: hex })

/** A color that belongs to the person and that palettes leave alone. */
export const own = (id: string, name: string, hex: string): ColorRegionDef => ({ ...color(id, name, hex), own: true })

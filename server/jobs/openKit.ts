import { hasErrors, unpackKit, type Problem } from '@idle-tinker/core'
import { keptKits } from './readKitsOf.ts'

/** What the server needs to know of a kit, and its files. */
export interface OpenedKit {
  id: string
  name: string
  kitVersion: string
  hash: string
  files: Map<string, Uint8Array>
}

export interface KitAnswer {
  /** Null if nothing can be made with it. */
  kit: OpenedKit | null
  problems: Problem[]
}

export interface KitToOpen {
  zip: Uint8Array
  /** Files of the kit that the zip is a change of: those it does not hold. */
  over?: ReadonlyMap<string, Uint8Array>
}

/** Unpacks and reads a kit. For a thread of its own: what comes from elsewhere may be slow, or eat memory. */
export async function openKit({ zip, over }: KitToOpen): Promise<KitAnswer> {
  const { value: fresh, problems: faults } = unpackKit(zip)
  if (!fresh) return { kit: null, problems: faults }
  const files = new Map([...(over ?? []), ...fresh])
  // the page that brings it asks for it next
  const { value: kit, problems } = (await (await keptKits()).readAnew(files)).read
  // of a kit that brings bodies one must be whole; one of parts alone needs a part
  const usable = kit && (kit.manifest.bodies.length ? kit.bodies.size : kit.parts.size) > 0
  if (!kit || (hasErrors(problems) && !usable)) return { kit: null, problems }
  const { id, name, kitVersion } = kit.manifest
  return { kit: { id, name, kitVersion, hash: kit.hash, files }, problems }
}

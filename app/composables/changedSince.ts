import { contentHash } from '@idle-tinker/core'
import type { ShipmentAbout } from '../../server/jobs/shipmentOrder'
import { DOCUMENT_OF } from '../documents/parcels'

/** Documents and kits as they are now. */
export interface Now {
  documents: (kind: 'figure' | 'mix' | 'picks' | 'target') => readonly { id: string; content: object }[]
  /** By their ids: name, and the hash of all their files. */
  kits: ReadonlyMap<string, { name: string; hash: string }>
  /** The workshop's own version. */
  workshop: string
}

/** A document's hash is worked out once. */
const hashes = new WeakMap<object, string>()
function hashOf(content: object): string {
  const raw = toRaw(content)
  let hash = hashes.get(raw)
  if (hash === undefined) hashes.set(raw, (hash = contentHash(raw)))
  return hash
}

/** What of a shipment is not as it was when it left, in words: “Maren Quill”, “the target Far, which is gone”. */
export function changedSince(about: ShipmentAbout, now: Now): string[] {
  const said: string[] = []
  const compare = (kind: Parameters<Now['documents']>[0], id: string, name: string, hash: string) => {
    const found = now.documents(kind).find((d) => d.id === id)
    if (!found) said.push(`${name}, which is gone`)
    else if (hashOf(found.content) !== hash) said.push(name)
  }
  for (const { kind, name, of, hash } of about.parcels) if (of !== null) compare(DOCUMENT_OF[kind], of, name, hash)
  for (const { id, name, hash } of about.targets) compare('target', id, `the target ${name}`, hash)
  for (const [id, hash] of Object.entries(about.kits)) {
    const kit = now.kits.get(id)
    if (!kit) said.push(`the kit ${id}, which is gone`)
    else if (kit.hash !== hash) said.push(`the kit ${kit.name}`)
  }
  if (about.workshop !== undefined && about.workshop !== now.workshop)
    said.push(`the workshop, then ${about.workshop} and now ${now.workshop}`)
  return said
}

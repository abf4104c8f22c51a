import type { ParcelOrder } from '../../server/jobs/shipmentOrder'
import type { Contents } from '../stores/project'
import { plain } from '../workers/plain'
import type { Entry } from './Keeper'

/** What a parcel of each kind is a document of. */
export const DOCUMENT_OF = { figure: 'figure', crowd: 'mix', picks: 'picks' } as const
export type ParcelKind = keyof typeof DOCUMENT_OF

/** What is asked of the documents there are. */
export type Documents = { readonly [K in 'figure' | 'mix' | 'picks']: readonly Entry<Contents[K]>[] }

/** A document as a parcel, as it is now; null where it is gone. */
export function parcelOf(
  documents: Documents,
  kind: ParcelKind,
  id: string,
): { name: string; parcel: ParcelOrder } | null {
  const entry = documents[DOCUMENT_OF[kind]].find((d) => d.id === id)
  if (!entry) return null
  const { name } = entry
  const content: unknown = plain(entry.content)
  if (kind === 'figure') return { name, parcel: { kind, of: id, recipe: content } }
  return { name, parcel: kind === 'picks' ? { kind, of: id, picks: content } : { kind, of: id, name, mix: content } }
}

import { BODIES, type BodyName, type BodyOf, type Taken } from '../utils/bodies.ts'
import type { Kind } from '../utils/kinds.ts'

export interface BodyTask<N extends BodyName = BodyName> {
  what: N
  kind: Kind
  /** UTF-8 text, or the text itself. */
  body: Uint8Array | string
}

/** Reads a body. For a thread of its own where it is large. */
export function readBody<N extends BodyName>({ what, kind, body }: BodyTask<N>): Taken<BodyOf<N>> {
  const text = typeof body === 'string' ? body : new TextDecoder().decode(body)
  // which of the readers goes with which answer is known of the table, not to the compiler
  return BODIES[what](text, kind) as Taken<BodyOf<N>>
}

import { readDocument, type DocumentKind } from '../../base/readDocument.ts'
import type { Read } from '../../base/problem.ts'
import { MotionMatchSchema, type MotionMatch } from './matchMotion.ts'

export const MATCH_KIND: DocumentKind<typeof MotionMatchSchema> = {
  format: 'idle-tinker-match',
  noun: 'match of bones',
  schema: MotionMatchSchema,
  older: [],
}

/** Reads a match of bones that was kept: JSON text or a parsed value. */
export function readMatch(input: unknown, where = 'match'): Read<MotionMatch> {
  return readDocument(MATCH_KIND, input, where)
}

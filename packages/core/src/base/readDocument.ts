import type { Static, TSchema } from '@sinclair/typebox'
import { problem, type Read } from './problem.ts'
import { parseJson, validate } from './validate.ts'

/** A version of a kind of document that has gone by, and how a document of it becomes one of the next. */
export interface OldVersion {
  schema: TSchema
  /** Only called with documents that fit `schema`; must return one that fits the next version's. */
  upgrade: (document: never) => unknown
}

/** A kind of document: what it is called, its newest schema, and every version before it, the first one first. */
export interface DocumentKind<S extends TSchema> {
  format: string
  /** For sentences: “This is not a recipe”. */
  noun: string
  schema: S
  /** `older[0]` is version 1; the newest version is `older.length + 1`. */
  older: readonly OldVersion[]
}

export function newestVersion(kind: DocumentKind<TSchema>): number {
  return kind.older.length + 1
}

/**
 * Reads a document of any version: JSON text or a parsed value becomes one of the newest version,
 * upgraded step by step. What does not fit is told as problems, never thrown.
 */
export function readDocument<S extends TSchema>(kind: DocumentKind<S>, input: unknown, where: string): Read<Static<S>> {
  const refuse = (code: string, place: string, message: string, remedy: string): Read<Static<S>> => ({
    value: null,
    problems: [problem(code, `${where}${place}`, message, remedy)],
  })
  let value = input
  if (typeof input === 'string') {
    const parsed = parseJson(input, where)
    if (parsed.problems.length) return { value: null, problems: parsed.problems }
    value = parsed.value
  }
  const head = value as { format?: unknown; version?: unknown } | null
  if (typeof head !== 'object' || head === null || head.format !== kind.format)
    return refuse(
      'format',
      '/format',
      `This is not a ${kind.noun}: its format is not “${kind.format}”.`,
      `Choose a ${kind.noun} file.`,
    )
  const newest = newestVersion(kind)
  if (typeof head.version === 'number' && head.version > newest)
    return refuse(
      'newer',
      '/version',
      `This ${kind.noun} is of version ${head.version}; this workshop reads up to ${newest}.`,
      'Update the workshop.',
    )
  const version = head.version
  if (typeof version === 'number' && Number.isInteger(version) && version >= 1)
    for (const { schema, upgrade } of kind.older.slice(version - 1)) {
      const old = validate(schema, value, where)
      if (old.value === null) return { value: null, problems: old.problems }
      value = upgrade(old.value as never)
    }
  return validate(kind.schema, value, where)
}

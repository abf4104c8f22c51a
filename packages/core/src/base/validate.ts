import type { ErrorObject } from 'ajv'
import type { Static, TSchema } from '@sinclair/typebox'
import { checkOf } from './checks.ts'
import { problem, type Problem, type Read } from './problem.ts'

/** A larger document is told its first fault alone: the time it takes is bounded whatever it is given. */
const MOST_VALUES = 5_000
const MOST_PROBLEMS = 20

/** Whether a JSON value holds at most so many values; looks at no more than that. */
function isSmall(value: unknown, most: number): boolean {
  const waiting = [value]
  let count = 0
  for (let next = waiting.pop(); waiting.length || next !== undefined; next = waiting.pop()) {
    if (++count + waiting.length > most) return false
    if (typeof next === 'object' && next !== null) {
      const inside = Object.values(next)
      if (count + waiting.length + inside.length > most) return false
      waiting.push(...inside)
    }
  }
  return true
}

function sentence(e: ErrorObject): string {
  const params = e.params as Record<string, unknown>
  if (e.keyword === 'additionalProperties') return `“${String(params.additionalProperty)}” is not known here.`
  if (e.keyword === 'required') return `“${String(params.missingProperty)}” is missing.`
  if (e.keyword === 'const') return `It must be ${JSON.stringify(params.allowedValue)}.`
  if (e.keyword === 'enum')
    return `It must be one of ${(params.allowedValues as unknown[]).map((v) => JSON.stringify(v)).join(', ')}.`
  return `It ${e.message ?? 'is not valid'}.`
}

/**
 * Checks a document against a TypeBox schema; each fault becomes a problem that names its place: up
 * to twenty of a document of ordinary size, the first one of a larger.
 */
export function validate<S extends TSchema>(schema: S, value: unknown, where: string): Read<Static<S>> {
  const quick = checkOf(schema, 'first')
  if (quick(value)) return { value: value as Static<S>, problems: [] }
  const check = isSmall(value, MOST_VALUES) ? checkOf(schema, 'every') : quick
  check(value)
  const problems: Problem[] = (check.errors ?? [])
    .slice(0, MOST_PROBLEMS)
    .map((e) => problem('schema', `${where}${e.instancePath}`, sentence(e), 'Correct this place and try again.'))
  return { value: null, problems }
}

/** What may be half a character, written out. */
const SURROGATE = /\\u[dD][89a-fA-F]/
/** The same where it is no part of a whole one: whole ones are written as they are. */
const HALF = /(?<!\\)(?:\\\\)*\\ud[89a-f]/

/** Parses JSON text; a fault is a problem, never an exception. Halves of characters, which no other program takes, are faults too. */
export function parseJson(text: string, where: string): Read<unknown> {
  try {
    const value = JSON.parse(text) as unknown
    if (SURROGATE.test(text) && HALF.test(JSON.stringify(value)))
      return {
        value: null,
        problems: [problem('json', where, 'A text in it has half a character.', 'Write the text anew.')],
      }
    return { value, problems: [] }
  } catch (error) {
    const detail = error instanceof Error ? error.message : String(error)
    return {
      value: null,
      problems: [
        problem('json', where, `This is not JSON: ${detail}.`, 'Check the file for a missing bracket or quote.'),
      ],
    }
  }
}

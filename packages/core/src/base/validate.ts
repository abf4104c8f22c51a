import { Ajv, type ErrorObject, type ValidateFunction } from 'ajv'
import type { Static, TSchema } from '@sinclair/typebox'
import { problem, type Problem, type Read } from './problem.ts'

const ajv = new Ajv({ allErrors: true, strict: false, useDefaults: false })
const compiled = new WeakMap<TSchema, ValidateFunction>()

function compile(schema: TSchema): ValidateFunction {
  let validate = compiled.get(schema)
  if (!validate) compiled.set(schema, (validate = ajv.compile(schema)))
  return validate
}

function sentence(e: ErrorObject): string {
  const params = e.params as Record<string, unknown>
  if (e.keyword === 'additionalProperties') return `“${String(params.additionalProperty)}” is not known here.`
  if (e.keyword === 'required') return `“${String(params.missingProperty)}” is missing.`
  if (e.keyword === 'const') return `It must be ${JSON.stringify(params.allowedValue)}.`
  return `It ${e.message ?? 'is not valid'}.`
}

/** Checks a document against a TypeBox schema; every fault becomes a problem that names its place. */
export function validate<S extends TSchema>(schema: S, value: unknown, where: string): Read<Static<S>> {
  const check = compile(schema)
  if (check(value)) return { value: value as Static<S>, problems: [] }
  const problems: Problem[] = (check.errors ?? [])
    .slice(0, 20)
    .map((e) => problem('schema', `${where}${e.instancePath}`, sentence(e), 'Correct this place and try again.'))
  return { value: null, problems }
}

/** Parses JSON text; a fault is a problem, never an exception. */
export function parseJson(text: string, where: string): Read<unknown> {
  try {
    return { value: JSON.parse(text) as unknown, problems: [] }
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

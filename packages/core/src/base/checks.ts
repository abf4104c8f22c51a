import { Ajv, type ValidateFunction } from 'ajv'
import type { TSchema } from '@sinclair/typebox'
import { contentHash } from './canonical.ts'
import { preparedChecks } from './preparedChecks.ts'
import { shareParts } from './shareParts.ts'

/** What looks at a value; the faults it finds are its `errors` until it looks again. */
export type Check = Pick<ValidateFunction, 'errors'> & ((value: unknown) => unknown)

/** The two ways to look at a document: the first stops at the first fault, the other collects them all. */
export const WAYS = ['first', 'every'] as const
export type Way = (typeof WAYS)[number]
export type Checks = Readonly<Record<Way, Check>>

/** @param source whether what it compiles can be written as a module */
export const compilerOf = (way: Way, source = false): Ajv =>
  new Ajv({
    allErrors: way === 'every',
    strict: false,
    // JSON text like 1e999 is parsed to Infinity: numbers must be finite
    strictNumbers: true,
    useDefaults: false,
    // the schemas are our own, and a test looks at each
    validateSchema: false,
    inlineRefs: false,
    // tidying up the code it makes takes half of a process's first read, and a check is no faster for it
    code: { optimize: false, source, esm: source },
  })

/** What the checks of a schema are kept under among those that were prepared: any change of it is another. */
export const nameOfChecks = (schema: TSchema): string =>
  `c${contentHash(JSON.parse(JSON.stringify(schema))).slice(0, 24)}`

function compile(schema: TSchema, way: Way): Check {
  const { schemas, parts } = shareParts([schema])
  return compilerOf(way).addSchema(parts).compile(schemas[0]!)
}

const known: Record<Way, WeakMap<TSchema, Check>> = { first: new WeakMap(), every: new WeakMap() }

/** The check of a schema: the one that was made with the program, else one that is compiled where it is first asked for. */
export function checkOf(schema: TSchema, way: Way): Check {
  let check = known[way].get(schema)
  if (!check) known[way].set(schema, (check = preparedChecks[nameOfChecks(schema)]?.[way] ?? compile(schema, way)))
  return check
}

/** A JSON Schema as plain JSON, of the keywords our documents use. */
export interface PlainSchema {
  type?: string
  properties?: Record<string, PlainSchema>
  patternProperties?: Record<string, PlainSchema>
  additionalProperties?: boolean | PlainSchema
  items?: PlainSchema | PlainSchema[]
  anyOf?: PlainSchema[]
  const?: unknown
  enum?: unknown[]
  $id?: string
  $ref?: string
  definitions?: Record<string, PlainSchema>
}

/** Shorter ones are as short where they are used as their reference would be. */
const LEAST = 60
/** What definitions are referred to by, wherever a schema says it stands itself. */
const PARTS = 'https://idle-tinker.example/schemas/parts.json'

/** Goes through the schemas right inside one: of members, of items, of alternatives. */
function eachInside(schema: PlainSchema, visit: (inside: PlainSchema, put: (other: PlainSchema) => void) => void) {
  for (const members of [schema.properties, schema.patternProperties])
    for (const [name, inside] of Object.entries(members ?? {})) visit(inside, (other) => (members![name] = other))
  for (const many of [schema.anyOf, schema.items])
    if (Array.isArray(many)) for (const [i, inside] of many.entries()) visit(inside, (other) => (many[i] = other))
  const { items, additionalProperties: others } = schema
  if (typeof items === 'object' && !Array.isArray(items)) visit(items, (other) => (schema.items = other))
  if (typeof others === 'object') visit(others, (other) => (schema.additionalProperties = other))
}

/** Alternatives that are each one value become a list of values. */
function listValues(schema: PlainSchema): void {
  if (schema.anyOf?.every((one) => 'const' in one)) {
    schema.enum = schema.anyOf.map((one) => one.const)
    delete schema.anyOf
  }
  eachInside(schema, listValues)
}

/**
 * The same schemas with what they say more than once, and each object within them, said once among definitions:
 * checkers made of them are functions that call each other instead of one long one each, at half the length.
 *
 * @param schemas plain data, without references or definitions of their own
 * @returns the schemas in the same order, and the schema that holds their definitions
 */
export function shareParts(schemas: readonly unknown[]): { schemas: PlainSchema[]; parts: PlainSchema } {
  const roots = schemas.map((schema) => JSON.parse(JSON.stringify(schema)) as PlainSchema)
  for (const root of roots) listValues(root)
  const times = new Map<string, number>()
  const count = (part: PlainSchema) => {
    const key = JSON.stringify(part)
    times.set(key, (times.get(key) ?? 0) + 1)
    if (times.get(key) === 1) eachInside(part, count)
  }
  for (const root of roots) count(root)

  const names = new Map<string, string>()
  const definitions: Record<string, PlainSchema> = {}
  const share = (part: PlainSchema, put: (other: PlainSchema) => void) => {
    const key = JSON.stringify(part)
    if (key.length < LEAST || (times.get(key) === 1 && part.type !== 'object')) return eachInside(part, share)
    let name = names.get(key)
    if (name === undefined) {
      names.set(key, (name = `d${names.size}`))
      definitions[name] = part
      eachInside(part, share)
    }
    put({ $ref: `${PARTS}#/definitions/${name}` })
  }
  for (const [i, root] of roots.entries()) share(root, (other) => (roots[i] = other))
  return { schemas: roots, parts: { $id: PARTS, definitions } }
}

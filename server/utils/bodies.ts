import { Type, type TSchema } from '@sinclair/typebox'
import { parseJson, SHIP_FORMATS, validate, type Problem, type Read, type ShipFormat } from '@idle-tinker/core'
import { readBuildPicks, STEPS } from '../jobs/buildPicksTask.ts'
import { readShipCrowd } from '../jobs/shipCrowdInput.ts'
import { KINDS, type Kind } from './kinds.ts'

/** Why something sent to us is not taken, as the answer says it. */
export interface Refusal {
  status: 400 | 422
  title: string
  detail: string
  problems: readonly Problem[]
}

/** What was read, or why it was refused. */
export type Taken<T> = { value: T; refusal: null } | { value: null; refusal: Refusal }

/** A document of today's version, as text. */
export interface DocumentText {
  /** Its own id, of kinds that bring one. */
  id: string | null
  name: string
  text: string
}

/**
 * A save over the version its sender saw. Its token is the id of a writer (one page that holds the document)
 * and the number of the save, “id.7”; `after` names saves whose answers were lost, each with all that its
 * writer has sent before.
 */
export interface SaveBody extends DocumentText {
  version: number
  token: string
  after: string[]
}

/** An order, as text, and how many steps it takes. */
export interface OrderBody {
  text: string
  total: number
}

const Token = Type.String({ pattern: '^[0-9a-f-]{36}(\\.[0-9]{1,9})?$' })
const Save = Type.Object(
  {
    version: Type.Integer({ minimum: 1 }),
    content: Type.Unknown(),
    token: Token,
    after: Type.Array(Token, { maxItems: 50 }),
  },
  { additionalProperties: false },
)
const FORMATS = Object.keys(SHIP_FORMATS) as ShipFormat[]
const Order = Type.Object(
  {
    name: Type.String({ minLength: 1, maxLength: 80 }),
    recipes: Type.Array(Type.Unknown(), { minItems: 1, maxItems: 2000 }),
    mix: Type.Unknown(),
    target: Type.Unknown(),
    pattern: Type.String({ minLength: 1, maxLength: 80 }),
    lods: Type.Boolean(),
    formats: Type.Optional(
      Type.Array(Type.Union(FORMATS.map((f) => Type.Literal(f))), {
        minItems: 1,
        maxItems: FORMATS.length,
        uniqueItems: true,
      }),
    ),
    insist: Type.Optional(Type.Boolean()),
    motions: Type.Optional(Type.Array(Type.Unknown(), { maxItems: 40 })),
    keyed: Type.Optional(Type.Array(Type.Unknown(), { maxItems: 40 })),
  },
  { additionalProperties: false },
)

const PicksOrder = Type.Object(
  { picks: Type.Unknown(), target: Type.Unknown(), triples: Type.Optional(Type.Boolean()) },
  { additionalProperties: false },
)

/**
 * Readers of all JSON that comes from elsewhere: text in, text out, so that what is large can be read in a
 * thread and goes through the server unopened.
 */
export const BODIES = {
  /** A new document. */
  document: (text: string, kind: Kind): Taken<DocumentText> =>
    read(text, Type.Unknown(), (body) => documentOf(kind, body, 'body')),
  /** A document as it lies in its row, of any version. */
  row: (text: string, kind: Kind): Taken<DocumentText> =>
    read(text, Type.Unknown(), (content) => documentOf(kind, content, kind)),
  save: (text: string, kind: Kind): Taken<SaveBody> =>
    read(text, Save, ({ content, ...save }) => {
      const { value, problems } = documentOf(kind, content, 'body/content')
      return { value: value && { ...save, ...value }, problems }
    }),
  order: (text: string): Taken<OrderBody> =>
    read(text, Order, (body) => {
      const { value, problems } = readShipCrowd(body, 'body')
      return { value: value && { text: JSON.stringify(value), total: value.recipes.length }, problems }
    }),
  picksOrder: (text: string): Taken<OrderBody> =>
    read(text, PicksOrder, (body) => {
      const { value, problems } = readBuildPicks(body, 'body')
      return { value: value && { text: JSON.stringify(value), total: STEPS }, problems }
    }),
}
export type BodyName = keyof typeof BODIES
export type BodyOf<N extends BodyName> = NonNullable<ReturnType<(typeof BODIES)[N]>['value']>

function read<S extends TSchema, T>(text: string, schema: S, use: (body: S['static']) => Read<T>): Taken<T> {
  const refused = (status: 400 | 422, title: string, detail: string, problems: readonly Problem[]) => ({
    value: null,
    refusal: { status, title, detail, problems },
  })
  const parsed = parseJson(text, 'body')
  if (parsed.problems.length) return refused(400, 'Not JSON', parsed.problems[0]!.message, parsed.problems)
  const checked = validate(schema, parsed.value, 'body')
  if (!checked.value && checked.problems.length)
    return refused(422, 'Not valid', 'The body does not have the expected form.', checked.problems)
  const { value, problems } = use(checked.value as S['static'])
  return value === null
    ? refused(422, 'Not valid', 'The document does not have the expected form.', problems)
    : { value, refusal: null }
}

function documentOf(kind: Kind, content: unknown, where: string): Read<DocumentText> {
  const { value, problems } = KINDS[kind].read(content, where)
  return {
    value: value && { id: 'id' in value ? value.id : null, name: value.name, text: JSON.stringify(value) },
    problems,
  }
}

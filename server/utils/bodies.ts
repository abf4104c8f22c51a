import { Type, type TSchema } from '@sinclair/typebox'
import {
  fileName,
  LicenseSchema,
  parseJson,
  patternFaults,
  problem,
  SHIP_FORMATS,
  validate,
  type Problem,
  type Read,
  type ShipFormat,
} from '@idle-tinker/core'
import { readBuildPicks, STEPS } from '../jobs/buildPicksTask.ts'
import { aboutShipment, piecesOf, readShipment, type ShipmentAbout, type ShipmentOrder } from '../jobs/shipmentOrder.ts'
import { reportOf, type PieceReport, type ShipmentReport } from '../jobs/shipmentReport.ts'
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

/** Figures a shipment may have, over all its targets. */
const MOST_FIGURES = 2000

const Token = Type.String({ pattern: '^[0-9a-f-]{36}(\\.[0-9]{1,9})?$' })
/** … of a shipment, with what a list says of it. */
export interface ShipmentBody extends OrderBody {
  about: ShipmentAbout
}

/** … that was made elsewhere, with its one file. */
export interface KeptShipmentBody extends ShipmentBody {
  bytes: Uint8Array
  report: ShipmentReport
}

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
const Name = Type.String({ minLength: 1, maxLength: 80 })
const closed = { additionalProperties: false }
const Of = Type.Optional(Type.Union([Type.Null(), Type.String({ maxLength: 64 })]))
const ParcelSchema = Type.Union([
  Type.Object({ kind: Type.Literal('figure'), of: Of, recipe: Type.Unknown() }, closed),
  Type.Object(
    {
      ...{ kind: Type.Literal('crowd'), of: Of, name: Name, mix: Type.Unknown() },
      recipes: Type.Optional(
        Type.Union([Type.Null(), Type.Array(Type.Unknown(), { minItems: 1, maxItems: MOST_FIGURES })]),
      ),
    },
    closed,
  ),
  Type.Object({ kind: Type.Literal('picks'), of: Of, picks: Type.Unknown() }, closed),
])
const Order = Type.Object(
  {
    name: Name,
    parcels: Type.Array(ParcelSchema, { minItems: 1, maxItems: 200 }),
    targets: Type.Array(Type.Unknown(), { minItems: 1, maxItems: 12 }),
    /** As each target says where it is empty. */
    pattern: Type.String({ maxLength: 80 }),
    folders: Type.String({ maxLength: 80 }),
    lods: Type.Boolean(),
    formats: Type.Array(Type.Union(FORMATS.map((f) => Type.Literal(f))), {
      ...{ minItems: 1, maxItems: FORMATS.length, uniqueItems: true },
    }),
    insist: Type.Boolean(),
    license: Type.Optional(Type.Union([Type.Null(), LicenseSchema])),
    motions: Type.Optional(Type.Array(Type.Unknown(), { maxItems: 40 })),
    keyed: Type.Optional(Type.Array(Type.Unknown(), { maxItems: 40 })),
  },
  closed,
)

const Count = Type.Integer({ minimum: 0 })
const Lines = Type.Array(Type.String(), { maxItems: 200 })
/** A shipment that was made in the browser, with what came of it. */
const Kept = Type.Object(
  {
    order: Order,
    pieces: Type.Array(
      Type.Object(
        {
          kind: Type.Literal('figure'),
          ...{ name: Name, target: Name, files: Count, bytes: Count, withheld: Type.Boolean(), passed: Lines },
          problems: Type.Array(
            Type.Object(
              {
                ...{ code: Type.String(), where: Type.String(), message: Type.String(), remedy: Type.String() },
                severity: Type.Union([Type.Literal('error'), Type.Literal('warning'), Type.Literal('info')]),
              },
              closed,
            ),
            { maxItems: 1000 },
          ),
          figures: Type.Array(
            Type.Object({ file: Type.String(), name: Name, triangles: Count, bones: Count, bytes: Count }, closed),
          ),
        },
        closed,
      ),
      { minItems: 1, maxItems: 1 },
    ),
    file: Type.Object(
      {
        name: Type.String({ pattern: '^[A-Za-z0-9_-]{1,120}(\\.[a-z]{3,6}){1,2}$' }),
        base64: Type.String({ minLength: 4 }),
      },
      closed,
    ),
  },
  closed,
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
  shipment: (text: string): Taken<ShipmentBody> => read(text, Order, (order) => shipmentOf(order, 'body')),
  keptShipment: (text: string): Taken<KeptShipmentBody> =>
    read(text, Kept, ({ order, pieces, file }) => {
      const { value, problems } = shipmentOf(order, 'body/order')
      const bytes = Buffer.from(file.base64, 'base64')
      const report = reportOf(pieces as PieceReport[], bytes.length)
      return { value: value && { ...value, about: { ...value.about, file: file.name }, bytes, report }, problems }
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

function shipmentOf(order: ShipmentOrder, where: string): Read<ShipmentBody> {
  const unknown = [
    ...patternFaults(order.pattern, `${where}/pattern`),
    ...patternFaults(order.folders, `${where}/folders`),
  ]
  if (unknown.length) return { value: null, problems: unknown }
  const { value, problems } = readShipment(order, where)
  if (!value) return { value, problems }
  const total = piecesOf(value).reduce((sum, piece) => sum + piece.steps, 0)
  if (total > MOST_FIGURES * 5) {
    const many = `It would be ${total.toLocaleString('en')} figures.`
    return { value: null, problems: [problem('too-many', where, many, 'Ship it in several parts.')] }
  }
  const about = aboutShipment(value, `${fileName('{figure}', { name: value.name })}.zip`)
  return { value: { text: JSON.stringify(value), total, about }, problems: [] }
}

function documentOf(kind: Kind, content: unknown, where: string): Read<DocumentText> {
  const { value, problems } = KINDS[kind].read(content, where)
  return {
    value: value && { id: 'id' in value ? value.id : null, name: value.name, text: JSON.stringify(value) },
    problems,
  }
}

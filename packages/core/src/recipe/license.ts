import { Type, type Static } from '@sinclair/typebox'
import { closed, list, Name } from '../base/schemas.ts'

const one = <T extends string>(...values: T[]) => Type.Union(values.map((v) => Type.Literal(v)))

/** Who made a figure and what others may do with it: what the open VRM standard 1.0 asks of every file. */
export const LicenseSchema = Type.Object(
  {
    authors: list(Name, 20),
    /** Where the author can be reached; where the figure comes from. */
    contact: Type.Optional(Name),
    /** Who may play as the figure. */
    usedBy: Type.Optional(one('authors', 'those-asked', 'everyone')),
    /** For what gain. */
    gain: Type.Optional(one('none', 'personal', 'companies')),
    /** Whether the authors have to be named. */
    credit: Type.Optional(one('needed', 'not-needed')),
    /** Whether the file may be passed on, and changed. */
    passedOn: Type.Optional(Type.Boolean()),
    changed: Type.Optional(one('no', 'for-oneself', 'and-passed-on')),
    /** Whether it may be shown doing violence, in sexual matter, for a party or a faith, or against people. */
    violence: Type.Optional(Type.Boolean()),
    sexual: Type.Optional(Type.Boolean()),
    politics: Type.Optional(Type.Boolean()),
    hate: Type.Optional(Type.Boolean()),
  },
  closed,
)
export type License = Static<typeof LicenseSchema>

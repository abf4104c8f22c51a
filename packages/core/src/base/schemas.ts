import { Type, type TSchema } from '@sinclair/typebox'

/* The small schemas that all documents share. */

export const closed = { additionalProperties: false }

/** Names that every JavaScript object has of itself; as a key they would be found where nothing was put. */
const BUILT_IN = 'constructor|hasOwnProperty|isPrototypeOf|propertyIsEnumerable|toLocaleString|toString|valueOf'

export const Id = Type.String({ pattern: `^(?!(?:${BUILT_IN})$)[a-z0-9][a-zA-Z0-9-]{0,63}$` })
/** The key of a record, or a name within a document: printable, so that keys can be told and joined safely. */
export const Key = Type.String({ pattern: `^(?!(?:${BUILT_IN})$)[A-Za-z0-9][A-Za-z0-9_.+-]{0,63}$` })
export const Name = Type.String({ minLength: 1, maxLength: 80 })
export const Color = Type.String({ pattern: '^#[0-9a-f]{6}$' })
/** Metres or unit-free; nothing of ours is a kilometre away. */
export const Coordinate = Type.Number({ minimum: -1e3, maximum: 1e3 })
export const Vec3 = Type.Tuple([Coordinate, Coordinate, Coordinate])

export const list = <S extends TSchema>(s: S, maxItems = 500) => Type.Array(s, { maxItems })

/** A record with keys that are `Key`s and nothing else. */
export const record = <S extends TSchema>(s: S, maxProperties = 500) =>
  Type.Record(Key, s, { ...closed, maxProperties })

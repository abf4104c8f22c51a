import { Type, type Static } from '@sinclair/typebox'

/*
 * Recipes as they were: one part a slot. Kept as it stood, so that what was made then is still
 * read; nothing here may come to depend on schemas that go on changing.
 */

const closed = { additionalProperties: false }
const Id = Type.String({ pattern: '^[a-z0-9][a-zA-Z0-9-]{0,63}$' })
const Key = Type.String({ pattern: '^[\\s\\S]{0,64}$' })
const Reference = Type.Object({ kit: Id, kitVersion: Type.String({ maxLength: 32 }), id: Id }, closed)

export const RecipeV1Schema = Type.Object(
  {
    format: Type.Literal('idle-tinker-recipe'),
    version: Type.Literal(1),
    name: Type.String({ minLength: 1, maxLength: 80 }),
    body: Reference,
    parts: Type.Record(Key, Reference, closed),
    sliders: Type.Record(Key, Type.Number({ minimum: -2, maximum: 2 }), closed),
    colors: Type.Record(Key, Type.String({ pattern: '^#[0-9a-f]{6}$' }), closed),
    locks: Type.Array(Key, { maxItems: 100 }),
  },
  closed,
)

export type RecipeV1 = Static<typeof RecipeV1Schema>

/**
 * The part of a slot becomes the instance of that name. Slots, sliders and colors were any text;
 * those that no kit could ever have named had no effect, and are left behind.
 */
export function upgradeRecipeV1({ parts, sliders, colors, locks, ...rest }: RecipeV1) {
  return {
    ...rest,
    version: 2,
    parts: entries(parts).map(([slot, part]) => ({ id: slot, slot, part })),
    sliders: Object.fromEntries(entries(sliders)),
    colors: Object.fromEntries(entries(colors)),
    locks: locks.filter((slot) => NAMEABLE.test(slot)),
  }
}

/** What kits of version 1 could name a slot, a slider or a color region. */
const NAMEABLE = /^[a-z0-9][a-zA-Z0-9-]{0,63}$/

function entries<T>(record: Record<string, T>): [string, T][] {
  return Object.entries(record)
    .filter(([key]) => NAMEABLE.test(key))
    .sort(([a], [b]) => (a < b ? -1 : 1))
}

import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { Type, type TSchema } from '@sinclair/typebox'
import { Ajv, type ErrorObject } from 'ajv'
import { beforeAll, describe, expect, it } from 'vitest'
import * as core from '@idle-tinker/core'
import { nameOfChecks, type Checks } from '../../packages/core/src/base/checks.ts'
import { Id } from '../../packages/core/src/base/schemas.ts'
import { shareParts } from '../../packages/core/src/base/shareParts.ts'
import { createRandom, scatterSeed } from '../../packages/core/src/recipe/random.ts'
import { DOCUMENT_SCHEMAS } from '../../packages/core/src/prepareChecks.ts'
import { checksModule } from '../../scripts/checks.mjs'

const root = fileURLToPath(new URL('../..', import.meta.url))
const jsonIn = (folder: string) =>
  readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' })
    .filter((path) => path.endsWith('.json'))
    .map((path) => JSON.parse(readFileSync(join(root, folder, path), 'utf8')) as object)
// few of the largest: they are copied for each fault
const documents = [...jsonIn('kits'), ...jsonIn('tests/fixtures')]

let prepared: Record<string, Checks>
beforeAll(async () => {
  prepared = ((await import(/* @vite-ignore */ await checksModule())) as { preparedChecks: typeof prepared })
    .preparedChecks
})

/** What takes a schema as it stands: neither shared nor prepared. */
const plainAjv = (allErrors: boolean) => new Ajv({ allErrors, strict: false, strictNumbers: true })
/** Where something is wrong: a list of values is one fault in one, and one a value in the other. */
const places = (errors: unknown) => [...new Set(((errors ?? []) as ErrorObject[]).map((e) => e.instancePath))].sort()

const ODD: unknown[] = [null, Infinity, -1e6, 0.5, '', 'Ω', 'x'.repeat(5_000), true, [], {}, [[]], { constructor: 1 }]

/** A copy with one thing wrong, or perhaps still right, somewhere in it. */
function spoilt(document: object, seed: number): object {
  const random = createRandom(scatterSeed(seed))
  const copy = structuredClone(document)
  let place = copy as Record<string, unknown>
  for (;;) {
    const keys = Object.keys(place)
    const key = keys.length ? random.pick(keys) : undefined
    const inside = key === undefined ? undefined : place[key]
    if (typeof inside === 'object' && inside !== null && random.next() < 0.8) {
      place = inside as Record<string, unknown>
      continue
    }
    const how = random.next()
    if (key === undefined || how < 0.15) place['not-known'] = 1
    else if (how < 0.3) delete place[key]
    else place[key] = random.pick(ODD)
    return copy
  }
}

describe('checks that are compiled with the program', () => {
  it('are those of every schema of a document, and of nothing else', () => {
    expect(Object.keys(prepared).sort()).toEqual([...new Set(DOCUMENT_SCHEMAS.map(nameOfChecks))].sort())
    const kinds = Object.values(core as Record<string, unknown>).filter(
      (value): value is core.DocumentKind<TSchema> => typeof value === 'object' && value !== null && 'older' in value,
    )
    expect(kinds.length).toBeGreaterThan(6)
    for (const { schema, older, noun } of kinds)
      for (const each of [schema, ...older.map((old) => old.schema)]) expect(DOCUMENT_SCHEMAS, noun).toContain(each)
  })

  it.each(DOCUMENT_SCHEMAS.map((schema, i) => [i, schema] as const))(
    'say of documents and of what is wrong with them what the schema says: %i',
    (i, schema) => {
      const checks = prepared[nameOfChecks(schema)]!
      const [first, every] = [plainAjv(false).compile(schema), plainAjv(true).compile(schema)]
      let wrong = 0
      for (const [d, document] of documents.entries()) {
        const fits = first(document)
        for (let n = 0; n < (fits ? 40 : 2); n++) {
          const value = n ? spoilt(document, 1 + i * 100_000 + d * 1000 + n) : document
          const well = first(value)
          expect(checks.first(value)).toBe(well)
          expect(places(checks.first.errors)).toEqual(places(first.errors))
          expect(checks.every(value)).toBe(every(value))
          expect(places(checks.every.errors)).toEqual(places(every.errors))
          if (!well) wrong++
        }
      }
      // most are no documents of the kind, and most that are were spoilt
      expect(wrong).toBeGreaterThan(documents.length)
    },
  )

  it('need no leave to make code of texts', async () => {
    const text = readFileSync(await checksModule(), 'utf8')
    expect(/new Function|\beval\(|^import\b/m.exec(text)).toBeNull()
  })

  it('are found by what a schema says: another limit is another schema', () => {
    const names = [5, 6].map((maxLength) => nameOfChecks(Type.Object({ a: Type.String({ maxLength }) })))
    expect(names[0]).not.toBe(names[1])
    expect(nameOfChecks(structuredClone(DOCUMENT_SCHEMAS[0]!))).toBe(nameOfChecks(DOCUMENT_SCHEMAS[0]!))
  })

  it('are compiled where they are needed for what nobody prepared', () => {
    const Odd = Type.Object({ pairs: Type.Array(Type.Object({ one: Id, two: Id })), last: Id })
    expect(core.validate(Odd, { pairs: [{ one: 'a', two: 'b' }], last: 'c' }, 'odd').problems).toEqual([])
    const { problems } = core.validate(Odd, { pairs: [{ one: 'a', two: 'B b' }], last: 7 }, 'odd')
    expect(problems.map(({ where }) => where).sort()).toEqual(['odd/last', 'odd/pairs/0/two'])
  })
})

describe('shared parts of schemas', () => {
  it('stand once, wherever they are used', () => {
    const { parts } = shareParts(DOCUMENT_SCHEMAS)
    const inside = Object.values(parts.definitions!).map((part) => JSON.stringify(part))
    expect(inside.length).toBeGreaterThan(50)
    expect(new Set(inside).size).toBe(inside.length)
    // objects are alone in their function, whoever has one
    expect(inside.filter((text) => text.indexOf('"type":"object"') !== text.lastIndexOf('"type":"object"'))).toEqual([])
  })
})

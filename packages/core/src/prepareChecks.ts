import type { TSchema } from '@sinclair/typebox'
import standaloneCode from 'ajv/dist/standalone/index.js'
import { compilerOf, nameOfChecks, WAYS } from './base/checks.ts'
import type { DocumentKind } from './base/readDocument.ts'
import { shareParts } from './base/shareParts.ts'
import { MIX_KIND } from './crowd/mix.ts'
import { KitSchema } from './kit/schema.ts'
import { MATCH_KIND } from './motion/foreign/readMatch.ts'
import { MOTION_KIND } from './motion/foreign/motionDocument.ts'
import { CLIP_KIND } from './motion/keys/keptClip.ts'
import { POSE_KIND } from './motion/poses/keptPose.ts'
import { LANDMARKS_KIND } from './pack/landmarkFile.ts'
import { PackageSchema } from './picks/package/manifest.ts'
import { PICKS_KIND } from './picks/picks.ts'
import { KEPT_KIND } from './recipe/kept.ts'
import { RECIPE_KIND } from './recipe/schema.ts'
import { TARGET_KIND } from './recipe/target.ts'

const KINDS: readonly DocumentKind<TSchema>[] = [
  ...[RECIPE_KIND, KEPT_KIND, TARGET_KIND, MIX_KIND, PICKS_KIND],
  ...[MOTION_KIND, MATCH_KIND, CLIP_KIND, POSE_KIND, LANDMARKS_KIND],
]

/** The schemas of all that is read from outside: every kind of document in all its versions, kits, packages of picks. */
export const DOCUMENT_SCHEMAS: readonly TSchema[] = [
  ...KINDS.flatMap(({ schema, older }) => [schema, ...older.map((old) => old.schema)]),
  ...[KitSchema, PackageSchema],
]

/** The modules of a program's prepared checks: file name to its source text; `index.js` has all of them. */
export function prepareChecks(): Map<string, string> {
  const byName = new Map(DOCUMENT_SCHEMAS.map((schema) => [nameOfChecks(schema), schema]))
  const names = [...byName.keys()]
  const { schemas, parts } = shareParts([...byName.values()])
  const files = new Map<string, string>()
  for (const way of WAYS) {
    const compiler = compilerOf(way, true).addSchema(parts)
    for (const [i, name] of names.entries()) compiler.addSchema(schemas[i]!, name)
    files.set(`${way}.js`, standaloneCode(compiler, Object.fromEntries(names.map((name) => [name, name]))))
  }
  const checks = names.map((name) => `${name}: { ${WAYS.map((way) => `${way}: ${way}.${name}`).join(', ')} }`)
  const index = [
    ...WAYS.map((way) => `import * as ${way} from './${way}.js'`),
    `export const preparedChecks = {\n${checks.join(',\n')}\n}`,
  ]
  return files.set('index.js', index.join('\n'))
}

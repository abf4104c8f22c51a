// One number: how long the first build of this process takes, milliseconds, kits read before.
// Told the project's root, and whether the shelf that ships is at hand.
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Builder, readRecipe, readTarget, reducerReady, Shelf } from '@idle-tinker/core'
import { readKitFolders } from '../packages/cli/src/files.ts'

const [root, shelfAt] = process.argv.slice(2) as [string, string]
const document = (name: string) => readFileSync(join(root, 'kits/lantern-tide', name), 'utf8')
await reducerReady
const { kits } = await readKitFolders([join(root, 'kits/saltwick-folk')])
const maren = readRecipe(document('maren-quill.recipe.json')).value!
const near = readTarget(document('near.target.json')).value!
const shelf = new Shelf()
if (shelfAt === 'shelf') await shelf.fill(readFileSync(join(root, 'kits/lantern-tide/prepared.bin')))
const start = process.hrtime.bigint()
new Builder(kits, shelf).build(maren, near)
process.stdout.write(String(Number(process.hrtime.bigint() - start) / 1e6))

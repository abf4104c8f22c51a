import { mkdir, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import {
  Builder,
  readKit,
  readMix,
  readRecipe,
  reducerReady,
  readTarget,
  selectCrowd,
  Shelf,
  type Kit,
} from '@idle-tinker/core'
import { folkKit } from './folk/kit.ts'
import { scenario } from './scenario.ts'
import { tideKit } from './tide/kit.ts'
import { writeKit } from './writeKit.ts'

/** Makes the demo kits and the scenario's documents anew, under kits/ or the folder given. */
const root = process.argv[2] ?? join(dirname(fileURLToPath(import.meta.url)), '../../..', 'kits')
const kits = new Map<string, Kit>()
/** The same, read for themselves: what is remembered of them is not remembered of the others. */
const crowdKits = new Map<string, Kit>()
/** So many variants of a mix meet nearly every pair of its parts. */
const CROWD = 100

async function writeFolder(name: string, files: ReadonlyMap<string, Uint8Array | string>): Promise<void> {
  const folder = join(root, name)
  await rm(folder, { recursive: true, force: true })
  let bytes = 0
  for (const [path, content] of files) {
    await mkdir(dirname(join(folder, path)), { recursive: true })
    await writeFile(join(folder, path), content)
    bytes += content.length
  }
  console.log(`${name}: ${files.size} files, ${Math.round(bytes / 1024)} KB`)
}

for (const source of [folkKit(), tideKit()]) {
  const files = await writeKit(source)
  for (const into of [kits, crowdKits]) {
    const { value: kit, problems } = await readKit(files)
    if (!kit || problems.length) throw new Error(problems.map((p) => `${p.where}: ${p.message}`).join('\n'))
    into.set(kit.manifest.id, kit)
  }
  await writeFolder(source.manifest.id, files)
}
const documents = scenario(kits)
await writeFolder(
  'lantern-tide',
  new Map<string, Uint8Array | string>([
    ...[...documents].map(([name, document]): [string, string] => [name, `${JSON.stringify(document, null, 2)}\n`]),
    ['prepared.bin', await prepare()],
  ]),
)

/** What the scenario's figures and crowds need of their parts' pairs, so that the first build finds it ready. */
async function prepare(): Promise<Uint8Array> {
  await reducerReady
  const near = readTarget(documents.get('near.target.json')).value!
  const shelf = new Shelf()
  const crowds = new Shelf()
  // of crowds only that: where every slider takes every part would be as much again, and is soon worked out
  crowds.onPut = (key, arrays) => shelf.take(key, arrays)
  const ofFigures = new Builder(kits, shelf)
  const ofCrowds = new Builder(crowdKits, crowds)
  for (const document of documents.values()) {
    const mix = readMix(document).value
    const recipe = mix ? null : readRecipe(document).value
    if (recipe) ofFigures.build(recipe, near)
    if (mix)
      for (const { recipe: own } of selectCrowd({ ...mix, count: CROWD }, crowdKits).variants) ofCrowds.build(own, near)
  }
  return shelf.pack()
}

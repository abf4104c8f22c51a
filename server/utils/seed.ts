import { readdir, readFile } from 'node:fs/promises'
import { join, relative, sep } from 'node:path'
import { readKit, readMix, readRecipe, readTarget } from '@idle-tinker/core'
import { addFigure, listFigures } from '../db/figures'
import { listKits, putKit } from '../db/kits'
import { addMix } from '../db/mixes'
import { addTarget, listTargets } from '../db/targets'

/** The first figure is what the Bench opens with. */
const FIRST = 'maren-quill.recipe.json'
const TARGETS = ['near', 'standard', 'crowd', 'far'].map((id) => `${id}.target.json`)

async function filesOf(folder: string): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue
    const path = join(entry.parentPath, entry.name)
    files.set(relative(folder, path).split(sep).join('/'), new Uint8Array(await readFile(path)))
  }
  return files
}

/** Puts Lantern Tide into an empty workshop; kits that changed on disk are taken over. */
export async function seed(kitsFolder: string): Promise<void> {
  const known = new Map((await listKits()).map((k) => [k.id, k.hash]))
  for (const id of ['saltwick-folk', 'tide-creatures']) {
    const files = await filesOf(join(kitsFolder, id))
    const { value: kit, problems } = await readKit(files)
    if (!kit) throw new Error(`kit ${id}: ${problems[0]?.message}`)
    if (known.get(id) !== kit.hash)
      await putKit({ id, name: kit.manifest.name, kitVersion: kit.manifest.kitVersion, hash: kit.hash }, files)
  }
  const empty = (await listFigures()).length === 0 && (await listFigures(true)).length === 0
  const folder = join(kitsFolder, 'lantern-tide')
  const names = (await readdir(folder)).sort((a, b) => Number(b === FIRST) - Number(a === FIRST) || (a < b ? -1 : 1))
  // the finest first; a target that was deleted does not come back
  if ((await listTargets()).length === 0)
    for (const name of TARGETS) {
      const { value } = readTarget(await readFile(join(folder, name), 'utf8'), name)
      if (value) await addTarget(value)
    }
  let place = 0
  for (const name of names) {
    const text = await readFile(join(folder, name), 'utf8')
    if (name.endsWith('.recipe.json') && empty) {
      const { value } = readRecipe(text, name)
      if (value) await addFigure(value)
    } else if (name.endsWith('.mix.json')) {
      const { value } = readMix(text, name)
      if (value)
        await addMix(value, ['quay-at-noon', 'lantern-night', 'tide-folk-arriving'].indexOf(value.id) + ++place / 100)
    }
  }
}

import { readdir, readFile } from 'node:fs/promises'
import { join, relative, sep } from 'node:path'
import { kitHash } from '@idle-tinker/core'
import type { KeptKits } from '@idle-tinker/kept'
import { addDocument, countDocuments } from '../db/documents'
import { findKit, putKit } from '../db/kits'
import { BODIES } from './bodies'
import type { Kind } from './kinds'

/** The first figure is what the Bench opens with. */
const FIRST = 'maren-quill.recipe.json'
const MIXES = ['quay-at-noon', 'lantern-night', 'tide-folk-arriving'].map((id) => `${id}.mix.json`)
/** The finest for a game's own figures first; the last is for players' own. */
const TARGETS = ['near', 'standard', 'crowd', 'far', 'mirror'].map((id) => `${id}.target.json`)

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
export async function seed(kitsFolder: string, kept: KeptKits): Promise<void> {
  for (const id of ['saltwick-folk', 'tide-creatures']) {
    const files = await filesOf(join(kitsFolder, id))
    const there = await findKit(id)
    // a person's own kit of that id stays, and one that was removed stays away; one that is the same need not be read
    if (there && (there.origin === 'own' || there.removed || there.hash === (await kitHash(files)))) continue
    const { value: kit, problems } = await kept.readKit(files)
    if (!kit) throw new Error(`kit ${id}: ${problems[0]?.message}`)
    const { name, kitVersion } = kit.manifest
    await putKit({ id, name, kitVersion, hash: kit.hash, origin: 'demo' }, files)
  }
  const folder = join(kitsFolder, 'lantern-tide')
  const figures = (await readdir(folder))
    .filter((name) => name.endsWith('.recipe.json'))
    .sort((a, b) => Number(b === FIRST) - Number(a === FIRST) || (a < b ? -1 : 1))
  await fill('figure', folder, figures)
  await fill('mix', folder, MIXES)
  await fill('target', folder, TARGETS)
  await fill('picks', folder, ['sail-loft.picks.json'])
}

/** Adds documents of a kind that has none yet; what was deleted does not come back. */
async function fill(kind: Kind, folder: string, names: readonly string[]): Promise<void> {
  if (await countDocuments(kind)) return
  for (const name of names) {
    const { value } = BODIES.document(await readFile(join(folder, name), 'utf8'), kind)
    if (value) await addDocument(kind, value)
  }
}

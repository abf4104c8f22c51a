import { randomBytes } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, join, relative, resolve, sep } from 'node:path'
import { checkLibrary, problem, reducerReady, Shelf, type Kit, type Problem, type Read } from '@idle-tinker/core'
import { KeptKits } from '@idle-tinker/kept'
import { DOCUMENTS } from './places.ts'

/** Every file below a folder by its path in it, with forward slashes. */
export async function readFolder(folder: string): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue
    const path = join(entry.parentPath, entry.name)
    files.set(relative(folder, path).split(sep).join('/'), new Uint8Array(await readFile(path)))
  }
  return files
}

let kept: Promise<KeptKits> | undefined

/** Reads every kit among the folders: each is a kit itself or holds kits. */
export async function readKitFolders(
  folders: readonly string[],
): Promise<{ kits: Map<string, Kit>; problems: Problem[] }> {
  const kits = new Map<string, Kit>()
  const problems: Problem[] = []
  for (const folder of folders) {
    const info = await infoOf(folder)
    if (!info?.isDirectory()) {
      problems.push(
        problem('folder-missing', folder, 'There is no such folder.', 'Name a folder with kits after --kits.'),
      )
      continue
    }
    const own = await infoOf(join(folder, 'kit.json'))
    const candidates = own
      ? [folder]
      : (await readdir(folder, { withFileTypes: true })).filter((e) => e.isDirectory()).map((e) => join(folder, e.name))
    for (const path of candidates.sort()) {
      const files = await readFolder(path)
      if (!own && !files.has('kit.json')) continue
      const read = await (await (kept ??= KeptKits.beside(import.meta.url))).readKit(files)
      problems.push(...read.problems.map((p) => ({ ...p, where: `${basename(path)}/${p.where}` })))
      if (read.value) kits.set(read.value.manifest.id, read.value)
    }
  }
  await reducerReady
  problems.push(...checkLibrary(kits).filter((p) => p.severity !== 'info'))
  if (kits.size === 0)
    problems.push(
      problem('kits-missing', folders.join(', '), 'No kit was found.', 'Name a folder with kits after --kits.'),
    )
  return { kits, problems }
}

export async function readBytes(path: string): Promise<Read<Uint8Array>> {
  try {
    return { value: new Uint8Array(await readFile(path)), problems: [] }
  } catch {
    return { value: null, problems: [problem('file-missing', path, 'The file cannot be read.', 'Check its name.')] }
  }
}

export async function readText(path: string): Promise<Read<string>> {
  const { value, problems } = await readBytes(path)
  return { value: value && new TextDecoder().decode(value), problems }
}

/**
 * Makes a folder and those it lies in, one by one: asked for all at once, the system can wait for
 * ever on places where nothing can be made.
 */
export async function makeFolder(folder: string): Promise<Problem[]> {
  const missing: string[] = []
  let at = resolve(folder)
  for (let info = await infoOf(at); !info; info = await infoOf(at)) {
    missing.push(at)
    if (dirname(at) === at) break
    at = dirname(at)
  }
  const existing = await infoOf(at)
  if (!existing?.isDirectory())
    return [problem('folder-blocked', folder, `“${at}” is not a folder.`, 'Name another place.')]
  try {
    for (const path of missing.reverse()) await mkdir(path).catch(passIfThere)
    return []
  } catch (error) {
    return [problem('folder-failed', folder, `The folder cannot be made: ${messageOf(error)}.`, 'Name another place.')]
  }
}

const messageOf = (error: unknown) => (error instanceof Error ? error.message : String(error))
const codeOf = (error: unknown) => (error as { code?: string }).code

/** Two at once may make the same folder. */
function passIfThere(error: unknown): void {
  if (codeOf(error) !== 'EEXIST') throw error
}

/** What is at a path; null if nothing is. That it cannot be looked at is thrown. */
export async function infoOf(path: string) {
  try {
    return await stat(path)
  } catch (error) {
    if (codeOf(error) === 'ENOENT' || codeOf(error) === 'ENOTDIR') return null
    throw error
  }
}

/**
 * Replaces a file only by a complete one: written beside it, then moved into place. A device or a
 * pipe is written to and stays what it is.
 */
export async function writeWhole(path: string, content: Uint8Array | string): Promise<Problem[]> {
  const failed = (message: string) => [
    problem('write-failed', path, `It cannot be written: ${message}.`, 'Check the place, or name another.'),
  ]
  try {
    const info = await infoOf(path)
    if (info?.isDirectory()) return failed('there is a folder of that name')
    if (info && !info.isFile()) {
      await writeFile(path, content)
      return []
    }
    const faults = await makeFolder(dirname(path))
    if (faults.length) return faults
    const beside = `${path}.${randomBytes(6).toString('hex')}.part`
    try {
      await writeFile(beside, content)
      await rename(beside, path)
    } catch (error) {
      await rm(beside, { force: true })
      throw error
    }
    return []
  } catch (error) {
    return failed(messageOf(error))
  }
}

/** What ships with the demo kits, worked out when they were made; an empty shelf if it is not there. */
export async function readShelf(): Promise<Shelf> {
  const shelf = new Shelf()
  const path = join(DOCUMENTS, 'prepared.bin')
  if (await infoOf(path)) await shelf.fill(await readFile(path))
  return shelf
}

/** A file that lies beside another, or below it: nothing outside of its folder is read. */
export async function besideOf(file: string, uri: string): Promise<Uint8Array | undefined> {
  const folder = resolve(dirname(file))
  const path = resolve(folder, decodeURIComponent(uri))
  if (!path.startsWith(folder + sep)) return undefined
  return (await readBytes(path)).value ?? undefined
}

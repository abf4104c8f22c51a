import { randomBytes } from 'node:crypto'
import { mkdir, readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises'
import { basename, dirname, join, relative, sep } from 'node:path'
import { problem, readKit, type Kit, type Problem, type Read } from '@idle-tinker/core'

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

/** Reads every kit among the folders: each is a kit itself or holds kits. */
export async function readKitFolders(
  folders: readonly string[],
): Promise<{ kits: Map<string, Kit>; problems: Problem[] }> {
  const kits = new Map<string, Kit>()
  const problems: Problem[] = []
  for (const folder of folders) {
    const info = await stat(folder).catch(() => null)
    if (!info?.isDirectory()) {
      problems.push(
        problem('folder-missing', folder, 'There is no such folder.', 'Name a folder with kits after --kits.'),
      )
      continue
    }
    const own = await stat(join(folder, 'kit.json')).catch(() => null)
    const candidates = own
      ? [folder]
      : (await readdir(folder, { withFileTypes: true })).filter((e) => e.isDirectory()).map((e) => join(folder, e.name))
    for (const path of candidates.sort()) {
      const files = await readFolder(path)
      if (!own && !files.has('kit.json')) continue
      const read = await readKit(files)
      problems.push(...read.problems.map((p) => ({ ...p, where: `${basename(path)}/${p.where}` })))
      if (read.value) kits.set(read.value.manifest.id, read.value)
    }
  }
  if (kits.size === 0)
    problems.push(
      problem('kits-missing', folders.join(', '), 'No kit was found.', 'Name a folder with kits after --kits.'),
    )
  return { kits, problems }
}

export async function readText(path: string): Promise<Read<string>> {
  try {
    return { value: await readFile(path, 'utf8'), problems: [] }
  } catch {
    return { value: null, problems: [problem('file-missing', path, 'The file cannot be read.', 'Check its name.')] }
  }
}

/** Replaces a file only by a complete one: written beside it, then moved into place. */
export async function writeWhole(path: string, content: Uint8Array | string): Promise<void> {
  await mkdir(dirname(path), { recursive: true })
  const beside = `${path}.${randomBytes(6).toString('hex')}.part`
  try {
    await writeFile(beside, content)
    await rename(beside, path)
  } catch (error) {
    await rm(beside, { force: true })
    throw error
  }
}

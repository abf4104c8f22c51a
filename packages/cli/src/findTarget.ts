import { readdir } from 'node:fs/promises'
import { join } from 'node:path'
import { problem, readTarget, type Read, type Target } from '@idle-tinker/core'
import { readText } from './files.ts'
import { DOCUMENTS } from './places.ts'

const ENDING = '.target.json'

/** The target of a name among the documents beside the kits, or in a file. */
export async function findTarget(name: string, kitFolders: readonly string[]): Promise<Read<Target>> {
  const known: string[] = []
  for (const folder of [...kitFolders, DOCUMENTS])
    for (const file of await readdir(folder).catch(() => []))
      if (file.endsWith(ENDING)) {
        if (file === `${name}${ENDING}`) return readFileOf(join(folder, file))
        known.push(file.slice(0, -ENDING.length))
      }
  const text = await readText(name)
  if (text.value !== null) return readTarget(text.value, name)
  return {
    value: null,
    problems: [
      problem(
        'target-unknown',
        '--target',
        `There is no target “${name}”.`,
        `Use ${[...new Set(known)].join(', ')} or a target file.`,
      ),
    ],
  }
}

async function readFileOf(path: string): Promise<Read<Target>> {
  const text = await readText(path)
  return text.value === null ? { value: null, problems: text.problems } : readTarget(text.value, path)
}

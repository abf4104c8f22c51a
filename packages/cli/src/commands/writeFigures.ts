import { readdir, readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { writeWhole } from '../files.ts'
import type { Voice } from '../Voice.ts'
import { DOCUMENTS } from '../places.ts'

/** Writes the documents of the demo scenario. */
export async function writeFigures({ out }: { out: string }, { say, tell }: Voice): Promise<number> {
  const names = (await readdir(DOCUMENTS)).sort()
  for (const name of names) {
    const code = tell(await writeWhole(join(out, name), await readFile(join(DOCUMENTS, name))))
    if (code !== 0) return code
  }
  say(`${out}: ${names.length} documents`, { folder: out, documents: names.length })
  return 0
}

import { readClip, type KeptClip, type Problem } from '@idle-tinker/core'
import { readText } from './files.ts'

/** Clips of keys from their files; each that cannot be read is told. */
export async function readClips(paths: readonly string[] = []): Promise<{ clips: KeptClip[]; problems: Problem[] }> {
  const clips: KeptClip[] = []
  const problems: Problem[] = []
  for (const path of paths) {
    const text = await readText(path)
    const read = text.value === null ? { value: null, problems: text.problems } : readClip(text.value, path)
    problems.push(...read.problems)
    if (read.value) clips.push(read.value)
  }
  return { clips, problems }
}

import { readMatch, type MotionMatch, type Read } from '@idle-tinker/core'
import { infoOf, readText } from './files.ts'

/** The match in a file; none where there is no such file yet. */
export async function knownMatch(path: string | undefined): Promise<Read<MotionMatch>> {
  if (path === undefined || !(await infoOf(path))) return { value: null, problems: [] }
  const text = await readText(path)
  return text.value === null ? { value: null, problems: text.problems } : readMatch(text.value, path)
}

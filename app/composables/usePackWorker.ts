import type { Problem } from '@idle-tinker/core'
import { endWorker, onWorkerEnd } from '../workers'

/** So long something may take, milliseconds. */
const LONGEST = 120_000

/** The worker for files that were brought in: it holds them as long as they lie open, and ends with them. */
export function usePackWorker() {
  const problems = ref<Problem[]>([])
  /** What it is doing; nothing if it does nothing. */
  const busy = ref('')
  /** Whether it has read the files. */
  let read = false
  let asked = 0

  /** Says what it will be asked in a moment: an answer that is still to come is then of no use, and nothing else is begun. */
  function expect(what: string): void {
    asked++
    busy.value = what
  }
  /** Has it do something, for so long as it may; what stands in the way is told. Null where another question was asked meanwhile. */
  async function work<T>(what: string, task: () => Promise<T>): Promise<T | null> {
    const ask = ++asked
    busy.value = what
    const limit = setTimeout(() => stop('It took longer than two minutes, which nothing may.'), LONGEST)
    try {
      const answer = await task()
      return ask === asked ? answer : null
    } catch (error) {
      fail(error, ask === asked)
      return null
    } finally {
      clearTimeout(limit)
      if (ask === asked) busy.value = ''
    }
  }
  /** Whatever ended it, nobody knows what the worker holds now. */
  function fail(error: unknown, told = true): void {
    read = false
    if (told) problems.value = [problemOf(error)]
  }
  function stop(reason = 'It was stopped.'): void {
    read = false
    endWorker('pack', reason)
  }
  const forget = onWorkerEnd((name) => {
    if (name === 'pack') read = false
  })
  onBeforeUnmount(() => {
    forget()
    // it may be large
    stop()
  })
  return { problems, busy, expect, work, fail, stop, isRead: () => read, setRead: (on: boolean) => (read = on) }
}

/** Files as a worker takes them: by their paths in the folder that was dropped. */
export const contentsOf = (files: readonly File[]) =>
  Promise.all(files.map(async (file) => [pathOf(file), new Uint8Array(await file.arrayBuffer())] as const))

const pathOf = (file: File & { relativePath?: string }): string =>
  (file.relativePath ?? (file.webkitRelativePath || file.name)).replace(/^[./]+/, '')

const problemOf = (error: unknown): Problem => ({
  code: 'pack-failed',
  severity: 'error',
  where: 'pack',
  message: error instanceof Error ? error.message : String(error),
  remedy: 'Bring it in again.',
})

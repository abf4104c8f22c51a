import { resolve, sep } from 'node:path'
import { watch } from 'chokidar'

/** A file that is being written is read when nothing has come for so long, ms. */
const SETTLED = 150

/**
 * Does something once, and again each time one of some files, or something in one of some folders, has changed; never two
 * at a time. What changes meanwhile is done after it, once.
 *
 * @param paths  files and folders
 * @param except a folder in which nothing is looked at: what the work itself writes
 * @param until  tells when to stop; what is under way is done to its end
 */
export async function repeatOnChange(
  paths: readonly string[],
  except: string,
  until: AbortSignal,
  work: () => Promise<void>,
): Promise<void> {
  const out = resolve(except)
  const watcher = watch([...paths], {
    ignoreInitial: true,
    awaitWriteFinish: { stabilityThreshold: SETTLED, pollInterval: 50 },
    ignored: (path) => resolve(path) === out || resolve(path).startsWith(out + sep),
  })
  try {
    let changed = true
    let wake = () => {}
    let fault: unknown = null
    watcher.on('all', () => {
      changed = true
      wake()
    })
    watcher.on('error', (error) => {
      fault = error
      wake()
    })
    // what changes from here on is seen, also while the work reads it for the first time
    await new Promise<void>((done) => void watcher.once('ready', done))
    until.addEventListener('abort', () => wake(), { once: true })
    while (!until.aborted) {
      if (fault) throw fault
      if (changed) {
        changed = false
        await work()
      } else await new Promise<void>((done) => (wake = done))
    }
  } finally {
    await watcher.close()
  }
}

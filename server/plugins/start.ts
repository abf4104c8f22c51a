import { join } from 'node:path'
import { sweepBlobs } from '../db/blobs'
import { thinVersions } from '../db/documents'
import { forgetJobs } from '../db/jobs'
import { migrate } from '../db/migrate'
import { closeDatabase } from '../db/pool'
import { startQueue, stopQueue } from '../jobs/queue'
import { startReaders, stopReaders, theReaders } from '../jobs/readers'
import { refuse } from '../utils/answers'
import { seed } from '../utils/seed'

let ready: Promise<void> | null = null

export default defineNitroPlugin((nitro) => {
  if (!process.env.TINKER_DB) return
  const root = process.env.TINKER_ROOT ?? process.cwd()
  const worker = process.env.TINKER_WORKER ?? join(root, '.data/build/worker.mjs')
  startReaders(worker)
  ready = (async () => {
    await migrate(join(root, 'server/db/migrations'))
    await seed(join(root, 'kits'), await theReaders().keptKits())
    await thinVersions()
    await forgetJobs()
    await sweepBlobs()
    await startQueue(worker)
  })()
  ready.catch((error: unknown) => {
    console.error('The workshop cannot start:', error instanceof Error ? error.message : error)
    process.exit(1)
  })
  nitro.hooks.hook('request', async (event) => {
    if (event.path.startsWith('/api/')) await ready
  })
  // a page is no answer to the interface: what no route took, by its path or its method, is refused
  nitro.hooks.hook('render:html', (_html, { event }) => {
    const path = event.path.split('?')[0]!
    if (path.startsWith('/api/')) throw refuse(404, 'Not found', `There is nothing at ${event.method} ${path}.`)
  })
  nitro.hooks.hook('close', async () => {
    await Promise.all([stopQueue(), stopReaders()])
    await closeDatabase()
  })
})

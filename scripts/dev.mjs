// For work on the program itself: the app from its sources, rebuilt as they change, with a database of its own.
import { spawn } from 'node:child_process'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { buildWorker } from './build.mjs'
import { ensureModules, ensurePackages, ensureSpace } from './install.mjs'
import { startMariaDb } from './mariadb.mjs'
import { runScript, say } from './say.mjs'

/** How long the app may take to end, ms. */
const PATIENCE = 3_000
const root = dirname(dirname(fileURLToPath(import.meta.url)))

await runScript(async () => {
  ensureSpace(root)
  ensurePackages({ mariadbd: 'mariadb-server' })
  ensureModules(root)
  const worker = await buildWorker(join(root, '.data/dev/worker.mjs'))
  const database = await startMariaDb(process.env.TINKER_DEV_DATA ?? join(root, '.data/dev/db'))
  say(`Its own database: ${database.port}. Threads of jobs are bundled once: start again after changing them.`)
  const nuxt = spawn(join(root, 'node_modules/.bin/nuxt'), ['dev', '--host', '127.0.0.1', ...process.argv.slice(2)], {
    cwd: root,
    stdio: 'inherit',
    env: {
      ...process.env,
      TINKER_DB: database.address,
      TINKER_ROOT: root,
      TINKER_WORKER: worker,
      NUXT_TELEMETRY_DISABLED: '1',
    },
  })
  // told once, its development server may wait for what never ends
  const stop = () => {
    nuxt.kill('SIGTERM')
    setTimeout(() => nuxt.kill('SIGTERM'), PATIENCE).unref()
  }
  process.on('SIGINT', stop)
  process.on('SIGTERM', stop)
  await new Promise((resolve) => nuxt.once('exit', resolve))
  await database.stop()
})

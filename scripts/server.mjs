import { spawn } from 'node:child_process'
import { writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { stopLeftover } from './mariadb.mjs'
import { Stop } from './say.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const wait = (ms) => new Promise((resolve) => setTimeout(resolve, ms))

/**
 * Starts the built server on loopback and waits until it answers with its kits. With a `pidFile`,
 * a server that an earlier run has left is ended first.
 */
export async function startServer({ database, port, pidFile = null, quiet = false }) {
  if (pidFile) await stopLeftover(pidFile, '.output/server/index.mjs')
  const server = spawn(process.execPath, [join(root, '.output/server/index.mjs')], {
    stdio: ['ignore', quiet ? 'ignore' : 'inherit', 'inherit'],
    detached: true,
    env: {
      ...process.env,
      NODE_ENV: 'production',
      NITRO_HOST: '127.0.0.1',
      HOST: '127.0.0.1',
      NITRO_PORT: String(port),
      PORT: String(port),
      TINKER_DB: database,
      TINKER_ROOT: root,
      TINKER_WORKER: join(root, '.data/build/worker.mjs'),
    },
  })
  if (pidFile && server.pid) writeFileSync(pidFile, String(server.pid))
  let ended = false
  server.once('exit', () => (ended = true))
  const address = `http://127.0.0.1:${port}`
  for (let i = 0; ; i++) {
    if (ended || i > 600) throw new Stop('The server did not start: see above.')
    try {
      const answer = await fetch(`${address}/api/kits`)
      if (answer.ok) break
    } catch {
      // not up yet
    }
    await wait(100)
  }
  return {
    address,
    pid: server.pid,
    async stop() {
      if (ended) return
      server.kill('SIGTERM')
      for (let i = 0; i < 50 && !ended; i++) await wait(100)
      if (!ended) server.kill('SIGKILL')
    },
    whenEnded: new Promise((resolve) => server.once('exit', resolve)),
  }
}

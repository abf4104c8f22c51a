// The one command: from a bare checkout to a running workshop. Uses only Node's own modules until the rest is there.
import { existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { ensureModules, ensurePackages, ensureSpace } from './install.mjs'
import { freePort, isFull, isOurs, portIsFree, startMariaDb, stopLeftover } from './mariadb.mjs'
import { runScript, say, Stop } from './say.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const PORT = 4310
/** So often a database that ends by itself is started again. */
const MOST_STARTS = 5
/** So often it is looked whether there is room again on a disk that was full, ms. */
const LOOK = 1_000

function readArguments(args) {
  const given = { reset: false, port: null }
  for (let i = 0; i < args.length; i++) {
    if (args[i] === '--reset') given.reset = true
    else if (args[i] === '--port') given.port = Number(args[++i])
    else throw new Stop(`“${args[i]}” is not known. Use --reset to start over, --port N to choose a port.`)
  }
  if (given.port !== null && !(Number.isInteger(given.port) && given.port > 0 && given.port < 65536))
    throw new Stop('--port wants a number from 1 to 65535.')
  return given
}

const noteIn = (folder) => join(folder, 'demo.json')

/** Where another start of this command on the same data is running now; null if none is. */
function runningAt(folder) {
  if (!existsSync(noteIn(folder))) return null
  const { pid, address } = JSON.parse(readFileSync(noteIn(folder), 'utf8'))
  const file = `/proc/${pid}/cmdline`
  return existsSync(file) && readFileSync(file, 'utf8').includes('demo.mjs') ? address : null
}

await runScript(async () => {
  const { reset, port: asked } = readArguments(process.argv.slice(2))
  if (Number(process.versions.node.split('.')[0]) < 20)
    throw new Stop(`Node.js 20 or newer is needed; this is ${process.versions.node}.`)
  ensureSpace(root)
  ensurePackages({ mariadbd: 'mariadb-server' })
  ensureModules(root)
  const folder = process.env.TINKER_DATA ?? join(root, '.data/db')
  const running = runningAt(folder)
  if (running) throw new Stop(`The workshop is already running:  ${running}\nStop it there with Ctrl-C first.`)
  const pidFile = join(folder, 'server.pid')
  await stopLeftover(pidFile, '.output/server/index.mjs')
  if (asked !== null && !(await portIsFree(asked)))
    throw new Stop(`Port ${asked} is taken. Choose another with --port, or leave it out.`)
  const port = asked ?? ((await portIsFree(PORT)) ? PORT : await freePort())
  if (reset && existsSync(folder) && readdirSync(folder).length && !isOurs(folder))
    throw new Stop(`“${folder}” was not made by this program: it is not deleted. Name another folder in TINKER_DATA.`)
  if (reset) {
    // an earlier server on this data has to end first: starting and stopping does that
    const old = await startMariaDb(folder).catch(() => null)
    await old?.stop()
    rmSync(folder, { recursive: true, force: true })
  }
  const { ensureBuild } = await import('./build.mjs')
  const { startServer } = await import('./server.mjs')
  await ensureBuild()
  let database = await startMariaDb(folder)
  let server = null
  let stopping = false
  let fault = null
  let restart = null
  /** One that is just being started is stopped like any other; why it could not be started matters no more. */
  const stopDatabase = async () => {
    await Promise.allSettled([restart])
    await database.stop()
  }
  const stop = async () => {
    if (stopping) return
    stopping = true
    say('\nStopping …')
    await server?.stop()
    await stopDatabase()
    rmSync(noteIn(folder), { force: true })
    process.exit(0)
  }
  /** Waits on a full disk, which is told, until there is room; whether there is. */
  const room = async () => {
    if (isFull(folder)) say('The disk is full: the database is started again as soon as there is some space.')
    while (isFull(folder) && !stopping) await new Promise((resolve) => setTimeout(resolve, LOOK))
    return !stopping
  }
  const startAgain = async () => {
    while (await room()) {
      try {
        database = await startMariaDb(folder, { port: database.port })
        say('The database is back.')
        return
      } catch (error) {
        // it may have filled up once more meanwhile
        if (!isFull(folder)) throw error
      }
    }
  }
  /** Starts the database again, at its old address, when it has ended by itself; too often is too often. */
  const watch = (starts = 0) =>
    database.whenEnded.then(async () => {
      if (stopping) return
      if (starts === MOST_STARTS) throw new Stop(`The database keeps ending. Its log: ${join(folder, 'err.log')}`)
      say('The database has ended; it is started again …')
      restart = startAgain()
      await restart
      if (!stopping) return watch(starts + 1)
    })
  const given = watch().catch(async (error) => {
    fault = error
    stopping = true
    await server?.stop()
  })
  process.on('SIGINT', () => void stop())
  process.on('SIGTERM', () => void stop())
  try {
    server = await startServer({ database: database.address, port, pidFile })
  } catch (error) {
    await database.stop()
    throw error
  }
  writeFileSync(noteIn(folder), JSON.stringify({ pid: process.pid, address: server.address }))
  say(`\nIdle Tinker is running:  ${server.address}\nCtrl-C stops it.`)
  await Promise.race([server.whenEnded, given])
  // the server was ended because of it
  if (fault) throw fault
  if (!stopping) {
    stopping = true
    await stopDatabase()
    throw new Stop('The server has ended: see above.')
  }
})

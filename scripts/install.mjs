import { spawnSync } from 'node:child_process'
import { existsSync, statfsSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { say, Stop } from './say.mjs'

const NEEDED_BYTES = 400 << 20

export function hasProgram(name) {
  return (process.env.PATH ?? '')
    .split(':')
    .concat('/usr/sbin', '/usr/bin')
    .some((folder) => folder && existsSync(join(folder, name)))
}

function run(command, args, options = {}) {
  const done = spawnSync(command, args, { stdio: 'inherit', ...options })
  return done.status === 0
}

/** Debian packages by the program each brings; installs those that are missing, or says how. Looks at a lock again after `pause` ms. */
export function ensurePackages(programs, pause = 5000) {
  const missing = Object.entries(programs)
    .filter(([program]) => !hasProgram(program))
    .map(([, name]) => name)
  if (missing.length === 0) return
  const command = `apt-get install -y ${missing.join(' ')}`
  if (process.getuid?.() !== 0)
    throw new Stop(`These programs are missing. Install them, then start again:\n  sudo ${command}`)
  if (!hasProgram('apt-get')) throw new Stop(`Please install by hand: ${missing.join(', ')}`)
  say(`Installing ${missing.join(', ')} …`)
  aptGet(pause, 'update', '-qq')
  if (!aptGet(pause, 'install', '-y', '-qq', '--no-install-recommends', ...missing))
    throw new Stop(`The installation failed. Try it by hand:\n  ${command}`)
}

/** How long another installation may hold apt's lock, ms. */
const LOCKED_FOR = 600_000

/** Runs apt-get; while another program holds its lock, waits for that to end. True if all went well. */
function aptGet(pause, ...args) {
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive', LC_ALL: 'C' }
  for (let waited = 0; ; waited += pause) {
    const done = spawnSync('apt-get', args, { env, stdio: ['ignore', 'ignore', 'pipe'], encoding: 'utf8' })
    if (done.status === 0) return true
    if (!/could not get lock|unable to (acquire|lock)/i.test(done.stderr ?? '') || waited >= LOCKED_FOR) {
      process.stderr.write(done.stderr ?? '')
      return false
    }
    if (waited === 0) say('Another installation is under way; waiting for it …')
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0, pause)
  }
}

/** npm ci when there are no modules or they are older than the lockfile. */
export function ensureModules(root) {
  const marker = join(root, 'node_modules/.package-lock.json')
  if (existsSync(marker) && statSync(marker).mtimeMs >= statSync(join(root, 'package-lock.json')).mtimeMs - 1000) return
  say('Installing the packages (npm ci) …')
  if (!run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], { cwd: root }))
    throw new Stop('“npm ci” failed: see above.')
}

export function ensureSpace(root) {
  const { bavail, bsize } = statfsSync(root)
  if (bavail * bsize < NEEDED_BYTES)
    throw new Stop(
      `The disk has ${Math.round((bavail * bsize) / (1 << 20))} MB left; ${NEEDED_BYTES >> 20} MB are needed. Free some space and start again.`,
    )
}

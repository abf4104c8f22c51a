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

/** Debian packages by the program each brings; installs those that are missing, or says how. */
export function ensurePackages(programs) {
  const missing = Object.entries(programs)
    .filter(([program]) => !hasProgram(program))
    .map(([, name]) => name)
  if (missing.length === 0) return
  const command = `apt-get install -y ${missing.join(' ')}`
  if (process.getuid?.() !== 0)
    throw new Stop(`These programs are missing. Install them, then start again:\n  sudo ${command}`)
  if (!hasProgram('apt-get')) throw new Stop(`Please install by hand: ${missing.join(', ')}`)
  say(`Installing ${missing.join(', ')} …`)
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  run('apt-get', ['update', '-qq'], { env, stdio: ['ignore', 'ignore', 'inherit'] })
  if (
    !run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', ...missing], {
      env,
      stdio: ['ignore', 'ignore', 'inherit'],
    })
  )
    throw new Stop(`The installation failed. Try it by hand:\n  ${command}`)
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

import { spawnSync } from 'node:child_process'
import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { runScript, say, Stop } from './say.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const SOURCES = [
  'app',
  'server',
  'public',
  'packages/core/src',
  'packages/kept/src',
  'packages/runtime/src',
  'packages/tryout/src',
  'packages/example/src',
  'nuxt.config.ts',
  'package-lock.json',
  'scripts/build.mjs',
  'scripts/bundle.mjs',
  'scripts/checks.mjs',
]

function fingerprint() {
  const hash = createHash('sha256')
  const add = (path) => {
    if (!existsSync(path)) return
    if (statSync(path).isDirectory()) for (const name of readdirSync(path).sort()) add(join(path, name))
    else if (!/\.test\.ts$/.test(path)) hash.update(path.slice(root.length)).update(readFileSync(path))
  }
  for (const source of SOURCES) add(join(root, source))
  return hash.digest('hex')
}

/** Bundles what jobs run in their threads. Returns the path of the bundle. */
export async function buildWorker(outfile = join(root, '.data/build/worker.mjs')) {
  // only there once the packages are
  const { bundleForNode } = await import('./bundle.mjs')
  // the solver brings a file of its own
  await bundleForNode(join(root, 'server/jobs/worker.ts'), outfile, ['highs'])
  return outfile
}

/** Builds app and worker if their sources changed since the last build. */
export async function ensureBuild() {
  const stamp = join(root, '.data/build/stamp')
  const now = fingerprint()
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now && existsSync(join(root, '.output/server/index.mjs')))
    return
  say('Building the app (about a minute) …')
  mkdirSync(dirname(stamp), { recursive: true })
  await buildWorker()
  const done = spawnSync(join(root, 'node_modules/.bin/nuxt'), ['build'], {
    cwd: root,
    encoding: 'utf8',
    env: { ...process.env, NUXT_TELEMETRY_DISABLED: '1' },
  })
  if (done.status !== 0) throw new Stop(`The build failed:\n${done.stdout}\n${done.stderr}`)
  writeFileSync(stamp, now)
}

if (process.argv[1] === fileURLToPath(import.meta.url)) await runScript(ensureBuild)

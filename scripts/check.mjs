import { execFile, spawnSync } from 'node:child_process'
import { dirname, join } from 'node:path'
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'
import PQueue from 'p-queue'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const bin = (name) => join(root, 'node_modules/.bin', name)

/** The compiler for what has no components in it; theirs needs an older one, which has the same name. */
const FAST = '../typescript-native/bin/tsc'

/** Types, lint, format, unused code: each step by name, its command and arguments; the longest first. */
const STEPS = [
  ['lint of components', 'eslint', ['app/**/*.vue', '--max-warnings', '0']],
  ['types of the app', 'vue-tsc', ['-p', '.nuxt/tsconfig.app.json', '--noEmit']],
  ['types of the packages', FAST, ['-p', 'tsconfig.packages.json']],
  ['types of the server', FAST, ['-p', '.nuxt/tsconfig.server.json', '--noEmit']],
  ['types of what is shared', FAST, ['-p', '.nuxt/tsconfig.shared.json', '--noEmit']],
  ['types of the configuration', FAST, ['-p', '.nuxt/tsconfig.node.json', '--noEmit']],
  ['lint', 'oxlint', ['-c', 'oxlint.config.mjs', '--type-aware', '--deny-warnings', '.']],
  ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
  ['unused code', 'knip', ['--no-progress']],
]

let failed = 0
if (!existsSync(join(root, '.nuxt/tsconfig.app.json')))
  spawnSync(bin('nuxt'), ['prepare'], { cwd: root, stdio: 'ignore' })
/** Runs one step. What it says is told only when it fails: of a good one nobody wants to read. */
function run([name, command, args]) {
  return new Promise((resolve) => {
    execFile(bin(command), args, { cwd: root, maxBuffer: 64 << 20 }, (error, stdout, stderr) => {
      if (error) failed++
      process.stdout.write(`${error ? 'FAILED' : 'ok    '} ${name}\n`)
      if (error) process.stdout.write(`${stdout}${stderr}\n`)
      resolve()
    })
  })
}
// as many as a small machine has cores
await new PQueue({ concurrency: 2 }).addAll(STEPS.map((step) => () => run(step)))
process.stdout.write(`${STEPS.length - failed} passed, ${failed} failed\n`)
process.exit(failed ? 1 : 0)

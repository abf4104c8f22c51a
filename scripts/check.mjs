import { spawnSync } from 'node:child_process'
import { dirname, join } from 'node:path'
import { existsSync } from 'node:fs'
import { fileURLToPath } from 'node:url'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
const bin = (name) => join(root, 'node_modules/.bin', name)

/** Types, lint, format, unused code: each step by name, its command and arguments. */
const STEPS = [
  ['types of the packages', 'tsc', ['-p', 'tsconfig.packages.json']],
  ['types of the app', 'vue-tsc', ['-b', '--noEmit']],
  ['lint', 'eslint', ['.', '--max-warnings', '0']],
  ['format', 'prettier', ['--check', '--log-level', 'warn', '.']],
  ['unused code', 'knip', ['--no-progress']],
]

let failed = 0
if (!existsSync(join(root, '.nuxt/tsconfig.app.json')))
  spawnSync(bin('nuxt'), ['prepare'], { cwd: root, stdio: 'ignore' })
for (const [name, command, args] of STEPS) {
  const done = spawnSync(bin(command), args, { cwd: root, encoding: 'utf8' })
  const good = done.status === 0
  if (!good) failed++
  process.stdout.write(`${good ? 'ok    ' : 'FAILED'} ${name}\n`)
  if (!good) process.stdout.write(`${done.stdout}${done.stderr}\n`)
}
process.stdout.write(`${STEPS.length - failed} passed, ${failed} failed\n`)
process.exit(failed ? 1 : 0)

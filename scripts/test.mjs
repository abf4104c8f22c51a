// The second command: every test, from a bare checkout.
import { spawn } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { constants, setPriority } from 'node:os'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { ensureModules, ensurePackages, ensureSpace } from './install.mjs'
import { runScript, say } from './say.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))
let passed = 0
let failed = 0
const times = []
/** What failed, with its reason: said once more at the very end, where who reads only the end finds it. */
const faults = []

/**
 * Runs one part and says what it said, all at once when it is over: two parts run side by side.
 *
 * @param {string} name of the part
 * @param {string} command with its arguments
 * @param {number} priority it runs at
 * @returns what it wrote on its standard output, and whether it ended well
 */
async function runPart(name, [command, ...args], priority) {
  const start = Date.now()
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: '0' }
  const child = spawn(command, args, { cwd: root, env, stdio: ['ignore', 'pipe', 'pipe'] })
  if (child.pid !== undefined) setPriority(child.pid, priority)
  const [all, out] = [[], []]
  child.stdout.on('data', (chunk) => (all.push(chunk), out.push(chunk)))
  child.stderr.on('data', (chunk) => all.push(chunk))
  const code = await new Promise((resolve) => child.once('error', () => resolve(1)).once('close', resolve))
  times.push(`${name} ${Math.round((Date.now() - start) / 1000)} s`)
  say(`— ${name}`)
  process.stdout.write(
    Buffer.concat(all)
      .toString()
      .replace(/^\d+ passed, \d+ failed\n$/m, ''),
  )
  return { out: Buffer.concat(out).toString(), well: code === 0 }
}

/** Types, lint, format, unused code. */
async function runChecks(priority) {
  const { out } = await runPart('checks', [process.execPath, join(root, 'scripts/check.mjs')], priority)
  const counts = /(\d+) passed, (\d+) failed/.exec(out)
  passed += Number(counts?.[1] ?? 0)
  failed += counts ? Number(counts[2]) : 1
  if (!counts || Number(counts[2])) faults.push(`checks:\n${out.slice(-4000)}`)
}

/** The tests of one of Vitest's projects. */
async function runProject(project, priority) {
  const report = join(root, `.data/${project}.json`)
  rmSync(report, { force: true })
  const { out, well } = await runPart(
    project,
    [
      join(root, 'node_modules/.bin/vitest'),
      ...['run', '--project', project, '--silent=passed-only'],
      ...['--reporter=dot', '--reporter=json', `--outputFile.json=${report}`],
    ],
    priority,
  )
  try {
    const result = JSON.parse(readFileSync(report, 'utf8'))
    passed += result.numPassedTests
    failed += result.numFailedTests
    for (const { assertionResults, message, name } of result.testResults) {
      for (const test of assertionResults.filter(({ status }) => status === 'failed')) {
        faults.push(`${project} › ${test.fullName}\n${test.failureMessages.join('\n').slice(0, 2000)}`)
      }
      if (message) faults.push(`${project} › ${name}\n${message.slice(0, 2000)}`)
    }
    if (well || result.numFailedTests > 0) return
  } catch (error) {
    faults.push(`${project}: no report (${error.message})`)
  }
  failed++
  faults.push(`${project}: ended badly\n${out.slice(-2000)}`)
}

await runScript(async () => {
  ensureSpace(root)
  ensurePackages({ mariadbd: 'mariadb-server', chromium: 'chromium', chromedriver: 'chromium-driver' })
  ensureModules(root)
  mkdirSync(join(root, '.data'), { recursive: true })
  const { ensureBuild } = await import('./build.mjs')
  const build = async () => {
    const start = Date.now()
    await ensureBuild()
    times.push(`build ${Math.round((Date.now() - start) / 1000)} s`)
  }
  const { PRIORITY_NORMAL: first, PRIORITY_LOW: behind } = constants.priority
  // Journeys wait a third of their time: for a page, for a picture. Then the rest is computed, which has no clock to keep.
  const inFront = async () => {
    await built
    await runProject('e2e', first)
    await runProject('server', first)
  }
  const between = async () => {
    await runProject('unit', behind)
    // types and the page's own modules come with the build
    await built
    await runProject('app', behind)
    await runProject('app alone', behind)
    await runChecks(behind)
  }
  const built = build()
  await Promise.all([inFront(), between()])
  for (const fault of faults) say(`✗ ${fault}`)
  say(times.join(', '))
  say(`${passed} passed, ${failed} failed`)
  process.exitCode = failed ? 1 : 0
})

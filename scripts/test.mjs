// The second command: every test, from a bare checkout.
import { spawnSync } from 'node:child_process'
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { ensureModules, ensurePackages, ensureSpace } from './install.mjs'
import { runScript, say } from './say.mjs'

const root = dirname(dirname(fileURLToPath(import.meta.url)))

await runScript(async () => {
  ensureSpace(root)
  ensurePackages({ mariadbd: 'mariadb-server', chromium: 'chromium', chromedriver: 'chromium-driver' })
  ensureModules(root)
  const { ensureBuild } = await import('./build.mjs')
  let passed = 0
  let failed = 0
  const times = []
  /** Notes how long a part took. */
  const timed = (name, work) => {
    const start = Date.now()
    const result = work()
    times.push(`${name} ${Math.round((Date.now() - start) / 1000)} s`)
    return result
  }
  say('— types, lint, format, unused code')
  const check = timed('checks', () =>
    spawnSync(process.execPath, [join(root, 'scripts/check.mjs')], {
      cwd: root,
      stdio: ['ignore', 'pipe', 'inherit'],
      encoding: 'utf8',
    }),
  )
  process.stdout.write(check.stdout.replace(/^\d+ passed, \d+ failed\n$/m, ''))
  const counts = /(\d+) passed, (\d+) failed/.exec(check.stdout)
  passed += Number(counts?.[1] ?? 0)
  failed += counts ? Number(counts[2]) : 1
  const start = Date.now()
  await ensureBuild()
  times.push(`build ${Math.round((Date.now() - start) / 1000)} s`)
  mkdirSync(join(root, '.data'), { recursive: true })
  for (const project of ['unit', 'app', 'server', 'e2e']) {
    say(`— ${project}`)
    const report = join(root, `.data/${project}.json`)
    rmSync(report, { force: true })
    const run = timed(project, () =>
      spawnSync(
        join(root, 'node_modules/.bin/vitest'),
        ['run', '--project', project, '--reporter=dot', '--reporter=json', `--outputFile.json=${report}`],
        { cwd: root, stdio: 'inherit' },
      ),
    )
    try {
      const result = JSON.parse(readFileSync(report, 'utf8'))
      passed += result.numPassedTests
      failed += result.numFailedTests
      if (run.status !== 0 && result.numFailedTests === 0) failed++
    } catch {
      failed++
    }
  }
  say(times.join(', '))
  say(`${passed} passed, ${failed} failed`)
  process.exitCode = failed ? 1 : 0
})

// Speed is measured of what ships: one bundle, as the commands start from, not sources that are translated on the way.
import { spawnSync } from 'node:child_process'
import { bundled } from '../packages/cli/bin/bundled.mjs'

const main = await bundled('bench/main.ts', ['bench'])
const firstBuild = await bundled('bench/firstBuild.ts', ['bench'])

// where no bundle can be made, the sources are run
const translated = main.endsWith('.ts') || firstBuild.endsWith('.ts') ? ['--import', 'tsx'] : []
const { status } = spawnSync(process.execPath, [...translated, main, firstBuild, ...process.argv.slice(2)], {
  stdio: 'inherit',
})
process.exitCode = status ?? 1

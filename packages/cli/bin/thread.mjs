// What a thread of its own runs: see src/crowdWorkers.ts.
import { pathToFileURL } from 'node:url'
import { bundled } from './bundled.mjs'

const { shipOne } = await import(pathToFileURL(await bundled('packages/cli/src/shipOne.ts')).href)
export default shipOne

// What a thread of its own runs: see src/crowdWorkers.ts.
import { pathToFileURL } from 'node:url'
import { bundled } from './bundled.mjs'

const { shipInThread } = await import(pathToFileURL(await bundled('packages/cli/src/shipInThread.ts')).href)
export default shipInThread

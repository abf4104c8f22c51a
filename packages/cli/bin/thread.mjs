// What a thread of its own runs: see src/crowdWorkers.ts.
import { register } from 'tsx/esm/api'

register()
const { shipOne } = await import('../src/shipOne.ts')
export default shipOne

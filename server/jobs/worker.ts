/** What threads run: each export is a task, called by its name. */
export { buildPicks } from './buildPicksTask.ts'
export { openKit } from './openKit.ts'
export { packKit } from './packKit.ts'
export { readBody } from './readBody.ts'
export { shipShipment } from './shipTask.ts'

import { zipSync } from 'fflate'
import {
  Builder,
  crowdTable,
  fileNames,
  keptToCarry,
  problem,
  shipCarried,
  type Problem,
  type ShippedVariant,
} from '@idle-tinker/core'
import type { ThreadTask } from './inThread.ts'
import { readKitsOf } from './readKitsOf.ts'
import { readShipCrowd, type ShipCrowdOrder } from './shipCrowdInput.ts'

export { buildPicks } from './buildPicksTask.ts'
export { openKit } from './openKit.ts'
export { readBody } from './readBody.ts'

export interface ShipCrowdResult {
  zip: Uint8Array | null
  report: { file: string; name: string; triangles: number; bones: number; bytes: number; passed: string[] }[]
  problems: Problem[]
}

/** Ships every recipe into one zip. Runs in a worker thread; tells its progress over the port, which may say stop. */
export default async function shipCrowd({
  order,
  kits: kitFiles,
  prepared,
  port,
}: ThreadTask): Promise<ShipCrowdResult> {
  let stopped = false
  port.on('message', () => (stopped = true))
  try {
    // it may have been ordered before the workshop was updated
    const { value: input, problems } = readShipCrowd(JSON.parse(order) as ShipCrowdOrder, 'job')
    if (!input) return { zip: null, report: [], problems }
    const { kits, shelf } = await readKitsOf(kitFiles, prepared)
    const builder = new Builder(kits, shelf)
    const files = fileNames(
      input.pattern,
      input.recipes.map((r) => r.name),
      input.target.id,
    )
    const along = input.motions.map(keptToCarry)
    const entries: Record<string, Uint8Array> = {}
    const report: ShipCrowdResult['report'] = []
    const variants: ShippedVariant[] = []
    for (const [i, recipe] of input.recipes.entries()) {
      if (stopped)
        return { zip: null, report, problems: [problem('canceled', 'job', 'The job was canceled.', 'Start it again.')] }
      const options = { lods: input.lods, own: true, keyed: input.keyed }
      const shipped = await shipCarried(builder, kits, recipe, input.target, along, options)
      if (!shipped.bytes || !shipped.figure)
        return {
          zip: null,
          report,
          problems: shipped.problems.map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` })),
        }
      const file = `${files[i]}.glb`
      entries[file] = shipped.bytes
      variants.push({ file, recipe, costs: shipped.figure.costs })
      report.push({
        file,
        name: recipe.name,
        triangles: shipped.figure.costs.triangles,
        bones: shipped.figure.costs.bones,
        bytes: shipped.bytes.length,
        passed: shipped.check?.passed ?? [],
      })
      port.postMessage(i + 1)
      // let a stop message in
      await new Promise((resolve) => setImmediate(resolve))
    }
    entries['crowd.json'] = new TextEncoder().encode(crowdTable(input.mix, input.target, variants, kits))
    const zip = zipSync(entries, { level: 6, mtime: new Date('2026-01-01T00:00:00Z') })
    return { zip, report, problems: [] }
  } finally {
    port.close()
  }
}

import { zipSync } from 'fflate'
import {
  Builder,
  crowdTable,
  fileNames,
  keptToCarry,
  problem,
  clipsAlong,
  hasErrors,
  shipFormats,
  type ShippedAs,
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
      const { clips } = clipsAlong(kits, recipe, { motions: along, own: true, keyed: input.keyed })
      const stem = files[i]!
      const made = await shipFormats(builder, kits, recipe, input.target, input.formats, {
        ...{ lods: input.lods, stem, clips },
      })
      // one that cannot leave as something holds all back: a crowd is whole
      const held = made.find((m) => !m.files || (hasErrors(m.problems) && !input.insist))
      if (held)
        return {
          zip: null,
          report,
          problems: [
            ...held.problems.map((p) => ({ ...p, where: `${recipe.name}: ${p.where}` })),
            // what could be written goes if one insists
            ...(held.files ? [problem('withheld', 'job', 'It was kept back for that.', '', 'info')] : []),
          ],
        }
      const own = new Map(made.flatMap((m) => [...m.files!]))
      const taken = [...own.keys()].find((name) => Object.hasOwn(entries, name))
      if (taken !== undefined)
        return {
          zip: null,
          report,
          problems: [
            problem(
              'names-clash',
              recipe.name,
              `Another figure has a file “${taken}”.`,
              'Put {number} into the names.',
            ),
          ],
        }
      for (const [name, bytes] of own) entries[name] = bytes
      const [{ costs, passed }] = made as [ShippedAs]
      const [file] = own.keys()
      variants.push({ file: file!, recipe, costs: costs! })
      report.push({
        ...{ file: file!, name: recipe.name, passed },
        ...{ triangles: costs!.triangles, bones: costs!.bones },
        bytes: [...own.values()].reduce((sum, b) => sum + b.length, 0),
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

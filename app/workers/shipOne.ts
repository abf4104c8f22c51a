import { zipSync } from 'fflate'
import { clipsAlong, hasErrors, keptToCarry, shipFormats, type Builder, type Kit } from '@idle-tinker/core'
import type { ShipAnswer, ShipOne } from './protocol'

/** A figure in some formats: the one file it comes to, or all of them as a zip, each format whole or not at all. */
export async function shipOne(builder: Builder, kits: Map<string, Kit>, order: ShipOne): Promise<ShipAnswer> {
  const { recipe, target, formats, lods, stem, insist } = order
  const { clips, problems } = clipsAlong(kits, recipe, {
    motions: order.motions.map(keptToCarry),
    ...{ keyed: order.keyed, own: true },
  })
  const made = await shipFormats(builder, kits, recipe, target, formats, { lods, stem, clips })
  const files = new Map<string, Uint8Array>()
  const shipped = made.map(({ files: own, ...told }, i) => {
    // what the clips came to is told once
    const all = { ...told, problems: i === 0 ? [...problems, ...told.problems] : told.problems }
    if (!own || (hasErrors(told.problems) && !insist)) return { ...all, files: [] }
    for (const [name, bytes] of own) files.set(name, bytes)
    return { ...all, files: [...own.keys()] }
  })
  const [only] = files
  if (!only) return { file: null, shipped }
  if (files.size === 1) return { file: { name: only[0], bytes: only[1] }, shipped }
  // the same files, the same bytes
  const bytes = zipSync(Object.fromEntries(files), { level: 6, mtime: new Date('2026-01-01T00:00:00Z') })
  return { file: { name: `${stem}.zip`, bytes }, shipped }
}

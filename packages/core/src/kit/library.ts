import { problem, type Problem } from '../base/problem.ts'
import { BODY_PLANS } from './plans/index.ts'
import type { BodyPlan } from './plan.ts'
import type { BodyDef, ColorRegionDef, KitManifest, PaletteDef, PartDef, SlotDef } from './schema.ts'

/** The kits of a project by id, as far as their manifests go. Slots and color regions are one vocabulary. */
export type Manifests = ReadonlyMap<string, { manifest: KitManifest }>

/** Names a body or part of any kit. */
export interface KitRef {
  kit: string
  id: string
}

/** "kit/id": how bodies and parts are told apart across kits. */
export function fullName({ kit, id }: KitRef): string {
  return `${kit}/${id}`
}

/** A name as manifests write it, "id" or "kit/id", looked at from a kit. */
export function refOf(name: string, ownKit: string): KitRef {
  const slash = name.indexOf('/')
  return slash < 0 ? { kit: ownKit, id: name } : { kit: name.slice(0, slash), id: name.slice(slash + 1) }
}

/** Whether a list of names, written in a kit, names a body. */
export function namesBody(names: readonly string[], ownKit: string, body: KitRef): boolean {
  return names.some((name) => name === fullName(body) || (ownKit === body.kit && name === body.id))
}

export interface KitPart {
  kit: string
  def: PartDef
}

export function bodyOf(kits: Manifests, { kit, id }: KitRef): BodyDef | undefined {
  return kits.get(kit)?.manifest.bodies.find((b) => b.id === id)
}

export function partOf(kits: Manifests, { kit, id }: KitRef): KitPart | undefined {
  const def = kits.get(kit)?.manifest.parts.find((p) => p.id === id)
  return def && { kit, def }
}

/** The kits, that of the body first, the others by their ids. */
function inOrder(kits: Manifests, first: string): [string, KitManifest][] {
  return [...kits]
    .map(([id, { manifest }]): [string, KitManifest] => [id, manifest])
    .sort(([a], [b]) => Number(b === first) - Number(a === first) || (a < b ? -1 : 1))
}

/** The slots of a body, from head to foot as its kit lists them, then those that other kits add. */
export function slotsFor(kits: Manifests, body: KitRef): SlotDef[] {
  const slots = new Map<string, SlotDef>()
  for (const [id, manifest] of inOrder(kits, body.kit))
    for (const slot of manifest.slots)
      if (!slots.has(slot.id) && namesBody(slot.bodies, id, body)) slots.set(slot.id, slot)
  return [...slots.values()]
}

/** Whether a slot holds one thing after another, put there by hand. */
export const holdsSeveral = (slot: SlotDef): boolean => (slot.most ?? 1) > 1

/** Whether chance never fills a slot. */
export const leftToHands = (slot: SlotDef): boolean => slot.empty === 1

/** The parts of every kit that may stand in a slot of a body; those of the body's own kit first. */
export function partsFor(kits: Manifests, body: KitRef, slot: string): KitPart[] {
  return inOrder(kits, body.kit).flatMap(([kit, manifest]) =>
    manifest.parts.filter((p) => p.slot === slot && namesBody(p.bodies, kit, body)).map((def) => ({ kit, def })),
  )
}

/** Color regions by id: where two kits have one of a name, that of the first kit asked for counts. */
export function colorRegionsOf(kits: Manifests, first: string): Map<string, ColorRegionDef> {
  const regions = new Map<string, ColorRegionDef>()
  for (const [, manifest] of inOrder(kits, first))
    for (const region of manifest.colorRegions) if (!regions.has(region.id)) regions.set(region.id, region)
  return regions
}

/** The palettes that a body can be dressed in: its kit's, then those of the others, each id once. */
export function palettesFor(kits: Manifests, body: KitRef): PaletteDef[] {
  const palettes = new Map<string, PaletteDef>()
  for (const [, manifest] of inOrder(kits, body.kit))
    for (const palette of manifest.palettes) if (!palettes.has(palette.id)) palettes.set(palette.id, palette)
  return [...palettes.values()]
}

/** A plan by its id: a kit's own, or one that comes with the workshop. */
export function planOf(manifest: Pick<KitManifest, 'plans'>, id: string): BodyPlan | undefined {
  return manifest.plans?.find((p) => p.id === id) ?? BODY_PLANS.get(id)
}

/**
 * What one kit can be told about a part on a body: its slot, socket, seam and regions. For bodies
 * of its own kit reading tells these; for those of others they are asked when both kits are there.
 */
export function checkPartOnBody(
  { def, kit }: KitPart,
  body: BodyDef,
  slots: readonly SlotDef[],
  where: string,
): Problem[] {
  const problems: Problem[] = []
  const miss = (code: string, place: string, what: string, remedy: string) =>
    problems.push(problem(code, `${where}/${place}`, `${what} (part “${def.id}” of “${kit}”).`, remedy))
  if (!slots.some((s) => s.id === def.slot))
    miss('slot-unknown', 'slot', `“${body.name}” has no slot “${def.slot}”`, 'Add the slot or choose another.')
  if (def.how === 'attached' && !body.sockets.some((s) => s.id === def.socket))
    miss('socket-unknown', 'socket', `The body has no socket “${def.socket}”`, 'Name one of its sockets.')
  if (def.how === 'replaces' && !body.seams.some((s) => s.id === def.seam))
    miss('seam-unknown', 'seam', `The body has no seam “${def.seam}”`, 'Name one of its seams.')
  if (def.how === 'worn')
    for (const region of def.binds ?? [])
      if (!body.regions.some((r) => r.id === region))
        miss('region-unknown', 'binds', `The body has no region “${region}”`, 'Name one of its regions.')
  return problems
}

/** What is wrong between kits that are all here: bodies named that are not there, parts that cannot sit on them. */
export function checkLibrary(kits: Manifests): Problem[] {
  const problems: Problem[] = []
  for (const [kit, { manifest }] of kits)
    manifest.parts.forEach((def, i) => {
      for (const name of def.bodies) {
        const ref = refOf(name, kit)
        if (ref.kit === kit) continue
        const where = `${kit}/kit.json/parts/${i}`
        const body = bodyOf(kits, ref)
        if (body) problems.push(...checkPartOnBody({ kit, def }, body, slotsFor(kits, ref), where))
        else
          problems.push(
            problem(
              'body-not-here',
              `${where}/bodies`,
              `The body “${name}” is not here.`,
              `Add the kit “${ref.kit}” to use this part on it.`,
              'info',
            ),
          )
      }
    })
  return problems
}

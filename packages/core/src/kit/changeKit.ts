import type { BodyDef, KitManifest, PartDef } from './schema.ts'

/*
 * Changes of a kit's description, each a new one. What a kit was stays with its older version.
 */

/** The next version of a kit: a change that its figures bear. */
export function nextVersion(version: string): string {
  const [major, minor, patch] = version.split('.').map(Number) as [number, number, number]
  return `${major}.${minor}.${patch + 1}`
}

/** The version that a kit is saved as: what a draft says where that is later than what there is, else the next one. */
export function versionAfter(now: string, said: string): string {
  const [a, b] = [now, said].map((version) => version.split('.').map(Number))
  const at = [0, 1, 2].find((i) => a![i] !== b![i])
  return at !== undefined && b![at]! > a![at]! ? said : nextVersion(now)
}

/** With another description of a part; which it is, its id says. */
export function changePart(manifest: KitManifest, def: PartDef): KitManifest {
  return { ...manifest, parts: manifest.parts.map((p) => (p.id === def.id ? def : p)) }
}

/** Bodies that always have a part on: it cannot leave their kit. */
export const alwaysOn = (manifest: KitManifest, id: string): string[] =>
  manifest.bodies.filter((b) => Object.values(b.defaults).includes(id)).map((b) => b.name)

/** Without a part, and without what of the kit names it: looks, archetypes, rules of other parts. */
export function dropPart(manifest: KitManifest, id: string): KitManifest {
  const { looks } = manifest
  const others = <T extends string | null>(ids: readonly T[]) => ids.filter((one) => one !== id)
  const archetypesOf = (sets: NonNullable<BodyDef['archetypes']>) =>
    sets.map((set) => ({
      ...set,
      archetypes: set.archetypes.map(({ parts, ...archetype }) => {
        const left = Object.entries(parts ?? {}).map(([slot, ids]) => [slot, others(ids)] as const)
        // a slot of which nothing is left takes any part again
        return { ...archetype, ...(parts && { parts: Object.fromEntries(left.filter(([, ids]) => ids.length)) }) }
      }),
    }))
  return {
    ...manifest,
    bodies: manifest.bodies.map(({ archetypes, ...body }) => ({
      ...body,
      ...(archetypes && { archetypes: archetypesOf(archetypes) }),
    })),
    parts: manifest.parts
      .filter((p) => p.id !== id)
      .map((p) => ({
        ...p,
        ...(p.requires && { requires: others(p.requires) }),
        ...(p.excludes && { excludes: others(p.excludes) }),
      })),
    ...(looks && { looks: looks.map((look) => ({ ...look, parts: others(look.parts) })) }),
  }
}

/** With all that another brings, in place of what has the same ids; it keeps its own name and version. */
export function addToKit(manifest: KitManifest, more: KitManifest): KitManifest {
  const joined = <T extends { id: string }>(mine: readonly T[], theirs: readonly T[]): T[] => {
    const fresh = new Map(theirs.map((entry) => [entry.id, entry]))
    return [...mine.map((m) => fresh.get(m.id) ?? m), ...theirs.filter((t) => !mine.some((m) => m.id === t.id))]
  }
  return {
    ...manifest,
    ...(more.plans && { plans: joined(manifest.plans ?? [], more.plans) }),
    ...(more.looks && { looks: joined(manifest.looks ?? [], more.looks) }),
    bodies: joined(manifest.bodies, more.bodies),
    slots: joined(manifest.slots, more.slots),
    parts: joined(manifest.parts, more.parts),
    colorRegions: joined(manifest.colorRegions, more.colorRegions),
    palettes: joined(manifest.palettes, more.palettes),
    clips: joined(manifest.clips, more.clips),
  }
}

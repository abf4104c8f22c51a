/*
 * Kits as they were: bodies of one plan, bones beyond it without limbs. What came since is only
 * more; a kit of version 1 becomes one of version 2 by saying what was taken for granted then.
 */

interface Bone {
  name: string
  parent: string | null
}

/**
 * Upgrades a parsed kit.json of version 1. Takes anything that says it is one: what does not have
 * the expected form is passed on as it is, for the schema to tell.
 */
export function upgradeKitV1(manifest: Record<string, unknown>): Record<string, unknown> {
  const bodies = Array.isArray(manifest.bodies) ? manifest.bodies.map(withChains) : manifest.bodies
  return { ...manifest, version: 2, bodies }
}

/** Bones beyond the plan that hang one from another were moved as one, from the first to the last. */
function withChains(body: unknown): unknown {
  const bones = (body as { bones?: unknown } | null)?.bones
  if (!Array.isArray(bones) || bones.length === 0 || bones.length > 120 || !bones.every(isBone)) return body
  const limbs = chainsOf(bones).map((chain) => ({
    id: stemOf(chain[0]!),
    kind: 'tail',
    bones: chain,
    channels: [stemOf(chain[0]!)],
    lag: 0.09,
  }))
  return { ...(body as object), limbs }
}

function isBone(value: unknown): value is Bone {
  return typeof (value as Bone | null)?.name === 'string'
}

/** Runs of bones each of which is the only one that hangs from the one before it. */
function chainsOf(bones: readonly Bone[]): string[][] {
  const names = new Set(bones.map((b) => b.name))
  const children = (parent: string) => bones.filter((b) => b.parent === parent)
  const chains: string[][] = []
  const used = new Set<string>()
  for (const { name, parent } of bones) {
    if (used.has(name) || (parent !== null && names.has(parent) && children(parent).length === 1)) continue
    const chain: string[] = []
    for (let at: string | undefined = name; at !== undefined && !used.has(at);) {
      used.add(at)
      chain.push(at)
      const next: Bone[] = children(at)
      at = next.length === 1 ? next[0]!.name : undefined
    }
    if (chain.length <= 24) chains.push(chain)
  }
  return chains
}

const stemOf = (name: string) => name.replace(/\d+$/, '') || name

import {
  bodyOf,
  buildPackage,
  fullName,
  loadProver,
  partReference,
  partsFor,
  PICKS_FORMAT,
  withCodes,
  type BuiltPackage,
  type PickBody,
  type Picks,
  type Problem,
  type Target,
} from '@idle-tinker/core'
import { demoKit, demoTarget } from '../../../core/src/testing/demoKits.ts'
import type { PackageManifest } from '../manifest.ts'
import type { ReadFile } from '../Wardrobe.ts'

export const kits = new Map(
  [await demoKit('saltwick-folk'), await demoKit('tide-creatures')].map((k) => [k.manifest.id, k]),
)
const prover = await loadProver()

/** Slot to the parts of it that are offered: every way a part can be worn is among them. */
const OFFERED: Record<string, Record<string, string[]>> = {
  human: {
    hat: ['hat-brimmed', 'cap-knit'],
    hair: ['hair-braid', 'hair-cropped'],
    eyes: ['eyes-open', 'eyes-bright'],
    top: ['shirt-work', 'jersey', 'dress-market'],
    over: ['coat-quay', 'waistcoat'],
    belt: ['belt-rope'],
    legs: ['trousers', 'skirt-work'],
    'left-leg': ['peg-leg'],
    feet: ['boots-sea', 'shoes-buckled'],
    back: ['basket'],
    'right-hand': ['lantern'],
  },
  ottern: { eyes: ['eyes-round', 'eyes-sly'], neck: ['scarf-striped', 'frill'], tail: ['tail-ottern', 'tail-rings'] },
}
const SLIDERS: Record<string, string[]> = {
  human: ['stature', 'belly', 'legs', 'nose'],
  ottern: ['stature', 'girth', 'tail-length'],
}
const COLORS: Record<string, Record<string, string[]>> = {
  human: { hair: ['#8a4a24', '#2a1d18'], coat: ['#2f7285', '#5c4a38', '#884444'] },
  ottern: { fur: ['#7a5238', '#48372f'] },
}
const NEEDED = ['eyes', 'top', 'legs']

export function pickBody(kit: string, body: string): PickBody {
  const ref = { kit, id: body }
  const def = bodyOf(kits, ref)!
  return {
    ...{ id: body, name: body, body: partReference(kits.get(kit)!, body) },
    slots: Object.entries(OFFERED[body]!).map(([slot, ids]) => {
      const parts = partsFor(kits, ref, slot).filter((p) => ids.includes(p.def.id))
      return {
        slot,
        parts: parts.map((p) => ({
          part: p.kit === kit ? p.def.id : fullName({ kit: p.kit, id: p.def.id }),
          ...(p.def.id === 'cap-knit' && { earned: 'first-winter' }),
        })),
        ...{ start: NEEDED.includes(slot) ? parts[0]!.def.id : null, needed: NEEDED.includes(slot) },
      }
    }),
    sliders: SLIDERS[body]!.map((slider) => {
      const { min, max } = def.sliders.find((s) => s.id === slider)!
      return { slider, min: Math.max(min, -0.8), max: Math.min(max, 0.8), start: 0 }
    }),
    colors: Object.fromEntries(
      // tests change what they are given
      Object.entries(COLORS[body]!).map(([id, swatches]) => [id, { swatches: [...swatches], start: swatches[0]! }]),
    ),
    ...{ expressions: ['glad', 'angry'], rules: [], covered: [], clips: ['idle', 'walk'] },
    ...(body === 'ottern' && { springs: { tail: { stiffness: 0.8, drag: 0.4, gravity: 0.15 } } }),
  }
}

/** Two bodies with a few parts of every kind. */
export const smallPicks = (): Picks =>
  withCodes({
    ...{ format: PICKS_FORMAT, version: 1, id: 'quay', name: 'On the quay', icons: 48 },
    bodies: [pickBody('saltwick-folk', 'human'), pickBody('tide-creatures', 'ottern')],
  })

export const smallTarget = (): Target => {
  const near = demoTarget('near')
  const lods = [{ triangles: 3500 }, { triangles: 1600 }]
  return { ...near, atlas: 256, limits: { ...near.limits, triangles: 7000, vertices: 20_000 }, lods }
}

export async function build(
  picks: Picks,
  target = smallTarget(),
): Promise<{ value: BuiltPackage | null; problems: Problem[] }> {
  return buildPackage(picks, kits, target, { prover })
}

/** A package as it was built, read by the runtime: from memory. */
export function readerOf(files: ReadonlyMap<string, Uint8Array>): ReadFile {
  return (path) => {
    const bytes = files.get(path)
    return bytes ? Promise.resolve(bytes) : Promise.reject(new Error(`no ${path}`))
  }
}

let made: Promise<BuiltPackage> | null = null
/** The small package, built once for all tests of a run. */
export function smallPackage(): Promise<BuiltPackage> {
  made ??= build(smallPicks()).then(({ value, problems }) => {
    if (!value) throw new Error(JSON.stringify(problems))
    return value
  })
  return made
}

/** What was built fits what the runtime takes: said to the compiler. */
export const manifestOf = ({ manifest }: BuiltPackage): PackageManifest => manifest

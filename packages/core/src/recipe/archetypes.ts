import type { ArchetypeDef, BodyDef, SliderDef } from '../kit/schema.ts'
import type { Random } from './random.ts'

/** What one figure is drawn around: archetypes with their shares, the first of each set before the second. */
export type Drawn = readonly { archetype: ArchetypeDef; share: number }[]

/** How much of the first and of the second archetype of a set that blends a figure takes: the study of faces. */
const FIRST = [0.6, 1] as const
const SECOND = [0.15, 0.4] as const
/** How far a slider no archetype speaks of strays from its rest: its standard deviation. */
const STRAYS = 0.2
/** One that changes the whole figure strays less: two of them together make a figure one does not believe in. */
const WHOLE_STRAYS = 0.1

/** One archetype of every set of a body, or one and a little of another where the set blends. */
export function drawArchetypes(body: BodyDef, random: Random): Drawn {
  return (body.archetypes ?? []).flatMap(({ blends, archetypes }) => {
    const first = random.pick(archetypes)
    if (!blends) return [{ archetype: first, share: 1 }]
    const others = archetypes.filter((a) => a !== first)
    const share = random.between(...FIRST)
    if (others.length === 0) return [{ archetype: first, share }]
    return [
      { archetype: first, share },
      { archetype: random.pick(others), share: random.between(...SECOND) },
    ]
  })
}

/** Where a slider is drawn to among what archetypes say of it. */
export function drawValue(slider: SliderDef, drawn: Drawn, random: Random): number {
  let [middle, spread2, told] = [0, 0, false]
  for (const { archetype, share } of drawn) {
    if (!Object.hasOwn(archetype.sliders, slider.id)) continue
    const [mean, spread] = archetype.sliders[slider.id]!
    middle += mean * share
    spread2 += (spread * share) ** 2
    told = true
  }
  const strays = told ? Math.sqrt(spread2) : slider.group === 'whole' ? WHOLE_STRAYS : STRAYS
  const value = slider.default + middle + bell(random) * strays
  return Math.min(slider.max, Math.max(slider.min, value))
}

/** A number around zero, of standard deviation one and never beyond three: three draws added (Irwin and Hall 1927). */
function bell(random: Random): number {
  return (random.next() + random.next() + random.next() - 1.5) * 2
}

/** The parts an archetype fills a slot with; undefined where none speaks of it. */
export function partsOf(drawn: Drawn, slot: string): readonly (string | null)[] | undefined {
  return drawn
    .map(({ archetype }) => (Object.hasOwn(archetype.parts ?? {}, slot) ? archetype.parts![slot] : undefined))
    .find((p) => p !== undefined)
}

import { describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import { prepareBody } from '../body/PreparedBody.ts'
import { bodyOf, fullName, holdsSeveral, partsFor, refOf, slotsFor } from '../kit/library.ts'
import { newRecipe, referenceTo } from '../recipe/defaults.ts'
import { setPart } from '../recipe/edits.ts'
import { createRandom } from '../recipe/random.ts'
import { demoKit, demoTarget } from '../testing/demoKits.ts'
import { samples } from '../testing/thorough.ts'
import { brokenBy, costOf, wornOf } from './ChoiceModel.ts'
import { choicesOf } from './choicesOf.ts'
import { patchesOf } from './patches.ts'
import { PICKS_FORMAT, readPicks, type PickBody, type Picks } from './picks.ts'
import { provePicks, type Proof } from './provePicks.ts'
import { loadProver } from './Prover.ts'

const kits = new Map([await demoKit('saltwick-folk'), await demoKit('tide-creatures')].map((k) => [k.manifest.id, k]))
const prover = await loadProver()
await reducerReady

/** So many parts of each slot: who hides whom is looked at pair by pair, and takes minutes for all. */
const FEW = samples(2, 100)

/** What a kit has for a body, as what a player may choose. */
function everything(kit: string, id: string): PickBody {
  const ref = { kit, id }
  const { defaults, sliders } = bodyOf(kits, ref)!
  const slots = slotsFor(kits, ref)
    .filter((slot) => !holdsSeveral(slot) && partsFor(kits, ref, slot.id).length)
    .map((slot) => {
      const parts = partsFor(kits, ref, slot.id)
        .slice(0, FEW)
        .map((p) => ({ part: fullName({ kit: p.kit, id: p.def.id }) }))
      const needed = Object.hasOwn(defaults, slot.id)
      return { slot: slot.id, parts, start: needed ? fullName(refOf(defaults[slot.id]!, kit)) : null, needed }
    })
  return {
    ...{ id, name: id, body: { ...ref, kitVersion: kits.get(kit)!.manifest.kitVersion }, slots },
    sliders: sliders.slice(0, 2).map(({ id: slider, min, max, default: start }) => ({ slider, min, max, start })),
    ...{ colors: {}, expressions: [], rules: [], covered: [] },
  }
}
const packageOf = (bodies: PickBody[]): Picks => ({ format: PICKS_FORMAT, version: 1, id: 'p', name: 'P', bodies })

const pick = everything('saltwick-folk', 'human')
const { choices, problems } = choicesOf(pick, kits)
const body = prepareBody(kits.get('saltwick-folk')!.bodies.get('human')!)
const model = { ...choices, pieces: patchesOf(body, choices, kits, 'near') }

/** A choice by chance that meets the rules. */
function someChoice(seed: number): Set<string> {
  const random = createRandom(seed)
  const chosen = new Set<string>()
  for (const { options, needed } of model.groups) {
    const free = options.filter(
      (o) => brokenBy({ groups: [], rules: model.rules }, new Set([...chosen, o])).rules.length === 0,
    )
    if (free.length && (needed || random.next() < 0.75)) chosen.add(random.pick(free))
  }
  return chosen
}

describe('what a player may choose', () => {
  it('is a document that is read as it was written, and nothing else', () => {
    expect(problems).toEqual([])
    expect(readPicks(JSON.stringify(packageOf([pick]))).value).toEqual(packageOf([pick]))
    for (const bad of [{ version: 9 }, { bodies: [] }, { format: 'idle-tinker-mix' }, { more: 1 }])
      expect(readPicks({ ...packageOf([pick]), ...bad }).value).toBeNull()
  })

  it('tells what is not there and what contradicts itself, where, and goes on with the rest', () => {
    const codes = (change: (p: PickBody) => void) => {
      const own = structuredClone(pick)
      change(own)
      const told = choicesOf(own, kits)
      expect(told.choices.groups.length).toBeGreaterThanOrEqual(0)
      return told.problems.map((p) => p.code)
    }
    const hat = (p: PickBody) => p.slots.find((s) => s.slot === 'hat')!
    const eyes = (p: PickBody) => p.slots.find((s) => s.needed)!
    expect(codes((p) => (p.body.id = 'nobody'))).toEqual(['body-unknown'])
    expect(codes((p) => hat(p).parts.push({ part: 'gone' }))).toEqual(['part-unknown'])
    expect(codes((p) => hat(p).parts.push(hat(p).parts[0]!))).toEqual(['part-twice'])
    expect(codes((p) => hat(p).parts.push({ part: 'boots-sea' }))).toEqual(['part-unknown'])
    expect(codes((p) => (hat(p).slot = 'wings'))).toContain('slot-unknown')
    expect(codes((p) => p.slots.push(hat(p)))).toContain('slot-twice')
    expect(codes((p) => (hat(p).start = 'gone'))).toEqual(['start-unknown'])
    expect(codes((p) => Object.assign(eyes(p), { needed: false, start: null }))).toEqual(['slot-needed'])
    expect(codes((p) => (eyes(p).start = null))).toEqual(['start-unknown'])
    expect(codes((p) => eyes(p).parts.forEach((one) => (one.earned = 'won')))).toEqual(['slot-locked', 'start-locked'])
    expect(codes((p) => Object.assign(p.sliders[0]!, { min: 0.5, max: -0.5 }))).toEqual(['slider-limits'])
    expect(codes((p) => (p.sliders[0]!.slider = 'wings'))).toEqual(['slider-unknown'])
    expect(codes((p) => p.expressions.push('bored'))).toEqual(['expression-unknown'])
    expect(codes((p) => (p.clips = ['walk', 'fly']))).toEqual(['clip-unknown'])
    expect(codes((p) => p.covered.push('wing'))).toEqual(['region-unknown'])
    expect(codes((p) => (p.colors.hair = { swatches: ['#000000'], start: '#ffffff' }))).toEqual(['color-start'])
    expect(codes((p) => p.rules.push({ kind: 'excludes', parts: ['cap-knit', 'gone'] }))).toEqual(['part-unknown'])
  })

  it('counts what a body always has on, though nobody may choose it', () => {
    const own = { ...pick, slots: pick.slots.filter((s) => s.slot === 'hat') }
    const bare = choicesOf(own, kits)
    expect(bare.problems).toEqual([])
    const defaults = Object.keys(bodyOf(kits, pick.body)!.defaults)
    expect(defaults.length).toBeGreaterThan(0)
    expect(bare.choices.groups.map((g) => g.id)).toEqual(['hat', ...defaults])
    const pieces = patchesOf(body, bare.choices, kits, 'near')
    const least = prover.extreme({ ...bare.choices, pieces }, 'triangles', 'least')!
    const { figure } = new Builder(kits).build(newRecipe(kits.get('saltwick-folk')!, 'human', 'P'), demoTarget('near'))
    expect(least.worn.length).toBe(defaults.length)
    expect(least.cost).toBeGreaterThanOrEqual(figure!.costs.triangles)
  })

  it('costs no less than the figure that is built of it, and little more: pieces that ship apart cannot know all others', () => {
    const target = demoTarget('near')
    const builder = new Builder(kits)
    const over: number[] = []
    for (let seed = 0; seed < samples(6, 200); seed++) {
      const chosen = someChoice(seed)
      let recipe = newRecipe(kits.get('saltwick-folk')!, 'human', 'P')
      for (const name of chosen) {
        const ref = refOf(name, 'saltwick-folk')
        recipe = setPart(recipe, choices.parts.get(name)!.def.slot, referenceTo(kits, ref))
      }
      const { figure } = builder.build(recipe, { ...target, limits: { ...target.limits, triangles: 100_000 } })
      const cost = costOf(model, chosen, 'triangles')
      // what lies over what in one slot's neighbours, and what two together hide, is all there is between them
      expect([seed, cost >= figure!.costs.triangles]).toEqual([seed, true])
      over.push(cost / figure!.costs.triangles)
    }
    expect(Math.max(...over)).toBeLessThan(1.25)
  })

  it('is proved over all of it: the worst case, what is never worn, what is left bare', () => {
    const limits = { triangles: 3500, bones: 60 }
    const proof = provePicks(prover, model, limits, ['torso', 'legs']) as Proof
    const { most, least } = proof.costs.triangles!
    expect(brokenBy(model, new Set(most.chosen))).toEqual({ groups: [], rules: [] })
    expect(costOf(model, new Set(most.chosen), 'triangles')).toBe(most.cost)
    for (let seed = 0; seed < 400; seed++) {
      const cost = costOf(model, someChoice(seed), 'triangles')
      expect(cost).toBeLessThanOrEqual(most.cost)
      expect(cost).toBeGreaterThanOrEqual(least)
    }
    expect(proof.unreachable).toEqual([])
    // nothing says yet that a shirt has to be on
    expect(proof.bare.map((b) => b.region)).toEqual(['torso'])
    expect(wornOf(model, new Set(proof.bare[0]!.choice.chosen)).size).toBeGreaterThan(0)
  })
})

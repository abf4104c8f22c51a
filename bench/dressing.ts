import {
  buildPackage,
  Builder,
  choicesOf,
  loadProver,
  newRecipe,
  patchesOf,
  prepareBody,
  provePicks,
  refOf,
  referenceTo,
  setPart,
  type Kit,
  type Picks,
  type Target,
} from '@idle-tinker/core'
import { Assembly, shuffleLook, Wardrobe, weightsOf } from '@idle-tinker/runtime'

/** Looks of the demo's package put on by the runtime, and the same ones built whole; and the proof of its first body. */
export async function dressings(kits: ReadonlyMap<string, Kit>, picks: Picks, target: Target) {
  const prover = await loadProver()
  const [pick] = picks.bodies
  const { choices } = choicesOf(pick!, kits)
  const kit = kits.get(pick!.body.kit)!
  const body = prepareBody(kit.bodies.get(pick!.body.id)!)
  const pieces = patchesOf(body, choices, kits, target.detail)
  const { triangles, bones } = target.limits
  const { value } = await buildPackage({ ...picks, bodies: [pick!] }, kits, target, { prover })
  const { wardrobe } = await Wardrobe.open((path) => Promise.resolve(value!.files.get(path)!))
  const entry = wardrobe!.manifest.bodies[0]!
  const open = await wardrobe!.openBody(entry)
  const looks = await Promise.all(
    [1, 2, 3, 4, 5, 6].map(async (seed) => {
      const fitting = await wardrobe!.fit(open, shuffleLook(entry, seed))
      let recipe = newRecipe(kit, entry.id, 'whole')
      for (const option of fitting.worn) {
        const { id, slot } = entry.options[option]!
        recipe = setPart(recipe, entry.slots[slot]!.id, referenceTo(kits, refOf(id, '')))
      }
      return { fitting, active: weightsOf(entry, fitting.look), recipe: { ...recipe, sliders: fitting.look.sliders } }
    }),
  )
  const assembly = new Assembly(entry)
  const builder = new Builder(kits)
  let i = 0
  const next = () => looks[i++ % looks.length]!
  return {
    options: choices.parts.size,
    proof: () => provePicks(prover, { ...choices, pieces }, { triangles, bones }, pick!.covered),
    dressed: () => {
      const { fitting, active } = next()
      assembly.dress([open.piece, ...fitting.pieces], 0)
      assembly.paintLook(fitting.look)
      assembly.shape(active)
    },
    slid: () => assembly.shape(looks[i++ % 2]!.active),
    whole: () => builder.build(next().recipe, target),
  }
}

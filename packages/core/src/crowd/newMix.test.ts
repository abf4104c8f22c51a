import { describe, expect, it } from 'vitest'
import { hasErrors } from '../base/problem.ts'
import { resolveRecipe } from '../recipe/resolve.ts'
import { demoKit } from '../testing/demoKits.ts'
import { meadowKit } from '../testing/meadowKit.ts'
import { readKit } from '../kit/readKit.ts'
import { readMix } from './mix.ts'
import { newMix } from './newMix.ts'
import { selectCrowd } from './selectCrowd.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const meadow = (await readKit(await meadowKit())).value!
const kits = new Map([folk, tide, meadow].map((k) => [k.manifest.id, k]))
const bodies = [...kits.values()].flatMap((k) => [...k.bodies.keys()].map((id) => ({ kit: k.manifest.id, id })))

describe('a new mix', () => {
  it.each(bodies)('for $kit/$id is sound and makes a crowd that varies', (body) => {
    const mix = newMix(kits, body, { id: 'mine', name: 'Mine' }, 5)
    expect(readMix(mix).problems).toEqual([])
    const crowd = selectCrowd(mix, kits)
    expect(crowd.variants).toHaveLength(40)
    expect(hasErrors(crowd.problems)).toBe(false)
    const def = kits.get(body.kit)!.bodies.get(body.id)!.def
    for (const { recipe } of crowd.variants) {
      expect(hasErrors(resolveRecipe(recipe, kits).problems)).toBe(false)
      // nobody goes without what the body needs
      for (const slot of Object.keys(def.defaults)) expect(recipe.parts.map((p) => p.slot)).toContain(slot)
    }
    const worn = new Set(crowd.variants.map(({ recipe }) => recipe.parts.map((p) => p.part.id).join()))
    if (kits.get(body.kit)!.parts.size > 3) expect(worn.size).toBeGreaterThan(20)
  })

  it('for a body that is not there is refused', () => {
    expect(() => newMix(kits, { kit: 'gone', id: 'x' }, { id: 'a', name: 'A' }, 1)).toThrow(RangeError)
  })
})

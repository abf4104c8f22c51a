import { describe, expect, it } from 'vitest'
import { samples } from '../testing/thorough.ts'
import { createRandom } from '../recipe/random.ts'
import { brokenBy, wornOf, type ChoiceModel, type ChoiceRule } from './ChoiceModel.ts'
import { coverTuples } from './coverTuples.ts'
import { loadProver } from './Prover.ts'

const prover = await loadProver()

function modelOf(seed: number): ChoiceModel {
  const random = createRandom(seed * 7 + 1)
  const below = (n: number) => Math.floor(random.next() * n)
  const groups = Array.from({ length: 4 + below(3) }, (_, g) => ({
    id: `g${g}`,
    options: Array.from({ length: 1 + below(4) }, (_, i) => `g${g}-${i}`),
    needed: random.next() < 0.4,
  }))
  const options = groups.flatMap((g) => g.options)
  const any = () => options[below(options.length)]!
  const rules = Array.from({ length: below(6) }, (): ChoiceRule => {
    const [one, other] = [any(), any()]
    const kind = (['excludes', 'together', 'needs', 'covers'] as const)[below(4)]!
    if (kind === 'needs') return { kind, one, oneOf: [other] }
    return kind === 'covers' ? { kind, one, others: [other].filter((o) => o !== one) } : { kind, one, other }
  })
  return { groups, rules, pieces: [] }
}

describe('choices that cover all that can be worn together', () => {
  for (const strength of [2, 3] as const)
    it(`wear every ${strength === 2 ? 'pair' : 'triple'} that any choice wears, and meet all rules`, () => {
      let impossible = 0
      for (let seed = 0; seed < samples(25, 400); seed++) {
        const model = modelOf(seed)
        const found = coverTuples(model, strength, (w) => prover.find(model, { with: w })?.chosen ?? null)
        const worn = found.choices.map((chosen) => {
          expect(brokenBy(model, new Set(chosen))).toEqual({ groups: [], rules: [] })
          return wornOf(model, new Set(chosen))
        })
        const options = model.groups.flatMap((g) => g.options.map((o) => [o, g.id] as const))
        let [there, not] = [0, 0]
        const look = (from: number, some: (readonly [string, string])[]): void => {
          if (some.length === strength) {
            const names = some.map(([o]) => o)
            const covered = worn.some((w) => names.every((o) => w.has(o)))
            if (covered) there++
            else {
              not++
              expect([seed, names, prover.find(model, { with: names })]).toEqual([seed, names, null])
            }
            return
          }
          for (let i = from; i < options.length; i++)
            if (!some.some(([, g]) => g === options[i]![1])) look(i + 1, [...some, options[i]!])
        }
        look(0, [])
        expect([found.covered, found.impossible]).toEqual([there, not])
        impossible += not
      }
      expect(impossible).toBeGreaterThan(10)
    })

  it('are few: not many more than the two largest slots together ask for', () => {
    const groups = Array.from({ length: 12 }, (_, g) => ({
      ...{ id: `g${g}`, needed: false },
      options: Array.from({ length: 8 }, (_, i) => `g${g}-${i}`),
    }))
    const { choices, covered } = coverTuples({ groups, rules: [] }, 2, () => null)
    expect(covered).toBe(66 * 64)
    // 64 at the least; going on from the best without trying again takes two and a half times as many
    expect(choices.length).toBeLessThan(64 * 2.5)
    // only what is asked for
    const asked = (options: readonly string[]) => options.every((o) => /^g[0-2]-/.test(o))
    const some = coverTuples({ groups, rules: [] }, 3, () => null, asked)
    expect([some.covered, new Set(some.choices.map((c) => c.filter((o) => asked([o])).join())).size]).toEqual([
      512, 512,
    ])
  })
})

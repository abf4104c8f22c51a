import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { demoKit, wear } from '../testing/demoKits.ts'
import { blend, takeColors, takeParts, takeShape } from './blend.ts'
import { newRecipe } from './defaults.ts'
import { clearPart, placePart, setColor, setLock } from './edits.ts'
import { partsIn } from './instances.ts'
import { resolveRecipe } from './resolve.ts'
import { shuffleAll } from './shuffle.ts'
import { setSide, sidesOf } from './symmetry.ts'
import { even } from '../testing/even.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((kit) => [kit.manifest.id, kit]))
const def = folk.manifest.bodies[0]!
const plain = newRecipe(folk, def.id, 'Ida')
const ottern = newRecipe(tide, tide.manifest.bodies[0]!.id, 'Eel')
const slider = (id: string) => def.sliders.find((s) => s.id === id)!
const two = fc
  .tuple(fc.integer(), fc.integer())
  .map(([a, b]) => [shuffleAll(plain, kits, a), shuffleAll(plain, kits, b)] as const)
const worn = (recipe: typeof plain) => recipe.parts.map((p) => `${p.slot}: ${p.part.id}`).sort()
/** What makes the figure: everything but its name, its locks and the order and ids of its parts. */
const looks = (r: typeof plain) => ({ body: r.body, sliders: r.sliders, colors: r.colors, worn: worn(r) })

describe('between two figures', () => {
  it('begins at the one, ends at the other, and all between can be built', () => {
    fc.assert(
      fc.property(two, even(0, 1), ([a, b], t) => {
        expect(blend(a, b, kits, 0)).toBe(a)
        expect(looks(blend(a, b, kits, 1))).toEqual(looks(b))
        const between = blend(a, b, kits, t)
        expect(resolveRecipe(between, kits).problems.filter((p) => p.severity === 'error')).toEqual([])
        for (const s of def.sliders) {
          const [from, to, now] = [a, b, between].map((r) => sidesOf(r, s)[0]) as [number, number, number]
          // sliders are kept to a thousandth
          expect(Math.abs(now - (from + (to - from) * t))).toBeLessThanOrEqual(0.00051)
        }
      }),
      { numRuns: 60 },
    )
  })

  it('changes slot after slot, once each, and leaves what is locked', () => {
    const [a, b] = [shuffleAll(plain, kits, 3), shuffleAll(plain, kits, 8)]
    const held = setLock(a, 'legs', true)
    let before = worn(held)
    let changes = 0
    for (let t = 0; t <= 100; t++) {
      const now = worn(blend(held, b, kits, t / 100))
      if (String(now) !== String(before)) changes++
      before = now
    }
    expect(changes).toBeGreaterThan(5)
    expect(partsIn(blend(held, b, kits, 1), 'legs')).toEqual(partsIn(a, 'legs'))
  })

  it('mixes colors in light: half way from black to white is as bright as half the light', () => {
    const [black, white] = [setColor(plain, 'skin', '#000000'), setColor(plain, 'skin', '#ffffff')]
    expect(blend(black, white, kits, 0.5).colors.skin).toBe('#bcbcbc')
    expect(blend(black, white, kits, 0.25).colors.skin).toBe('#898989')
    expect(blend(black, plain, kits, 0.6).colors).toEqual({})
    expect(blend(plain, black, kits, 0.4).colors).toEqual({})
  })
})

describe('taking from another figure', () => {
  const other = setColor(
    setSide(setSide(wear(plain, folk, 'cap-knit'), slider('ears'), 'left', 0.5), slider('belly'), 'both', 0.7),
    'skin',
    '#123456',
  )

  it('takes shape, of one region if asked, parts or colors, and nothing else', () => {
    const bare = clearPart(plain, 'hat')
    expect(takeShape(bare, other, kits)).toEqual({ ...bare, sliders: other.sliders })
    expect(takeShape(bare, other, kits, slider('ears').group).sliders).toEqual({ ears: [0.5, 0] })
    expect(worn(takeParts(bare, other, kits))).toEqual(worn(other))
    expect({ ...takeParts(bare, other, kits), parts: [] }).toEqual({ ...bare, parts: [] })
    expect(takeColors(bare, other)).toEqual({ ...bare, colors: { skin: '#123456' } })
    expect(takeParts(other, other, kits)).toBe(other)
    expect(takeColors(other, bare)).toBe(other)
  })

  it('keeps what the body needs and what is locked, and gives each part an id of its own', () => {
    const needed = Object.keys(def.defaults)[0]!
    const without = { ...other, parts: other.parts.filter((p) => p.slot !== needed) }
    expect(partsIn(takeParts(plain, without, kits), needed)).toEqual(partsIn(plain, needed))
    const locked = setLock(plain, 'hat', true)
    expect(partsIn(takeParts(locked, other, kits), 'hat')).toEqual(partsIn(plain, 'hat'))
    const clash = { ...other, parts: other.parts.map((p) => (p.slot === 'hat' ? { ...p, id: needed } : p)) }
    const ids = takeParts(plain, { ...clash, parts: clash.parts.filter((p) => p.slot === 'hat') }, kits).parts.map(
      (p) => p.id,
    )
    expect(new Set(ids).size).toBe(ids.length)
  })

  it('of a body of another kind takes what fits: sliders of the same name, no parts, no spots on its surface', () => {
    const shaped = takeShape(plain, { ...ottern, sliders: { stature: 0.5, girth: 1 } }, kits)
    expect(shaped.sliders).toEqual({ stature: 0.5 })
    expect(worn(takeParts(plain, ottern, kits)).every((p) => worn(plain).includes(p))).toBe(true)
    const hat = other.parts.find((p) => p.slot === 'hat')!.id
    const placed = placePart(other, hat, { at: { triangle: 3, shares: [1, 0, 0] }, scale: 2 })
    const kept = (from: typeof plain) => partsIn(takeParts(plain, from, kits), 'hat')[0]!.place
    expect(kept(placed)).toEqual({ at: { triangle: 3, shares: [1, 0, 0] }, scale: 2 })
    expect(kept({ ...placed, body: { ...placed.body, id: 'elsewhere' } })).toBeUndefined()
  })
})

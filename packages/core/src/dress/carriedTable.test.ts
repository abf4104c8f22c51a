import { describe, expect, it } from 'vitest'
import { Shelf } from '../base/Shelf.ts'
import { halvesOf } from '../body/halves.ts'
import { prepareBody } from '../body/PreparedBody.ts'
import { Builder } from '../build.ts'
import type { Kit } from '../kit/Kit.ts'
import type { Morph } from '../mesh/Mesh.ts'
import type { Recipe } from '../recipe/schema.ts'
import { demoKit, demoTarget, dressed } from '../testing/demoKits.ts'
import { carriedTable } from './carriedTable.ts'

/** Of the body nothing is remembered from before, as in another run. */
async function freshKit(): Promise<Kit> {
  const kit = await demoKit('saltwick-folk')
  kit.bodies.set('human', { ...kit.bodies.get('human')! })
  return kit
}
const bodyOn = async (shelf: Shelf) => prepareBody((await freshKit()).bodies.get('human')!, shelf)
const moves = (by: number): Morph => ({
  name: 'any',
  points: Uint32Array.of(1, 70),
  deltas: Float32Array.of(by, 0, 0, 0, by, 0),
})
const packedAgain = async (shelf: Shelf) => {
  const again = new Shelf()
  expect(await again.fill(shelf.pack())).toBe(true)
  return again
}

describe('what deltas come to on a part', () => {
  it('comes back from a shelf that was packed, whole and halves apart, also where it is nothing', async () => {
    const shelf = new Shelf()
    const body = await bodyOn(shelf)
    const [first, second, third] = body.model.mesh.morphs as [Morph, Morph, Morph]
    const { left, right } = halvesOf(body.model.mesh, second)
    const table = carriedTable(body, 'carried', ['a coat'])!
    table.add(second, moves(1))
    table.add(right, moves(3))
    table.add(left, moves(2))
    table.add(first, { name: first.name, points: new Uint32Array(0), deltas: new Float32Array(0) })

    // another run: the same body, read anew
    const there = await bodyOn(await packedAgain(shelf))
    const again = carriedTable(there, 'carried', ['a coat'])!
    const own = there.model.mesh.morphs as [Morph, Morph, Morph]
    const halves = halvesOf(there.model.mesh, own[1])
    expect(again.find(own[1])).toEqual({ ...moves(1), name: second.name })
    expect(again.find(halves.left)).toEqual({ ...moves(2), name: left.name })
    expect(again.find(halves.right)).toEqual({ ...moves(3), name: right.name })
    expect(again.find(own[0])!.points).toHaveLength(0)
    expect(again.find(own[2])).toBeUndefined()
    // what another part comes to is not this one's
    expect(carriedTable(there, 'carried', ['a hat'])!.find(own[1])).toBeUndefined()
    expect(third.name).toBe(own[2].name)
  })

  it('is kept of the body’s own deltas alone: not of a nudge, whatever it is called', async () => {
    const body = await bodyOn(new Shelf())
    const own = body.model.mesh.morphs[0]!
    const table = carriedTable(body, 'carried', [])!
    const nudge = { ...own }
    table.add(nudge, moves(1))
    table.add(halvesOf(body.model.mesh, nudge).left, moves(1))
    table.add({ ...own, name: 'nothing of the body' }, moves(1))
    expect(table.find(own)).toBeUndefined()
    expect(table.find(halvesOf(body.model.mesh, own).left)).toBeUndefined()
    table.add(own, moves(2))
    expect(table.find(nudge)).toBeUndefined()
  })

  it('packs to the same bytes in whatever order it was worked out', async () => {
    const packed = async (turned: boolean) => {
      const shelf = new Shelf()
      const body = await bodyOn(shelf)
      const table = carriedTable(body, 'carried', [])!
      const order = body.model.mesh.morphs.slice(0, 5).map((delta, i) => [delta, moves(i)] as const)
      for (const [delta, carried] of turned ? order.toReversed() : order) table.add(delta, carried)
      return shelf.pack()
    }
    expect(await packed(true)).toEqual(await packed(false))
  })

  it('is taken from the shelf by a build, and not worked out again', async () => {
    const near = demoTarget('near')
    const build = async (shelf: Shelf) => {
      const kit = await freshKit()
      const sliders: Recipe['sliders'] = { build: 0.8, stature: [0.2, -0.3] }
      const recipe = { ...dressed(kit, 'human', ['shirt-work']), sliders }
      return new Builder(new Map([[kit.manifest.id, kit]]), shelf).build(recipe, near).figure!.mesh.positions
    }
    const shelf = new Shelf()
    const made = (await build(shelf)).slice()
    const packed = shelf.pack()
    const twice = await packedAgain(shelf)
    expect(await build(twice)).toEqual(made)
    // were the shelf wrong, so were the figure: it is the shelf that is believed
    const wrong = new Shelf()
    await wrong.fill(packed)
    const kit = await freshKit()
    const entry = wrong.get(`carried ${kit.bodies.get('human')!.hash} ${kit.parts.get('shirt-work')!.hash}`)!
    expect(entry.deltas!.length).toBeGreaterThan(100)
    entry.deltas!.fill(0)
    expect(await build(wrong)).not.toEqual(made)
  })
})

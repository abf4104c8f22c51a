import { isDeepStrictEqual } from 'node:util'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder, type Figure } from '../build.ts'
import { demoTarget, dressed, KITS_FOLDER, MAREN, readDemoKit } from '../testing/demoKits.ts'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Shelf } from './Shelf.ts'

const near = demoTarget('near')
const crowd = demoTarget('crowd')
beforeAll(() => reducerReady)

const bytesOf = ({ mesh, pieces, skeleton }: Figure) =>
  structuredClone({
    positions: mesh.positions,
    indices: mesh.indices,
    joints: mesh.joints,
    weights: mesh.weights,
    pieces,
    bones: skeleton.bones,
  })
/** Kits read anew, so that nothing is remembered but what is on the shelf. */
const fresh = async () => {
  const kits = await Promise.all([readDemoKit('saltwick-folk'), readDemoKit('tide-creatures')])
  return new Map(kits.map((k) => [k.manifest.id, k]))
}

describe('a shelf', () => {
  const small = () => {
    const shelf = new Shelf()
    shelf.put('b', { x: Float32Array.of(1.5, -2), y: Uint8Array.of(1, 2, 3) })
    shelf.put('a', { z: Uint16Array.of(60_000), none: new Uint32Array(0) })
    return shelf
  }

  it('packs to bytes and comes out the same, whatever order things were put in', async () => {
    const again = new Shelf()
    expect(await again.fill(small().pack())).toBe(true)
    expect(again.get('b')).toEqual({ x: Float32Array.of(1.5, -2), y: Uint8Array.of(1, 2, 3) })
    expect(again.get('a')).toEqual({ z: Uint16Array.of(60_000), none: new Uint32Array(0) })
    expect(again.size).toBe(2)
    const turned = new Shelf()
    for (const key of ['a', 'b']) turned.put(key, again.get(key)!)
    expect(turned.pack()).toEqual(small().pack())
  })

  it('that is damaged, foreign or of another version is passed over, not thrown', async () => {
    const packed = small().pack()
    for (const odd of [new Uint8Array(), packed.slice(0, -6), packed.map((b) => b ^ 0xff), new Uint8Array(200)]) {
      const shelf = new Shelf()
      expect(await shelf.fill(odd)).toBe(false)
      expect(shelf.get('a')).toBeUndefined()
    }
  })

  it('forgets what was put first when it is full, and counts what is new', async () => {
    const shelf = new Shelf(3)
    for (const key of ['a', 'b', 'c', 'd']) shelf.put(key, {})
    expect(['a', 'b', 'c', 'd'].filter((key) => shelf.get(key))).toEqual(['b', 'c', 'd'])
    expect(shelf.added).toBe(4)
    shelf.pack()
    expect(shelf.added).toBe(0)
    expect(await shelf.fill(small().pack())).toBe(true)
    expect(shelf.size).toBe(3)
  })
})

describe('a figure built with a shelf at hand', () => {
  const recipes = async (kits: Awaited<ReturnType<typeof fresh>>) => [
    { ...dressed(kits.get('saltwick-folk')!, 'human', MAREN), sliders: { build: 0.4, stature: -0.3 } },
    dressed(kits.get('saltwick-folk')!, 'human', ['smock', 'waders', 'hair-curls', 'cap-knit', 'peg-leg']),
    dressed(kits.get('tide-creatures')!, 'ottern', ['scarf-striped', 'vest-trader', 'whiskers-long']),
  ]

  it('is the same to the bit as one built without, whole and reduced', async () => {
    const shelf = new Shelf()
    const first = await fresh()
    const without = (await recipes(first)).map((r) => bytesOf(new Builder(first).build(r, near).figure!))
    const second = await fresh()
    for (const recipe of await recipes(second)) new Builder(second, shelf).build(recipe, near)
    expect(shelf.size).toBeGreaterThan(20)
    const copy = new Shelf()
    await copy.fill(shelf.pack())
    const third = await fresh()
    const builder = new Builder(third, copy)
    for (const [i, recipe] of (await recipes(third)).entries()) {
      expect(isDeepStrictEqual(bytesOf(builder.build(recipe, near).figure!), without[i])).toBe(true)
      const [reduced, plain] = [builder, new Builder(first)].map((b) =>
        bytesOf(b.build(recipe, crowd, { reduce: true }).figure!),
      )
      expect(isDeepStrictEqual(reduced, plain)).toBe(true)
    }
    // nothing had to be worked out again
    expect(copy.added).toBe(0)
  })

  it('takes nothing from it that was made for another version of a part', async () => {
    const shelf = new Shelf()
    const kits = await fresh()
    const recipe = dressed(kits.get('saltwick-folk')!, 'human', ['shirt-work'])
    new Builder(kits, shelf).build(recipe, near)
    shelf.pack()
    const changed = await fresh()
    const folk = changed.get('saltwick-folk')!
    folk.parts.set('shirt-work', { ...folk.parts.get('jersey')!, hash: 'another' })
    new Builder(changed, shelf).build(recipe, near)
    expect(shelf.added).toBeGreaterThan(3)
  })

  it('finds all that the demo’s own figures need on the shelf that ships with them', async () => {
    const shelf = new Shelf()
    expect(await shelf.fill(readFileSync(join(KITS_FOLDER, 'lantern-tide/prepared.bin')))).toBe(true)
    const kits = await fresh()
    const { readRecipe } = await import('../recipe/read.ts')
    const text = readFileSync(join(KITS_FOLDER, 'lantern-tide/maren-quill.recipe.json'), 'utf8')
    new Builder(kits, shelf).build(readRecipe(text).value!, near)
    expect(shelf.added).toBe(0)
  })
})

import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import { BODY_PLANS } from '../kit/plans/index.ts'
import { describeChange } from '../recipe/describeChange.ts'
import { setSoftness, softnessOf } from '../recipe/joints.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { bendScores } from './bending.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = { ...demoTarget('near'), keepExpressions: [] }
const plan = BODY_PLANS.get('biped')!

beforeAll(() => reducerReady)

/** Weights lie in files in steps of 1/255; rounded to sum to one, they may be off by two of them. */
const STEP = 2.01 / 255

const bare = dressed(folk, 'human', [])
const softened = (bone: string, softness: number, recipe: Recipe = bare) => setSoftness(recipe, plan, bone, softness)

/** A shipped file's weights by vertex: how much each bone holds, and where it lies. */
async function skinOf(recipe: Recipe) {
  const { bytes } = await shipFigure(new Builder(kits), kits, recipe, near, { lods: false })
  expect(await glbFaults(bytes!)).toEqual([])
  const file = new ShippedFile(bytes!)
  const { joints, weights, skin, positions } = file.drawn()[0]!
  const names = file.jointsOf(skin!).map((n) => file.nodes[n]!.name!)
  const held = (v: number, bone: string) =>
    [0, 1, 2, 3].reduce((s, k) => s + (names[joints![v * 4 + k]!] === bone ? weights![v * 4 + k]! : 0), 0)
  return { held, positions, count: positions.length / 3, names }
}

/** How much skin about a joint neither of its bones has to itself: the sum of what each lacks. */
async function blendOf(recipe: Recipe, upper: string, lower: string): Promise<number> {
  const { held, count } = await skinOf(recipe)
  let sum = 0
  for (let v = 0; v < count; v++) {
    const [u, l] = [held(v, upper), held(v, lower)]
    if (u + l > 0.99) sum += Math.min(u, l)
  }
  return sum
}

describe('a joint', () => {
  it.each([
    ['leftUpperArm', 'leftLowerArm'],
    ['rightUpperLeg', 'rightLowerLeg'],
    ['leftLowerArm', 'leftHand'],
    ['neck', 'head'],
  ])('between %s and %s shares more skin the softer it is, and less the stiffer', async (upper, lower) => {
    const blends: number[] = []
    for (const softness of [-1, -0.5, 0, 0.5, 1]) blends.push(await blendOf(softened(lower, softness), upper, lower))
    for (let i = 1; i < blends.length; i++) expect(blends[i], `${blends.join()}`).toBeGreaterThan(blends[i - 1]!)
    // seen, not only counted
    expect(blends[4]! / blends[2]!).toBeGreaterThan(1.2)
    expect(blends[0]! / blends[2]!).toBeLessThan(0.8)
  })

  it('changes what its two bones hold, on both sides alike, and nothing else', async () => {
    const [before, after] = [await skinOf(bare), await skinOf(softened('leftLowerArm', 1))]
    const changed = [...Array(before.count).keys()].filter((v) =>
      before.names.some((b) => Math.abs(before.held(v, b) - after.held(v, b)) > STEP),
    )
    expect(changed.length).toBeGreaterThan(20)
    for (const v of changed) {
      const side = before.positions[v * 3]! > 0 ? 'left' : 'right'
      for (const bone of before.names.filter((b) => b !== `${side}UpperArm` && b !== `${side}LowerArm`))
        expect(Math.abs(after.held(v, bone) - before.held(v, bone))).toBeLessThan(STEP)
    }
    const left = changed.filter((v) => before.positions[v * 3]! > 0).length
    expect(left * 2).toBe(changed.length)
  })

  it('that is softer stretches less where it bends', () => {
    const stretch = (softness: number) => {
      const { mesh, skeleton } = new Builder(kits).build(softened('leftLowerArm', softness), near).figure!
      return bendScores(mesh, skeleton).find((s) => s.name === 'leftLowerArm')!.worst.stretch
    }
    expect(stretch(0.6)).toBeLessThan(stretch(0))
    expect(stretch(0)).toBeLessThan(stretch(-1))
  })

  it('of clothes goes along with that of the body', async () => {
    const clothed = dressed(folk, 'human', MAREN)
    const [upper, lower] = ['leftUpperArm', 'leftLowerArm']
    expect(await blendOf(softened(lower, 1, clothed), upper!, lower!)).toBeGreaterThan(
      1.2 * (await blendOf(clothed, upper!, lower!)),
    )
  })

  it('is remembered by the builder, and comes back as it was', () => {
    const builder = new Builder(kits)
    const weights = (recipe: Recipe) => [...builder.build(recipe, near).figure!.mesh.weights]
    const first = weights(bare)
    expect(weights(softened('neck', 1))).not.toEqual(first)
    expect(weights(bare)).toEqual(first)
  })
})

describe('softness in a recipe', () => {
  it('is said once for both of a pair, is read again, and leaves no trace at nought', () => {
    const soft = softened('leftHand', 0.404)
    expect(soft.joints).toEqual({ leftHand: 0.4, rightHand: 0.4 })
    expect(readRecipe(JSON.stringify(soft)).value).toEqual(soft)
    expect(softnessOf(soft, 'rightHand')).toBe(0.4)
    expect(softened('rightHand', 0, soft)).toEqual(bare)
    expect(softened('leftHand', 9).joints!.leftHand).toBe(1)
    expect(softened('hips', 0)).toBe(bare)
    expect(describeChange(bare, soft, kitsOf())).toBe('Joint at the hand: softer')
  })

  it('counts for nothing on bones the figure has not, or the root', () => {
    const odd: Recipe = { ...bare, joints: { hips: 1, tail3: -1, constructor2: 1 } }
    const { figure, problems } = new Builder(kits).build(odd, near)
    expect(problems).toEqual(new Builder(kits).build(bare, near).problems)
    expect([...figure!.mesh.weights]).toEqual([...new Builder(kits).build(bare, near).figure!.mesh.weights])
  })

  it('is refused beyond its range', () => {
    expect(readRecipe(JSON.stringify({ ...bare, joints: { neck: 1.5 } })).value).toBeNull()
    expect(readRecipe(JSON.stringify({ ...bare, joints: { toString: 1 } })).value).toBeNull()
  })
})

function kitsOf() {
  return new Map([...kits].map(([id, kit]) => [id, { manifest: kit.manifest }]))
}

import { readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { unzipSync } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  Builder,
  checkShipped,
  openFigure,
  readKit,
  readMix,
  readRecipe,
  readTarget,
  reducerReady,
  resolveRecipe,
  selectCrowd,
  sides,
  type Kit,
} from '@idle-tinker/core'

/*
 * What was made with an older version still opens and is the same. The fixtures were written by the
 * workshop of that time, the figures beside them measured by it; neither is ever made anew.
 */

const fixtures = fileURLToPath(new URL('../fixtures/v1', import.meta.url))
const bytesOf = (name: string) => new Uint8Array(readFileSync(join(fixtures, name)))
const textOf = (name: string) => readFileSync(join(fixtures, 'documents', name), 'utf8')
const documents = readdirSync(join(fixtures, 'documents'))
const named = (ending: string) => documents.filter((name) => name.endsWith(ending))

interface Expected {
  figures: Record<
    string,
    {
      name: string
      parts: [slot: string, part: string][]
      sliders: Record<string, number>
      colors: Record<string, string>
      bones: [name: string, x: number, y: number, z: number][]
      pieces: Record<string, { count: number; sample: [number, number, number][]; triangles: number }>
    }
  >
  mixes: Record<string, { name: string; parts: Record<string, string>; sliders: Record<string, number> }[]>
}
const expected = JSON.parse(readFileSync(join(fixtures, 'expected.json'), 'utf8')) as Expected
const near = readTarget(textOf('near.target.json')).value!

const kits = new Map<string, Kit>()
beforeAll(async () => {
  await reducerReady
  for (const id of ['saltwick-folk', 'tide-creatures']) {
    const { value, problems } = await readKit(new Map(Object.entries(unzipSync(bytesOf(`${id}.kit.zip`)))))
    expect(problems).toEqual([])
    kits.set(id, value!)
  }
})

/**
 * Places are the same to a tenth of a millimetre. Two things were mended since. Parts with clearance 0
 * (eyes, hair, hats) are left where their makers put them; points of theirs up to 6 mm under the skin
 * used to be pulled out of it, and those pressed under them with them. And the inner wall of thick cloth
 * was taken for a surface that had come through the outer one, and pushed out past it: two parts of that
 * time lay so, inside out.
 */
const SAME = 1e-4
const NO_LONGER_PUSHED = 0.009
const NO_LONGER_INSIDE_OUT: Readonly<Record<string, number>> = { scarf: 0.007, 'apron-net': 0.015 }
const apart = (kit: string, id: string) => {
  const def = kits.get(kit)!.parts.get(id)?.def
  const isCloth = def?.how !== 'worn' || def.clearance > 0
  return NO_LONGER_INSIDE_OUT[id] ?? (isCloth ? SAME : NO_LONGER_PUSHED)
}

describe('a kit of version 1', () => {
  it('is read whole, its tail a limb by itself now', () => {
    expect(kits.get('saltwick-folk')!.parts.size).toBe(64)
    expect(
      kits
        .get('tide-creatures')!
        .bodies.get('ottern')!
        .limbs.filter((l) => l.kind === 'tail'),
    ).toEqual([
      { id: 'tail', kind: 'tail', bones: ['tail1', 'tail2', 'tail3', 'tail4'], channels: ['tail'], lag: 0.09 },
    ])
  })
})

describe('a recipe of version 1', () => {
  it.each(named('.recipe.json'))('%s has the same parts, sliders and colors', (name) => {
    const { value, problems } = readRecipe(textOf(name))
    expect(problems).toEqual([])
    const was = expected.figures[name]!
    expect(value!.name).toBe(was.name)
    const resolved = resolveRecipe(value!, kits)
    expect(resolved.problems).toEqual([])
    expect(resolved.value!.parts.map(({ slot, part }) => [slot, part.def.id])).toEqual(was.parts)
    const moved = Object.entries(resolved.value!.sliders).filter(([, v]) => sides(v)[0] !== 0)
    expect(Object.fromEntries(moved)).toEqual(was.sliders)
    for (const [region, color] of Object.entries(was.colors)) expect(resolved.value!.colorOf(region)).toBe(color)
  })

  it.each(named('.recipe.json'))('%s builds the same figure', (name) => {
    const { figure, problems } = new Builder(kits).build(readRecipe(textOf(name)).value!, near)
    expect(problems.filter((p) => p.code !== 'over-budget')).toEqual([])
    const was = expected.figures[name]!
    expect(figure!.skeleton.bones.map((b) => b.name)).toEqual(was.bones.map(([bone]) => bone))
    figure!.skeleton.bones.forEach(({ at }, i) =>
      at.forEach((v, k) => expect(Math.abs(v - (was.bones[i]![k + 1] as number))).toBeLessThan(SAME)),
    )
    expect(figure!.pieces.map((p) => `${p.slot}/${p.id}`).sort()).toEqual(Object.keys(was.pieces).sort())
    for (const piece of figure!.pieces) {
      const { count, sample, triangles } = was.pieces[`${piece.slot}/${piece.id}`]!
      expect(piece.points[1] - piece.points[0]).toBe(count)
      // in the checked poses skin at crotch and armpits hangs on other bones since it was eased: a few
      // faces more or fewer are found covered
      expect(Math.abs(piece.triangles[1] - piece.triangles[0] - triangles)).toBeLessThanOrEqual(8)
      let worst = 0
      sample.forEach((place, k) => {
        const p = piece.points[0] + Math.floor((k * count) / sample.length)
        place.forEach((v, axis) => (worst = Math.max(worst, Math.abs(figure!.mesh.positions[p * 3 + axis]! - v))))
      })
      expect(worst, piece.id).toBeLessThan(apart(piece.kit, piece.id))
    }
  })
})

describe('a mix of version 1', () => {
  it.each(Object.keys(expected.mixes))('%s makes the same crowd', (name) => {
    const { value, problems } = readMix(textOf(name))
    expect(problems).toEqual([])
    const { variants } = selectCrowd({ ...value!, count: 12 }, kits)
    const now = variants.map(({ recipe }) => ({
      name: recipe.name,
      parts: Object.fromEntries(recipe.parts.map(({ slot, part }) => [slot, part.id]).sort()),
      sliders: recipe.sliders,
    }))
    expect(now).toEqual(expected.mixes[name])
  })

  it('keeps its pinned figures, locks and all', () => {
    const { value, problems } = readMix(textOf('quay-pinned.mix.json'))
    expect(problems).toEqual([])
    expect(Object.keys(value!.pins!)).toEqual(['3', '7'])
    expect(value!.pins![7]!.version).toBe(2)
    expect(value!.pins![7]!.locks).toEqual(['hat'])
    const { variants } = selectCrowd(value!, kits)
    expect(variants[3]!.pinned).toBe(true)
    const was = JSON.parse(textOf('quay-pinned.mix.json')) as {
      pins: Record<string, { parts: Record<string, { id: string }> }>
    }
    const wore = Object.entries(was.pins[3]!.parts).map(([slot, part]) => [slot, part.id])
    expect(variants[3]!.recipe.parts.map(({ slot, part }) => [slot, part.id]).sort()).toEqual(wore.sort())
  })
})

describe('a mix of version 2', () => {
  const folder = fileURLToPath(new URL('../fixtures/v2', import.meta.url))
  const then = JSON.parse(readFileSync(join(folder, 'expected.json'), 'utf8')) as {
    mixes: Record<string, { name: string; parts: object; sliders: object; colors: object; nearest: number }[]>
  }

  it.each(readdirSync(join(folder, 'documents')))('%s is one kind of figure now, and makes the same crowd', (name) => {
    const { value, problems } = readMix(readFileSync(join(folder, 'documents', name), 'utf8'))
    expect(problems).toEqual([])
    expect(value!.version).toBe(3)
    expect(value!.kinds.map((k) => k.id)).toEqual([value!.kinds[0]!.body.id])
    const { variants } = selectCrowd(value!, kits)
    const was = then.mixes[name]!
    const now = variants.slice(0, was.length).map(({ recipe, nearest }) => ({
      name: recipe.name,
      parts: Object.fromEntries(recipe.parts.map(({ slot, part }) => [slot, part.id])),
      sliders: recipe.sliders,
      colors: recipe.colors,
      nearest: nearest.index,
    }))
    expect(now).toEqual(was)
  })
})

describe('a target of version 1', () => {
  it.each(named('.target.json'))('%s has the same limits, in our own convention', (name) => {
    const was = JSON.parse(textOf(name)) as { limits: object; lods: number[] }
    const { value, problems } = readTarget(textOf(name))
    expect(problems).toEqual([])
    expect(value!.limits).toEqual(was.limits)
    expect(value!.lods.map((l) => l.triangles)).toEqual(was.lods)
    expect(value!.convention).toMatchObject({ unit: 1, up: '+y', front: '+z' })
  })
})

describe('a file shipped then', () => {
  it.each(readdirSync(join(fixtures, 'shipped')))('%s checks out and opens as the figure it was', async (name) => {
    const bytes = bytesOf(`shipped/${name}`)
    const { facts, problems } = await checkShipped(bytes, name)
    // feet did go through the floor then; it is seen now, and nothing else is wrong
    expect(problems.map((p) => p.code)).toEqual(['clip-ground'])
    const { value } = await openFigure(bytes, kits, name)
    const recipe = readRecipe(textOf(name.replace(/\..*/, '.recipe.json'))).value!
    expect(value).toEqual(recipe)
    expect(facts!.recipe).toEqual(recipe)
  })
})

import { describe, expect, it } from 'vitest'
import { demoKit } from '../testing/demoKits.ts'
import { newRecipe } from './defaults.ts'
import { newLook, newSnapshot, readKept } from './kept.ts'

const recipe = newRecipe(await demoKit('saltwick-folk'), 'human', 'Ada')

describe('a kept recipe', () => {
  it('is read as it was written, a snapshot or a look', () => {
    for (const kept of [newSnapshot('0f-1', 'Before the hat', recipe), newLook(recipe)])
      expect(readKept(JSON.parse(JSON.stringify(kept)))).toEqual({ value: kept, problems: [] })
    expect(newLook(recipe)).toMatchObject({ name: 'Ada', purpose: 'look' })
  })

  it('carries a recipe of any version, as today’s', () => {
    const old = {
      format: recipe.format,
      version: 1,
      name: 'Old',
      body: recipe.body,
      parts: {},
      sliders: {},
      colors: {},
      locks: [],
    }
    expect(readKept({ ...newLook(recipe), recipe: old }).value?.recipe).toMatchObject({ version: 2, name: 'Old' })
  })

  it('is refused with what is wrong, in it or in its recipe', () => {
    const good = newSnapshot('a', 'b', recipe)
    for (const [wrong, where] of [
      [{ ...good, purpose: 'other' }, 'kept'],
      [{ ...good, name: '' }, 'kept'],
      [{ ...good, figure: 'a/b' }, 'kept'],
      [{ ...good, recipe: null }, 'kept/recipe'],
      [{ ...good, recipe: { ...recipe, sliders: { a: 9 } } }, 'kept/recipe'],
      [{ ...good, version: 2 }, 'kept'],
    ] as const) {
      const read = readKept(wrong)
      expect(read.value).toBeNull()
      expect(read.problems[0]!.where).toContain(where)
    }
  })
})

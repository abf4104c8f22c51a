import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Builder, readRecipe, readTarget } from '@idle-tinker/core'
import { afterEach, expect, it, vi } from 'vitest'
import { readKitFolders } from './files.ts'
import { DOCUMENTS, KITS } from './places.ts'
import { openShipper } from './shipOne.ts'

afterEach(() => vi.restoreAllMocks())

it('what ships figures of a crowd forgets each that it has built, those that cannot be written as well', async () => {
  const forget = vi.spyOn(Builder.prototype, 'forget')
  const document = (name: string) => readFileSync(join(DOCUMENTS, name), 'utf8')
  const recipe = readRecipe(document('maren-quill.recipe.json')).value!
  const target = readTarget(document('crowd.target.json')).value!
  const { kits } = await readKitFolders([KITS])
  const ship = await openShipper(kits)
  const folder = mkdtempSync(join(tmpdir(), 'ship-'))
  const order = { recipe, target, lods: false, keyed: [] }
  const written = await ship({ ...order, path: join(folder, 'maren.glb') })
  expect(written.costs!.fileBytes).toBe(readFileSync(join(folder, 'maren.glb')).length)
  expect(forget).toHaveBeenCalledTimes(1)
  // a file is no folder
  const lost = await ship({ ...order, path: join(folder, 'maren.glb', 'maren.glb') })
  expect(lost.costs).toBeNull()
  expect(lost.problems.map((p) => p.severity)).toContain('error')
  expect(forget).toHaveBeenCalledTimes(2)
  rmSync(folder, { recursive: true })
})

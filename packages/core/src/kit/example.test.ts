import { execFileSync } from 'node:child_process'
import { mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { newRecipe, partReference } from '../recipe/defaults.ts'
import { recipeOfLook } from '../recipe/looks.ts'
import { setPart } from '../recipe/edits.ts'
import { newTarget } from '../recipe/target.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { signedVolume } from '../mesh/adjacency.ts'
import { pointTriangles } from '../mesh/Mesh.ts'
import type { Kit } from './Kit.ts'
import { readKit } from './readKit.ts'

/*
 * The example that `docs/kit-format.md` gives, made by the page's own text.
 */

const ROOT = fileURLToPath(new URL('../../../..', import.meta.url))
const work = mkdtempSync(join(tmpdir(), 'tinker-example-'))
// where what it imports is found
const near = join(ROOT, 'node_modules/.cache/tinker-example')
afterAll(() => {
  rmSync(work, { recursive: true, force: true })
  rmSync(near, { recursive: true, force: true })
})

let kit: Kit
beforeAll(async () => {
  const page = readFileSync(join(ROOT, 'docs/kit-format.md'), 'utf8')
  const [, script] = /```js\n\/\/ make-post\.mjs\n([\s\S]*?)```/.exec(page)!
  mkdirSync(near, { recursive: true })
  writeFileSync(join(near, 'make-post.mjs'), script!)
  execFileSync(process.execPath, [join(near, 'make-post.mjs'), join(work, 'post')])
  const files = new Map<string, Uint8Array>()
  for (const path of readdirSync(join(work, 'post'), { recursive: true, encoding: 'utf8' }))
    if (/\.(json|glb)$/.test(path)) files.set(path, new Uint8Array(readFileSync(join(work, 'post', path))))
  const { value, problems } = await readKit(files)
  expect(problems).toEqual([])
  kit = value!
  await reducerReady
})

describe('the example of the kit format', () => {
  it('is a kit with a body, two parts, a slider and a clip', () => {
    expect([...kit.bodies.keys(), ...kit.parts.keys()]).toEqual(['post', 'hat', 'band'])
    expect(kit.bodies.get('post')!.bones.map((b) => b.name)).toEqual(['foot', 'head'])
    // its faces look outwards
    for (const { mesh } of [kit.bodies.get('post')!, kit.parts.get('hat')!])
      expect(signedVolume(mesh.positions, pointTriangles(mesh))).toBeGreaterThan(0)
  })

  it('has a look to start from: what it wears, how tall it is, its color', () => {
    const kits = new Map([['post', kit]])
    const recipe = recipeOfLook(kits, 'post', kit.manifest.looks![0]!)
    expect(recipe).toMatchObject({ name: 'Sentry', sliders: { tall: 0.5 }, colors: { felt: '#5f8a3c' } })
    expect(recipe.parts.map((p) => p.part.id)).toEqual(['hat', 'band'])
    expect(new Builder(kits).build(recipe, newTarget('any', 'Any')).problems).toEqual([])
  })

  it('makes a figure that wears both, grows with its slider and nods in the file that ships', async () => {
    const kits = new Map([['post', kit]])
    let recipe = newRecipe(kit, 'post', 'Post')
    for (const id of ['hat', 'band']) recipe = setPart(recipe, id, partReference(kit, id))
    const builder = new Builder(kits)
    const heightOf = (tall: number) => {
      const { figure, problems } = builder.build({ ...recipe, sliders: { tall } }, newTarget('any', 'Any'))
      expect(problems).toEqual([])
      expect(figure!.pieces.map((p) => p.id)).toEqual(expect.arrayContaining(['hat', 'band']))
      const { positions, cornerPoints, indices } = figure!.mesh
      return Math.max(...Array.from(indices, (c) => positions[cornerPoints[c]! * 3 + 1]!))
    }
    // the hat is 0.2 m high above its socket at 1 m, and goes up with what it sits on
    expect(heightOf(0)).toBeCloseTo(1.2, 3)
    expect(heightOf(1)).toBeCloseTo(1.5, 2)
    const { bytes, check } = await shipFigure(builder, kits, recipe, newTarget('any', 'Any'), { lods: false })
    expect(await glbFaults(bytes!)).toEqual([])
    expect(check!.facts!.clips).toEqual(['Nod'])
  })
})

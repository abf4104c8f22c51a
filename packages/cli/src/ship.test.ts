import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { tinker } from './testing/tinker.ts'

let folder: string
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-ship-'))
  await tinker('figures', '--out', folder)
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const at = (name: string) => join(folder, name)

describe('tinker ship', () => {
  it('writes each format with all its files, and says which', async () => {
    const told = await tinker(
      'ship',
      at('tamsin-reke.recipe.json'),
      '--format',
      'glb',
      'obj',
      '--lod',
      '--out',
      at('out'),
      '--json',
    )
    expect(told.code).toBe(0)
    const lines = told.out.split('\n').map((l) => JSON.parse(l) as { format: string; files: string[]; bytes: number })
    expect(lines.map((l) => l.format)).toEqual(['glb', 'obj'])
    const files = readdirSync(at('out'))
    expect(files.sort()).toEqual(lines.flatMap((l) => l.files).sort())
    expect(files).toEqual(
      expect.arrayContaining([
        'tamsin-reke.glb',
        'tamsin-reke.obj',
        'tamsin-reke-lod1.obj',
        'tamsin-reke.mtl',
        'tamsin-reke.png',
      ]),
    )
    const obj = readFileSync(at('out/tamsin-reke.obj'), 'utf8')
    // what it names lies beside it
    expect(existsSync(at(`out/${/^mtllib (.*)$/m.exec(obj)![1]}`))).toBe(true)
    const mtl = readFileSync(at('out/tamsin-reke.mtl'), 'utf8')
    expect(existsSync(at(`out/${/^map_Kd (.*)$/m.exec(mtl)![1]}`))).toBe(true)
    const size = lines[1]!.files.reduce((sum, f) => sum + statSync(at(`out/${f}`)).size, 0)
    expect(lines[1]!.bytes).toBe(size)
  })

  it('leaves nothing of a format that cannot be written whole, and says what is wrong', async () => {
    // there is a folder where its picture would be
    mkdirSync(at('full/tamsin-reke.png'), { recursive: true })
    const told = await tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'obj', '--out', at('full'))
    expect([told.code, readdirSync(at('full'))]).toEqual([1, ['tamsin-reke.png']])
    expect(told.err).toContain('there is a folder of that name')
    expect(await tinker('ship', at('tamsin-reke.recipe.json'), '--format', 'stl', '--out', at('no'))).toMatchObject({
      code: 2,
    })
    expect((await tinker('ship', at('nobody.recipe.json'), '--out', at('no'))).code).toBe(1)
    expect(existsSync(at('no'))).toBe(false)
  })
})

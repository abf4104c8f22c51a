import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { readClip } from '@idle-tinker/core'
import { ShippedFile } from '../../core/src/ship/ShippedFile.ts'
import { glbFaults } from '../../core/src/testing/glbFaults.ts'
import { KITS_FOLDER } from '../../core/src/testing/demoKits.ts'
import { tinker } from './testing/tinker.ts'

const maren = join(KITS_FOLDER, 'lantern-tide', 'maren-quill.recipe.json')
const tick = join(KITS_FOLDER, 'lantern-tide', 'tick.recipe.json')
const pointing = join(KITS_FOLDER, '../tests/fixtures/clips/v1-pointing.clip.json')
let folder: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-clips-'))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (name: string) => join(folder, name)

const clipsIn = (path: string) => new ShippedFile(new Uint8Array(readFileSync(path))).clips()

describe('clips of keys on the command line', () => {
  it('are made of a clip of the kit, and go along with a figure, its face as well', async () => {
    const copied = await tinker('clips', maren, '--copy', 'sit-down', '--out', at('sit.json'), '--json')
    expect(copied.code).toBe(0)
    const { value } = readClip(readFileSync(at('sit.json'), 'utf8'))
    expect(JSON.parse(copied.out)).toMatchObject({ name: value!.name, poses: value!.poses.length })
    writeFileSync(at('other.json'), JSON.stringify({ ...value, name: 'Sit my way' }))
    const built = await tinker('build', maren, '--clips', at('other.json'), pointing, '--out', at('maren.glb'))
    expect([built.code, built.err]).toEqual([0, ''])
    expect(await glbFaults(new Uint8Array(readFileSync(at('maren.glb'))))).toEqual([])
    const there = clipsIn(at('maren.glb'))
    const names = there.map((c) => c.name)
    expect(names).toContain('Walk')
    expect(names).toContain('Sit my way')
    expect(there.find((c) => c.name === 'Pointing, glad')!.channels.some((c) => c.path === 'weights')).toBe(true)
  })

  it('are listed with what is measured of them', async () => {
    const { code, out } = await tinker('clips', maren, '--clips', pointing, '--json')
    expect(code).toBe(0)
    const last = JSON.parse(out.split('\n').at(-1)!) as { name: string; seconds: number; numbers: object }
    expect(last).toMatchObject({ name: 'Pointing, glad' })
    expect(Object.keys(last.numbers)).toContain('slide')
  })

  it('go along with a crowd', async () => {
    const mix = join(KITS_FOLDER, 'lantern-tide', 'quay-at-noon.mix.json')
    const made = await tinker('crowd', mix, '--count', '2', '--clips', pointing, '--out', at('crowd'))
    expect(made.code).toBe(0)
    const { variants } = JSON.parse(readFileSync(at('crowd/crowd.json'), 'utf8')) as { variants: { file: string }[] }
    expect(variants).toHaveLength(2)
    for (const { file } of variants) expect(clipsIn(at(`crowd/${file}`)).map((c) => c.name)).toContain('Pointing, glad')
  })

  it('are told where they cannot be read, are for others, or are not there', async () => {
    const other = await tinker('build', tick, '--clips', pointing, '--out', at('tick.glb'))
    expect([other.code, other.err]).toEqual([0, expect.stringContaining('another kind')])
    expect(clipsIn(at('tick.glb')).map((c) => c.name)).not.toContain('Pointing, glad')
    const bad = await tinker('build', maren, '--clips', at('none.json'), maren, '--out', at('bad.glb'))
    expect([bad.code, bad.err.split('\n')]).toEqual([
      1,
      [expect.stringContaining('cannot be read'), expect.stringContaining('not a clip')],
    ])
    for (const args of [
      ['--copy', 'nothing', '--out', at('x')],
      ['--copy', 'walk'],
      ['--out', at('x')],
    ]) {
      const { code, err } = await tinker('clips', maren, ...args)
      expect([code, err.length > 0], args.join(' ')).toEqual([1, true])
    }
  })
})

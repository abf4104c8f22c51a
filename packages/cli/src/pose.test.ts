import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { afterAll, beforeAll, describe, expect, it } from 'vitest'
import { ShippedFile } from '../../core/src/ship/ShippedFile.ts'
import { glbFaults } from '../../core/src/testing/glbFaults.ts'
import { KITS_FOLDER } from '../../core/src/testing/demoKits.ts'
import { tinker } from './testing/tinker.ts'

const maren = join(KITS_FOLDER, 'lantern-tide', 'maren-quill.recipe.json')
const tick = join(KITS_FOLDER, 'lantern-tide', 'tick.recipe.json')
let folder: string
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'tinker-pose-'))
})
afterAll(() => rmSync(folder, { recursive: true, force: true }))
const at = (name: string) => join(folder, name)

const heights = (path: string) => {
  const file = new ShippedFile(new Uint8Array(readFileSync(path)))
  const points = file.posed(file.drawn()[0]!, file.at())
  return points.filter((_, i) => i % 3 === 1)
}

describe('tinker pose', () => {
  it('lists poses and what can be moved', async () => {
    const { code, out } = await tinker('pose', maren, '--json')
    expect(code).toBe(0)
    const lines = out.split('\n').map((l) => JSON.parse(l) as { id?: string; handle?: string; at?: number[] })
    expect(lines.flatMap((l) => l.id ?? [])).toContain('sitting')
    const hand = lines.find((l) => l.handle === 'end-leftHand')!
    expect(hand.at![0]).toBeGreaterThan(0.2)
  })

  it('moves, turns and mirrors, and writes a pose that another figure takes', async () => {
    const asked = ['--move', 'end-leftHand=0.25,1.15,0.4', '--turn', 'head=0,30,0', '--json']
    const { code, out } = await tinker('pose', maren, ...asked, '--out', at('reach.json'))
    expect(code).toBe(0)
    const { handles } = JSON.parse(out) as { handles: Record<string, number[]> }
    expect(handles['end-leftHand']).toEqual([0.25, 1.15, 0.4])
    const mirrored = await tinker(
      'pose',
      maren,
      '--pose',
      at('reach.json'),
      '--mirror',
      '--json',
      '--out',
      at('m.json'),
    )
    const other = JSON.parse(mirrored.out) as { handles: Record<string, number[]> }
    expect(other.handles['end-rightHand']!.map((v) => v || 0)).toEqual([-0.25, 1.15, 0.4])
    const berrit = join(KITS_FOLDER, 'lantern-tide', 'old-berrit.recipe.json')
    expect((await tinker('pose', berrit, '--pose', at('reach.json'), '--out', at('b.glb'))).code).toBe(0)
  })

  it('writes a figure that stands so, on the ground, and is whole', async () => {
    expect((await tinker('pose', maren, '--pose', 'sitting', '--out', at('sit.glb'))).code).toBe(0)
    expect((await tinker('pose', maren, '--out', at('rest.glb'))).code).toBe(0)
    expect(await glbFaults(new Uint8Array(readFileSync(at('sit.glb'))))).toEqual([])
    const [sitting, standing] = [heights(at('sit.glb')), heights(at('rest.glb'))]
    expect(Math.min(...sitting)).toBeCloseTo(0, 4)
    expect(Math.max(...sitting)).toBeLessThan(0.85 * Math.max(...standing))
  })

  it.each([
    ['no handle', ['--move', 'end-tail=0,1,0'], 'no handle “end-tail”'],
    ['no place', ['--move', 'end-leftHand=0,1'], '“0,1” is no place'],
    ['no number', ['--move', 'end-leftHand=0,1,far'], 'is no place'],
    ['no bone', ['--turn', 'nose=1,2,3'], 'no bone “nose”'],
    ['no angles', ['--turn', 'head='], 'are no angles'],
    ['no pose', ['--pose', 'flying'], 'no pose “flying”'],
    ['no share', ['--blend', 'sitting=3'], '“3” is no share'],
    ['no limb', ['--pin', 'tail'], 'no limb “tail”'],
  ])('with %s says what there is, and writes nothing', async (_what, asked, said) => {
    const { code, err } = await tinker('pose', maren, ...asked, '--out', at('none.json'))
    expect(code).toBe(1)
    expect(err).toContain(said)
    expect(() => readFileSync(at('none.json'))).toThrow()
  })

  it('refuses a pose of another kind of figure, a broken one, and arms where there are none', async () => {
    const pose = { format: 'idle-tinker-pose', version: 1, name: 'Up', plan: 'biped', turns: {}, root: [0, 0, 0] }
    writeFileSync(at('up.json'), JSON.stringify(pose))
    writeFileSync(at('broken.json'), JSON.stringify({ ...pose, turns: { head: [0, 0, 0, 0] } }))
    writeFileSync(at('text.json'), 'no pose')
    for (const [recipe, name, said] of [
      [tick, at('up.json'), 'another kind'],
      [maren, at('broken.json'), 'no turn'],
      [maren, at('text.json'), ''],
      [tick, 't', 'no arms'],
    ] as const) {
      const { code, err } = await tinker('pose', recipe, '--pose', name, '--out', at('none.json'))
      expect([code, err.includes(said) && err !== '']).toEqual([1, true])
    }
  })
})

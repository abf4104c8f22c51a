import { describe, expect, it } from 'vitest'
import { problem, type Costs } from '@idle-tinker/core'
import type { ShipAnswer } from '../workers/protocol'
import { fileWords, learnedWords, shippedWords } from './shipWords.ts'

const costs = { triangles: 3491, bones: 45 } as Costs
const of = (format: 'glb' | 'vrm' | 'dae', problems = [problem('wide', 'a', 'It is wide.', 'Look.')], files = ['a'], passed = ['good']): ShipAnswer['shipped'][0] => ({ format, problems, files, passed, costs }) // prettier-ignore

describe('what is told of what was shipped', () => {
  it('is said once where all formats say it, and of the rest whose it is', () => {
    const shipped = [
      of('glb'),
      of('vrm', [problem('wide', 'b', 'It is wide.', 'Look.'), problem('who', 'b', 'Nobody.', '')]),
    ]
    expect(shippedWords(shipped).problems.map((p) => p.message)).toEqual(['It is wide.', 'VRM: Nobody.'])
    expect(shippedWords([shipped[1]!]).problems.map((p) => p.message)).toEqual(['It is wide.', 'Nobody.'])
  })

  it('is what was good of the first, and how much of others; nothing of what could not be written', () => {
    const shipped = [of('glb'), of('dae', [], ['b'], ['x', 'y']), of('vrm', [], [], [])]
    expect(shippedWords(shipped).passed).toEqual(['good', 'COLLADA: read again; 2 things were found good.'])
  })

  it('tells apart what was kept back and what could not be', () => {
    expect(shippedWords([of('glb'), of('vrm', [], [], [])]).withheld).toBe(false)
    expect(shippedWords([of('glb', undefined, [], ['good'])]).withheld).toBe(true)
  })

  it('is the file and what is in it', () => {
    const file = { name: 'a.zip', bytes: new Uint8Array(2_000_000) }
    expect(fileWords({ file, shipped: [of('glb'), of('vrm', [], [])] })).toBe('a.zip: GLB; 3,491 triangles, 45 bones, 1,954 KB.') // prettier-ignore
    expect(fileWords({ file: { ...file, name: 'a.glb' }, shipped: [of('glb')] })).toContain('a.glb: 3,491 triangles')
    expect(fileWords({ file: null, shipped: [] })).toBe('')
  })

  it('is what was learned, with what one should look at and what was left out', () => {
    const match = { bones: { hips: 'a', head: 'b' } } as never
    const words = learnedWords({ match, doubtful: [{ bone: 'head', why: 'Two would do.' }], left: Array.from({ length: 14 }, (_, i) => `j${i}`) }) // prettier-ignore
    expect(words).toHaveLength(3)
    expect(words[0]).toContain('2 bones')
    expect(words[1]).toBe('Look at “head”: Two would do.')
    expect(words[2]).toMatch(/j11 and 2 more\.$/)
    expect(learnedWords({ match, doubtful: [], left: [] })).toHaveLength(1)
  })
})

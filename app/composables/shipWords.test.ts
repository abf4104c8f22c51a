import { describe, expect, it } from 'vitest'
import { problem, type Costs } from '@idle-tinker/core'
import type { ShipAnswer } from '../workers/protocol'
import type { PieceReport } from '../../server/jobs/shipmentReport.ts'
import {
  fileWords,
  gathered,
  goodWords,
  learnedWords,
  mayInsist,
  pieceOf,
  pieceWords,
  reportFrom,
  reportWords,
  shipmentWords,
  shippedWords,
  stateWords,
} from './shipWords.ts'

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

describe('what is told of shipments', () => {
  const about = {
    ...{ name: 'Quay', formats: ['glb', 'bvh'] as const, lods: false, insist: false, pattern: '', folders: '' },
    ...{ date: '', file: 'quay.zip', kits: {} },
    parcels: (['figure', 'figure', 'crowd'] as const).map((kind) => ({ kind, name: 'a', of: null, hash: '' })),
    targets: [
      { id: 'near', name: 'Near', hash: '' },
      { id: 'far', name: 'Far', hash: '' },
    ],
  }
  const piece = (files: number, figures: number, withheld = false): PieceReport => ({
    ...{ kind: 'crowd', name: 'Quay', target: 'Far', files, bytes: files * 2000, withheld, passed: [], problems: [] },
    figures: Array.from({ length: figures }, (_, i) => ({ file: '', name: '', triangles: 800 + i * 300, bones: 1, bytes: 1 })),
  }) // prettier-ignore

  it('is what, for which targets, as what', () => {
    expect(shipmentWords({ ...about, formats: [...about.formats] })).toBe('2 figures, 1 crowd · Near, Far · GLB, BVH')
  })

  it('is what each came to, and what stayed', () => {
    expect(stateWords({ state: 'done', files: 1, bytes: 700, stayed: 0 })).toBe('1 file, 1 KB')
    expect(stateWords({ state: 'done', files: 12, bytes: 3.5 * 2 ** 20, stayed: 2 })).toBe('12 files, 3.5 MB; 2 stayed')
    expect(stateWords({ state: 'done', files: 3, bytes: 700, stayed: 1, partly: 2 })).toBe(
      '3 files, 1 KB; 1 stayed; 2 without a format',
    )
    expect(stateWords({ state: 'failed', files: null, bytes: null, stayed: null })).toBe('It stayed here')
    expect(pieceWords(piece(5, 3))).toBe('Quay, Far: 3 figures, 5 files, 10 KB')
    expect(pieceWords(piece(0, 0))).toBe('Quay, Far: it stayed here')
    expect([[], ['a'], ['a', 'b']].map((passed) => goodWords({ passed }))).toEqual([
      [],
      ['1 thing was looked at and found good.'],
      ['2 things were looked at and found good.'],
    ])
    expect(reportWords({ pieces: [piece(5, 3), piece(0, 0)], files: 5, bytes: 9000, stayed: 1 })).toBe(
      '3 figures of at most 1,400 triangles, every file read again and checked: 5 files, 9 KB. 1 piece stayed here.',
    )
    expect(reportWords({ pieces: [piece(40, 0)], files: 40, bytes: 9000, stayed: 0 })).toBe('40 files, 9 KB.')
  })

  it('is the same of what was made before there were shipments', () => {
    const figure = (name: string, passed: string[]) => ({
      file: name,
      name,
      triangles: 800,
      bones: 20,
      bytes: 1024,
      passed,
    })
    const report = reportFrom([figure('a', ['good', 'fine']), figure('b', ['fine'])])!
    expect(reportWords(report)).toBe(
      '2 figures of at most 800 triangles, every file read again and checked: 2 files, 2 KB.',
    )
    expect(report.pieces[0]!.passed).toEqual(['fine'])
    expect(reportFrom(report)).toBe(report)
    expect(reportFrom(null)).toBeNull()
  })

  it('is what stood in the way, each thing once, with whose it is', () => {
    const of = (where: string, message: string) => problem('x', where, message, 'Look.')
    const told = gathered([of('Maren, Far: a/b', 'No.'), of('Pim, Far: c', 'No.'), of('Pim, Far: c', 'Wide.'), of('job', 'Gone.')]) // prettier-ignore
    expect(told.map((p) => p.message)).toEqual(['Maren, Far and 1 more: No.', 'Pim, Far: Wide.', 'Gone.'])
  })

  it('is whether insisting would help', () => {
    expect(mayInsist({ error: [problem('withheld', 'job', '', '')], result: null })).toBe(true)
    expect(mayInsist({ error: [problem('wide', 'a', '', '')], result: null })).toBe(false)
    const report = (withheld: boolean) => ({
      pieces: [piece(1, 1), piece(0, 0, withheld)],
      files: 1,
      bytes: 1,
      stayed: 1,
    })
    expect([true, false].map((w) => mayInsist({ error: null, result: report(w) }))).toEqual([true, false])
  })

  it('is of a figure made here the same as of one of the server', () => {
    const file = { name: 'a.zip', bytes: new Uint8Array(5000) }
    const answer = { file, shipped: [of('glb', [], ['a.glb']), of('vrm', [], [], []), of('dae', [], ['a.dae', 'a.png'])] } // prettier-ignore
    expect(pieceOf(answer, 'Maren', 'Near')).toMatchObject({
      ...{ kind: 'figure', name: 'Maren', target: 'Near', files: 3, bytes: 5000, withheld: false },
      figures: [{ file: 'a.glb', triangles: 3491, bones: 45 }],
    })
  })
})

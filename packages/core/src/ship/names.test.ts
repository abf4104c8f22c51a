import { describe, expect, it } from 'vitest'
import { clipStems, fileName, fillPattern, folderPath, patternFaults } from './names.ts'

describe('names by a pattern', () => {
  it('have what is known filled in, and tell what is not', () => {
    const fill = {
      name: 'Maren',
      target: 'near',
      number: 7,
      clip: 'Walk',
      level: 2,
      project: 'Quay',
      date: '2026-11-29',
    }
    expect(fillPattern('{project}/{figure}_{number}-{clip}.{level} {target} {date}', fill)).toBe(
      'Quay/Maren_007-Walk.2 near 2026-11-29',
    )
    expect(fillPattern('{hat} {constructor}', fill)).toBe('{hat} {constructor}')
    expect(patternFaults('{figure}', 'here')).toEqual([])
    const faults = patternFaults('{hat}{hat} {}', 'here')
    expect(faults.map((p) => p.message)).toEqual(['Nothing stands for {hat}.', 'Nothing stands for {}.'])
  })

  it('are such as every file system and archive takes', () => {
    expect(
      ['../etc', 'a\0b', 'CON', 'lpt1', '日本', 'Ö'.repeat(200), '.'].map((name) => fileName('{name}', { name })),
    ).toEqual([...['etc', 'a-b', 'con-figure', 'lpt1-figure', 'figure', 'o'.repeat(80), 'figure']])
  })

  it('of clips are each one, also beside other files', () => {
    const clips = ['Walk', 'walk!', 'morphs', '走'].map((name) => ({ name }))
    expect(clipStems('a', clips, ['a', 'a-morphs'])).toEqual(['a-walk', 'a-walk-2', 'a-morphs-2', 'a-figure'])
  })

  it('of folders lie in each other; what has no name is no folder, and none leads out', () => {
    const fill = { name: 'Maren Quill', target: 'near', crowd: 'Quay at noon' }
    expect(folderPath('{target}/{crowd}', fill)).toBe('near/quay-at-noon/')
    expect(folderPath('{target}/{crowd}', { ...fill, crowd: undefined })).toBe('near/')
    expect(folderPath('', fill)).toBe('')
    expect(folderPath('../..//./a\\b/{figure}/', fill)).toBe('a-b/maren-quill/')
    expect(folderPath('con/{target}', { ...fill, target: '..' })).toBe('con-figure/')
  })
})

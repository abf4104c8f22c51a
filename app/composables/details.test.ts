import { describe, expect, it } from 'vitest'
import { boneWords, leftOut } from './details.ts'

describe('what a skeleton leaves out', () => {
  const digits = new Set(['leftIndexProximal', 'leftMiddleProximal', 'rightMiddleProximal'])

  it('is told once for both sides and for a whole chain', () => {
    const full = ['hips', 'jaw', 'leftEye', 'rightEye', 'tail1', 'tail2', 'tail3']
    expect(leftOut(full, full, digits)).toBe('Every bone there is.')
    expect(leftOut(full, ['hips', 'tail1'], digits)).toBe('Leaves out jaw, eye, tail.')
  })

  it('is single fingers where some are left to close as one, and all of them where none is', () => {
    const full = ['hips', ...digits]
    expect(leftOut(full, ['hips', 'leftMiddleProximal'], digits)).toBe('Leaves out single fingers.')
    expect(leftOut(full, ['hips'], digits)).toBe('Leaves out fingers.')
  })

  it('is a thumb, not each of its bones', () => {
    expect(leftOut(['hips', 'leftThumbMetacarpal', 'leftThumbProximal'], ['hips'], digits)).toBe('Leaves out thumb.')
  })

  it('is not a list without end', () => {
    expect(leftOut(['a', 'b', 'c', 'd', 'e', 'f'], [], digits)).toBe('Leaves out a, b, c, d and 2 more.')
  })

  it('speaks of bones in words', () => {
    expect(boneWords('leftHindUpperLeg')).toBe('Left hind upper leg')
    expect(boneWords('tail12')).toBe('Tail 12')
  })
})

import { describe, expect, it } from 'vitest'
import { boneWords, leftOut } from './details.ts'

describe('what a skeleton leaves out', () => {
  const digits = [['leftIndexProximal', 'leftIndexDistal'], ['leftMiddleProximal'], ['rightMiddleProximal']]

  it('is told once for both sides and for a whole chain', () => {
    const full = ['hips', 'jaw', 'leftEye', 'rightEye', 'tail1', 'tail2', 'tail3']
    expect(leftOut(full, full, digits)).toBe('Every bone there is.')
    expect(leftOut(full, ['hips', 'tail1'], digits)).toBe('Leaves out jaw, eye, end of the tail.')
  })

  it('is single fingers where some are left to close as one, and all of them where none is', () => {
    const full = ['hips', ...digits.flat()]
    expect(leftOut(full, ['hips', 'leftMiddleProximal'], digits)).toBe('Leaves out single fingers.')
    expect(leftOut(full, ['hips'], digits)).toBe('Leaves out fingers.')
    const tips = full.filter((b) => b !== 'leftIndexDistal')
    expect(leftOut(full, tips, digits)).toBe('Leaves out finger tips.')
  })

  it('is a thumb, not each of its bones', () => {
    expect(leftOut(['hips', 'leftThumbMetacarpal', 'leftThumbProximal'], ['hips'], digits)).toBe('Leaves out thumb.')
  })

  it('is the end of a chain where the rest stays, and twists in one word', () => {
    const full = ['head', 'leftThumbProximal', 'leftThumbDistal', 'tail1', 'tail2', 'leftUpperArmTwist', 'legTwist']
    expect(leftOut(full, ['head', 'leftThumbProximal', 'tail1'], digits)).toBe(
      'Leaves out end of the thumb, end of the tail, even twists.',
    )
    expect(leftOut(full, full.slice(0, 5), digits)).toBe('Leaves out even twists.')
  })

  it('is not a list without end', () => {
    expect(leftOut(['a', 'b', 'c', 'd', 'e', 'f'], [], digits)).toBe('Leaves out a, b, c, d and 2 more.')
  })

  it('speaks of bones in words', () => {
    expect(boneWords('leftHindUpperLeg')).toBe('Left hind upper leg')
    expect(boneWords('tail12')).toBe('Tail 12')
    expect(boneWords('hair-leftPlait2')).toBe('Hair left plait 2')
  })
})

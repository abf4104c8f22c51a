import { BufferAttribute } from 'three'
import { describe, expect, it } from 'vitest'
import { FaceMoves } from './FaceMoves.ts'

const setUp = () => {
  const position = new BufferAttribute(
    Float32Array.from({ length: 12 }, (_, i) => i),
    3,
  )
  const normal = new BufferAttribute(new Float32Array(12).fill(0.5), 3)
  return { position, normal, face: new FaceMoves(position, normal) }
}
const moves = (vertices: number[], by: number) => ({
  vertices: Uint32Array.from(vertices),
  offsets: new Float32Array(vertices.length * 3).fill(by),
  turns: new Float32Array(vertices.length * 3).fill(by / 10),
})

describe('the moves of a face', () => {
  it('add up, and leave everything as it was when none is played', () => {
    const { position, normal, face } = setUp()
    face.learn('glad', moves([1, 2], 1))
    face.learn('wink', moves([2, 3], 4))
    expect([face.set('glad', 0.5), face.set('wink', 0.25), face.set('grim', 1)]).toEqual([true, true, false])
    face.apply()
    const off = [...position.array].map((v, i) => v - i)
    expect(off).toEqual([0, 0, 0, 0.5, 0.5, 0.5, 1.5, 1.5, 1.5, 1, 1, 1])
    expect(normal.array[6]).toBeCloseTo(0.65, 6)
    face.reset('wink')
    face.apply()
    expect([position.array[3], position.array[6], position.array[9]]).toEqual([3, 7, 10])
    face.reset()
    face.apply()
    expect([...position.array]).toEqual(Array.from({ length: 12 }, (_, i) => i))
    expect([...normal.array]).toEqual(new Array(12).fill(0.5))
  })

  it('are learned from the figure at rest, though one is being played', () => {
    const { position, face } = setUp()
    face.learn('glad', moves([1], 1))
    face.set('glad', 1)
    face.apply()
    face.learn('wink', moves([1], 10))
    // what was played goes on
    expect(position.array[3]).toBe(4)
    face.set('wink', 1)
    face.apply()
    expect(position.array[3]).toBe(14)
    face.reset()
    face.apply()
    expect(position.array[3]).toBe(3)
  })

  it('are forgotten but for one, and what they moved goes back', () => {
    const { position, face } = setUp()
    face.learn('lids', moves([0], 2))
    face.learn('glad', moves([0, 1], 1))
    face.set('lids', 1)
    face.set('glad', 1)
    face.apply()
    face.drop('lids')
    expect([...position.array.subarray(0, 6)]).toEqual([0, 1, 2, 3, 4, 5])
    expect([face.set('glad', 1), face.set('lids', 0.5)]).toEqual([false, true])
    face.apply()
    expect(position.array[0]).toBe(1)
  })

  it('are drawn anew only where something has changed', () => {
    const { position, face } = setUp()
    face.learn('glad', moves([1], 1))
    face.set('glad', 0.3)
    face.apply()
    const before = position.version
    face.set('glad', 0.3)
    face.apply()
    expect(position.version).toBe(before)
    face.set('glad', 0.4)
    face.apply()
    expect(position.version).toBe(before + 1)
  })

  it('of another mesh are passed over, and of one that is gone forgotten', () => {
    const { position, face } = setUp()
    face.learn('glad', moves([9], 1))
    expect(face.set('glad', 1)).toBe(false)
    face.learn('wink', moves([0], 1))
    face.set('wink', 1)
    face.apply()
    face.forget()
    // where vertices are then is where they stay
    position.array[0] = 7
    face.reset()
    face.apply()
    expect([face.set('wink', 1), position.array[0]]).toEqual([false, 7])
  })
})

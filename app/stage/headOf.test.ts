import { Box3, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { headOf, reachAcross } from './headOf'
import type { FigureView } from '../workers/protocol'

/** A body of single points, its head above one metre. */
const view = (points: [number, number, number][], landmarks: FigureView['landmarks']): FigureView =>
  ({
    mesh: { positions: Float32Array.from(points.flat()), indices: Uint32Array.from(points.keys()) },
    pieces: [{ start: 0, count: points.length }],
    landmarks,
  }) as unknown as FigureView

describe('the head of a figure', () => {
  const round: [number, number, number][] = [
    [0.1, 1.1, 0],
    [-0.1, 1.1, 0],
    [0, 1.1, 0.1],
    [0, 1.1, -0.1],
    [0.9, 0.5, 2],
  ]
  const landmarks: FigureView['landmarks'] = { head: [0, 1, 0], crown: [0, 1.2, 0] }

  it('is as wide as what lies above its joint, and looked at from there', () => {
    const { low, high, width, middle } = headOf(view(round, landmarks), 2)
    expect([low, high]).toEqual([1, 1.2])
    expect(width).toBeCloseTo(0.2)
    expect(middle.toArray()).toEqual([0, expect.closeTo(1.1), 0])
  })

  it('with a beak is looked at from farther forward', () => {
    const { middle } = headOf(view([...round, [0, 1.1, 0.6]], landmarks), 2)
    expect(middle.z).toBeCloseTo(0.2)
  })

  it('is where it is drawn when the figure is posed', () => {
    const down = (v: number, out: Vector3) => out.fromArray(round[v]!).add(new Vector3(0.3, -0.5, 0.1))
    const [still, posed] = [headOf(view(round, landmarks), 2), headOf(view(round, landmarks), 2, down)]
    const way = posed.middle.clone().sub(still.middle).toArray()
    expect(way).toEqual([expect.closeTo(0.3), expect.closeTo(-0.5), expect.closeTo(0.1)])
    expect(posed.width).toBe(still.width)
  })

  it('is guessed where nothing is said of it, or nothing lies there', () => {
    const { low, high, width } = headOf(view([[0, 0.2, 0]], {}), 1)
    expect([low, high]).toEqual([0.85, 1])
    expect(width).toBeGreaterThan(0.1)
  })
})

describe('how far a box reaches to the side', () => {
  const box = new Box3(new Vector3(-0.3, 0, -1), new Vector3(0.5, 1, 2))

  it('is told from where it is looked at', () => {
    const at = { x: 0, z: 0 }
    expect(reachAcross(box, at, 0)).toBeCloseTo(0.5)
    expect(reachAcross(box, at, Math.PI / 2)).toBeCloseTo(2)
    expect(reachAcross(box, { x: 0.1, z: 0.5 }, Math.PI / 2)).toBeCloseTo(1.5)
    expect(reachAcross(box, at, Math.PI / 4)).toBeCloseTo((0.3 + 2) * Math.SQRT1_2)
  })
})

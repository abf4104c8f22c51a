import { describe, expect, it } from 'vitest'
import { BoxGeometry, Color } from 'three'
import type { FigureView } from '../workers/protocol.ts'
import { changeColors, MOST_CHANGE, regionColor, regionColors, smoothNormals } from './surfaceLook.ts'
import { weightColor } from './weightRamp.ts'

const box = new BoxGeometry(2, 2, 2)
const positions = new Float32Array(box.getAttribute('position').array)
const indices = new Uint32Array(box.index!.array)
const view = (more: object): FigureView =>
  ({ mesh: { positions, indices, ...more }, bones: [] }) as unknown as FigureView
const colorAt = (colors: Float32Array, v: number) => new Color().fromArray(colors, v * 3).getHexString()

describe('the surface of a figure', () => {
  it('is smooth where one normal stands for all faces at a place', () => {
    const normals = smoothNormals({ positions, indices })
    for (let v = 0; v < positions.length / 3; v++) {
      // a corner of a box looks away from its middle; its three faces give one or two triangles each, so not exactly
      const [p, n] = [positions, normals].map((l) => l.subarray(v * 3, v * 3 + 3)) as [Float32Array, Float32Array]
      expect((p[0]! * n[0]! + p[1]! * n[1]! + p[2]! * n[2]!) / Math.sqrt(3)).toBeGreaterThan(0.93)
      for (let w = 0; w < v; w++)
        if ([0, 1, 2].every((k) => positions[w * 3 + k] === p[k]))
          for (let k = 0; k < 3; k++) expect(normals[w * 3 + k]).toBeCloseTo(n[k]!, 6)
    }
  })

  it('shows regions by the bone that holds a vertex most', () => {
    const count = positions.length / 3
    const joints = new Uint16Array(count * 4)
    const weights = new Float32Array(count * 4)
    for (let v = 0; v < count; v++) {
      joints.set([0, 1, 2, 0], v * 4)
      weights.set(v % 2 ? [0.3, 0.7, 0, 0] : [0.6, 0.4, 0, 0], v * 4)
    }
    const figure = { ...view({ joints, weights }), bones: [{ name: 'a' }, { name: 'b' }, { name: 'c' }] } as FigureView
    const colors = regionColors(figure, [{ bones: ['b'] }, { bones: ['x'] }])
    expect(colorAt(colors, 1)).toBe(new Color(regionColor(0)).getHexString())
    expect(colorAt(colors, 0)).toBe('d8d4c8')
  })

  it('shows how far it has changed, up to the end of the ramp', () => {
    const plain = positions.slice()
    plain[1]! += MOST_CHANGE * 5
    plain[4]! -= MOST_CHANGE / 2
    const colors = changeColors(view({}), plain)!
    const ramp = (t: number) => new Color(weightColor(t)).getHexString()
    expect([0, 1, 2].map((v) => colorAt(colors, v))).toEqual([ramp(1), ramp(128 / 255), ramp(0)])
    expect(changeColors(view({}), plain.slice(3))).toBeNull()
  })
})

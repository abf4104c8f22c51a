import { describe, expect, it } from 'vitest'
import {
  Builder,
  newRecipe,
  newTarget,
  partReference,
  setExpression,
  setFace,
  setPart,
  type Figure,
  type Recipe,
} from '@idle-tinker/core'
import { demoKit } from '../../core/src/testing/demoKits.ts'
import { oneIn } from '../../core/src/testing/thorough.ts'

const kit = await demoKit('saltwick-folk')
const builder = new Builder(new Map([[kit.manifest.id, kit]]))
const body = kit.bodies.get('human')!.def
const target = newTarget('any', 'Any')
const EYES = [...kit.parts.values()].filter(({ def }) => def.slot === 'eyes').map(({ def }) => def.id)
const BEARDS = [...kit.parts.values()].filter(({ def }) => def.slot === 'beard').map(({ def }) => def.id)
/** Share of an open eye that still shows when it is shut: a line at its corners, under the lash. */
const SHUT = 0.11
/** The widest, the oldest, the youngest and the leanest, and one of each sex. */
const HEADS: Record<string, Recipe['sliders']> = {
  plain: {},
  broadest: { heft: 1, 'face-width': 1, sex: 1 },
  oldest: { years: 1 },
  youngest: { years: -1 },
  leanest: { heft: -1, 'face-width': -1, sex: -1 },
}

function wearing(...ids: string[]): Recipe {
  return ids.reduce(
    (r, id) => setPart(r, kit.parts.get(id)!.def.slot, partReference(kit, id)),
    newRecipe(kit, 'human', 'A face'),
  )
}
const build = (recipe: Recipe): Figure => builder.build(recipe, target).figure!

/** The area that triangles of some color regions show to the front, by side of the figure, square metres. */
function seen(figure: Figure, slot: string, regions: RegExp): [left: number, right: number] {
  const { mesh } = figure
  const piece = figure.pieces.find((p) => p.slot === slot)!
  const area: [number, number] = [0, 0]
  for (let t = piece.triangles[0]; t < piece.triangles[1]; t++) {
    const corners = [0, 1, 2].map((k) => mesh.indices[t * 3 + k]!)
    if (!regions.test(mesh.regionNames[mesh.regions[corners[0]!]!]!)) continue
    const [a, b, c] = corners.map((i) => mesh.cornerPoints[i]! * 3) as [number, number, number]
    const at = (i: number, k: number) => mesh.positions[i + k]!
    const twice = (at(b, 0) - at(a, 0)) * (at(c, 1) - at(a, 1)) - (at(c, 0) - at(a, 0)) * (at(b, 1) - at(a, 1))
    area[at(a, 0) > 0 ? 0 : 1] += Math.max(0, twice / 2)
  }
  return area
}

describe.each(Object.entries(HEADS))('the %s face', (_name, sliders) => {
  it.each(EYES)('shuts its %s whole, one or both, and opens them wide', (eyes) => {
    const of = (face: Recipe['sliders']) =>
      seen(build({ ...wearing(eyes), sliders: { ...sliders, ...face } }), 'eyes', /^(eye-white|iris|pupil)$/)
    const [open] = of({})
    const [left, right] = of({ blink: 1, squint: 0.7, wide: 0.5 })
    // what is left is thinner than the lash over it
    expect(left / open).toBeLessThan(SHUT)
    expect(right / open).toBeLessThan(SHUT)
    const [one, other] = of({ blink: [0, 1] })
    expect(one / open).toBeGreaterThan(0.95)
    expect(other / open).toBeLessThan(SHUT)
    expect(of({ wide: 1 })[0] / open).toBeGreaterThan(1.15)
    expect(of({ squint: 1 })[0] / open).toBeLessThan(0.85)
  })

  it('opens when it shouts, and is shut when it only blinks', () => {
    /** Height between the lips in the middle, metres. */
    const gap = (face: string) => {
      const figure = build(setExpression({ ...wearing(), sliders }, body, face))
      const lips = points(figure, /^lips$/).filter(([x]) => Math.abs(x!) < 1e-4)
      const [low, high] = lips
        .map(([, y]) => y!)
        .sort((p, q) => p - q)
        .slice(1, 3)
      return high! - low!
    }
    const size = (sliders.years as number) < 0 ? 0.8 : 1
    expect(gap('shouting')).toBeGreaterThan(0.03 * size)
    expect(gap('blink-both')).toBeLessThan(0.002)
  })

  it.each(body.expressions!.map((e) => e.id))('keeps its teeth behind its lips: %s', (id) => {
    const figure = build(setExpression({ ...wearing(), sliders }, body, id))
    const teeth = points(figure, /^teeth$/)
    const lips = points(figure, /^lips$/)
    const front = Math.max(...lips.map(([, , z]) => z!))
    for (const [, , z] of teeth) expect(z!).toBeLessThan(front - 0.002)
  })
})

/** The points of a region of the body. */
function points(figure: Figure, regions: RegExp): number[][] {
  const { mesh } = figure
  const found = new Set<number>()
  mesh.cornerPoints.forEach((p, c) => regions.test(mesh.regionNames[mesh.regions[c]!]!) && found.add(p))
  return [...found].map((p) => [...mesh.positions.subarray(p * 3, p * 3 + 3)])
}

describe('expressions', () => {
  it('turn hardly a face of the head over on any of these heads', () => {
    const rest = build(setFace(wearing(), body, []))
    const before = normals(rest)
    for (const [name, sliders] of Object.entries(HEADS)) {
      const still = normals(build({ ...wearing(), sliders }))
      for (const { id } of body.expressions!) {
        const after = normals(build(setExpression({ ...wearing(), sliders }, body, id)))
        let over = 0
        for (let t = 0; t < after.length; t++) {
          if (/^(mouth|teeth|tongue)$/.test(before[t]!.region)) continue
          const dot = (a: number[], b: number[]) => a.reduce((s, v, k) => s + v * b[k]!, 0)
          // against the same head at rest
          if (dot(after[t]!.normal, still[t]!.normal) < -0.2) over++
        }
        expect(over, `${name}, ${id}`).toBeLessThanOrEqual(2)
      }
    }
  })

  it.each(BEARDS)('carry %s along: none of it sinks into the face', (beard) => {
    for (const [name, sliders] of oneIn(2, Object.entries(HEADS).slice(1))) {
      const plain = sunk(build({ ...wearing(beard), sliders }))
      for (const { id, mood } of body.expressions!)
        if (mood) {
          const now = sunk(build(setExpression({ ...wearing(beard), sliders }, body, id)))
          // its roots are in the skin at rest as well; on the broadest cheeks a wide open mouth takes a few more in
          expect(now, `${name}, ${id}`).toBeLessThanOrEqual(plain + (name === 'broadest' ? 12 : 6))
        }
    }
  })

  it('are told apart: no two moods leave the face nearly the same', () => {
    const faces = body
      .expressions!.filter((e) => e.mood)
      .map((e) => ({ id: e.id, at: build(setExpression(wearing(), body, e.id)).mesh.positions.slice() }))
    for (const [i, a] of faces.entries())
      for (const b of faces.slice(i + 1)) {
        let most = 0
        for (let k = 0; k < a.at.length; k++) most = Math.max(most, Math.abs(a.at[k]! - b.at[k]!))
        // what is seen at 96 pixels to a head: two of them, 4 mm
        expect(most, `${a.id} and ${b.id}`).toBeGreaterThan(0.004)
      }
  })
})

function normals({ mesh, pieces }: Figure): { normal: number[]; region: string }[] {
  const [from, to] = pieces[0]!.triangles
  return Array.from({ length: to - from }, (_, i) => {
    const t = from + i
    const [a, b, c] = [0, 1, 2].map((k) => mesh.cornerPoints[mesh.indices[t * 3 + k]!]! * 3) as [number, number, number]
    const d = (p: number, k: number) => mesh.positions[p + k]! - mesh.positions[a + k]!
    const n = [0, 1, 2].map((k) => d(b, (k + 1) % 3) * d(c, (k + 2) % 3) - d(b, (k + 2) % 3) * d(c, (k + 1) % 3))
    const size = Math.hypot(...n) || 1
    return { normal: n.map((v) => v / size), region: mesh.regionNames[mesh.regions[mesh.indices[t * 3]!]!]! }
  })
}

/** How many points of the beard lie more than 4 mm behind the skin before them, looked at from the front. */
function sunk(figure: Figure): number {
  const { mesh, pieces } = figure
  const [from, to] = pieces[0]!.triangles
  const beard = pieces.find((p) => p.slot === 'beard')!
  // x, y and z of three corners a face
  const faces = new Float64Array((to - from) * 9)
  for (let i = 0; i < faces.length / 3; i++) {
    const p = mesh.cornerPoints[mesh.indices[from * 3 + i]!]! * 3
    for (let k = 0; k < 3; k++) faces[i * 3 + k] = mesh.positions[p + k]!
  }
  let count = 0
  for (let p = beard.points[0] * 3; p < beard.points[1] * 3; p += 3)
    if (liesBehind(faces, mesh.positions[p]!, mesh.positions[p + 1]!, mesh.positions[p + 2]! + 0.004)) count++
  return count
}

/** Whether a face that looks ahead lies before a place, less than 26 mm off. */
function liesBehind(faces: Float64Array, x: number, y: number, z: number): boolean {
  for (let t = 0; t < faces.length; t += 9) {
    const [ax, ay, az] = [faces[t]!, faces[t + 1]!, faces[t + 2]!]
    const [bx, by, bz] = [faces[t + 3]!, faces[t + 4]!, faces[t + 5]!]
    const [cx, cy, cz] = [faces[t + 6]!, faces[t + 7]!, faces[t + 8]!]
    const whole = (bx - ax) * (cy - ay) - (cx - ax) * (by - ay)
    if (whole <= 1e-12) continue
    const u = ((bx - x) * (cy - y) - (cx - x) * (by - y)) / whole
    const v = ((cx - x) * (ay - y) - (ax - x) * (cy - y)) / whole
    if (u < 0 || v < 0 || u + v > 1) continue
    const front = u * az + v * bz + (1 - u - v) * cz
    if (front > z && front < z + 0.026) return true
  }
  return false
}

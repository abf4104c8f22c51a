import { describe, expect, it } from 'vitest'
import { build } from '../build.ts'
import { prepareBody } from '../body/PreparedBody.ts'
import { Surface } from '../mesh/Surface.ts'
import { demoKit, dressed, instances, readDemoKit, shapeOf, TARGETS } from '../testing/demoKits.ts'
import { bindPart } from './bindPart.ts'
import { checkPoses, poseLayer } from './checkPoses.ts'
import { skinPoints } from '../rig/Pose.ts'
import { assembleOutfit, dressOutfit, type Outfit } from './outfit.ts'
import { applyPress, pressUnder } from './press.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const body = prepareBody(folk.bodies.get('human')!)
const wear = (...ids: string[]) => assembleOutfit(body, instances(folk, ids))

/** Dresses an outfit for a shape and gives the body's positions. */
function shape(outfit: Outfit, sliders: Record<string, number>): Float32Array {
  const { active, positions } = shapeOf(body, sliders)
  dressOutfit(outfit, positions, active)
  return positions
}

describe('an outfit', () => {
  it('is sorted from the skin outward, whatever order its parts come in', () => {
    const ids = ['coat-quay', 'shirt-work', 'hat-brimmed', 'hair-braid', 'trousers', 'mug']
    const order = (names: string[]) => wear(...names).layers.map((l) => l.bound.part.def.id)
    const layers = order(ids)
    expect(order([...ids].reverse())).toEqual(layers)
    expect(layers.indexOf('shirt-work')).toBeLessThan(layers.indexOf('coat-quay'))
    expect(layers.indexOf('hair-braid')).toBeLessThan(layers.indexOf('hat-brimmed'))
  })

  it('comes out the same each time it is worked out anew, and bindings are made once', async () => {
    const [again] = [await readDemoKit('saltwick-folk')]
    const other = prepareBody(again.bodies.get('human')!)
    const a = wear('shirt-work', 'coat-quay')
    const b = assembleOutfit(other, instances(again, ['shirt-work', 'coat-quay']))
    expect(b.layers[0]!.bound).not.toBe(a.layers[0]!.bound)
    expect(bindPart(body, folk.parts.get('shirt-work')!)).toBe(a.layers[0]!.bound)
    shape(a, { build: 0.7 })
    const { active, positions } = shapeOf(other, { build: 0.7 })
    dressOutfit(b, positions, active)
    a.layers.forEach((layer, i) => {
      expect(layer.positions).not.toEqual(layer.rest)
      expect(layer.positions).toEqual(b.layers[i]!.positions)
      expect(layer.bound.weights).toEqual(b.layers[i]!.bound.weights)
    })
    expect(b.hiddenBody).toEqual(a.hiddenBody)
  })

  it('keeps an apron out of the shirt beneath it at the ends of sliders', () => {
    const outfit = wear('shirt-work', 'apron-net')
    const [shirt, apron] = outfit.layers as [Outfit['layers'][number], Outfit['layers'][number]]
    expect(apron.onLayers).toHaveLength(1)
    for (const sliders of [{ build: 1 }, { belly: 1 }, { bust: 1, waist: -1 }, { build: -1, stature: 1 }] as Record<
      string,
      number
    >[]) {
      shape(outfit, sliders)
      for (const { layer, anchors } of apron.onLayers) {
        expect(outfit.layers[layer]).toBe(shirt)
        let sunk = 0
        for (let i = 0; i < anchors.points.length; i++) {
          const p = anchors.points[i]! * 3
          const [a, b, c] = [0, 1, 2].map((k) => anchors.planes[i * 3 + k]! * 3) as [number, number, number]
          const s = shirt.positions
          const u = [0, 1, 2].map((k) => s[b + k]! - s[a + k]!)
          const v = [0, 1, 2].map((k) => s[c + k]! - s[a + k]!)
          const n = [u[1]! * v[2]! - u[2]! * v[1]!, u[2]! * v[0]! - u[0]! * v[2]!, u[0]! * v[1]! - u[1]! * v[0]!]
          const length = Math.hypot(...n)
          const height = [0, 1, 2].reduce((t, k) => t + (apron.positions[p + k]! - s[a + k]!) * n[k]!, 0) / length
          if (height < -0.001) sunk++
        }
        expect(sunk / anchors.points.length).toBeLessThan(0.02)
      }
    }
  })

  it('hides more skin the more is worn over it', () => {
    const hidden = (...ids: string[]) => wear(...ids).hiddenBody.reduce((s, h) => s + h, 0)
    const [none, shirt, both, all] = [
      hidden(),
      hidden('shirt-work'),
      hidden('shirt-work', 'trousers'),
      hidden('shirt-work', 'trousers', 'boots-sea', 'gloves'),
    ]
    expect(none).toBe(0)
    expect(shirt).toBeGreaterThan(0)
    expect(both).toBeGreaterThan(shirt)
    expect(all).toBeGreaterThan(both)
    expect(all).toBeLessThan(body.triangles.length / 3)
  })

  it('never hides a part by something under it', () => {
    const outfit = wear('shirt-work', 'coat-quay')
    expect(outfit.hiddenLayers[1]!.some((h) => h === 1)).toBe(false)
    expect(outfit.hiddenLayers[0]!.some((h) => h === 1)).toBe(true)
  })
})

describe('hair beneath a hat', () => {
  it('is pressed flat under it and left alone beside it', () => {
    const bare = wear('hair-curls')
    const hatted = wear('hair-curls', 'hat-tall')
    shape(bare, {})
    shape(hatted, {})
    const [free, pressed] = [bare, hatted].map(
      (o) => o.layers.find((l) => l.bound.part.def.id === 'hair-curls')!.positions,
    ) as [Float32Array, Float32Array]
    let moved = 0
    let [top, pressedTop] = [0, 0]
    for (let p = 0; p < free.length; p += 3) {
      const d = Math.hypot(...[0, 1, 2].map((k) => free[p + k]! - pressed[p + k]!))
      if (d > 0.002) moved++
      top = Math.max(top, free[p + 1]!)
      pressedTop = Math.max(pressedTop, pressed[p + 1]!)
    }
    expect(moved).toBeGreaterThan(10)
    expect(moved).toBeLessThan(free.length / 3)
    // under a tall crown there is room above; hair never comes out higher
    expect(pressedTop).toBeLessThanOrEqual(top)
  })

  it('is drawn in towards the head by a share, never through it', () => {
    const { positions: hair } = folk.parts.get('hair-curls')!.mesh
    const bound = bindPart(body, folk.parts.get('hat-tall')!)
    const { triangles } = bindPart(body, folk.parts.get('hair-curls')!)
    const press = pressUnder(body, hair, triangles, new Surface(bound.rest, bound.triangles))
    expect(press.points.length).toBeGreaterThan(10)
    for (const f of press.factors) {
      expect(f).toBeGreaterThanOrEqual(0.05)
      expect(f).toBeLessThanOrEqual(1)
    }
    const positions = hair.slice()
    applyPress(positions, body.model.mesh.positions, press)
    for (const p of press.points) {
      const before = body.surface.nearest(hair[p * 3]!, hair[p * 3 + 1]!, hair[p * 3 + 2]!)!.distance
      const after = body.surface.nearest(positions[p * 3]!, positions[p * 3 + 1]!, positions[p * 3 + 2]!)!.distance
      expect(after).toBeLessThanOrEqual(before + 1e-4)
    }
  })
})

const idsOf = (slot: string) => [...folk.parts.values()].filter((p) => p.def.slot === slot).map((p) => p.def.id)
const surfaceOf = (outfit: Outfit, id: string) => {
  const { positions, bound } = outfit.layers.find((l) => l.bound.part.def.id === id)!
  return new Surface(positions, bound.triangles)
}

/** What is open on top, as a wreath is, presses nothing. */
const pressing = idsOf('hat').filter((id) => {
  const { def } = folk.parts.get(id)!
  return def.how === 'worn' && def.presses?.includes('hair')
})

describe.each(pressing)('under %s', (hat) => {
  it.each(idsOf('hair'))('%s is not seen from above', (hair) => {
    const outfit = wear(hair, hat)
    shape(outfit, {})
    const [under, roof] = [surfaceOf(outfit, hair), surfaceOf(outfit, hat)]
    let [seen, through] = [0, 0]
    for (let x = -0.2; x <= 0.2; x += 0.005)
      for (let z = -0.25; z <= 0.25; z += 0.005) {
        const top = roof.castRay(x, 3, z, 0, -1, 0, 0, 3)
        if (top === Infinity) continue
        seen++
        if (under.castRay(x, 3, z, 0, -1, 0, 0, 3) < top - 0.002) through++
      }
    expect(seen).toBeGreaterThan(1000)
    expect(through / seen).toBeLessThan(0.005)
  })
})

describe.each(['coat-quay', 'coat-oilskin', 'jacket-short', 'smock'])('under %s', (coat) => {
  it.each([
    ['shirt-work', {}],
    ['jersey', {}],
    ['shirt-work', { belly: 1 }],
    ['shirt-work', { build: -1 }],
  ] as const)('the bib and braces of waders over %s are not seen, %j', (top, sliders) => {
    const outfit = wear(top, 'waders', coat)
    shape(outfit, sliders)
    const [waders, cloth] = [surfaceOf(outfit, 'waders'), surfaceOf(outfit, coat)]
    let [seen, through] = [0, 0]
    for (const side of [1, -1])
      for (let x = -0.16; x <= 0.16; x += 0.005)
        for (let y = 1.1; y <= 1.45; y += 0.005) {
          const reach = 3 - cloth.castRay(x, y, 3 * side, 0, 0, -side, 0, 6)
          // through the open front one sees the coat's own back
          if (reach < 0.03) continue
          seen++
          if (3 - waders.castRay(x, y, 3 * side, 0, 0, -side, 0, 6) > reach + 0.001) through++
        }
    expect(seen).toBeGreaterThan(3000)
    expect(through / seen).toBeLessThan(0.01)
  })
})

describe('things in the hand', () => {
  it('go with the hand and keep their form', () => {
    const outfit = wear('mug')
    const [mug] = outfit.layers
    shape(outfit, {})
    const rest = mug!.positions.slice()
    shape(outfit, { arms: 1 })
    const moved = [0, 1, 2].map((k) => mug!.positions[k]! - rest[k]!)
    expect(Math.hypot(...moved)).toBeGreaterThan(0.02)
    for (let i = 0; i < rest.length; i++) expect(mug!.positions[i]! - rest[i]!).toBeCloseTo(moved[i % 3]!, 5)
    expect([...mug!.bound.weights].filter((w) => w > 0)).toHaveLength(rest.length / 3)
  })
})

describe('the poses in which covered must mean covered', () => {
  it('begin with the rest pose, where nothing moves', () => {
    const { positions, joints, weights } = body.model.mesh
    const { bones, poses } = checkPoses(body)
    const same = skinPoints(bones, poses[0]!, positions, joints, weights)
    for (let i = 0; i < positions.length; i++) expect(same[i]!).toBeCloseTo(positions[i]!, 5)
    expect(poseLayer(checkPoses(body), 0, positions, joints, weights)).toEqual(positions)
  })

  it('move limbs and leave the size of a body alone', () => {
    const { positions, joints, weights } = body.model.mesh
    const rig = checkPoses(body)
    expect(rig.poses.length).toBe(1 + body.model.plan.poses.length)
    for (let pose = 1; pose < rig.poses.length; pose++) {
      const posed = poseLayer(rig, pose, positions, joints, weights)
      let most = 0
      for (let p = 0; p < positions.length; p += 3)
        most = Math.max(most, Math.hypot(...[0, 1, 2].map((k) => posed[p + k]! - positions[p + k]!)))
      expect(most).toBeGreaterThan(0.15)
      expect(most).toBeLessThan(1.2)
    }
  })
})

describe('a skirt', () => {
  it('hangs on both legs where it hangs free, and on the hips at its waist', () => {
    const bound = bindPart(body, folk.parts.get('skirt-work')!)
    const bone = (name: string) => body.model.bones.findIndex((b) => b.name === name)
    const share = (p: number, names: string[]) =>
      [0, 1, 2, 3].reduce(
        (s, k) => s + (names.map(bone).includes(bound.joints[p * 4 + k]!) ? bound.weights[p * 4 + k]! : 0),
        0,
      )
    const points = Array.from({ length: bound.rest.length / 3 }, (_, p) => p).sort(
      (a, b) => bound.rest[a * 3 + 1]! - bound.rest[b * 3 + 1]!,
    )
    const legs = ['leftUpperLeg', 'rightUpperLeg', 'leftLowerLeg', 'rightLowerLeg']
    expect(share(points[0]!, legs)).toBeGreaterThan(0.6)
    expect(share(points[points.length - 1]!, legs)).toBeLessThan(0.4)
  })

  it('weighs something on the body: every worn part’s weights sum to one', () => {
    for (const part of [...folk.parts.values()].slice(0, 30)) {
      const { weights } = bindPart(body, part)
      for (let p = 0; p < weights.length; p += 4)
        expect(weights[p]! + weights[p + 1]! + weights[p + 2]! + weights[p + 3]!).toBeCloseTo(1, 4)
    }
  })
})

describe('an ottern in its scarf', () => {
  it('is dressed by the same code: the scarf follows its neck', () => {
    const recipe = dressed(tide, 'ottern', ['scarf-striped'])
    const near = TARGETS[0]!
    const at = (sliders: Record<string, number>) => {
      const { mesh, pieces } = build({ ...recipe, sliders }, kits, near).figure!
      const { points } = pieces.find((p) => p.id === 'scarf-striped')!
      let sum = 0
      for (let p = points[0]; p < points[1]; p++) sum += mesh.positions[p * 3 + 1]!
      return sum / (points[1] - points[0])
    }
    expect(at({ stature: 1 })).toBeGreaterThan(at({}) + 0.05)
    expect(at({ stature: -1 })).toBeLessThan(at({}) - 0.05)
  })
})

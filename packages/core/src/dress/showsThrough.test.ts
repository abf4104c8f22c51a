import { describe, expect, it } from 'vitest'
import { prepareBody } from '../body/PreparedBody.ts'
import type { Kit } from '../kit/Kit.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import { Surface } from '../mesh/Surface.ts'
import { demoKit, instances, shapeOf } from '../testing/demoKits.ts'
import { assembleOutfit, dressOutfit, type Outfit } from './outfit.ts'
import { oneIn } from '../testing/thorough.ts'

const AROUND = [0, 0.25, 0.5, 0.75].map((turn) => turn * 2 * Math.PI + 0.3)
/** Between the rays, metres. */
const STEP = 0.012
/** What lies this far in front of the outer part has come through it; what lies farther off is something else. */
const NEAR = 0.015

/** Puts two parts on a body and gives the share of the outer one's view that the inner one spoils. */
function shownThrough(kit: Kit, bodyId: string, inner: string, outer: string, sliders: Record<string, number>): number {
  const body = prepareBody(kit.bodies.get(bodyId)!)
  const outfit = assembleOutfit(body, instances(kit, [inner, outer]))
  const { active, positions } = shapeOf(body, sliders)
  dressOutfit(outfit, positions, active)
  const [below, above] = [inner, outer].map((id) => visibleSurface(outfit, id))
  if (!below || !above) return 0
  const { min, max } = boundsOf(above.positions)
  const [cx, cz] = [(min[0] + max[0]) / 2, (min[2] + max[2]) / 2]
  const half = Math.hypot(max[0] - min[0], max[2] - min[2]) / 2
  let [seen, spoiled] = [0, 0]
  for (const angle of AROUND) {
    const [dx, dz] = [-Math.sin(angle), -Math.cos(angle)]
    for (let u = -half; u <= half; u += STEP)
      for (let y = min[1]; y <= max[1]; y += STEP) {
        const [x, z] = [cx - dz * u - dx * 3, cz + dx * u - dz * 3]
        const far = above.castRay(x, y, z, dx, 0, dz, 0, 8)
        if (far === Infinity) continue
        seen++
        const near = below.castRay(x, y, z, dx, 0, dz, 0, far)
        if (near < far - 0.001 && near > far - NEAR) spoiled++
      }
  }
  expect(seen).toBeGreaterThan(100)
  return spoiled / seen
}

/** The triangles of a part that are drawn; null if none are. */
function visibleSurface(outfit: Outfit, id: string): Surface | null {
  const at = outfit.layers.findIndex((l) => l.bound.part.def.id === id)
  const { bound, positions } = outfit.layers[at]!
  const triangles = bound.triangles.filter((_, i) => !outfit.hiddenLayers[at]![Math.floor(i / 3)])
  return triangles.length ? new Surface(positions, triangles) : null
}

const [folk, tide] = [await demoKit('saltwick-folk'), await demoKit('tide-creatures')]

/** Pairs where the outer part promises to press the inner one; hats over hair are looked at from above elsewhere. */
const pairs = (
  [
    [folk, 'human'],
    [tide, 'ottern'],
  ] as const
).flatMap(([kit, body]) =>
  [...kit.parts.values()].flatMap(({ def: outer }) => {
    if (outer.how !== 'worn' || !outer.presses || outer.slot === 'hat') return []
    const inner = [...kit.parts.values()]
      .filter(({ def }) => def.how === 'worn' && def.layer < outer.layer && outer.presses!.includes(def.slot))
      .map(({ def }) => def.id)
    return inner.map((id) => [id, outer.id, kit, body] as const)
  }),
)

describe('what is worn beneath', () => {
  it('is pressed by coats, belts, gloves, trousers and boots alike', () => {
    expect(new Set(pairs.map(([, , kit]) => kit.manifest.id)).size).toBe(2)
    expect(new Set(pairs.map(([, outer]) => outer)).size).toBeGreaterThan(15)
  })

  it.each(oneIn(3, pairs))('%s does not show through %s', (inner, outer, kit, body) => {
    expect(shownThrough(kit, body, inner, outer, {})).toBeLessThan(0.025)
  })

  it.each(
    oneIn(
      10,
      pairs.filter(([, , kit]) => kit === folk),
    ),
  )('%s hardly shows through %s on a broad body', (inner, outer, kit, body) => {
    expect(shownThrough(kit, body, inner, outer, { build: 0.8, belly: 0.8 })).toBeLessThan(0.05)
  })
})

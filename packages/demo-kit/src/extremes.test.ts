import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import {
  Builder,
  clipsOf,
  wantedBy,
  newRecipe,
  newTarget,
  partReference,
  pointTriangles,
  prepareBody,
  setPart,
  shapeSlidersOf,
  type Figure,
  type Mesh,
  type PreparedBody,
  type Recipe,
} from '@idle-tinker/core'
import { activeDeltas } from '../../core/src/body/shapeBody.ts'
import { poseAt } from '../../core/src/motion/Clip.ts'
import { createWorldPose, skinPoints, solveForward } from '../../core/src/rig/Pose.ts'
import { demoKit } from '../../core/src/testing/demoKits.ts'
import { samples } from '../../core/src/testing/thorough.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((kit) => [kit.manifest.id, kit]))
const human = prepareBody(folk.bodies.get('human')!)
const ottern = prepareBody(tide.bodies.get('ottern')!)
const lampstrider = prepareBody(tide.bodies.get('lampstrider')!)
const gulper = prepareBody(tide.bodies.get('gulper')!)
/** So many sliders of a random recipe stand at one of their ends: more than anybody would push there by hand. */
const AT_ENDS = 12
/** Share of faces that may lie wrong way round: what a figure is forgiven unseen. */
const FLIPPED = 0.003

/** Numbers in [0, 1) that are the same every time (Numerical Recipes' linear congruential generator). */
function numbers(seed: number): () => number {
  let state = seed >>> 0
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32
}

function atRandomEnds(body: PreparedBody, random: () => number): Recipe['sliders'] {
  const sliders = shapeSlidersOf(body.model.def)
  return Object.fromEntries(
    Array.from({ length: AT_ENDS }, () => {
      const { id, min, max } = sliders[Math.floor(random() * sliders.length)]!
      return [id, random() < 0.5 ? min : max]
    }),
  )
}

/** The body's points as sliders shape them. */
function shaped(body: PreparedBody, sliders: Recipe['sliders']): Float32Array {
  const out = body.model.mesh.positions.slice()
  for (const { delta, weight } of activeDeltas(body, sliders))
    delta.points.forEach((p, i) => {
      for (let k = 0; k < 3; k++) out[p * 3 + k]! += weight * delta.deltas[i * 3 + k]!
    })
  return out
}

/** Unit normals of all faces. */
function normals(positions: Float32Array, triangles: Uint32Array): Float32Array {
  const out = new Float32Array(triangles.length)
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3]
    const [ux, uy, uz] = [
      positions[b]! - positions[a]!,
      positions[b + 1]! - positions[a + 1]!,
      positions[b + 2]! - positions[a + 2]!,
    ]
    const [vx, vy, vz] = [
      positions[c]! - positions[a]!,
      positions[c + 1]! - positions[a + 1]!,
      positions[c + 2]! - positions[a + 2]!,
    ]
    const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
    const length = Math.hypot(x, y, z) || 1
    out.set([x / length, y / length, z / length], t)
  }
  return out
}

/** Share of the faces that are turned over against the plain body; the inside of a closed mouth does not count. */
function flipped(body: PreparedBody, positions: Float32Array): number {
  const { mesh } = body.model
  const triangles = pointTriangles(mesh)
  const inside = new Set(['mouth', 'teeth', 'tongue'].map((r) => mesh.regionNames.indexOf(r)))
  const [before, after] = [normals(mesh.positions, triangles), normals(positions, triangles)]
  let over = 0
  for (let t = 0; t < triangles.length; t += 3) {
    if (inside.has(mesh.regions[mesh.indices[t]!]!)) continue
    const dot = before[t]! * after[t]! + before[t + 1]! * after[t + 1]! + before[t + 2]! * after[t + 2]!
    if (dot < 0) over++
  }
  return over / (triangles.length / 3)
}

/** Arms below the elbow, and what they hang beside. */
const HANGING = {
  arm: /(LowerArm|Hand|Proximal|Intermediate|Metacarpal|Distal)$/,
  trunk: /^(hips|spine|chest|upperChest)$/,
  leg: /(UpperLeg|LowerLeg)$/,
}

const skinned = ({ positions, joints, weights }: Mesh) => [positions, joints, weights] as const

/** Which limb each point belongs to, by the bone that moves it most. */
function limbs(
  { mesh, bones }: { mesh: Mesh; bones: readonly { name: string }[] },
  groups: Readonly<Record<string, RegExp>>,
): (string | null)[] {
  return Array.from({ length: mesh.positions.length / 3 }, (_, p) => {
    let [best, most] = [-1, 0.6]
    for (let k = 0; k < 4; k++)
      if (mesh.weights[p * 4 + k]! > most) [best, most] = [mesh.joints[p * 4 + k]!, mesh.weights[p * 4 + k]!]
    const name = best < 0 ? '' : bones[best]!.name
    return Object.keys(groups).find((g) => groups[g]!.test(name)) ?? null
  })
}

/** Where a ray leaves a surface first: how far, and through which face; null where it first enters one, or meets none. */
function wayOut(
  positions: Float32Array,
  triangles: Uint32Array,
  from: readonly number[],
  along: readonly number[],
): { far: number; face: number } | null {
  let [far, face, leaves] = [Infinity, -1, false]
  const [ox, oy, oz] = from as [number, number, number]
  const [dx, dy, dz] = along as [number, number, number]
  for (let t = 0; t < triangles.length; t += 3) {
    // Möller and Trumbore 1997
    const [a, b, c] = [triangles[t]! * 3, triangles[t + 1]! * 3, triangles[t + 2]! * 3]
    const [ax, ay, az] = [positions[a]!, positions[a + 1]!, positions[a + 2]!]
    const [ux, uy, uz] = [positions[b]! - ax, positions[b + 1]! - ay, positions[b + 2]! - az]
    const [vx, vy, vz] = [positions[c]! - ax, positions[c + 1]! - ay, positions[c + 2]! - az]
    const [hx, hy, hz] = [dy * vz - dz * vy, dz * vx - dx * vz, dx * vy - dy * vx]
    const det = ux * hx + uy * hy + uz * hz
    if (Math.abs(det) < 1e-12) continue
    const [sx, sy, sz] = [ox - ax, oy - ay, oz - az]
    const u = (sx * hx + sy * hy + sz * hz) / det
    if (u < 0 || u > 1) continue
    const [qx, qy, qz] = [sy * uz - sz * uy, sz * ux - sx * uz, sx * uy - sy * ux]
    const w = (dx * qx + dy * qy + dz * qz) / det
    if (w < 0 || u + w > 1) continue
    const d = (vx * qx + vy * qy + vz * qz) / det
    if (d > 0 && d < far) [far, face, leaves] = [d, t, det < 0]
  }
  return leaves ? { far, face } : null
}

/** Heads and arms that lie in a trunk or a leg, from where one would have to go this far to come out again. */
function sunk(positions: Float32Array, triangles: Uint32Array, limbOf: (string | null)[]): string[] {
  const DEEP = 0.004
  const found = new Set<string>()
  const faces = normals(positions, triangles)
  const out = new Float32Array(positions.length)
  for (let t = 0; t < triangles.length; t++)
    for (let k = 0; k < 3; k++) out[triangles[t]! * 3 + k]! += faces[Math.floor(t / 3) * 3 + k]!
  for (const [p, limb] of limbOf.entries()) {
    if (limb !== 'head' && limb !== 'arm') continue
    const n = [0, 1, 2].map((k) => out[p * 3 + k]!)
    const length = Math.hypot(...n) || 1
    const along = n.map((v) => v / length)
    const from = along.map((v, k) => positions[p * 3 + k]! + v * 1e-4)
    const hit = wayOut(positions, triangles, from, along)
    if (!hit || hit.far < DEEP) continue
    const others = [0, 1, 2].map((k) => limbOf[triangles[hit.face + k]!]!)
    const other = others.find((o) => o === 'trunk' || o === 'leg')
    if (other) found.add(`${limb} in ${other}`)
  }
  return [...found]
}

describe.each([
  ['the human', human],
  ['the ottern', ottern],
  ['the lampstrider', lampstrider],
  ['the gulper', gulper],
])('%s', (_name, body) => {
  it('keeps its faces the right way round in 2,000 random recipes at random ends', () => {
    const random = numbers(7)
    const worst = { share: 0, sliders: {} as Recipe['sliders'] }
    for (let i = 0; i < 2000; i++) {
      const sliders = atRandomEnds(body, random)
      const share = flipped(body, shaped(body, sliders))
      if (share > worst.share) Object.assign(worst, { share, sliders })
    }
    expect(worst.share, JSON.stringify(worst.sliders)).toBeLessThanOrEqual(FLIPPED)
  })

  it('has two names for no movement, and every slider does something at both its ends', () => {
    const { sliders } = body.model.def
    expect(new Set(sliders.map((s) => s.name)).size).toBe(sliders.length)
    for (const { id, min, max } of sliders) {
      const [low, high] = [min, max].map((v) => shaped(body, { [id]: v }))
      expect(low, id).not.toEqual(high)
    }
  })
})

describe.each([
  ['the human', human, folk],
  ['the ottern', ottern, tide],
])('%s', (_name, body, kit) => {
  it('has its hands out of its trunk and its thighs while it stands and while it goes, in random recipes', () => {
    const builder = new Builder(kits)
    const plain: Recipe = { ...newRecipe(kit, body.model.def.id, 'Somebody'), parts: [] }
    const random = numbers(5)
    // where hands are on hips, or one lies on an arm, they touch on purpose
    const hanging = wantedBy({})
    /** What is sunk in what at six moments of every clip, each arm turned in at the shoulder by so much, radians. */
    const sunkInClips = (sliders: Recipe['sliders'], turnedIn: number) => {
      const { mesh, skeleton } = builder.build({ ...plain, sliders }, newTarget('any', 'Any')).figure!
      const triangles = pointTriangles(mesh)
      const limbOf = limbs({ mesh, bones: skeleton.bones }, HANGING)
      expect(limbOf.filter((l) => l === 'arm').length).toBeGreaterThan(100)
      const world = createWorldPose(skeleton.bones)
      const posed = new Float32Array(mesh.positions.length)
      return clipsOf({ skeleton, mesh } as Figure, kits, plain, hanging).flatMap((clip) =>
        [0, 1, 2, 3, 4, 5].flatMap((moment) => {
          const pose = poseAt(clip, (clip.duration * moment) / 6)
          for (const [b, { name }] of skeleton.bones.entries()) {
            if (!/UpperArm$/.test(name)) continue
            const turn = new Quaternion().setFromAxisAngle(
              new Vector3(0, 0, 1),
              /^left/.test(name) ? -turnedIn : turnedIn,
            )
            turn.multiply(new Quaternion().fromArray(pose.turns, b * 4)).toArray(pose.turns, b * 4)
          }
          skinPoints(skeleton.bones, solveForward(skeleton.bones, pose, world), ...skinned(mesh), posed)
          return sunk(posed, triangles, limbOf)
        }),
      )
    }
    for (let i = 0; i < samples(6, 12); i++) {
      const sliders = atRandomEnds(body, random)
      expect(sunkInClips(sliders, 0), JSON.stringify(sliders)).toEqual([])
    }
    // the check itself: arms that are pressed against the sides
    expect(sunkInClips({}, 0.6).length).toBeGreaterThan(0)
  })
})

describe('the human', () => {
  it('has its chin out of its chest, and its arms out of its trunk, in random recipes', () => {
    const triangles = pointTriangles(human.model.mesh)
    const limbOf = limbs(human.model, {
      head: /^(head|jaw)$/,
      arm: /(LowerArm|Hand|Proximal|Intermediate|Distal|Metacarpal)$/,
      trunk: /^(hips|spine|chest|upperChest)$/,
      leg: /(UpperLeg|LowerLeg)$/,
    })
    // chin, jaw and face: the back of the head grows out of the neck and is never quite out of it
    const rest = human.model.mesh.positions
    limbOf.forEach((l, p) => l === 'head' && rest[p * 3 + 2]! < 0.045 && (limbOf[p] = null))
    // teeth and tongue lie in the head, as they should
    const { regionNames, regions, cornerPoints } = human.model.mesh
    cornerPoints.forEach((p, c) => /^(mouth|teeth|tongue)$/.test(regionNames[regions[c]!]!) && (limbOf[p] = null))
    expect(limbOf.filter((l) => l === 'head').length).toBeGreaterThan(40)
    expect(limbOf.filter((l) => l === 'arm').length).toBeGreaterThan(140)
    const random = numbers(11)
    for (let i = 0; i < samples(60, 150); i++) {
      const sliders = atRandomEnds(human, random)
      expect(sunk(shaped(human, sliders), triangles, limbOf), JSON.stringify(sliders)).toEqual([])
    }
    // the check itself: an arm pushed into the trunk, a head into the chest
    const pushed = shaped(human, {})
    limbOf.forEach((l, p) => {
      if (l === 'arm' && pushed[p * 3]! > 0) pushed[p * 3]! -= 0.42
    })
    expect(sunk(pushed, triangles, limbOf)).toContain('arm in trunk')
    const low = shaped(human, {})
    limbOf.forEach((l, p) => l === 'head' && (low[p * 3 + 1]! -= 0.2))
    expect(sunk(low, triangles, limbOf)).toContain('head in trunk')
  })
})

describe('the ground', () => {
  const builder = new Builder(new Map([[folk.manifest.id, folk]]))
  const target = newTarget('any', 'Any')
  const BODIES: Record<string, Recipe['sliders']> = {
    child: { years: -1 },
    'old and heavy': { years: 1, heft: 1 },
    'large feet': { heads: -1, feet: 1, toes: 1, legs: 1, instep: -1 },
    'tall and strong': { stature: 1, muscle: 1, ankles: 1, bow: 1 },
    'uneven legs': { feet: [1, -1], calves: [1, -1] },
  }
  const SHOES = [null, ...[...folk.parts.values()].filter(({ def }) => def.slot === 'feet').map(({ def }) => def.id)]

  it.each(Object.entries(BODIES))('is found by the soles of %s, barefoot and in every shoe', (_name, sliders) => {
    for (const shoe of SHOES) {
      const bare = newRecipe(folk, 'human', 'Somebody')
      const shod = shoe ? setPart(bare, 'feet', partReference(folk, shoe)) : bare
      const { mesh } = builder.build({ ...shod, sliders }, target).figure!
      // of what is drawn alone: bare toes in a boot are not
      const lowest = mesh.cornerPoints.reduce((low, p) => Math.min(low, mesh.positions[p * 3 + 1]!), Infinity)
      expect(Math.abs(lowest), `${shoe}`).toBeLessThan(1e-4)
    }
  })
})

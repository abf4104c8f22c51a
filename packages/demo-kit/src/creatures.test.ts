import { Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import {
  addPart,
  BODY_PLANS,
  Builder,
  newRecipe,
  newTarget,
  partReference,
  reducerReady,
  shipFigure,
  spotFor,
  type Recipe,
  type Target,
} from '@idle-tinker/core'
import { ShippedFile } from '../../core/src/ship/ShippedFile.ts'
import { demoKit, wear } from '../../core/src/testing/demoKits.ts'
import { glbFaults } from '../../core/src/testing/glbFaults.ts'
import { samples } from '../../core/src/testing/thorough.ts'

/*
 * Creatures in motion, measured on the vertices of the files they ship as.
 */

const tide = await demoKit('tide-creatures')
const kits = new Map([[tide.manifest.id, tide]])
const target: Target = { ...newTarget('any', 'Any'), detail: 'near', lods: [], keepClips: 'all' }
beforeAll(() => reducerReady)

const files = new Map<string, Promise<ShippedFile>>()

/** A figure as it ships with all its clips; several tests look at the same file. */
function shipped(body: string, parts: string[], sliders: Recipe['sliders'] = {}): Promise<ShippedFile> {
  const key = JSON.stringify([body, parts, sliders])
  let file = files.get(key)
  if (!file) files.set(key, (file = ship(body, parts, sliders)))
  return file
}

async function ship(body: string, parts: string[], sliders: Recipe['sliders']): Promise<ShippedFile> {
  let recipe = newRecipe(tide, body, 'Somebody')
  for (const id of parts) recipe = wear(recipe, tide, id)
  const { bytes, problems } = await shipFigure(new Builder(kits), kits, { ...recipe, sliders }, target, { lods: false })
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  return new ShippedFile(bytes!)
}

const FRAMES = 60

/** Every frame of a clip: the drawn points of the figure, xyz each. */
function framesOf(file: ShippedFile, name: string) {
  const drawn = file.drawn()[0]!
  const clip = file.clips().find((c) => c.name === name)!
  const frames = Array.from({ length: FRAMES + 1 }, (_, i) =>
    file.posed(drawn, file.at({ clip, time: (clip.duration * i) / FRAMES })),
  )
  return { drawn, clip, frames }
}

/** The points that hang on some bones by most of their weight. */
function pointsOn(file: ShippedFile, drawn: ReturnType<ShippedFile['drawn']>[0], bones: RegExp): number[] {
  const names = file.jointsOf(drawn.skin!).map((j) => file.nodes[j]!.name ?? '')
  return [...Array(drawn.positions.length / 3).keys()].filter((v) => {
    let share = 0
    for (let k = 0; k < 4; k++) if (bones.test(names[drawn.joints![v * 4 + k]!]!)) share += drawn.weights![v * 4 + k]!
    return share > 0.6
  })
}

const lowest = (points: Float64Array, own?: readonly number[]) =>
  own
    ? own.reduce((low, v) => Math.min(low, points[v * 3 + 1]!), Infinity)
    : points.reduce((low, y, i) => (i % 3 === 1 ? Math.min(low, y) : low), Infinity)

/** By how much the distance of two places changes, each the middle of some points, metres: not at all on one stiff piece. */
function yields(frames: readonly Float64Array[], own: readonly number[], other: readonly number[]): number {
  const middle = (points: Float64Array, list: readonly number[]) =>
    list.reduce((sum, v) => sum.add(new Vector3().fromArray(points, v * 3)), new Vector3()).divideScalar(list.length)
  const ways = frames.map((points) => middle(points, own).distanceTo(middle(points, other)))
  return Math.max(...ways) - Math.min(...ways)
}

const LEGS = ['leftHind', 'rightHind', 'leftFore', 'rightFore']
const TRUNK = /^(hips|spine|chest|upperChest|neck|head|jaw)$/
/** Points this near the ground stand on it, metres. */
const TOUCHING = 0.006
/** A foot may slide so far in a whole loop, of the figure's height: 2.8 cm of two metres are not seen. */
const SLIDE = 0.014
/** Nothing goes farther below the ground, metres. */
const BELOW = 0.006

/** The ground covered in a loop, metres: the kit tells it in leg lengths. */
function wayOf(file: ShippedFile, name: string): number {
  const { world } = file.at()
  const joint = (bone: string) =>
    new Vector3().setFromMatrixPosition(world[file.nodes.findIndex((n) => n.name === bone)]!)
  const [hip, knee, ankle] = ['UpperLeg', 'LowerLeg', 'Foot'].map((b) => joint(`leftHind${b}`)) as [
    Vector3,
    Vector3,
    Vector3,
  ]
  const clip = tide.manifest.clips.find((c) => c.name === name && !BODY_PLANS.has(c.plan))!
  return clip.travel * (hip.distanceTo(knee) + knee.distanceTo(ankle))
}

/** How far two lists are apart where they are farthest; asked number by number it would take most of the time. */
const mostApart = (a: Float64Array, b: Float64Array) => a.reduce((most, v, i) => Math.max(most, Math.abs(v - b[i]!)), 0)

const SHAPES: Record<string, Recipe['sliders'][]> = {
  lampstrider: [{}, { legs: 1, stature: 1, feet: 1 }, { legs: -1, girth: 1, knees: 1 }, { years: -1 }],
  gulper: [{}, { stature: 1, girth: 1 }, { 'fore-legs': 1, 'hind-legs': 1, feet: 1 }, { years: -1 }],
}

describe.each([
  ['lampstrider', ['Walk', 'Hurry']],
  ['gulper', ['Hop', 'Crawl']],
])('a %s', (body, gaits) => {
  it.each(SHAPES[body]!.flatMap((s) => gaits.map((gait) => [`${gait} ${JSON.stringify(s)}`, gait, s] as const)))(
    'goes along on the ground as %s: no foot sinks, or slides while it stands',
    async (_shape, name, sliders) => {
      const file = await shipped(body, [], sliders)
      const { drawn, frames } = framesOf(file, name)
      for (const points of frames) expect(lowest(points)).toBeGreaterThan(-BELOW)
      const travel = wayOf(file, name)
      const height = drawn.positions.reduce((high, y, i) => (i % 3 === 1 ? Math.max(high, y) : high), 0)
      for (const leg of LEGS) {
        const own = pointsOn(file, drawn, new RegExp(`^${leg}(Foot|Toes)$`))
        expect(own.length).toBeGreaterThan(8)
        // where what touches has got to against the ground: a tremble between two samples of a clip is no slide
        const ways = [new Vector3()]
        let stands = 0
        for (let n = 0; n < FRAMES; n++) {
          const [a, b] = [frames[n]!, frames[n + 1]!]
          const touching = own.filter((v) => a[v * 3 + 1]! < TOUCHING && b[v * 3 + 1]! < TOUCHING)
          if (!touching.length) continue
          stands++
          const mean = (k: number) => touching.reduce((s, v) => s + b[v * 3 + k]! - a[v * 3 + k]!, 0) / touching.length
          ways.push(new Vector3(mean(0), 0, mean(2) + travel / FRAMES).add(ways.at(-1)!))
        }
        const slide = Math.max(...ways.flatMap((p) => ways.map((q) => p.distanceTo(q))))
        expect(stands, leg).toBeGreaterThan(FRAMES * 0.1)
        expect(slide, leg).toBeLessThan(SLIDE * height)
      }
    },
  )

  it('keeps out of the ground in all its clips, stands where it stands, and closes its loops', async () => {
    for (const sliders of SHAPES[body]!.slice(0, samples(2, 4))) {
      const file = await shipped(body, ['lure-lantern'], sliders)
      const defs = tide.manifest.clips.filter((c) => file.clips().some((f) => f.name === c.name) && c.plan !== 'biped')
      const own = defs.filter((d) => d.plan === tide.bodies.get(body)!.def.plan)
      expect(own.length).toBeGreaterThanOrEqual(7)
      for (const def of own) {
        const { drawn, frames } = framesOf(file, def.name)
        for (const points of frames) expect(lowest(points), def.name).toBeGreaterThan(-BELOW)
        if (def.loop) expect(mostApart(frames[0]!, frames.at(-1)!), def.name).toBeLessThan(1e-4)
        if (def.stance[1] - def.stance[0] < 1) continue
        // whoever goes nowhere stays on all fours: what is on the ground stays there
        for (const leg of LEGS) {
          const foot = pointsOn(file, drawn, new RegExp(`^${leg}(Foot|Toes)$`))
          const touching = foot.filter((v) => frames.every((points) => points[v * 3 + 1]! < TOUCHING))
          if (touching.length < 2) {
            // the legs of the very young are too short for a belly that comes down to the ground: a foot hangs a hair above it
            const trunk = pointsOn(file, drawn, TRUNK)
            expect(Math.min(...frames.map((points) => lowest(points, trunk))), def.name).toBeLessThan(TOUCHING)
            for (const points of frames) expect(lowest(points, foot), `${def.name} ${leg}`).toBeLessThan(0.012)
            continue
          }
          const across = (points: Float64Array) => Float64Array.from(touching.flatMap((v) => [points[v * 3]!, points[v * 3 + 2]!])) // prettier-ignore
          const still = across(frames[0]!)
          for (const points of frames) expect(mostApart(across(points), still), `${def.name} ${leg}`).toBeLessThan(0.01)
        }
      }
    }
  })
})

describe('a gulper that hops', () => {
  it('leaves the ground with all of it, and comes down again', async () => {
    const { frames } = framesOf(await shipped('gulper', []), 'Hop')
    const heights = frames.map((points) => lowest(points))
    expect(Math.max(...heights)).toBeGreaterThan(0.08)
    expect(heights.filter((h) => h > 0.01).length).toBeGreaterThan(FRAMES * 0.2)
    expect(heights.filter((h) => h < TOUCHING).length).toBeGreaterThan(FRAMES * 0.3)
  })

  it('opens its mouth to gulp', async () => {
    const file = await shipped('gulper', [])
    const { drawn, frames } = framesOf(file, 'Gulp')
    const [jaw, head] = [pointsOn(file, drawn, /^jaw$/), pointsOn(file, drawn, /^head$/)]
    const gape = frames.map((points) => Math.max(...head.map((v) => points[v * 3 + 1]!)) - lowest(points, jaw))
    expect(Math.max(...gape) - gape[0]!).toBeGreaterThan(0.08)
  })
})

describe('what they are called', () => {
  it('is what is seen: it drinks at its feet, reaches its flank, starts up, goes faster, leaps higher', async () => {
    const file = await shipped('lampstrider', [])
    const head = (name: string) => {
      const { drawn, frames } = framesOf(file, name)
      const own = pointsOn(file, drawn, /^head$/)
      return frames.map((points) => ({
        low: lowest(points, own),
        side: own.reduce((sum, v) => sum + points[v * 3]!, 0) / own.length,
        high: own.reduce((most, v) => Math.max(most, points[v * 3 + 1]!), 0),
      }))
    }
    const tall = Math.max(...head('Idle').map((m) => m.high))
    expect(Math.min(...head('Drink').map((m) => m.low))).toBeLessThan(0.2 * tall)
    expect(Math.max(...head('Preen').map((m) => m.side))).toBeGreaterThan(0.12 * tall)
    expect(Math.max(...head('Startled').map((m) => m.high))).toBeGreaterThan(tall)
    const speed = (name: string) => wayOf(file, name) / file.clips().find((c) => c.name === name)!.duration
    expect(speed('Hurry')).toBeGreaterThan(1.8 * speed('Walk'))
    const gulper = await shipped('gulper', [])
    const above = (name: string) => Math.max(...framesOf(gulper, name).frames.map((points) => lowest(points)))
    expect(above('Leap up')).toBeGreaterThan(above('Hop'))
    expect(above('Crawl')).toBeLessThan(TOUCHING)
  })
})

describe('a lure', () => {
  it.each([
    ['lampstrider', 'Signal with the lure'],
    ['gulper', 'Hop'],
  ])('on a %s has bones of its own, and sways by itself', async (body, name) => {
    const file = await shipped(body, ['lure-lantern'])
    const { drawn, clip, frames } = framesOf(file, name)
    const [tip, head] = [pointsOn(file, drawn, /^lure3$/), pointsOn(file, drawn, /^head$/)]
    expect(tip.length).toBeGreaterThan(20)
    expect(yields(frames, tip, head)).toBeGreaterThan(0.03)
    // the check itself: without the turns of its bones it goes with the head like a pole
    const stiff = clip.channels.filter((c) => !/^lure/.test(file.nodes[c.node!]!.name ?? ''))
    expect(stiff.length).toBeLessThan(clip.channels.length)
    const poled = [0, 0.3, 0.6].map((t) =>
      file.posed(drawn, file.at({ clip: { ...clip, channels: stiff }, time: clip.duration * t })),
    )
    // what hangs on the head by six tenths alone gives a little
    expect(yields(poled, tip, head)).toBeLessThan(1e-3)
  })

  it('put on a rump by hand hangs from there, on every creature, and sways as well', async () => {
    for (const [body, name, bone] of [
      ['gulper', 'Hop', 'hips'],
      ['lampstrider', 'Walk', 'hips'],
      ['ottern', 'Walk', 'upperChest'],
    ] as const) {
      const bare = newRecipe(tide, body, 'Somebody')
      const builder = new Builder(kits)
      const surfaces = builder.surfaces(bare)
      const { positions } = surfaces[0]!
      // the middle of the back, as far up as the bone it shall hang from
      const joint = builder.build(bare, target).figure!.skeleton.bones.find((b) => b.name === bone)!.at
      const back = positions.reduce((far, z, i) => (i % 3 === 2 ? Math.min(far, z) : far), 0)
      const at = spotFor(surfaces, {
        on: null,
        from: [0.02, joint[1] + (body === 'ottern' ? 0.02 : 0.1), body === 'ottern' ? back / 2 : joint[2]],
      })!
      const recipe = addPart(bare, 'growths', partReference(tide, 'growth-lure'), { place: { at } })
      const { bytes, problems } = await shipFigure(builder, kits, recipe, target, { lods: false })
      expect(problems.filter((p) => p.severity === 'error')).toEqual([])
      const file = new ShippedFile(bytes!)
      const parent = file.nodes.find((n) => n.children?.some((c) => file.nodes[c]!.name === 'lure1'))!
      expect([body, parent.name]).toEqual([body, bone])
      const { drawn, frames } = framesOf(file, name)
      expect(
        yields(frames, pointsOn(file, drawn, /^lure3$/), pointsOn(file, drawn, new RegExp(`^${bone}$`))),
        body,
      ).toBeGreaterThan(0.004)
    }
  })

  it('ships in files the validator finds nothing in', async () => {
    for (const body of ['lampstrider', 'gulper']) {
      const recipe = wear(newRecipe(tide, body, 'Somebody'), tide, 'lure-lantern')
      const { bytes } = await shipFigure(new Builder(kits), kits, recipe, target, { lods: false })
      expect(await glbFaults(bytes!)).toEqual([])
    }
  })
})

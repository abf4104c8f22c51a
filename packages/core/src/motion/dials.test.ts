import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import type { ClipDef } from '../kit/schema.ts'
import { BODY_PLANS } from '../kit/plans/index.ts'
import { describeChange } from '../recipe/describeChange.ts'
import { dialsOf, setDials } from '../recipe/dials.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { clipsOf, listClips } from '../ship/clips.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { measure } from '../testing/contacts.ts'
import { demoKit, demoTarget, dressed } from '../testing/demoKits.ts'
import { judgeClip } from './judgeClip.ts'
import { DIAL_RANGES, dialClip, dialsFor, mirrorClip, trimClip, type Dials } from './dials.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const biped = BODY_PLANS.get('biped')!
const bare = dressed(folk, 'human', [])
const near: Target = { ...demoTarget('near'), keepExpressions: [] }
const clipOf = (id: string) => [...folk.manifest.clips, ...tide.manifest.clips].find((c) => c.id === id)!

beforeAll(() => reducerReady)

/** A clip of a shipped file, as a reader of its own finds it. */
async function shipped(recipe: Recipe, id: string) {
  const target: Target = { ...near, keepClips: [id] }
  const { bytes, problems } = await shipFigure(new Builder(kits), kits, recipe, target, { lods: false })
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  const file = new ShippedFile(bytes!)
  const [clip] = file.clips()
  const drawn = file.drawn()[0]!
  const joint = (name: string, share: number) => {
    const { world } = file.at({ clip: clip!, time: clip!.duration * share })
    const { elements } = world[file.nodes.findIndex((n) => n.name === name)]!
    return [elements[12]!, elements[13]!, elements[14]!] as [number, number, number]
  }
  const points = (share: number) => file.posed(drawn, file.at({ clip: clip!, time: clip!.duration * share }))
  return { file, clip: clip!, joint, points }
}
const withDials = (id: string, dials: Dials, recipe = bare) => shipped(setDials(recipe, id, dials), id)

describe('a dial', () => {
  it('of pace makes a clip quicker, and nothing else', async () => {
    const [made, quick] = [await shipped(bare, 'walk'), await withDials('walk', { pace: 2 })]
    expect(quick.clip.duration).toBeCloseTo(made.clip.duration / 2, 2)
    const [a, b] = [made.joint('leftHand', 0.3), quick.joint('leftHand', 0.3)]
    for (const k of [0, 1, 2]) expect(Math.abs(a[k]! - b[k]!)).toBeLessThan(1e-4)
  })

  it('of stride carries feet as much farther as it says', async () => {
    const reach = async (stride: number) => {
      const { joint } = await withDials('walk', { stride })
      const zs = Array.from({ length: 20 }, (_, i) => joint('leftFoot', i / 20)[2])
      return Math.max(...zs) - Math.min(...zs)
    }
    const [short, made, long] = [await reach(0.5), await reach(1), await reach(1.25)]
    expect(short / made).toBeLessThan(0.75)
    expect(long / made).toBeGreaterThan(1.12)
  })

  it('of energy swings arms more, or not at all', async () => {
    const swing = async (energy: number) => {
      const { joint } = await withDials('walk', { energy })
      const zs = Array.from({ length: 20 }, (_, i) => joint('leftHand', i / 20)[2] - joint('leftUpperArm', i / 20)[2])
      return Math.max(...zs) - Math.min(...zs)
    }
    const [none, made, twice] = [await swing(0), await swing(1), await swing(2)]
    expect(none).toBeLessThan(0.15 * made)
    expect(twice).toBeGreaterThan(1.6 * made)
  })

  it('of arms brings hands out by its degrees, and of lean the head forward', async () => {
    const made = await shipped(bare, 'idle')
    const angle = ({ joint }: typeof made) => {
      const [s, h] = [joint('leftUpperArm', 0), joint('leftLowerArm', 0)]
      return (Math.atan2(h[0] - s[0], s[1] - h[1]) * 180) / Math.PI
    }
    expect(angle(await withDials('idle', { clearance: 30 })) - angle(made)).toBeCloseTo(30, -0.5)
    const lean = ({ joint }: typeof made) => {
      const [h, n] = [joint('hips', 0), joint('neck', 0)]
      return (Math.atan2(n[2] - h[2], n[1] - h[1]) * 180) / Math.PI
    }
    const leaning = lean(await withDials('idle', { lean: 20 })) - lean(made)
    // it is spread over the trunk: of its middle, not its end, the mean is seen
    expect(leaning).toBeGreaterThan(8)
    expect(leaning).toBeLessThan(20)
  })

  it.each([
    ['a person who walks left', bare, 'walk', 30],
    ['a person who runs right', bare, 'run', -45],
    ['a wader, left', dressed(tide, 'lampstrider', []), 'wader-walk', 40],
  ])('of turn leads along an arc, feet still on the ground: %s', async (_name, recipe, id, turn) => {
    const target: Target = { ...near, keepClips: [id], motion: { travels: true, tolerance: 0 } }
    const turned = setDials(recipe, id, { turn })
    const { bytes, figure } = await shipFigure(new Builder(kits), kits, turned, target, { lods: false })
    const file = new ShippedFile(bytes!)
    const [clip] = file.clips()
    const drawn = file.drawn()[0]!
    const posed = (time: number) => file.posed(drawn, file.at({ clip: clip!, time }))
    // at the end all of it is where a turn to the left about one place brings it: about the same middle for every point
    const [a, b] = [posed(0), posed(clip!.duration)]
    const angle = (turn * Math.PI) / 180
    const { travel } = listClips(figure!, kits, turned).find((c) => c.id === id)!
    const middle = travel / angle
    for (let i = 0; i < a.length; i += 3) {
      const [x, z] = [a[i]! - middle, a[i + 2]!]
      expect(b[i]! - middle).toBeCloseTo(x * Math.cos(angle) + z * Math.sin(angle), 3)
      expect(b[i + 2]!).toBeCloseTo(z * Math.cos(angle) - x * Math.sin(angle), 3)
    }
    // what touches the ground does not move over it: twice as much as straight ahead at most, where it was well below a step's
    const slides = (play: (time: number) => Float64Array) => {
      let [far, looks] = [0, 0]
      for (let n = 0; n < 60; n++) {
        const [p, q] = [n, n + 1].map((f) => play((clip!.duration * f) / 60)) as [Float64Array, Float64Array]
        for (const side of [1, -1]) {
          const low = [...Array(p.length / 3).keys()].filter(
            (v) => drawn.positions[v * 3]! * side > 0 && p[v * 3 + 1]! < 0.004 && q[v * 3 + 1]! < 0.004,
          )
          if (low.length < 6) continue
          looks++
          const mean = (k: number) => low.reduce((sum, v) => sum + q[v * 3 + k]! - p[v * 3 + k]!, 0) / low.length
          far = Math.max(far, Math.hypot(mean(0), mean(2)))
        }
      }
      expect(looks).toBeGreaterThan(10)
      return far
    }
    expect(slides(posed)).toBeLessThan(travel / 60 / 2)
    // it leans into the bend: its top is farther on the side it turns to than its middle is, and that than its feet
    const leans = [0, 1, 2, 3].map((n) => {
      const p = posed((clip!.duration * n) / 4)
      const facing = (angle * n) / 4
      const at = [middle * (1 - Math.cos(facing)), middle * Math.sin(facing)] as const
      const points = [...Array(p.length / 3).keys()]
      const top = Math.max(...points.map((v) => p[v * 3 + 1]!))
      const [high, half] = [0.93, 0.5].map((share) => {
        const level = points.filter((v) => Math.abs(p[v * 3 + 1]! / top - share) < 0.07)
        const side = (v: number) => (p[v * 3]! - at[0]) * Math.cos(facing) - (p[v * 3 + 2]! - at[1]) * Math.sin(facing)
        return level.reduce((sum, v) => sum + side(v), 0) / level.length
      })
      return [high! - half!, half!].map((v) => v * Math.sign(turn))
    })
    for (const k of [0, 1]) expect(leans.reduce((sum, l) => sum + l[k]!, 0) / 4).toBeGreaterThan(0.005)
    const { slide, depth } = judgeClip(
      figure!.mesh,
      figure!.skeleton,
      clipsOf(figure!, kits, turned).find((c) => c.id === id)!,
      kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!.plan,
    )
    expect(slide.mean).toBeLessThan(0.04)
    expect(depth.most).toBeLessThan(0.005)
  })

  it('mirrors what is seen: every point on the other side, of a walk half a loop later', async () => {
    for (const [id, later] of [
      ['wave', 0],
      ['turn-left', 0],
      ['walk', 0.5],
      ['idle-look', 0],
    ] as const) {
      if (!folk.manifest.clips.some((c) => c.id === id)) throw new Error(`no clip ${id}`)
      const [made, other] = [await shipped(bare, id), await withDials(id, { mirrored: true })]
      for (const share of [0, 0.3, 0.45]) {
        for (const [left, right] of [
          ['leftHand', 'rightHand'],
          ['rightFoot', 'leftFoot'],
          ['head', 'head'],
          ['leftIndexIntermediate', 'rightIndexIntermediate'],
        ] as const) {
          const a = made.joint(left, (share + later) % 1)
          const b = other.joint(right, share)
          // two samples a walk apart that do not fall on each other are a centimetre off at most
          expect(Math.abs(a[0] + b[0]), `${id} ${left} at ${share}`).toBeLessThan(0.01)
          expect(Math.abs(a[1] - b[1]), `${id} ${left} at ${share}`).toBeLessThan(0.01)
          expect(Math.abs(a[2] - b[2]), `${id} ${left} at ${share}`).toBeLessThan(0.01)
        }
      }
    }
  })

  it('trims to what was played there, which goes round no more', async () => {
    const [made, cut] = [await shipped(bare, 'wave'), await withDials('wave', { trim: [0.25, 0.75] })]
    expect(cut.clip.duration).toBeCloseTo(made.clip.duration / 2, 1)
    for (const [a, b] of [
      [0.25, 0],
      [0.75, 1],
    ] as const) {
      const [p, q] = [made.points(a), cut.points(b)]
      expect(Math.max(...p.map((v, i) => Math.abs(v - q[i]!)))).toBeLessThan(0.03)
    }
    const { figure } = new Builder(kits).build(bare, near)
    const listed = listClips(figure!, kits, setDials(bare, 'wave', { trim: [0.25, 0.75] })).find(
      (c) => c.id === 'wave',
    )!
    expect(listed.loop).toBe(false)
    expect(listed.duration).toBeCloseTo(clipOf('wave').duration / 2, 2)
  })

  it('at either end keeps feet on the ground and where they stand', async () => {
    const ends: Dials[] = [
      { pace: 0.5, stride: 1.25, energy: 2 },
      { pace: 2, stride: 0.4, energy: 0, clearance: 40, lean: 30 },
      { energy: 2, clearance: -10, lean: -15, mirrored: true },
    ]
    for (const recipe of [
      bare,
      dressed(folk, 'human', ['boots-sea'], { legs: 1, heft: 1 }),
      dressed(tide, 'ottern', []),
    ])
      for (const [i, dials] of ends.entries())
        for (const id of ['walk', 'idle', 'carry-box']) {
          const { file, clip } = await withDials(id, dials, recipe)
          const { lowest, slide } = measure(file, clip, dialClip(clipOf(id), biped, dials))
          expect.soft(lowest, `${id} ${i}`).toBeGreaterThan(-0.005)
          // twice as high and a half as far: of the last touch of a large paw two and a half are left
          if (id !== 'idle') expect.soft(slide, `${id} ${i}`).toBeLessThan(0.025)
        }
  })
})

describe('dials', () => {
  const all = [...folk.manifest.clips, ...tide.manifest.clips]
  const planOf = (clip: ClipDef) => BODY_PLANS.get(clip.plan) ?? tide.manifest.plans!.find((p) => p.id === clip.plan)!

  it('mirror every clip back to what it was', () => {
    for (const clip of all) {
      const plan = planOf(clip)
      const twice = mirrorClip(mirrorClip(clip, plan), plan)
      expect(Object.keys(twice.curves).sort(), clip.id).toEqual(Object.keys(clip.curves).sort())
      for (const [channel, keys] of Object.entries(clip.curves)) {
        const back = twice.curves[channel]!
        const at = new Map(back.filter(([p]) => p < 1).map(([p, v]) => [Number(p.toFixed(6)), v]))
        for (const [p, v] of keys.filter(([p]) => p < 1))
          expect(at.get(Number(p.toFixed(6))), `${clip.id} ${channel}`).toBeCloseTo(v, 9)
      }
      expect({ ...twice, curves: 0 }).toEqual({ ...clip, curves: 0 })
    }
  })

  it('give each leg the times of the other, unless half a loop has done so', () => {
    const skip: ClipDef = { ...clipOf('walk'), alternate: false, phases: { leftLeg: 0.1, rightLeg: 0.3 } }
    const stances: ClipDef['stances'] = { leftLeg: [0, 0.2] }
    expect(mirrorClip({ ...skip, stances }, biped)).toMatchObject({
      phases: { leftLeg: 0.3, rightLeg: 0.1 },
      stances: { rightLeg: [0, 0.2] },
    })
    expect(mirrorClip({ ...skip, alternate: true }, biped).phases).toEqual(skip.phases)
  })

  it('at what they were made with change nothing, and beyond their ends go no farther', () => {
    for (const clip of all) {
      const plan = planOf(clip)
      expect(dialClip(clip, plan, { pace: 1, stride: 1, energy: 1, clearance: 0, lean: 0 })).toBe(clip)
      expect(dialClip(clip, plan, {})).toBe(clip)
      expect(dialClip(clip, plan, { stride: 99 }).travel).toBe(clip.travel * DIAL_RANGES.stride[2])
    }
  })

  it('are those that make sense', () => {
    const gulper = tide.manifest.plans!.find((p) => p.id === 'hopper')!
    expect(dialsFor(clipOf('walk'), biped)).toEqual(['pace', 'stride', 'energy', 'clearance', 'lean', 'turn'])
    expect(dialsFor(clipOf('lie'), biped)).toEqual(['pace', 'clearance'])
    expect(dialsFor(clipOf('hopper-hop'), gulper)).toEqual(['pace', 'stride', 'energy', 'lean', 'turn'])
    expect(dialsFor(clipOf('jump'), biped)).not.toContain('energy')
  })

  it('leave at least a moment of a clip, whatever is trimmed', () => {
    const clip = {
      ...{ id: 'x', name: 'X', duration: 1, loop: true, travel: 2, rotations: [null] },
      ...{ times: Float32Array.of(0, 0.5, 1), root: new Float32Array(9) },
    }
    for (const trim of [
      [0, 0],
      [1, 1],
    ] as const)
      expect(trimClip(clip, [...trim]).times).toHaveLength(2)
    expect(trimClip(clip, [0, 1])).toBe(clip)
    expect(trimClip(clip, [0.5, 0])).toEqual(trimClip(clip, [0, 0.5]))
    const { figure } = new Builder(kits).build(bare, near)
    for (const trim of [
      [0.9, 0.1],
      [1, 1],
    ] as [number, number][]) {
      const listed = listClips(figure!, kits, setDials(bare, 'wave', { trim })).find((c) => c.id === 'wave')!
      expect(listed.duration).toBeGreaterThan(0)
    }
  })

  it('are kept in the recipe, read again, told, and leave no trace at nothing', () => {
    const recipe = setDials(bare, 'walk', { pace: 1.2, trim: [0, 0.5] })
    expect(readRecipe(JSON.stringify(recipe)).value).toEqual(recipe)
    expect(describeChange(bare, recipe, kits)).toBe('Walk: plays otherwise')
    expect(describeChange(recipe, bare, kits)).toBe('Walk: plays as made')
    expect(setDials(recipe, 'walk', {})).toEqual(bare)
    expect(setDials(recipe, 'walk', { pace: 1.2, trim: [0, 0.5] })).toBe(recipe)
    expect(dialsOf(recipe, 'hop')).toEqual({})
    for (const bad of [{ pace: 9 }, { pace: null }, { speed: 1 }, { trim: [0, 2] }, { trim: [0] }])
      expect(readRecipe(JSON.stringify({ ...bare, dials: { walk: bad } })).value, JSON.stringify(bad)).toBeNull()
  })

  it('of clips that are not here count for nothing', () => {
    const { figure, problems } = new Builder(kits).build(setDials(bare, 'moonwalk', { pace: 2 }), near)
    expect(problems).toEqual(new Builder(kits).build(bare, near).problems)
    expect(listClips(figure!, kits, setDials(bare, 'moonwalk', { pace: 2 }))).toEqual(listClips(figure!, kits, bare))
  })
})

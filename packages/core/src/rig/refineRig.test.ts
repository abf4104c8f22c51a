import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import { DETAIL_LEVELS, type DetailLevel } from '../kit/plan.ts'
import type { Kit } from '../kit/Kit.ts'
import type { ClipDef } from '../kit/schema.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { demoKit, demoTarget, dressed, MAREN, wear } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
// no morphs, and room for every bone: only the skeleton differs from file to file
const near: Target = { ...demoTarget('near'), keepExpressions: [] }
const roomy: Target = { ...near, limits: { ...near.limits, bones: 200 } }

beforeAll(() => reducerReady)

async function shipped(recipe: Recipe, target: Partial<Target>, from: ReadonlyMap<string, Kit> = kits) {
  const { bytes, problems } = await shipFigure(
    new Builder(from),
    from,
    recipe,
    { ...roomy, ...target },
    { lods: false },
  )
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  expect(await glbFaults(bytes!)).toEqual([])
  const file = new ShippedFile(bytes!)
  const drawn = file.drawn()[0]!
  const bones = file.jointsOf(drawn.skin!).map((n) => file.nodes[n]!.name!)
  const clips = file.clips()
  const at = (clip: string, share: number) => {
    const found = clips.find((c) => c.name === clip)!
    return file.posed(drawn, file.at({ clip: found, time: found.duration * share }))
  }
  return { file, drawn, bones, clips, at, rest: file.posed(drawn, file.at()) }
}

const height = (points: Float64Array) => {
  const ys = points.filter((_, i) => i % 3 === 1)
  return Math.max(...ys) - Math.min(...ys)
}
const apart = (a: Float64Array, b: Float64Array, v: number) =>
  Math.hypot(a[v * 3]! - b[v * 3]!, a[v * 3 + 1]! - b[v * 3 + 1]!, a[v * 3 + 2]! - b[v * 3 + 2]!)
const each = (points: Float64Array) => [...Array(points.length / 3).keys()]
const mean = (values: readonly number[]) => values.reduce((a, b) => a + b, 0) / values.length

const PLANS: [string, Recipe, string, Record<DetailLevel, number>][] = [
  ['a person', dressed(folk, 'human', MAREN), 'Walk', { far: 13, crowd: 22, standard: 30, near: 45, full: 66 }],
  ['an ottern', dressed(tide, 'ottern', []), 'Walk', { far: 13, crowd: 24, standard: 26, near: 29, full: 37 }],
  ['a wader', dressed(tide, 'lampstrider', []), 'Walk', { far: 16, crowd: 23, standard: 24, near: 24, full: 32 }],
  ['a hopper', dressed(tide, 'gulper', []), 'Hop', { far: 16, crowd: 20, standard: 21, near: 21, full: 29 }],
]

describe.each(PLANS)('%s', (_name, recipe, gait, counts) => {
  it('has at every level the bones of that level, stands the same and walks alike', async () => {
    const files = new Map<DetailLevel, Awaited<ReturnType<typeof shipped>>>()
    for (const detail of DETAIL_LEVELS) files.set(detail, await shipped(recipe, { detail }))
    const full = files.get('full')!
    const tall = height(full.rest)
    expect(Object.fromEntries([...files].map(([level, { bones }]) => [level, bones.length]))).toEqual(counts)
    for (const [level, { rest, at, drawn, file, clips }] of files) {
      expect(Math.max(...each(rest).map((v) => apart(rest, full.rest, v))), level).toBeLessThan(1e-5)
      for (const share of [0, 0.2, 0.45, 0.7]) {
        const here = at(gait, share)
        const reference = full.at(gait, share)
        const far = each(here).map((v) => apart(here, reference, v) / tall)
        // what is left out bends no more (a tail, toes); what it turned goes on: heads and hands are where they were
        expect(mean(far), `${level} at ${share}`).toBeLessThan(level === 'far' ? 0.015 : 0.004)
      }
      const clip = clips.find((c) => c.name === gait)!
      for (let f = 0; f <= 20; f++)
        expect(file.lowest(drawn, file.at({ clip, time: (f / 20) * clip.duration })), `${level} ${f}`).toBeGreaterThan(
          -0.005,
        )
    }
  })
})

/** A clip that turns both arms about their length, stretched out to the sides. */
const TURNED: ClipDef = {
  ...{ id: 'turned', name: 'Arms turned', plan: 'biped', duration: 1, loop: false, travel: 0 },
  ...{ stance: [0, 1], alternate: false },
  curves: {
    'upperArm.lift': [[0, 80]],
    'upperArm.twist': [
      [0, 0],
      [1, 80],
    ],
  },
}

describe('twist bones', () => {
  const own: Kit = { ...folk, manifest: { ...folk.manifest, clips: [...folk.manifest.clips, TURNED] } }
  const bare = { ...dressed(folk, 'human', []), sliders: {} }
  const ofTurned = (detail: DetailLevel) => shipped(bare, { detail }, new Map([[folk.manifest.id, own]]))

  /** How far vertices by their place along the left upper arm are turned about it, degrees: measured on the file alone. */
  async function turns(detail: DetailLevel) {
    const { file, drawn, rest, at } = await ofTurned(detail)
    const node = (name: string) => file.nodes.findIndex((n) => n.name === name)
    const place = (name: string, moment = file.at()) => {
      const { elements } = moment.world[node(name)]!
      return [elements[12]!, elements[13]!, elements[14]!] as const
    }
    const [a, b] = [place('leftUpperArm'), place('leftLowerArm')]
    const way = a.map((v, k) => b[k]! - v)
    const length = Math.hypot(...way)
    const arm = new Set(['leftUpperArm', 'leftUpperArmTwist'].map((n) => file.jointsOf(drawn.skin!).indexOf(node(n))))
    const before = at('Arms turned', 0)
    const after = at('Arms turned', 1)
    const clip = file.clips().find((c) => c.name === 'Arms turned')!
    const moment = file.at({ clip, time: 0 })
    const axis = place('leftLowerArm', moment).map((v, k) => (v - place('leftUpperArm', moment)[k]!) / length)
    return each(rest).flatMap((v): { u: number; turn: number; shrunk: number }[] => {
      const held = [0, 1, 2, 3].reduce(
        (s, k) => s + (arm.has(drawn.joints![v * 4 + k]!) ? drawn.weights![v * 4 + k]! : 0),
        0,
      )
      if (held < 0.99) return []
      const u = way.reduce((s, w, k) => s + (w * (rest[v * 3 + k]! - a[k]!)) / length ** 2, 0)
      const spoke = (points: Float64Array) => {
        const from = [0, 1, 2].map((k) => points[v * 3 + k]! - place('leftUpperArm', moment)[k]!)
        const along = from.reduce((s, f, k) => s + f * axis[k]!, 0)
        return from.map((f, k) => f - along * axis[k]!)
      }
      const [p, q] = [spoke(before), spoke(after)]
      const cosine = p.reduce((s, f, k) => s + f * q[k]!, 0) / Math.hypot(...p) / Math.hypot(...q)
      return [
        { u, turn: (Math.acos(Math.min(1, cosine)) * 180) / Math.PI, shrunk: Math.hypot(...q) / Math.hypot(...p) },
      ]
    })
  }

  it('turn an upper arm evenly from the shoulder to the elbow, where else all of it turns at once', async () => {
    const [without, withThem] = [await turns('near'), await turns('full')]
    expect(without.length).toBeGreaterThan(20)
    for (const { turn } of without) expect(turn).toBeCloseTo(80, 0)
    for (const { u, turn, shrunk } of withThem) {
      // a half of it at the shoulder, all at the elbow
      expect(turn, `at ${u}`).toBeGreaterThan(80 * (0.5 + 0.5 * Math.min(1, Math.max(0, u))) - 6)
      expect(turn, `at ${u}`).toBeLessThan(80 * (0.5 + 0.5 * Math.min(1, Math.max(0, u))) + 6)
      // blending two turns 40° apart draws in by 6 % at most: the cosine of half of it
      expect(shrunk).toBeGreaterThan(0.93)
    }
  })

  it('leave skin beyond the wrist and above the shoulder as it is', async () => {
    const [a, b] = [await ofTurned('near'), await ofTurned('full')]
    const held = (f: typeof a, v: number, name: RegExp) =>
      [0, 1, 2, 3].reduce(
        (s, k) => s + (name.test(f.bones[f.drawn.joints![v * 4 + k]!]!) ? f.drawn.weights![v * 4 + k]! : 0),
        0,
      )
    const outside = each(a.rest).filter(
      (v) => held(b, v, /Hand|Finger|Thumb|Index|Middle|Ring|Little|hest|head/) > 0.999,
    )
    expect(outside.length).toBeGreaterThan(100)
    const [p, q] = [a.at('Arms turned', 1), b.at('Arms turned', 1)]
    for (const v of outside) expect(apart(p, q, v)).toBeLessThan(1e-4)
  })
})

describe('a bone that twists', () => {
  it('ends no other: an upper arm still ends at the elbow, and what twists it lies halfway', () => {
    const { skeleton } = new Builder(kits).build(dressed(folk, 'human', []), { ...roomy, detail: 'full' }).figure!
    const bone = (name: string) => skeleton.bones.find((b) => b.name === name)!
    expect(bone('leftUpperArm').tail).toEqual(bone('leftLowerArm').at)
    expect(bone('leftLowerLeg').tail).toEqual(bone('leftFoot').at)
    const way = bone('leftUpperArmTwist').at.map((v, k) => v - bone('leftUpperArm').at[k]!)
    const whole = bone('leftLowerArm').at.map((v, k) => v - bone('leftUpperArm').at[k]!)
    expect(Math.hypot(...way) / Math.hypot(...whole)).toBeCloseTo(0.5, 5)
  })
})

describe('a chain with another number of bones', () => {
  const ottern = dressed(tide, 'ottern', [])
  const tailOf = (bones: readonly string[]) => bones.filter((b) => b.startsWith('tail'))

  it.each([1, 2, 3, 7, 12])('has %i, waves as it did, and every bone holds on to skin', async (count) => {
    const [planned, other] = [await shipped(ottern, {}), await shipped(ottern, { chains: { tail: count } })]
    expect(tailOf(other.bones)).toHaveLength(count)
    expect(other.bones.length).toBe(planned.bones.length - 4 + count)
    const { drawn, bones } = other
    for (const tail of tailOf(bones)) {
      const own = bones.indexOf(tail)
      expect(
        drawn.joints!.some((j, i) => j === own && drawn.weights![i]! > 0.05),
        tail,
      ).toBe(true)
    }
    // joints lie evenly: no bone is longer than half as much again as another
    const at = (name: string) => {
      const { elements } = other.file.at().world[other.file.nodes.findIndex((n) => n.name === name)]!
      return [elements[12]!, elements[13]!, elements[14]!]
    }
    const lengths = tailOf(bones)
      .slice(1)
      .map((b, i) => {
        const [p, q] = [at(tailOf(bones)[i]!), at(b)]
        return Math.hypot(...p.map((v, k) => v - q[k]!))
      })
    if (lengths.length) expect(Math.max(...lengths) / Math.min(...lengths)).toBeLessThan(1.5)
    // the tail alone, as a share of its length: what it ends in has gone where it went
    const own = new Set(tailOf(planned.bones).map((b) => planned.bones.indexOf(b)))
    const ofTail = each(planned.rest).filter((v) => own.has(planned.drawn.joints![v * 4]!))
    const zs = ofTail.map((v) => planned.rest[v * 3 + 2]!)
    const long = Math.max(...zs) - Math.min(...zs)
    for (const share of [0, 0.25, 0.5, 0.75]) {
      const [p, q] = [planned.at('Walk', share), other.at('Walk', share)]
      const far = mean(ofTail.map((v) => apart(p, q, v))) / long
      expect(far, `${share}`).toBeLessThan(count === 1 ? 0.2 : 0.07)
    }
  })

  it('has them at every level at which it is there, and goes away with its first bone', async () => {
    for (const [detail, count] of [
      ['full', 3],
      ['crowd', 3],
      ['far', 0],
    ] as const)
      expect(tailOf((await shipped(ottern, { detail, chains: { tail: 3 } })).bones), detail).toHaveLength(count)
  })

  it('is a part’s as well, and leaves other figures alone', async () => {
    const lure = [...tide.parts.values()].find((p) => p.def.limbs?.some((l) => l.kind === 'stalk'))!.def
    const strider = wear(dressed(tide, 'lampstrider', []), tide, lure.id)
    const stalk = (f: { bones: string[] }) => f.bones.filter((b) => /lure|stalk/i.test(b))
    const planned = await shipped(strider, {})
    const other = await shipped(strider, { chains: { stalk: 6 } })
    expect(stalk(other).length - stalk(planned).length).toBe(6 - lure.bones!.length)
    const person = dressed(folk, 'human', [])
    expect((await shipped(person, { chains: { tail: 9 } })).bones).toEqual((await shipped(person, {})).bones)
  })

  it('keeps what hangs from it in place, and follows the sliders', async () => {
    const long: Recipe = { ...ottern, sliders: { stature: 1 } }
    const kept: Partial<Target> = { keepSliders: ['stature'], chains: { tail: 6 } }
    const { file, bones } = await shipped(ottern, kept)
    const clip = file.clips().find((c) => c.name.startsWith('slider'))!
    const end = file.at({ clip, time: clip.duration })
    const grown = await shipped(long, kept)
    const stand = grown.file.at()
    const node = (f: ShippedFile, name: string) => f.nodes.findIndex((n) => n.name === name)
    for (const bone of tailOf(bones)) {
      // the slider's clip brings each joint to where the figure with that slider has it
      const [p, q] = [end.world[node(file, bone)]!.elements, stand.world[node(grown.file, bone)]!.elements]
      for (const k of [12, 13, 14]) expect(p[k], bone).toBeCloseTo(q[k]!, 3)
    }
  })
})

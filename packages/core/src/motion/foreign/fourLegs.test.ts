import { Quaternion, Vector3 } from 'three'
import { describe, expect, it } from 'vitest'
import { Builder, type Figure } from '../../build.ts'
import type { BodyPlan } from '../../kit/plan.ts'
import { QUADRUPED } from '../../kit/plans/quadruped.ts'
import { readKit } from '../../kit/readKit.ts'
import { foreignFigure } from '../../testing/foreignFigure.ts'
import { rigKit } from '../../pack/rigPack.ts'
import { readPack } from '../../pack/readPack.ts'
import { figureKit, THE_BODY } from '../../pack/figureKit.ts'
import { learnSlots } from '../../pack/sortPieces.ts'
import { newRecipe } from '../../recipe/defaults.ts'
import { createWorldPose, skinPoints, solveForward } from '../../rig/Pose.ts'
import { clipsOf } from '../../ship/clips.ts'
import { BEASTS, beast } from '../../testing/beasts.ts'
import { alone, folk, kits, near, seen } from '../../testing/boneless.ts'
import { writeBvh, type BvhOptions } from '../../testing/bvh.ts'
import { poseAt, type Clip } from '../Clip.ts'
import { trunkOf } from '../keepTrunkUp.ts'
import { solesOf } from '../soles.ts'
import { carryMotion } from './carryMotion.ts'
import type { ForeignMotion } from './ForeignMotion.ts'
import { matchMotion } from './matchMotion.ts'
import { readMotion } from './readMotion.ts'

/* Motions of animals from elsewhere, on animals of other builds. */

const human = learnSlots(kits, folk.bodies.get('human')!)

interface Animal {
  figure: Figure
  plan: BodyPlan
  clip: (id: string) => Clip
}

async function rigged(name: string): Promise<Animal> {
  const { survey } = seen(alone(beast(BEASTS[name]!).piece), { up: 'y', front: 'z', unit: 'm' })
  const kit = (await readKit((await rigKit(survey!, human, kits, { id: name, name })).value!)).value!
  return animalOf(new Map([...kits, [name, kit]]), name, 'figure')
}
function animalOf(all: typeof kits, kit: string, body: string): Animal {
  const recipe = newRecipe(all.get(kit)!, body, body)
  const figure = new Builder(all).build(recipe, near).figure!
  const { plan } = all.get(kit)!.bodies.get(body)!
  return { figure, plan, clip: (id) => clipsOf(figure, all, recipe, (c) => c.id === id)[0]! }
}

const animals: Record<string, Animal> = {
  dog: await rigged('dog'),
  horse: await rigged('horse'),
  pig: await rigged('pig'),
  strider: animalOf(kits, 'tide-creatures', 'lampstrider'),
}
const WALK = { dog: 'four-walk', horse: 'four-trot', pig: 'four-walk', strider: 'wader-walk' } as const

const about = (x: number, y: number, z: number, degrees: number) =>
  new Quaternion().setFromAxisAngle(new Vector3(x, y, z), (degrees * Math.PI) / 180)
const sideBehind = (name: string) =>
  name.replace(/^(left|right)(.*)$/, (_, s: string, r: string) => `${r}.${s[0]!.toUpperCase()}`)
const NUMBERS = Object.values(animals).flatMap(({ figure }) => figure.skeleton.bones.map((b) => b.name))
const STYLES: Record<string, (bone: string) => string | null> = {
  'as here': (b) => b,
  'the words of riders, sides behind': (b) =>
    sideBehind(
      b
        .replace('HindUpperLeg', 'Thigh')
        .replace('HindLowerLeg', 'Shin')
        .replace('HindFoot', 'HindCannon')
        .replace('HindToes', 'HindHoof')
        .replace('ForeUpperLeg', 'UpperArm')
        .replace('ForeLowerLeg', 'ForeArm')
        .replace('ForeFoot', 'ForeCannon')
        .replace('ForeToes', 'ForeHoof'),
    ),
  'front and back, a prefix': (b) =>
    `beast:${b.replace(/^(left|right)(Hind|Fore)(.*)$/, (_, s: string, e: string, r: string) => `${s[0]!.toUpperCase()}_${e === 'Hind' ? 'back' : 'front'}_${r.replace(/([a-z])([A-Z])/g, '$1_$2').toLowerCase()}`)}`,
  'no toes, no spine between': (b) => (/Toes|^spine$|upperNeck|neckMiddle/.test(b) ? null : b),
  'numbers alone': (b) => `joint ${NUMBERS.indexOf(b)}`,
}
const WAYS: Record<string, BvhOptions> = {
  'as we have it': {},
  'Z up': { axes: about(1, 0, 0, 90), unit: 100, order: 'XYZ' },
  'facing back, inches': { axes: about(0, 1, 0, 180), unit: 39.37, order: 'ZYX' },
}

const read = async (text: string): Promise<ForeignMotion> =>
  (await readMotion(new TextEncoder().encode(text), 'take.bvh')).value![0]!

/** What each bone is called in a plan for four legs, whatever it is called here. */
const RIGHT: Record<string, string> = { neckBase: 'neck', neckMiddle: 'upperNeck' }

describe('a motion of somebody on four legs', () => {
  it.each(Object.keys(STYLES))('has its bones told: %s', async (style) => {
    const nameOf = STYLES[style]!
    let [right, all] = [0, 0]
    for (const [name, { figure, clip }] of Object.entries(animals))
      for (const [way, how] of Object.entries(WAYS)) {
        const motion = await read(writeBvh(clip(WALK[name as keyof typeof WALK]), figure.skeleton, { ...how, nameOf }))
        const found = matchMotion(motion, QUADRUPED)
        expect(found.problems, `${name} ${way}`).toEqual([])
        const { match } = found.value!
        for (const bone of figure.skeleton.bones) {
          const ours = RIGHT[bone.name] ?? bone.name
          const theirs = nameOf(bone.name)
          if (theirs === null || !QUADRUPED.bones.some((b) => b.name === ours)) continue
          all++
          if (match.bones[ours] === theirs) right++
          // legs are what everything stands on
          else if (/Upper|Lower|Foot/.test(ours)) expect.soft(match.bones[ours], `${name} ${way} ${ours}`).toBe(theirs)
        }
      }
    // tails, necks and spines may be told a joint off; without names the end of a head is taken for a mark of its end
    expect(right / all).toBeGreaterThan(style === 'numbers alone' ? 0.9 : 0.95)
  })

  it('is carried onto others with soles on the ground, and stepping as the other does', async () => {
    for (const [from, onto] of [
      ['strider', 'dog'],
      ['dog', 'strider'],
      ['horse', 'pig'],
      ['dog', 'horse'],
    ] as const) {
      const [source, { figure, plan }] = [animals[from]!, animals[onto]!]
      const theirs = source.clip(WALK[from])
      const motion = await read(writeBvh(theirs, source.figure.skeleton, { ...WAYS['Z up'], loops: 1 }))
      const { match } = matchMotion(motion, plan).value!
      const { mesh, skeleton } = figure
      const touching = { soles: solesOf(mesh, skeleton), flanks: null, belly: trunkOf(mesh, skeleton) }
      const { value: clip, problems } = carryMotion(motion, match, skeleton, touching, { id: 'c', name: 'C' })
      expect(problems).toEqual([])
      const { depth, slide, lifts } = measured(figure, clip!)
      const tall = mesh.positions.reduce((top, v, i) => (i % 3 === 1 ? Math.max(top, v) : top), 0)
      // as for two legs: half a centimetre and four centimetres a second of somebody of 1.7 m
      expect(depth / tall, `${from} on ${onto}`).toBeGreaterThan(-0.005 / 1.7)
      expect(slide / tall, `${from} on ${onto}`).toBeLessThan(0.04 / 1.7)
      // every leg comes off the ground, in the order in which theirs do
      const order = measured(source.figure, theirs).lifts
      for (const leg of Object.keys(lifts)) {
        const off = Math.abs(lifts[leg]! - order[leg]!)
        expect(Math.min(off, 1 - off), `${from} on ${onto}: ${leg} lifts at ${lifts[leg]}, ${order[leg]}`).toBeLessThan(
          0.12,
        )
      }
    }
  })

  it('is told of where there are not four legs', async () => {
    const person = animalOf(kits, 'saltwick-folk', 'human')
    const walk = await read(writeBvh(person.clip('walk'), person.figure.skeleton))
    expect(matchMotion(walk, QUADRUPED).problems[0]!.code).toBe('match-none')
  })
})

describe('a figure on four legs with bones of its own', () => {
  it('comes in with them: they are matched, and it plays what those on four legs play', async () => {
    const { figure } = animals.horse!
    const bytes = await foreignFigure(
      figure.pieces.map((p) => ({ figure, piece: p })),
      { meshes: 'one', materials: 'regions', bone: (name) => STYLES['the words of riders, sides behind']!(name)! },
    )
    const pack = (await readPack(new Map([['horse.glb', bytes]]))).value!
    const slots = new Map(pack.pieces.map((p) => [p.id, THE_BODY]))
    const { placing } = seen({ ...pack, pieces: pack.pieces.map((p) => ({ ...p, skin: null })) }).survey!
    const made = await figureKit(pack, placing, human, kits, { id: 'own', name: 'Own', slots })
    const kit = (await readKit(made.value!)).value!
    const body = kit.bodies.get('figure')!
    expect(body.plan.id).toBe('quadruped')
    expect(body.def.regions.map((r) => r.name)).toEqual(['Trunk', 'Head', 'Hind legs', 'Fore legs', 'Neck', 'Tail'])
    const own = animalOf(new Map([...kits, ['own', kit]]), 'own', 'figure')
    for (const { name, at } of figure.skeleton.bones) {
      const there = own.figure.skeleton.bones.find((b) => b.name === name)
      expect(there?.at, name).toEqual(at.map((v) => expect.closeTo(v, 2) as number))
    }
    expect(own.clip('four-trot').duration).toBeGreaterThan(0.3)
  })
})

/**
 * How deep a clip's points go, how fast the lowest of each foot move over the ground while they touch, metres and metres
 * a second; and at which share of the loop each foot is in the air, by its middle.
 */
function measured(
  { mesh, skeleton }: Figure,
  clip: Clip,
): { depth: number; slide: number; lifts: Record<string, number> } {
  const { bones, limbs } = skeleton
  const frames = 60
  const world = createWorldPose(bones)
  const posed = Array.from({ length: frames + 1 }, (_, i) => {
    solveForward(bones, poseAt(clip, (clip.duration * i) / frames), world)
    const out = new Float32Array(mesh.positions.length)
    skinPoints(bones, world, mesh.positions, mesh.joints, mesh.weights, out)
    return out
  })
  const depth = Math.min(...posed.map((p) => p.reduce((low, v, i) => (i % 3 === 1 ? Math.min(low, v) : low), Infinity)))
  const lifts: Record<string, number> = {}
  const slides: number[] = []
  for (const leg of limbs.filter((l) => l.kind === 'leg')) {
    const own = new Set(leg.bones.slice(2).map((b) => bones.findIndex((x) => x.name === b)))
    const points = [...Array(mesh.positions.length / 3).keys()].filter((p) => {
      let share = 0
      for (let k = 0; k < 4; k++) if (own.has(mesh.joints[p * 4 + k]!)) share += mesh.weights[p * 4 + k]!
      return share > 0.6
    })
    const lows = posed.map((out) => Math.min(...points.map((p) => out[p * 3 + 1]!)))
    const most = Math.max(...lows)
    // the middle of the time off the ground, on the round of the loop
    const [x, y] = lows.slice(0, frames).reduce(
      ([c, s], low, i) => {
        const off = low > most / 2 ? 1 : 0
        return [c! + off * Math.cos((2 * Math.PI * i) / frames), s! + off * Math.sin((2 * Math.PI * i) / frames)]
      },
      [0, 0],
    )
    lifts[leg.id] = (Math.atan2(y!, x!) / (2 * Math.PI) + 1) % 1
    const step = clip.duration / frames
    for (let i = 0; i < frames; i++) {
      const touching = points.filter((p) => posed[i]![p * 3 + 1]! < 0.006 && posed[i + 1]![p * 3 + 1]! < 0.006)
      if (!touching.length) continue
      const moved =
        touching.reduce((s, p) => s + posed[i + 1]![p * 3 + 2]! - posed[i]![p * 3 + 2]!, 0) / touching.length
      slides.push(Math.abs(moved + clip.travel / frames) / step)
    }
  }
  return { depth, slide: slides.reduce((s, v) => s + v, 0) / slides.length, lifts }
}

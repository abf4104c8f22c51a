import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import type { ClipDef } from '../kit/schema.ts'
import type { Recipe } from '../recipe/schema.ts'
import { createWorldPose, solveForward } from '../rig/Pose.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile, type ShippedClip } from '../ship/ShippedFile.ts'
import { measure, type Contact } from '../testing/contacts.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { poseAt } from './Clip.ts'
import { fitClip } from './fitClip.ts'
import { solesOf } from './soles.ts'

/*
 * How feet meet the ground, measured on the vertices of the shipped file, posed by a reader of its
 * own that knows nothing of how the clip was made.
 */

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const clipOf = (id: string) => folk.manifest.clips.find((c) => c.id === id)!
beforeAll(() => reducerReady)

async function contactsOf(recipe: Recipe, target: string, defs: readonly ClipDef[]): Promise<Contact[]> {
  const { bytes, problems } = await shipFigure(
    new Builder(kits),
    kits,
    recipe,
    TARGETS.find((t) => t.id === target)!,
    { lods: false },
  )
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  const file = new ShippedFile(bytes!)
  return defs.map((def) =>
    measure(
      file,
      file.clips().find((c) => c.name === def.name)!,
      def,
    ),
  )
}

const bodies: [string, Recipe, string][] = [
  ['Maren as she is', dressed(folk, 'human', MAREN), 'near'],
  ['Maren in a crowd', dressed(folk, 'human', MAREN), 'crowd'],
  ['Maren far away', dressed(folk, 'human', MAREN), 'far'],
  ['one who is barefoot', dressed(folk, 'human', []), 'near'],
  ['a giant in clogs', dressed(folk, 'human', ['clogs'], { stature: 1, legs: 1, feet: 1, build: 1 }), 'near'],
  ['a short one in boots', dressed(folk, 'human', ['boots-ankle'], { stature: -1, legs: -1, feet: -1 }), 'near'],
  ['a stooped one in waders', dressed(folk, 'human', ['waders'], { stoop: 1, arms: 1 }), 'near'],
  ['a slight one in buckled shoes', dressed(folk, 'human', ['shoes-buckled'], { build: -1, feet: -1 }), 'crowd'],
  ['one in sea boots with one longer leg', dressed(folk, 'human', ['boots-sea'], { legs: [0.3, 0] }), 'near'],
  ['an ottern', dressed(tide, 'ottern', []), 'near'],
  ['a tall ottern', dressed(tide, 'ottern', [], { stature: 1, paws: 1, 'tail-length': 1 }), 'crowd'],
  ['a small ottern', dressed(tide, 'ottern', [], { stature: -1, paws: -1, girth: 1 }), 'near'],
]

describe.each(bodies)('%s', (_name, recipe, target) => {
  it('walks on the ground: nothing goes through it, and what touches it stays where it is', async () => {
    const [walk, idle] = await contactsOf(recipe, target, [clipOf('walk'), clipOf('idle')])
    // half a centimetre is what the eye forgives a low-poly sole; keys are thinned to about a millimetre
    expect(walk!.lowest).toBeGreaterThan(-0.005)
    expect(idle!.lowest).toBeGreaterThan(-0.005)
    expect(walk!.slide).toBeLessThan(0.02)
    expect(idle!.strays).toBeLessThan(0.005)
  })
})

describe('the measure itself', () => {
  const walk = clipOf('walk')
  const spoiled = async (spoil: (clip: ShippedClip, file: ShippedFile) => void): Promise<Contact> => {
    const { bytes } = await shipFigure(new Builder(kits), kits, dressed(folk, 'human', MAREN), TARGETS[0]!, {
      lods: false,
    })
    const file = new ShippedFile(bytes!)
    const clip = file.clips().find((c) => c.name === 'Walk')!
    spoil(clip, file)
    return measure(file, clip, walk)
  }
  const channel = (clip: ShippedClip, file: ShippedFile, name: string, path: string) =>
    clip.channels.find((c) => c.path === path && file.nodes[c.node!]!.name === name)!

  it('sees a figure that sinks, toes that do not bend, and feet that skate', async () => {
    const sunk = await spoiled((clip, file) => {
      const { values } = channel(clip, file, 'hips', 'translation')
      for (let i = 1; i < values.length; i += 3) values[i]! -= 0.02
    })
    expect(sunk.lowest).toBeLessThan(-0.015)
    const stiff = await spoiled((clip, file) => {
      const { values } = channel(clip, file, 'leftToes', 'rotation')
      for (let i = 0; i < values.length; i += 4) values.set([0, 0, 0, 1], i)
    })
    expect(stiff.lowest).toBeLessThan(-0.03)
    const skating = await spoiled((clip, file) => {
      const { values } = channel(clip, file, 'hips', 'translation')
      for (let i = 2; i < values.length; i += 3) values[i]! += 0.03 * (i / values.length)
    })
    expect(skating.slide).toBeGreaterThan(0.02)
  })
})

describe('a clip made for nobody', () => {
  const { skeleton, mesh } = new Builder(kits).build(dressed(folk, 'human', []), TARGETS[0]!).figure!

  it('however short has two different moments, and plays', () => {
    const blink = fitClip({ ...clipOf('idle'), duration: 0.005 }, skeleton, solesOf(mesh, skeleton))
    expect([...blink.times]).toEqual([0, Math.fround(0.005)])
    expect(poseAt(blink, 0.002).turns.every(Number.isFinite)).toBe(true)
  })

  it('lifts its feet where its curves say so, though it goes nowhere', () => {
    const march: ClipDef = { ...clipOf('walk'), id: 'march', name: 'March', travel: 0 }
    const clip = fitClip(march, skeleton, solesOf(mesh, skeleton))
    const world = createWorldPose(skeleton.bones)
    const foot = skeleton.bones.findIndex((b) => b.name === 'leftFoot')
    const heights = Array.from({ length: 40 }, (_, i) => {
      solveForward(skeleton.bones, poseAt(clip, (i / 40) * clip.duration), world)
      return world.joints[foot * 3 + 1]!
    })
    expect(Math.max(...heights) - Math.min(...heights)).toBeGreaterThan(0.06)
  })
})

import { Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import type { Recipe } from '../recipe/schema.ts'
import { clipsFor, clipsNamed, wantedBy } from '../recipe/clips.ts'
import { clipsOf } from '../ship/clips.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { measure } from '../testing/contacts.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { samples } from '../testing/thorough.ts'
import { poseAt } from './Clip.ts'
import { judgeClip } from './judgeClip.ts'

/*
 * All that figures on two legs can play, measured on the vertices of the shipped file by a reader of its own.
 */

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = { ...TARGETS[0]!, keepClips: 'all' as const, limits: { ...TARGETS[0]!.limits, fileBytes: 8 << 20 } }
beforeAll(() => reducerReady)

const bodies: [string, Recipe][] = [
  ['Maren', dressed(folk, 'human', MAREN)],
  ['an ottern', dressed(tide, 'ottern', [])],
  ['a giant in clogs', dressed(folk, 'human', ['clogs'], { stature: 1, legs: 1, feet: 1, build: 1 })],
  ['a short one in boots', dressed(folk, 'human', ['boots-ankle'], { stature: -1, legs: -1, feet: -1 })],
  ['a heavy one in waders', dressed(folk, 'human', ['waders'], { heft: 1, belly: 1, arms: 1 })],
  ['a tall ottern', dressed(tide, 'ottern', [], { stature: 1, paws: 1, 'tail-length': 1 })],
  ['a small ottern', dressed(tide, 'ottern', [], { stature: -1, paws: -1, girth: 1 })],
]

/** A figure as it ships with all its clips: several tests look at the same file. */
const shipped = new Map<Recipe, ReturnType<typeof shipFigure>>()
function ship(recipe: Recipe) {
  let own = shipped.get(recipe)
  if (!own) shipped.set(recipe, (own = shipFigure(new Builder(kits), kits, recipe, near, { lods: false })))
  return own
}

describe.each(bodies.slice(0, samples(3, 99)))('%s', (who, recipe) => {
  it('stays out of the ground in every clip there is, and on its feet where it stands', async () => {
    const { bytes, problems } = await ship(recipe)
    expect(problems.filter((p) => p.severity === 'error').map((p) => `${p.where}: ${p.message}`)).toEqual([])
    const file = new ShippedFile(bytes!)
    const defs = clipsFor(kits, recipe.body)
    expect(defs.length).toBeGreaterThan(20)
    expect(file.clips().map((c) => c.name)).toEqual(defs.map((d) => d.name))
    for (const def of defs) {
      const { lowest, slide, strays } = measure(
        file,
        file.clips().find((c) => c.name === def.name)!,
        def,
      )
      // half a centimetre is what the eye forgives a low-poly sole; two of a foot that slides while others look at the face
      expect.soft(lowest, def.name).toBeGreaterThan(-0.005)
      const standsAlways = !def.stances && def.stance[1] - def.stance[0] >= 1
      if (standsAlways) expect.soft(strays, `${def.name} strays`).toBeLessThan(0.005)
      // one who runs pushes off: of the last touch of a large paw three are left
      else expect.soft(slide, `${def.name} slides`).toBeLessThan(def.id === 'run' ? 0.03 : 0.02)
    }
  })

  it('begins every round where it ended the last, keeps its arms out of itself, and every clip is unlike the others', () => {
    const { figure } = new Builder(kits).build(recipe, near)
    const clips = clipsOf(figure!, kits, recipe)
    for (const clip of clips.filter((c) => c.loop)) {
      const [first, last] = [poseAt(clip, 0), poseAt({ ...clip, loop: false }, clip.duration)]
      for (let b = 0; b < first.turns.length; b += 4) {
        const dot = [0, 1, 2, 3].reduce((sum, k) => sum + first.turns[b + k]! * last.turns[b + k]!, 0)
        if (!(Math.abs(dot) > 1 - 1e-5)) expect(dot, `${clip.name}, bone ${b / 4}`).toBe(1)
      }
      // nor does anything jump between two samples: a joint turns less than a third of a half circle in one; but the legs of
      // a tall ottern fold no shorter than its large paws are lifted as it runs, and whip round as they go by
      if (who === 'a tall ottern' && clip.id === 'run') continue
      for (const turns of clip.rotations)
        for (let s = 4; turns && s < turns.length; s += 4) {
          const dot = [0, 1, 2, 3].reduce((sum, k) => sum + turns[s + k]! * turns[s - 4 + k]!, 0)
          if (!(Math.abs(dot) > Math.cos(Math.PI / 6))) expect(dot, `${clip.name} at ${s / 4}`).toBe(1)
        }
    }
    // what an arm goes into is seen; a round one who lies, or holds one rope in short arms, rests a little on itself
    const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
    for (const clip of clips) {
      const { mean } = judgeClip(figure!.mesh, figure!.skeleton, clip, plan).inBody
      const usual = { lie: 0.06, 'haul-rope': 0.05 }[clip.id] ?? 0.02
      // the roundest with the shortest arms, of whom the others say nothing
      const small = { 'haul-rope': 0.055, 'mend-net': 0.045, point: 0.025 }[clip.id]
      const most = (who === 'a small ottern' ? small : undefined) ?? usual
      expect.soft(mean, `${clip.name}: arms in the body`).toBeLessThan(most)
    }
    const middles = clips.map((c) => poseAt(c, c.duration * 0.4).turns.join())
    expect(new Set(middles).size).toBe(clips.length)
  })
})

describe.each(bodies)('who plays them, %s,', (_name, recipe) => {
  it('has its hands on what they hold, by the skin of the shipped hands', async () => {
    const held = clipsFor(kits, recipe.body).flatMap((d) => (d.grip ? [d.id] : []))
    // all its clips where they are there already
    const { bytes } = await (shipped.get(recipe) ??
      shipFigure(new Builder(kits), kits, recipe, { ...near, keepClips: held }, { lods: false }))
    const file = new ShippedFile(bytes!)
    const first = file.drawn()[0]!
    const joints = file.jointsOf(first.skin!).map((j) => file.nodes[j]!.name)
    const pointsOf = (side: string) =>
      Array.from({ length: first.positions.length / 3 }, (_, p) => p).filter((p) => {
        const best = [0, 1, 2, 3].reduce((b, k) => (first.weights![p * 4 + k]! > first.weights![p * 4 + b]! ? k : b), 0)
        return joints[first.joints![p * 4 + best]!] === `${side}Hand`
      })
    const hands = ['left', 'right'].map(pointsOf)
    const height = first.positions.reduce((m, v, i) => (i % 3 === 1 ? Math.max(m, v) : m), 0)
    expect(clipsFor(kits, recipe.body).filter((d) => d.grip)).toHaveLength(3)
    for (const def of clipsFor(kits, recipe.body).filter((d) => d.grip)) {
      const clip = file.clips().find((c) => c.name === def.name)!
      const ways = hands.map((): Vector3[] => [])
      for (let i = 0; i < 24; i++) {
        const posed = file.posed(first, file.at({ clip, time: (clip.duration * i) / 24 }))
        hands.forEach((points, h) => {
          const mean = new Vector3()
          for (const p of points) mean.add(new Vector3(posed[p * 3], posed[p * 3 + 1], posed[p * 3 + 2]))
          ways[h]!.push(mean.divideScalar(points.length))
        })
      }
      if (def.grip!.kind === 'thing') {
        const gaps = ways[0]!.map((v, f) => v.distanceTo(ways[1]![f]!))
        // a box does not grow: what is left is the turning of wrists about the palm that is measured by
        expect.soft(Math.max(...gaps) - Math.min(...gaps), def.name).toBeLessThan(0.003)
        expect.soft(Math.min(...gaps), def.name).toBeGreaterThan(0.1 * height)
        continue
      }
      const along = new Vector3(...def.grip!.along).normalize()
      for (const line of def.grip!.each ? ways : [ways.flat()]) {
        const flat = line.map((v) => v.clone().addScaledVector(along, -v.dot(along)))
        const mean = flat.reduce((a, b) => a.clone().add(b), new Vector3()).divideScalar(flat.length)
        // the middle of a hand's skin is not quite where it holds, of a large paw by a few centimetres, and goes about that
        // as the hand turns; hands that hold nothing were 7 (ladder) and 19 (rope) hundredths off
        const most = def.grip!.each ? 0.015 : 0.045
        expect.soft(Math.max(...flat.map((v) => v.distanceTo(mean))) / height, def.name).toBeLessThan(most)
        const run = line.map((v) => v.dot(along))
        expect.soft(Math.max(...run) - Math.min(...run), def.name).toBeGreaterThan(0.08 * height)
      }
    }
  })
})

describe.each(bodies.slice(0, 2))('who plays them, %s,', (_name, recipe) => {
  it('is seen to do what they are called, by the joints of the shipped file', async () => {
    const { bytes } = await ship(recipe)
    const file = new ShippedFile(bytes!)
    const first = file.drawn()[0]!
    const seen = (name: string, share: number) => {
      const clip = file.clips().find((c) => c.name === name)!
      const moment = file.at({ clip, time: clip.duration * share })
      const joint = (bone: string) => {
        const node = file.jointsOf(first.skin!).find((j) => file.nodes[j]!.name === bone)!
        return new Vector3().setFromMatrixPosition(moment.world[node]!)
      }
      /** Which way something lies from something else, level; 0 is ahead, 90 to the figure's left. */
      const heading = (from: string, to: string) => {
        const way = joint(to).sub(joint(from))
        return (Math.atan2(way.x, way.z) * 180) / Math.PI
      }
      return { joint, heading }
    }
    const still = seen('Idle', 0)
    const height = still.joint('head').y

    const wave = seen('Wave', 0.5)
    expect(wave.joint('rightHand').y).toBeGreaterThan(wave.joint('rightUpperArm').y + 0.05 * height)
    expect(wave.joint('rightHand').x).toBeLessThan(wave.joint('rightUpperArm').x - 0.08 * height)
    expect(wave.joint('leftHand').distanceTo(still.joint('leftHand'))).toBeLessThan(0.05 * height)
    const point = seen('Point', 0.5)
    expect(point.joint('rightHand').z).toBeGreaterThan(point.joint('rightUpperArm').z + 0.15 * height)
    expect(Math.abs(point.joint('rightHand').y - point.joint('rightUpperArm').y)).toBeLessThan(0.12 * height)
    for (const side of ['left', 'right'])
      expect(seen('Cheer', 0.3).joint(`${side}Hand`).y).toBeGreaterThan(seen('Cheer', 0.3).joint('neck').y)

    // a quarter round, with both feet, and the other way about
    for (const [name, to] of [
      ['Turn left', 90],
      ['Turn right', -90],
    ] as const)
      for (const side of ['left', 'right']) {
        const turned =
          seen(name, 1).heading(`${side}Foot`, `${side}Toes`) - seen(name, 0).heading(`${side}Foot`, `${side}Toes`)
        expect(turned, `${name}, ${side}`).toBeGreaterThan(to - 8)
        expect(turned, `${name}, ${side}`).toBeLessThan(to + 8)
      }

    // who climbs or falls has both feet off the ground all the time, whatever a tail does; who jumps or runs for a moment
    const up = (name: string, share: number) =>
      Math.min(...['leftToes', 'rightToes'].map((toes) => seen(name, share).joint(toes).y - still.joint(toes).y)) /
      height
    for (const name of ['Climb a ladder', 'Fall'])
      for (const share of [0, 0.2, 0.4, 0.6, 0.8, 1])
        expect(up(name, share), `${name} at ${share}`).toBeGreaterThan(0.012)
    expect(up('Jump', 0.5)).toBeGreaterThan(0.05)
    expect(Math.max(...[0.4, 0.43, 0.46].map((share) => up('Run', share)))).toBeGreaterThan(0.008)

    // a trunk as low as an ottern's is on the ground before its thighs are level
    expect(seen('Sit', 0.5).joint('hips').y).toBeLessThan(0.78 * still.joint('hips').y)
    expect(seen('Sit down', 1).joint('hips').distanceTo(seen('Stand up', 0).joint('hips'))).toBeLessThan(0.01 * height)
    const lying = seen('Lie', 0.5)
    expect(Math.abs(lying.joint('head').y - lying.joint('hips').y)).toBeLessThan(0.15 * height)
    expect(lying.joint('head').y).toBeLessThan(0.35 * height)
    // who lies on their back has knees that point up, not out to the sides
    for (const side of ['left', 'right']) {
      const [hip, knee, ankle] = ['UpperLeg', 'LowerLeg', 'Foot'].map((b) => lying.joint(side + b))
      const [aside, up] = (['x', 'y'] as const).map((k) => knee![k] - (hip![k] + ankle![k]) / 2)
      expect(up, side).toBeGreaterThan(0.01 * height)
      expect(Math.abs(aside!), side).toBeLessThan(up!)
    }
  })

  it('turns no leg and no arm beyond what it can do', () => {
    const { figure } = new Builder(kits).build(recipe, near)
    const { plan } = kits.get(recipe.body.kit)!.bodies.get(recipe.body.id)!
    for (const clip of clipsOf(figure!, kits, recipe)) {
      const { bone, most } = judgeClip(figure!.mesh, figure!.skeleton, clip, plan).strain
      // what hands do above a head asks sixteen degrees more of a shoulder; a tail lies as it can
      if (bone && !bone.startsWith('tail'))
        expect.soft((most * 180) / Math.PI, `${clip.name}: ${bone}`).toBeLessThan(17)
    }
  })
})

describe('what a target says of clips', () => {
  const clips = clipsFor(kits, dressed(folk, 'human', []).body)
  const ids = (target: Parameters<typeof wantedBy>[0]) => clips.filter(wantedBy(target)).map((c) => c.id)

  it('is which go along: those it names, all, or those no kit holds back', () => {
    expect(ids({})).toEqual(['idle', 'walk'])
    expect(ids({ keepClips: 'all' })).toHaveLength(clips.length)
    expect(ids({ keepClips: ['wave', 'walk', 'nothing'] })).toEqual(['walk', 'wave'])
    expect(ids({ keepClips: [] })).toEqual([])
  })

  it('holds all clips of a name, and keeps what is not here now', () => {
    const here = [
      { id: 'idle', name: 'Idle' },
      { id: 'hopper-idle', name: 'Idle' },
      { id: 'wave', name: 'Wave' },
    ]
    expect(clipsNamed({}, here, ['Idle'])).toEqual(['idle', 'hopper-idle'])
    expect(clipsNamed({ keepClips: ['wave', 'fly'] }, here, ['Idle'])).toEqual(['idle', 'hopper-idle', 'fly'])
    expect(clipsNamed({ keepClips: 'all' }, here, [])).toEqual([])
  })
})

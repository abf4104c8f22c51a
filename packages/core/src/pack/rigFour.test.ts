import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { legsBy } from '../autorig/landmarks.ts'
import { readKit } from '../kit/readKit.ts'
import { newRecipe } from '../recipe/defaults.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { BEASTS, beast } from '../testing/beasts.ts'
import {
  alone,
  demo,
  errors,
  folk,
  kits,
  mean,
  meshOf,
  near,
  piece,
  seen,
  tide,
  type Place,
} from '../testing/boneless.ts'
import { BLOCKS, blockFigure } from '../testing/blockFigure.ts'
import { landmarkFile, readLandmarkFile, setLandmarks } from './landmarkFile.ts'
import { rigKit, type FigureSurvey } from './rigPack.ts'
import { learnSlots } from './sortPieces.ts'

const human = learnSlots(kits, folk.bodies.get('human')!)
const drawn = Object.fromEntries(Object.entries(BEASTS).map(([name, how]) => [name, beast(how)]))

/** A body of the demo on four legs, its triangles alone, with the places of its joints. */
function demoBeast(id: string) {
  const { mesh, def, bones } = tide.bodies.get(id)!
  const corners = mesh.indices.map((c) => mesh.cornerPoints[c]!)
  const joints = new Map<string, Place>(bones.map((b) => [b.name, def.landmarks.find((l) => l.id === b.name)!.at]))
  if (joints.has('neckBase')) joints.set('neck', joints.get('neckBase')!)
  return { pack: piece(mesh.positions, corners), joints }
}

/** In centimetres, Z up, facing −Y, as other programs write it. */
const lying = (from: ReturnType<typeof beast>['piece']) => {
  const p = from.positions
  const out = new Float32Array(p.length)
  for (let i = 0; i < p.length; i += 3) out.set([p[i]! * 100, -p[i + 2]! * 100, p[i + 1]! * 100], i)
  return { ...from, positions: out }
}

/** Makes a kit of it, and ships its body with all it can play. */
async function shipped(survey: FigureSurvey, sliders: Record<string, number> = {}) {
  const made = await rigKit(survey, human, kits, { id: 'mine', name: 'Mine' })
  expect(made.problems).toEqual([])
  const kit = (await readKit(made.value!)).value!
  const all = new Map([...kits, ['mine', kit]])
  const recipe = { ...newRecipe(kit, 'figure', 'Mine'), sliders }
  const keepClips = [...all.values()].flatMap((k) =>
    k.manifest.clips.filter((c) => c.plan === 'quadruped').map((c) => c.id),
  )
  const { bytes, problems } = await shipFigure(new Builder(all), all, recipe, { ...near, keepClips }, { lods: false })
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  return { kit, file: new ShippedFile(bytes!) }
}

describe('a mesh on four legs', () => {
  it('has its way, plan and joints found, of animals that were drawn and of bodies of the demo', () => {
    const means: Record<string, number> = {}
    const cases = Object.entries(drawn).map(([name, { piece: one, joints }]) => ({ name, pack: alone(one), joints }))
    for (const { name, pack, joints } of [
      ...cases,
      ...['lampstrider', 'gulper'].map((id) => ({ name: id, ...demoBeast(id) })),
    ]) {
      const { survey } = seen(pack)
      expect(survey?.placing, name).toMatchObject({ up: 'y', front: 'z', unit: 'm' })
      expect(survey!.build, name).toBe('quadruped')
      means[name] = mean(errors(survey!, joints).values())
    }
    const told = Object.entries(means).map(([name, m]) => `${name} ${(m * 100).toFixed(1)}`)
    console.log(`joints off, % of height: ${told.join(', ')}`)
    // studies of others reached 7 to 11 %; what lies low or sits folded is worse than what stands
    expect(mean(Object.values(means))).toBeLessThan(0.07)
    for (const name of ['dog', 'horse', 'bear', 'toy', 'pig', 'giraffe', 'cat', 'lampstrider'])
      expect(means[name], name).toBeLessThan(0.06)
  })

  it('is told on four legs by a dressed one of the demo, with a lure, a net and a saddle', async () => {
    const { pack, joints } = await meshOf(demo('long-annie'), null, true)
    const { survey } = seen(pack)
    expect(survey!.placing).toMatchObject({ up: 'z', front: '-y', unit: 'cm' })
    expect(survey!.build).toBe('quadruped')
    const own = new Map([...joints, ['neck', joints.get('neckBase')!]])
    expect(mean(errors(survey!, own).values())).toBeLessThan(0.06)
    // its nose is its beak, not the end of the lure above it
    expect(survey!.landmarks.find((l) => l.id === 'nose')!.at[1]).toBeLessThan(joints.get('head')![1]! + 0.1)
  })

  it('is found to lie on its back in centimetres, inside out, and with its legs as pieces', () => {
    const { piece: one, joints } = drawn.horse!
    const back = seen(alone(lying(one)))
    expect(back.survey!.placing).toMatchObject({ up: 'z', front: '-y', unit: 'cm' })
    expect(mean(errors(back.survey!, joints).values())).toBeLessThan(0.06)
    const out = seen(piece(one.positions, [...one.triangles].toReversed()))
    expect(mean(errors(out.survey!, joints).values())).toBeLessThan(0.06)
  })

  it('has a tail only where there is one to see', () => {
    const tailed = Object.entries(drawn).map(([name, { piece: one, joints }]) => {
      const { landmarks } = seen(alone(one), { up: 'y', front: 'z', unit: 'm' }).survey!
      return [name, landmarks.some((l) => l.id === 'tailTip'), joints.has('tail1')]
    })
    expect(tailed.filter(([, found, there]) => found !== there)).toEqual([])
  })

  it('stands as a person says: on two legs or on four; what cannot stand so is refused in words', () => {
    const person = alone(blockFigure(BLOCKS.tall!).piece)
    expect(seen(person, { legs: 4 }).codes).toContain('rig-legs')
    expect(seen(person, { legs: 2 }).survey!.build).toBe('biped')
    const dog = seen(alone(drawn.dog!.piece), { legs: 2 }).survey!
    expect(legsBy(dog.landmarks)).toBe(2)
    expect(legsBy(seen(alone(drawn.dog!.piece), { legs: 4 }).survey!.landmarks)).toBe(4)
  })

  it('is a body in a kit that moves at once: soles on the ground, by the file’s own points, in every clip', async () => {
    for (const name of ['dog', 'horse', 'pig'])
      for (const sliders of [{}, { legs: 1, neck: -1 }] as Record<string, number>[]) {
        const { survey } = seen(alone(drawn[name]!.piece), { up: 'y', front: 'z', unit: 'm' })
        const { kit, file } = await shipped(survey!, sliders)
        const body = kit.bodies.get('figure')!
        expect(body.plan.id).toBe('quadruped')
        expect(body.def.sliders.map((s) => s.id)).toEqual(expect.arrayContaining(['legs', 'neck', 'trunk', 'tail']))
        const clips = file.clips()
        expect(clips.length).toBeGreaterThanOrEqual(9)
        const [points] = file.drawn()
        for (const clip of clips) {
          const lows: number[] = []
          for (let i = 0; i <= 24; i++) {
            const posed = file.posed(points!, file.at({ clip, time: (clip.duration * i) / 24 }))
            let low = Infinity
            for (let y = 1; y < posed.length; y += 3) low = Math.min(low, posed[y]!)
            lows.push(low / survey!.placing.height)
          }
          // half a centimetre of somebody 1.7 m tall is what the eye forgives
          expect(Math.min(...lows), `${name} ${clip.name} ${JSON.stringify(sliders)}`).toBeGreaterThan(-0.003)
          // and nothing floats but what leaps
          const most = ['Trot', 'Gallop'].includes(clip.name) ? 0.05 : 0.002
          expect(Math.max(...lows), `${name} ${clip.name} floats`).toBeLessThan(most)
        }
      }
  })

  it('goes by landmarks from a file, also for a tail that was not seen', () => {
    const survey = seen(alone(drawn.bear!.piece)).survey!
    const file = landmarkFile(survey)
    expect(file.legs).toBe(4)
    const tail = { tailBase: [0, 0.9, -0.7], tailMiddle: [0, 0.95, -0.8], tailTip: [0, 0.9, -0.95] } as const
    const { value } = readLandmarkFile({ ...file, landmarks: { ...file.landmarks, ...tail } })
    const set = setLandmarks(survey.landmarks, value!)
    expect(set.find((l) => l.id === 'tailTip')).toEqual({ id: 'tailTip', at: tail.tailTip, sure: 1 })
    expect(readLandmarkFile({ ...file, landmarks: { chin: [0, 0, 0] } }).problems[0]!.code).toBe('landmark-unknown')
    expect(readLandmarkFile({ ...file, legs: 6 }).problems[0]!.code).toBe('schema')
  })
})

import { Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Convention, Target } from '../recipe/target.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { readyPosesOf } from './readyPoses.ts'
import { ShippedFile } from './ShippedFile.ts'
import { shipFigure } from './shipFigure.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near: Target = { ...demoTarget('near'), keepExpressions: [], keepSliders: ['belly', 'arms'] }
const maren = dressed(folk, 'human', MAREN)

beforeAll(() => reducerReady)

async function shipped(recipe: Recipe, convention: Partial<Convention>, target: Target = near) {
  const asked = { ...target, convention: { ...target.convention, ...convention } }
  const { bytes, problems, check } = await shipFigure(new Builder(kits), kits, recipe, asked, { lods: true })
  expect(await glbFaults(bytes!)).toEqual([])
  const file = new ShippedFile(bytes!)
  const [drawn, ...coarser] = file.drawn()
  const joint =
    (moment = file.at()) =>
    (name: string) =>
      new Vector3().setFromMatrixPosition(moment.world[file.nodes.findIndex((n) => n.name === name)]!)
  const during = (clip: string, share: number) => {
    const found = file.clips().find((c) => c.name === clip)!
    return file.at({ clip: found, time: found.duration * share })
  }
  return { file, drawn: drawn!, coarser, joint, during, problems, check, rest: file.posed(drawn!, file.at()) }
}

/** Distances from vertex to vertex, the smallest first, metres. */
const apart = (a: Float64Array, b: Float64Array) =>
  Array.from({ length: a.length / 3 }, (_, v) =>
    Math.hypot(a[v * 3]! - b[v * 3]!, a[v * 3 + 1]! - b[v * 3 + 1]!, a[v * 3 + 2]! - b[v * 3 + 2]!),
  ).sort((x, y) => x - y)

describe('a figure shipped in another pose of rest', () => {
  it('stands with its arms out, every bone unturned, its soles on the ground, at every level', async () => {
    const { file, joint, rest, drawn, coarser, problems } = await shipped(maren, { rest: 't' })
    expect(problems.filter((p) => p.code.startsWith('rest'))).toEqual([])
    const at = joint()
    for (const side of ['left', 'right'])
      for (const bone of ['LowerArm', 'Hand'])
        expect(Math.abs(at(side + bone).y - at(`${side}UpperArm`).y)).toBeLessThan(2e-4)
    for (const j of file.jointsOf(drawn.skin!)) expect(file.nodes[j]!.rotation).toBeUndefined()
    expect(Math.min(...rest.filter((_, i) => i % 3 === 1))).toBeCloseTo(0, 4)
    // hands are drawn where their joints are: as wide as the arms are long
    const wide = (points: Float64Array) => Math.max(...points.filter((_, i) => i % 3 === 0))
    expect(wide(rest)).toBeGreaterThan(at('leftHand').x + 0.05)
    for (const level of coarser) expect(wide(file.posed(level, file.at()))).toBeCloseTo(wide(rest), 1)
  })

  it('plays its clips as it did: joints where they were, and the skin all but so', async () => {
    const built = await shipped(maren, {})
    for (const rest of ['t', 'a', 'hanging'] as const) {
      const other = await shipped(maren, { rest })
      for (const clip of ['Idle', 'Walk'])
        for (const share of [0, 0.3, 0.72]) {
          const [was, now] = [built.during(clip, share), other.during(clip, share)]
          for (const j of built.file.jointsOf(built.drawn.skin!)) {
            const { name } = built.file.nodes[j]!
            // keys are left out where they are not needed, in both: millimetres
            expect(built.joint(was)(name!).distanceTo(other.joint(now)(name!)), `${rest} ${clip} ${name}`).toBeLessThan(
              0.005,
            )
          }
          const off = apart(built.file.posed(built.drawn, was), other.file.posed(other.drawn, now))
          // skin at armpits is bent from another rest: it cannot be the very same
          expect(off[Math.floor(off.length / 2)], `${rest} ${clip}`).toBeLessThan(0.004)
          expect(off[Math.floor(off.length * 0.95)], `${rest} ${clip}`).toBeLessThan(0.03)
        }
    }
  })

  it('keeps its sliders: each is the slider on the figure in that pose', async () => {
    const kept = await shipped(maren, { rest: 't' })
    for (const [slider, value] of [
      ['belly', 1],
      ['arms', 1],
    ] as const) {
      const def = folk.bodies.get('human')!.def.sliders.find((s) => s.id === slider)!
      const made = await shipped({ ...maren, sliders: { ...maren.sliders, [slider]: value } }, { rest: 't' })
      const moment = kept.file.at({ clip: kept.file.clips().find((c) => c.name === `slider ${def.up}`)!, time: 1 })
      for (const bone of ['leftHand', 'rightHand', 'head'])
        expect(kept.joint(moment)(bone).distanceTo(made.joint()(bone)), `${slider} ${bone}`).toBeLessThan(0.006)
      const ends = (points: Float64Array) => [0, 1, 2].map((k) => Math.max(...points.filter((_, i) => i % 3 === k)))
      const [here, there] = [ends(kept.file.posed(kept.drawn, moment)), ends(made.rest)]
      here.forEach((v, k) => expect(Math.abs(v - there[k]!), `${slider} ${'xyz'[k]}`).toBeLessThan(0.012))
    }
  })

  it('turns its normals and its helper points along', async () => {
    const [built, other] = [await shipped(maren, {}), await shipped(maren, { rest: 't' })]
    const from = (s: typeof built, bone: string) => s.joint()('leftGripPoint').distanceTo(s.joint()(bone))
    for (const bone of ['leftHand', 'leftMiddleProximal', 'leftThumbMetacarpal', 'leftLittleProximal'])
      expect(from(other, bone), bone).toBeCloseTo(from(built, bone), 4)
    expect(other.joint()('leftGripPoint').y).toBeGreaterThan(built.joint()('leftGripPoint').y + 0.2)
    // faces and their normals lie to each other as they did, also on arms that were lifted
    const lean = ({ drawn: { normals, triangles }, rest }: typeof built) => {
      let sum = 0
      for (let t = 0; t < triangles.length; t += 3) {
        const [a, b, c] = [0, 1, 2].map((k) => new Vector3().fromArray(rest, triangles[t + k]! * 3)) as [
          Vector3,
          Vector3,
          Vector3,
        ]
        sum += b
          .sub(a)
          .cross(c.sub(a))
          .angleTo(new Vector3().fromArray(normals!, triangles[t]! * 3))
      }
      return sum / (triangles.length / 3)
    }
    // radians, in the mean
    expect(lean(other)).toBeLessThan(lean(built) + 0.01)
  })

  it('stands in a pose that was kept, on the ground', async () => {
    const { figure } = new Builder(kits).build(maren, near)
    const ready = readyPosesOf(figure!, kits, maren)
    const inPose = (id: string) => {
      const { format: _f, version: _v, ...pose } = ready.find((p) => p.id === id)!.pose
      return shipped(maren, { rest: 'pose', pose })
    }
    for (const id of ['leaping', 'lying'])
      expect(Math.min(...(await inPose(id)).rest.filter((_, i) => i % 3 === 1))).toBeCloseTo(0, 4)
    const sitting = await inPose('sitting')
    const tall = (points: Float64Array) => Math.max(...points.filter((_, i) => i % 3 === 1))
    const built = await shipped(maren, {})
    expect(tall(sitting.rest) / tall(built.rest)).toBeLessThan(0.85)
    const walk = [built, sitting].map((s) => tall(s.file.posed(s.drawn, s.during('Walk', 0.3))))
    expect(walk[1]).toBeCloseTo(walk[0]!, 1)
  })

  it.each([
    ['ottern', 'lying', 'Walk'],
    ['lampstrider', 'wader-drinking', 'Walk'],
    ['gulper', 'hopper-leaping', 'Hop'],
  ] as const)('stands in any pose on any plan, and moves as ever: %s, %s', async (body, id, gait) => {
    const recipe = dressed(tide, body, [])
    const target = { ...near, keepSliders: [] }
    const { figure } = new Builder(kits).build(recipe, target)
    const { format: _f, version: _v, ...pose } = readyPosesOf(figure!, kits, recipe).find((p) => p.id === id)!.pose
    const [built, other] = [await shipped(recipe, {}, target), await shipped(recipe, { rest: 'pose', pose }, target)]
    expect(Math.min(...other.rest.filter((_, i) => i % 3 === 1))).toBeCloseTo(0, 4)
    // it does stand otherwise
    expect(apart(built.rest, other.rest).at(-1)).toBeGreaterThan(0.1)
    for (const share of [0.1, 0.6]) {
      const [was, now] = [built.during(gait, share), other.during(gait, share)]
      for (const j of built.file.jointsOf(built.drawn.skin!)) {
        const { name } = built.file.nodes[j]!
        expect(built.joint(was)(name!).distanceTo(other.joint(now)(name!)), name).toBeLessThan(0.006)
      }
    }
  })

  it('tells where it cannot stand so, and stands as it was built', async () => {
    const creature = { ...near, keepSliders: [] }
    const gulper = dressed(tide, 'gulper', [])
    const plain = await shipped(gulper, {}, creature)
    for (const [convention, code] of [
      [{ rest: 't' }, 'rest-no-arms'],
      [{ rest: 'pose' }, 'rest-no-pose'],
      [{ rest: 'pose', pose: { name: 'Sitting', plan: 'biped', turns: {}, root: [0, 0, 0] } }, 'rest-other-plan'],
    ] as [Partial<Convention>, string][]) {
      const { problems, rest } = await shipped(gulper, convention, creature)
      expect(problems.map((p) => p.code)).toContain(code)
      expect([...rest]).toEqual([...plain.rest])
    }
  })
})

import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import { readKit } from '../kit/readKit.ts'
import type { KitManifest } from '../kit/schema.ts'
import type { Recipe } from '../recipe/schema.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { demoKit, demoTarget, dressed, kitFiles, wear } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const near = demoTarget('near')
const crowd = demoTarget('crowd')

beforeAll(() => reducerReady)

type Place = [number, number, number]

/** Whether a part is what is looked for, by its id or its slot. */
const isIt = (def: { id: string; slot: string; bodies: string[] }, wanted: string) =>
  (def.id === wanted || def.slot === wanted) && def.bodies.some((b) => b.endsWith('human'))

/** A shipped file's own points in the world, and its vertices there; measured on the file alone. */
async function shipped(recipe: Recipe, target = near) {
  const { bytes, problems } = await shipFigure(new Builder(kits), kits, recipe, target, { lods: false })
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  expect(await glbFaults(bytes!)).toEqual([])
  const file = new ShippedFile(bytes!)
  const first = file.drawn()[0]!
  const pointsAt = (moment = file.at()) =>
    new Map(
      file.nodes.flatMap(({ name = '' }, i): [string, Place][] => {
        if (!name.endsWith('Point')) return []
        const { elements } = moment.world[i]!
        return [[name, [elements[12]!, elements[13]!, elements[14]!]]]
      }),
    )
  /** Vertices that a joint moves more than the others do. */
  const of = (joint: string) => {
    const own = file.jointsOf(first.skin!).findIndex((n) => file.nodes[n]!.name === joint)
    return [...Array(first.positions.length / 3).keys()].filter((v) =>
      [0, 1, 2, 3].some((k) => first.joints![v * 4 + k] === own && first.weights![v * 4 + k]! > 0.5),
    )
  }
  return { file, first, rest: file.posed(first, file.at()), pointsAt, of }
}

const BODIES: [string, Recipe][] = [
  ['a person as they come', dressed(folk, 'human', [])],
  ['a small old one', dressed(folk, 'human', [], { years: 1, stature: -1, heads: -1 })],
  ['a heavy one', dressed(folk, 'human', [], { heft: 1, belly: 1, arms: 1, stature: 1 })],
  ['an ottern', dressed(tide, 'ottern', [], { stature: 1, girth: 1 })],
]

describe.each(BODIES)('the helper points of %s', (_name, recipe) => {
  it('are where the shipped file’s own vertices say', async () => {
    const { rest, pointsAt, of } = await shipped(recipe)
    const at = pointsAt()
    const heights = (list: number[]) => list.map((v) => rest[v * 3 + 1]!)
    const head = of('head')
    const [x, y, z] = at.get('headTopPoint')!
    expect(y).toBeCloseTo(Math.max(...heights(head)), 4)
    expect(Math.abs(x)).toBeLessThan(0.002)
    const depths = head.map((v) => rest[v * 3 + 2]!)
    expect(z).toBeGreaterThan(Math.min(...depths))
    expect(z).toBeLessThan(Math.max(...depths))
    // whoever looks there looks ahead, past the nose
    const [lookX, lookY, lookZ] = at.get('lookAtPoint')!
    expect(Math.abs(lookX)).toBeLessThan(0.002)
    expect(lookZ).toBeGreaterThan(Math.max(...depths) + 0.05)
    expect(lookY).toBeCloseTo(at.get('leftEyePoint')![1], 4)
    for (const side of ['left', 'right']) {
      const [soleX, soleY, soleZ] = at.get(`${side}SolePoint`)!
      const foot = [...of(`${side}Foot`), ...of(`${side}Toes`)].filter((v) => rest[v * 3 + 1]! < 0.02)
      expect(Math.abs(soleY), side).toBeLessThan(0.001)
      for (const [k, v] of [
        [0, soleX],
        [2, soleZ],
      ] as const) {
        const places = foot.map((p) => rest[p * 3 + k]!)
        const [least, most] = [Math.min(...places), Math.max(...places)]
        // well within it: in the middle half
        expect(v, `${side} ${k}`).toBeGreaterThan(least + (most - least) / 4)
        expect(v, `${side} ${k}`).toBeLessThan(most - (most - least) / 4)
      }
      const grip = at.get(`${side}GripPoint`)!
      const near = Math.min(...of(`${side}Hand`).map((v) => Math.hypot(...grip.map((c, k) => c - rest[v * 3 + k]!))))
      // in the hollow of the hand: a hand is less than a tenth of a metre wide
      expect(near, side).toBeLessThan(0.08)
    }
    // behind all the chest
    const chest = of('upperChest')
    const [, backY, backZ] = at.get('backPoint')!
    expect(backZ).toBeLessThan(chest.reduce((sum, v) => sum + rest[v * 3 + 2]!, 0) / chest.length)
    expect(backY).toBeGreaterThan(at.get('hipsPoint')![1])
  })

  it('are alike on both sides, and the same whatever the detail', async () => {
    const [full, less] = [(await shipped(recipe)).pointsAt(), (await shipped(recipe, crowd)).pointsAt()]
    expect([...less.keys()].sort()).toEqual([...full.keys()].sort())
    for (const [name, place] of full) {
      less.get(name)!.forEach((v, k) => expect(v, name).toBeCloseTo(place[k]!, 4))
      const other = full.get(name.replace(/^left/, 'right'))!
      if (!name.startsWith('left')) continue
      // files hold single precision
      expect(other[0], name).toBeCloseTo(-place[0], 4)
      expect(other.slice(1).map((v) => v.toFixed(4))).toEqual(place.slice(1).map((v) => v.toFixed(4)))
    }
  })
})

describe('helper points', () => {
  it('go along with their bones: the sole of a shod foot keeps its place beneath it all the way of a walk', async () => {
    const { file, first, rest, pointsAt } = await shipped(dressed(folk, 'human', ['boots-sea', 'trousers']))
    const clip = file.clips().find((c) => c.name === 'Walk')!
    const sole = pointsAt().get('leftSolePoint')!
    // the vertex of the boot next to it, which no code of the points knows
    const far = (v: number) => Math.hypot(...sole.map((c, k) => c - rest[v * 3 + k]!))
    const next = [...Array(rest.length / 3).keys()].reduce((best, v) => (far(v) < far(best) ? v : best), 0)
    const before = far(next)
    let strides = 0
    for (let i = 0; i < 24; i++) {
      const moment = file.at({ clip, time: (clip.duration * i) / 24 })
      const posed = file.posed(first, moment)
      const now = pointsAt(moment).get('leftSolePoint')!
      const gap = Math.hypot(...now.map((c, k) => c - posed[next * 3 + k]!))
      strides = Math.max(strides, now[1])
      // toes bend: what lies at the ball of the foot moves a little against the foot
      expect(Math.abs(gap - before)).toBeLessThan(0.02)
    }
    expect(strides).toBeGreaterThan(0.05)
  })

  it('are those of any plan, and the sockets of its body', async () => {
    const { pointsAt, rest, of } = await shipped(dressed(tide, 'lampstrider', []))
    const at = pointsAt()
    for (const side of ['left', 'right'])
      for (const end of ['Hind', 'Fore']) {
        const sole = at.get(`${side}${end}SolePoint`)!
        expect(sole[1]).toBeCloseTo(0, 2)
        const foot = [...of(`${side}${end}Foot`), ...of(`${side}${end}Toes`)]
        expect(
          Math.min(...foot.map((v) => Math.hypot(rest[v * 3]! - sole[0], rest[v * 3 + 2]! - sole[2]))),
        ).toBeLessThan(0.1)
      }
    const sockets = tide.bodies.get('lampstrider')!.def.sockets
    expect(sockets.length).toBeGreaterThan(0)
    for (const { id } of sockets) expect(at.has(`${id}Point`), id).toBe(true)
  })

  it('are those of what has taken a region’s place: on another head, under a peg leg', async () => {
    for (const part of ['peg-leg', 'other-head']) {
      const kit = [folk, tide].find((k) => [...k.parts.values()].some((p) => isIt(p.def, part)))!
      const { id } = [...kit.parts.values()].find((p) => isIt(p.def, part))!.def
      const recipe = wear(dressed(folk, 'human', []), kit, id)
      const { pointsAt, rest, of } = await shipped(recipe)
      const at = pointsAt()
      expect(Math.abs(at.get('leftSolePoint')![1]), part).toBeLessThan(0.002)
      expect(Math.abs(at.get('rightSolePoint')![1]), part).toBeLessThan(0.002)
      const tops = of('head').map((v) => rest[v * 3 + 1]!)
      // ears of another head may have bones of their own; a crown is no more than a hand under their tips
      expect(at.get('headTopPoint')![1], part).toBeCloseTo(Math.max(...tops), 2)
    }
  })

  it('stay at home where a target says so', async () => {
    const target = { ...crowd, helperPoints: false }
    expect((await shipped(dressed(folk, 'human', []), target)).pointsAt().size).toBe(0)
  })

  it('of bones that the plan has not, or called alike, are faults of the kit', async () => {
    const files = kitFiles('tide-creatures')
    const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as KitManifest
    const plan = manifest.plans![0]!
    const [first] = plan.points!
    const faults = async (points: typeof plan.points) => {
      const changed = { ...manifest, plans: [{ ...plan, points }, ...manifest.plans!.slice(1)] }
      const text = new TextEncoder().encode(JSON.stringify(changed))
      return (await readKit(new Map([...files, ['kit.json', text]]))).problems.map((p) => `${p.code} ${p.where}`)
    }
    expect(await faults(plan.points)).toEqual([])
    expect(await faults([{ ...first!, bone: 'wing' }])).toContain('bone-unknown kit.json/plans/0/points/0')
    expect(await faults([{ ...first!, amid: ['head', 'wing'] }])).toContain('bone-unknown kit.json/plans/0/points/0')
    expect(await faults([first!, first!])).toContain('id-twice kit.json/plans/0/points/1')
  })
})

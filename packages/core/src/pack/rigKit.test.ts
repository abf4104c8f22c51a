import { describe, expect, it } from 'vitest'
import { rigSkeleton } from '../autorig/rigSkeleton.ts'
import { rigWeights, type Skin } from '../autorig/rigWeights.ts'
import { standingFigure } from '../autorig/Figure.ts'
import { Builder, type Figure } from '../build.ts'
import { readKit } from '../kit/readKit.ts'
import { newRecipe } from '../recipe/defaults.ts'
import { firstFigure } from '../recipe/looks.ts'
import { ShippedFile } from '../ship/ShippedFile.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { BLOCKS, blockFigure } from '../testing/blockFigure.ts'
import { givenBy, landmarkFile, readLandmarkFile, setLandmarks } from './landmarkFile.ts'
import { rigKit, rigPack } from './rigPack.ts'
import { learnSlots } from './sortPieces.ts'
import { alone, demo, folk, kits, mean, meshOf, near, piece, seen, type Place } from '../testing/boneless.ts'

const human = learnSlots(kits, folk.bodies.get('human')!)

describe('weights that are made', () => {
  const figure = demo('odd-pellow')
  const { positions } = figure.mesh
  const triangles = figure.mesh.indices.map((c) => figure.mesh.cornerPoints[c]!)
  const survey = seen(piece(positions, triangles)).survey!
  const bones = rigSkeleton(survey.landmarks, 2)
  const standing = standingFigure({ positions, triangles }, 80)
  const made = rigWeights(standing, bones)
  const count = positions.length / 3

  it('sum to one over at most four bones, the strongest first, and are the same when made again', () => {
    for (let v = 0; v < count; v++) {
      const own = [...made.weights.subarray(v * 4, v * 4 + 4)]
      expect(own.reduce((a, b) => a + b, 0)).toBeCloseTo(1, 5)
      expect(own).toEqual([...own].sort((a, b) => b - a))
    }
    expect(rigWeights(standing, bones)).toEqual(made)
  })

  it('bend every joint with less stretch than the nearest bone does', () => {
    const nearest: Skin = { joints: new Uint16Array(count * 4), weights: new Float32Array(count * 4) }
    for (let v = 0; v < count; v++) {
      const far = bones.map(({ at, tail }) => toLine([...positions.subarray(v * 3, v * 3 + 3)], at, tail))
      nearest.joints[v * 4] = far.indexOf(Math.min(...far))
      nearest.weights[v * 4] = 1
    }
    const bends = ['LowerArm', 'UpperArm', 'Hand', 'LowerLeg', 'UpperLeg', 'Foot'].flatMap((s) => [
      `left${s}`,
      `right${s}`,
    ])
    for (const name of [...bends, 'neck', 'head', 'spine', 'chest']) {
      const [ours, theirs] = [made, nearest].map((skin) => stretchOf(skin, name))
      expect(ours, name).toBeLessThan(theirs!)
    }
  })

  it('hold a button as the coat under it is held, and a pole by the hand that holds it', () => {
    const berrit = demo('old-berrit')
    const soup = {
      positions: berrit.mesh.positions,
      triangles: berrit.mesh.indices.map((c) => berrit.mesh.cornerPoints[c]!),
    }
    const held = standingFigure(soup, 80)
    const own = rigSkeleton(seen(piece(soup.positions, soup.triangles)).survey!.landmarks, 2)
    const skin = rigWeights(held, own)
    const pole = berrit.pieces.find((p) => p.slot === 'right-hand')!
    expect(held.props.size).toBeGreaterThan(0)
    const names = new Set<string>()
    for (let t = pole.triangles[0]; t < pole.triangles[1]; t++)
      for (let k = 0; k < 3; k++) {
        const v = soup.triangles[t * 3 + k]!
        expect(skin.weights[v * 4]).toBe(1)
        names.add(own[skin.joints[v * 4]!]!.name)
      }
    expect([...names]).toEqual(['rightHand'])
  })

  /** The longest that an edge near a joint becomes when that bends by a right angle, against its length. */
  function stretchOf({ joints, weights }: Skin, name: string): number {
    const bone = bones.findIndex((b) => b.name === name)
    const { at } = bones[bone]!
    const under = bones.map((_, i) => {
      let b = i
      while (b >= 0 && b !== bone) b = bones[b]!.parent
      return b === bone
    })
    const posed = positions.slice()
    for (let v = 0; v < count; v++) {
      let w = 0
      for (let k = 0; k < 4; k++) if (under[joints[v * 4 + k]!]) w += weights[v * 4 + k]!
      const [y, z] = [positions[v * 3 + 1]! - at[1], positions[v * 3 + 2]! - at[2]]
      posed[v * 3 + 1]! += w * (-z - y)
      posed[v * 3 + 2]! += w * (y - z)
    }
    const long = (from: Float32Array, a: number, b: number) =>
      Math.hypot(...[0, 1, 2].map((k) => from[a * 3 + k]! - from[b * 3 + k]!))
    const stretched: number[] = []
    for (let t = 0; t < triangles.length; t += 3)
      for (let k = 0; k < 3; k++) {
        const [a, b] = [triangles[t + k]!, triangles[t + ((k + 1) % 3)]!]
        const rest = long(positions, a, b)
        if (rest > 0.01 && Math.hypot(...[0, 1, 2].map((d) => positions[a * 3 + d]! - at[d]!)) < 0.2)
          stretched.push(long(posed, a, b) / rest)
      }
    return mean(stretched.sort((a, b) => b - a).slice(0, 30))
  }
})

function toLine(p: readonly number[], at: Place, tail: Place): number {
  const [way, off] = [tail.map((v, k) => v - at[k]!), p.map((v, k) => v - at[k]!)]
  const long = way.reduce((s, v) => s + v * v, 0)
  const t = long ? Math.min(1, Math.max(0, way.reduce((s, v, k) => s + v * off[k]!, 0) / long)) : 0
  return Math.hypot(...off.map((v, k) => v - way[k]! * t))
}

describe('a figure that was given bones', () => {
  it('is a body in a kit: it ships, stands, walks with its soles on the ground, and has sliders of its proportions', async () => {
    const { pack } = await meshOf(demo('odd-pellow'), null, true)
    const { survey } = seen(pack)
    const made = await rigKit(survey!, human, kits, { id: 'mine', name: 'Mine' })
    expect(made.problems).toEqual([])
    const kit = await readKit(made.value!)
    expect(kit.problems).toEqual([])
    const all = new Map([...kits, ['mine', kit.value!]])
    const own = new Builder(all)
    const plain = newRecipe(kit.value!, 'figure', 'Mine')
    const { bytes, problems, figure } = await shipFigure(own, all, plain, near, { lods: false })
    expect(problems).toEqual([])
    const file = new ShippedFile(bytes!)
    const walk = file.clips().find((c) => c.name === 'Walk')!
    const [drawn] = file.drawn()
    let lowest = 0
    for (let i = 0; i <= 40; i++) {
      const posed = file.posed(drawn!, file.at({ clip: walk, time: (walk.duration * i) / 40 }))
      for (let y = 1; y < posed.length; y += 3) lowest = Math.min(lowest, posed[y]!)
    }
    // half a centimetre is what the eye forgives
    expect(lowest).toBeGreaterThan(-0.005)

    const tall = (f: Figure) => f.mesh.positions.reduce((top, v, i) => (i % 3 === 1 ? Math.max(top, v) : top), 0)
    const length = (f: Figure, a: string, b: string) => {
      const [p, q] = [a, b].map((name) => f.skeleton.bones.find((x) => x.name === name)!.at)
      return Math.hypot(...p!.map((v, k) => v - q![k]!))
    }
    const shaped = (sliders: Record<string, number>) => own.build({ ...plain, sliders }, near).figure!
    expect(kit.value!.bodies.get('figure')!.def.sliders.length).toBeGreaterThan(5)
    const [longer, arms] = [shaped({ legs: 1 }), shaped({ arms: -1 })]
    expect(tall(longer)).toBeGreaterThan(tall(figure!) * 1.06)
    const thigh = ['leftUpperLeg', 'leftLowerLeg'] as const
    // a morph moves every point as its bones do: the joint goes with the points about it, to a tenth of what it should
    expect(length(longer, ...thigh) / length(figure!, ...thigh)).toBeGreaterThan(1.15)
    const upper = ['rightUpperArm', 'rightLowerArm'] as const
    expect(length(arms, ...upper) / length(figure!, ...upper)).toBeLessThan(0.9)
    expect(tall(arms)).toBeCloseTo(tall(figure!), 3)
  })

  it('keeps what it holds as a part: in its hand as it came, and off where it is taken off', async () => {
    const berrit = demo('old-berrit')
    const { pack } = await meshOf(berrit, null, true)
    const { survey, codes } = seen(pack)
    expect(codes).toContain('rig-held')
    const made = await rigKit(survey!, human, kits, { id: 'mine', name: 'Mine' })
    const kit = (await readKit(made.value!)).value!
    const all = new Map([...kits, ['mine', kit]])
    const [part, ...more] = [...kit.parts.values()]
    expect(more).toEqual([])
    // where those of the same body hold theirs
    expect(part!.def).toMatchObject({ how: 'attached', slot: 'right-hand' })
    const pole = berrit.pieces.find((p) => p.slot === 'right-hand')!
    expect(part!.mesh.indices.length / 3).toBeGreaterThanOrEqual(pole.triangles[1] - pole.triangles[0])
    const own = new Builder(all)
    const far = { ...near, limits: { ...near.limits, triangles: 9000 } }
    const whole = own.build(firstFigure(all, 'mine', 'Berrit'), far).figure!
    const bare = own.build(newRecipe(kit, 'figure', 'Berrit'), far).figure!
    expect(whole.costs.triangles - bare.costs.triangles).toBe(part!.mesh.indices.length / 3)

    // every triangle of the file is where it was
    const middles = (positions: ArrayLike<number>, corners: ArrayLike<number>) =>
      Array.from({ length: corners.length / 3 }, (_, t) =>
        [0, 1, 2].map((k) => [0, 1, 2].reduce((sum, c) => sum + positions[corners[t * 3 + c]! * 3 + k]!, 0) / 3),
      )
    const cornersOf = ({ mesh }: Figure) => mesh.indices.map((c) => mesh.cornerPoints[c]!)
    const [was, is] = [berrit, whole].map((f) => middles(f.mesh.positions, cornersOf(f)))
    const key = (at: readonly number[]) => at.map((v) => Math.round(v * 50)).join()
    const grid = new Map<string, number[][]>()
    for (const at of is!) grid.set(key(at), [...(grid.get(key(at)) ?? []), at])
    const around = (at: readonly number[]) =>
      [-1, 0, 1].flatMap((x) =>
        [-1, 0, 1].flatMap((y) =>
          [-1, 0, 1].flatMap((z) => grid.get(key([at[0]! + x / 50, at[1]! + y / 50, at[2]! + z / 50])) ?? []),
        ),
      )
    const off = was!.map((at) => Math.min(...around(at).map((o) => Math.hypot(...o.map((v, k) => v - at[k]!)))))
    expect(Math.max(...off)).toBeLessThan(0.002)

    // and it goes with the hand: as long in a wave as at rest, and as far from the joint of the hand
    const { bytes } = await shipFigure(
      own,
      all,
      firstFigure(all, 'mine', 'Berrit'),
      { ...far, keepClips: 'all' },
      { lods: false },
    )
    const file = new ShippedFile(bytes!)
    const [drawn] = file.drawn()
    const hand = file.nodes.findIndex((n) => n.name === 'rightHand')
    const slot = file.jointsOf(drawn!.skin!).indexOf(hand)
    const rigid = Array.from({ length: drawn!.positions.length / 3 }, (_, v) => v).filter(
      (v) => drawn!.joints![v * 4] === slot && drawn!.weights![v * 4]! > 0.999,
    )
    const away = (time: number | null) => {
      const moment = time === null ? file.at() : file.at({ clip: file.clips().find((c) => c.name === 'Wave')!, time })
      const posed = file.posed(drawn!, moment)
      const joint = moment.world[hand]!.elements
      return rigid.map((v) => Math.hypot(...[0, 1, 2].map((k) => posed[v * 3 + k]! - joint[12 + k]!)))
    }
    const [rest, waving] = [away(null), away(0.8)]
    expect(Math.max(...rest)).toBeGreaterThan(0.5)
    expect(Math.max(...rest.map((v, i) => Math.abs(v - waving[i]!)))).toBeLessThan(1e-4)
  })

  it('is upright wherever its joints were put: nothing is guessed of bones that were made', async () => {
    const survey = seen(alone(blockFigure(BLOCKS.tall!).piece)).survey!
    const landmarks = survey.landmarks.map((l) =>
      /Shoulder|Elbow|Wrist|Knuckles/.test(l.id) ? { ...l, at: [0, 1.3, 0] as [number, number, number] } : l,
    )
    const made = await rigKit({ ...survey, landmarks }, human, kits, { id: 'mine', name: 'Mine' })
    const kit = await readKit(made.value!)
    expect(kit.value!.bodies.get('figure')!.plan.id).toBe('biped')
  })

  it('goes by landmarks that were put right, as from a file', () => {
    const pack = alone(blockFigure(BLOCKS.tall!).piece)
    const survey = seen(pack).survey!
    const text = JSON.stringify(landmarkFile(survey))
    const { value: file } = readLandmarkFile(text)
    expect(
      setLandmarks(survey.landmarks, file!).every(
        (l, i) => l.sure === 1 && Math.abs(l.at[1] - survey.landmarks[i]!.at[1]) < 1e-4,
      ),
    ).toBe(true)
    expect(givenBy(file!)).toEqual({ up: 'y', front: 'z', unit: 'm', legs: 2 })
    const one = { ...file!, landmarks: { leftElbow: [0.5, 1, 0.1] as [number, number, number] } }
    const set = setLandmarks(survey.landmarks, one)
    const { pack: rigged } = rigPack({ ...survey, landmarks: set })
    const elbow = rigged.joints.find((j) => j.name === 'leftLowerArm')!.at
    const { toBody } = survey.placing
    expect(elbow.map((v, k) => v + toBody[12 + k]!)).toEqual([0.5, 1, 0.1].map((v) => expect.closeTo(v, 4) as number))
    for (const [bad, code] of [
      ['{', 'json'],
      [{ ...file, format: 'other' }, 'format'],
      [{ ...file, version: 2 }, 'newer'],
      [{ ...file, up: 'sideways' }, 'schema'],
      [{ ...file, landmarks: { tail: [0, 0, 0] } }, 'landmark-unknown'],
    ] as const)
      expect(readLandmarkFile(bad).problems[0]!.code, code).toBe(code)
  })
})

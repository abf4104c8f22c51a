import { setFlagsFromString } from 'node:v8'
import { runInNewContext } from 'node:vm'
import { Matrix4, PerspectiveCamera, Quaternion, Vector3, type InstancedMesh, type Mesh } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { build, Builder, clipsOf, reducerReady, type Clip, type Figure, type HelperPoint } from '@idle-tinker/core'
import { demoKit, demoTarget, dressed, MAREN } from '../../packages/core/src/testing/demoKits.ts'
import { BoneRods } from './BoneRods.ts'
import { FigureModel } from './FigureModel.ts'
import { Outline } from './Outline.ts'
import { PointMarks } from './PointMarks.ts'
import { viewOf } from './testing/viewOf.ts'

setFlagsFromString('--expose-gc')
const collect = runInNewContext('gc') as () => void

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const recipe = dressed(folk, 'human', MAREN)
const camera = new PerspectiveCamera()
camera.position.set(1, 1.4, 3)

let figure: Figure
let points: HelperPoint[]
let walk: Clip
let model: FigureModel

beforeAll(async () => {
  await reducerReady
  const builder = new Builder(kits)
  figure = builder.build(recipe, demoTarget('near')).figure!
  points = builder.helperPoints(recipe, demoTarget('near'))
  walk = clipsOf(figure, kits, recipe, (c) => c.id === 'walk')[0]!
  model = new FigureModel(viewOf(figure))
})

/** Bytes that so many rounds allocate: the least of some tries, as the compiler allocates too and nothing may be collected. */
function allocated(rounds: number, work: (i: number) => void): number {
  for (let i = 0; i < rounds * 3; i++) work(i)
  const tries = Array.from({ length: 5 }, () => {
    collect()
    const before = process.memoryUsage().heapUsed
    for (let i = 0; i < rounds; i++) work(i)
    return process.memoryUsage().heapUsed - before
  })
  return Math.min(...tries.filter((bytes) => bytes >= 0))
}

const FRAMES = 1000
// numbers handed from function to function are boxed (16 bytes) where the engine does not join the two: a few a bone
// on a busy machine. One matrix for each of the 45 bones is over 8 KB a frame; new rods and rings were over 100 KB
const BOXES = FRAMES * 4000

describe('a playing clip', () => {
  it('allocates nothing a frame, with bones and points shown', () => {
    const rods = new BoneRods(figure.skeleton.bones)
    const marks = new PointMarks(points, figure.skeleton.bones)
    const bytes = allocated(FRAMES, (i) => {
      model.pose(walk, ((i / 60) % 1) * walk.duration)
      rods.follow(model.bones, camera)
      marks.follow(model.bones, null)
    })
    expect(bytes).toBeLessThan(BOXES)
    const [before, arrays] = [
      [...rods.group.children],
      (rods.group.children as InstancedMesh[]).map((m) => m.instanceMatrix.array),
    ]
    rods.follow(model.bones, camera)
    expect(rods.group.children.every((child, i) => child === before[i])).toBe(true)
    expect((rods.group.children as InstancedMesh[]).every((m, i) => m.instanceMatrix.array === arrays[i])).toBe(true)
    const wasteful = allocated(FRAMES, () => {
      kept = figure.skeleton.bones.map(() => new Matrix4())
    })
    expect(kept.length).toBe(figure.skeleton.bones.length)
    expect(wasteful).toBeGreaterThan(BOXES)
  })

  it('has rods from joint to joint, the left ones solid, the right ones hollow', () => {
    model.pose(walk, 0.3)
    const { bones } = figure.skeleton
    const rods = new BoneRods(bones)
    rods.follow(model.bones, camera)
    const [solid, hollow, rings, small] = rods.group.children as InstancedMesh[]
    expect(rings!.count + small!.count).toBe(bones.length)
    expect([hollow, solid].map((m) => m!.count)).toEqual([
      bones.filter((b) => b.name.startsWith('right')).length,
      bones.filter((b) => b.parent >= 0 && !b.name.startsWith('right')).length,
    ])
    const ends = endsOf(solid!).concat(endsOf(hollow!))
    for (const [i, { parent }] of bones.entries()) {
      if (parent < 0) continue
      const wanted = [parent, i].map((b) => model.bones[b]!.getWorldPosition(new Vector3()))
      const apart = ends.map(([a, b]) => a.distanceTo(wanted[0]!) + b.distanceTo(wanted[1]!))
      expect(Math.min(...apart)).toBeLessThan(1e-5)
    }
    model.pose(null, 0)
    rods.follow(model.bones, camera)
    expect(endsOf(solid!)).not.toEqual(ends.slice(0, solid!.count))
  })

  it('has a mark at every helper point, which goes with its bone; the one that is pointed at is larger', () => {
    const marks = new PointMarks(points, figure.skeleton.bones)
    const [rim, mark] = marks.group.children as InstancedMesh[]
    const placed = (mesh: InstancedMesh, i: number) => {
      const [matrix, at, scale] = [new Matrix4(), new Vector3(), new Vector3()]
      mesh.getMatrixAt(i, matrix)
      matrix.decompose(at, new Quaternion(), scale)
      return { at, size: scale.x }
    }
    const sole = points.findIndex((p) => p.id === 'leftSole')
    model.pose(null, 0)
    marks.follow(model.bones, null)
    points.forEach((p, i) => expect(placed(mark!, i).at.distanceTo(new Vector3(...p.at)), p.id).toBeLessThan(1e-5))
    const before = placed(mark!, sole)
    model.pose(walk, walk.duration / 2)
    marks.follow(model.bones, 'leftSole')
    const after = placed(mark!, sole)
    // as far from the ankle as before, and elsewhere
    const ankle = figure.skeleton.bones.findIndex((b) => b.name === 'leftFoot')
    const joint = model.bones[ankle]!.getWorldPosition(new Vector3())
    const rest = new Vector3(...figure.skeleton.bones[ankle]!.at)
    expect(after.at.distanceTo(joint)).toBeCloseTo(before.at.distanceTo(rest), 5)
    expect(after.at.distanceTo(before.at)).toBeGreaterThan(0.1)
    expect(after.size).toBeGreaterThan(before.size * 1.5)
    expect(placed(rim!, sole).at.distanceTo(after.at)).toBeLessThan(1e-6)
    marks.dispose()
  })

  it('stands between its samples as the clip says', () => {
    const i = 7
    const time = walk.times[i]!
    model.pose(walk, time)
    const bone = walk.rotations.findIndex((r) => r !== null)
    const turn = new Quaternion().fromArray(walk.rotations[bone]!, i * 4)
    expect(model.bones[bone]!.quaternion.angleTo(turn)).toBeLessThan(1e-3)
    expect(model.bones[0]!.position.toArray()).toEqual([
      expect.closeTo(walk.root[i * 3]!, 5),
      expect.closeTo(walk.root[i * 3 + 1]!, 5),
      expect.closeTo(walk.root[i * 3 + 2]!, 5),
    ])
    model.pose(null, time)
    expect(model.bones[bone]!.quaternion.angleTo(new Quaternion())).toBe(0)
  })
})

describe('the line around a part', () => {
  const pieceOf = () => {
    const piece = figure.pieces.find((p) => p.slot === 'over')!
    return { start: piece.triangles[0] * 3, count: (piece.triangles[1] - piece.triangles[0]) * 3 }
  }
  const lineOf = (outline: Outline) => (outline.group.children[1] as Mesh).geometry.getAttribute('position').array

  it('follows the shape as if it were made anew, and allocates nothing for it', () => {
    const own = new FigureModel(viewOf(figure))
    const outline = new Outline(own.mesh.geometry, [pieceOf()])
    const before = lineOf(outline).slice()
    const moved = build({ ...recipe, sliders: { build: 0.8 } }, kits, demoTarget('near')).figure!
    expect(own.update(viewOf(moved))).toBe(true)
    outline.follow()
    expect(lineOf(outline)).not.toEqual(before)
    expect(lineOf(outline)).toEqual(lineOf(new Outline(own.mesh.geometry, [pieceOf()])))
    // one new array of this piece's positions would be more
    expect(allocated(300, () => outline.follow())).toBeLessThan(60_000)
  })

  it('lies 4 mm off the part, and closed where corners meet', () => {
    const outline = new Outline(model.mesh.geometry, [pieceOf()])
    const line = lineOf(outline)
    const at = model.mesh.geometry.getAttribute('position').array
    const places = new Map<string, string>()
    for (const v of new Set(
      model.mesh.geometry.index!.array.slice(pieceOf().start, pieceOf().start + pieceOf().count),
    )) {
      const [p, q] = [at, line].map((a) => [...a.slice(v * 3, v * 3 + 3)] as [number, number, number])
      expect(new Vector3(...p!).distanceTo(new Vector3(...q!))).toBeCloseTo(0.004, 5)
      expect(places.get(p!.join()) ?? q!.join()).toBe(q!.join())
      places.set(p!.join(), q!.join())
    }
    expect(places.size).toBeGreaterThan(100)
  })
})

describe('weights that are painted', () => {
  it('show where a bone pulls, and give the colors back', () => {
    const colors = () => model.mesh.geometry.getAttribute('color').array
    const own = colors().slice()
    model.paint('head')
    expect(model.mesh.material.map).toBeNull()
    const { joints, weights } = viewOf(figure).mesh
    const head = figure.skeleton.bones.findIndex((b) => b.name === 'head')
    const lightness = (v: number) => colors()[v * 3]! + colors()[v * 3 + 1]! + colors()[v * 3 + 2]!
    const full = joints.findIndex((j, i) => j === head && weights[i]! > 0.99) >> 2
    const none = Array.from({ length: joints.length / 4 }, (_, v) => v).find(
      (v) => !joints.slice(v * 4, v * 4 + 4).includes(head),
    )!
    expect(lightness(full)).toBeLessThan(0.2)
    expect(lightness(none)).toBeGreaterThan(1.5)
    model.paint(null)
    expect(colors()).toEqual(own)
    expect(model.mesh.material.map).toBe(model.atlas)
  })
})

let kept: Matrix4[] = []

/** Both ends of every rod. */
function endsOf(rods: InstancedMesh): [Vector3, Vector3][] {
  return Array.from({ length: rods.count }, (_, i) => {
    const matrix = new Matrix4()
    rods.getMatrixAt(i, matrix)
    return [-0.5, 0.5].map((y) => new Vector3(0, y, 0).applyMatrix4(matrix)) as [Vector3, Vector3]
  })
}

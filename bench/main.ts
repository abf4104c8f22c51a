// Speed, side by side with what it is measured against. Ratios are what count; machines are shared and noisy.
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { MeshoptSimplifier } from 'meshoptimizer/simplifier'
import {
  AnimationClip,
  Bone,
  BufferAttribute,
  BufferGeometry,
  MeshStandardMaterial,
  QuaternionKeyframeTrack,
  Scene,
  Skeleton as ThreeSkeleton,
  SkinnedMesh,
  VectorKeyframeTrack,
} from 'three'
import { GLTFExporter } from 'three/examples/jsm/exporters/GLTFExporter.js'
import {
  build,
  Builder,
  clipsOf,
  wantedBy,
  partReference,
  readMix,
  readPicks,
  readRecipe,
  readTarget,
  reductionInput,
  Reducer,
  reducerReady,
  selectCrowd,
  setPart,
  conform,
  keyClip,
  writeFigure,
  type Kit,
  nudgeFigure,
  setFace,
} from '@idle-tinker/core'
import { bareMorphs } from './bareMorphs.ts'
import { carryings } from './carrying.ts'
import { dressings } from './dressing.ts'
import { riggings } from './rigging.ts'
import { sideBySide, turn, type Times } from './sideBySide.ts'
import { readKitFolders } from '../packages/cli/src/files.ts'

const root = join(fileURLToPath(import.meta.url), '../..')
await reducerReady
const { kits } = await readKitFolders([join(root, 'kits')])
const folk = kits.get('saltwick-folk') as Kit
const maren = readRecipe(readFileSync(join(root, 'kits/lantern-tide/maren-quill.recipe.json'), 'utf8')).value!
const mix = readMix(readFileSync(join(root, 'kits/lantern-tide/lantern-night.mix.json'), 'utf8')).value!
const near = readTarget(readFileSync(join(root, 'kits/lantern-tide/near.target.json'), 'utf8')).value!

interface Line extends Times {
  work: string
  guide: string
  against?: string
  ratio?: string
}
/** Tells a line as soon as it is measured. */
function tell({ work, ms, p95, guide, against, ratio }: Line): void {
  const rival = against ? `${against}  ${ratio}` : ''
  console.log(
    `${work.padEnd(62)} ${ms.toFixed(2).padStart(9)} ms  p95 ${p95.toFixed(2).padStart(9)}  guide ${guide.padEnd(12)} ${rival}`,
  )
}

const PARTS = ['shape', 'build', 'mix', 'write', 'reduce', 'recolor', 'carry', 'rig', 'picks', 'crowd'] as const
/** The program of a first build, and what is measured: all, or what the command names. */
const [firstBuild, ...named] = process.argv.slice(2) as [string, ...string[]]
const unknown = named.filter((name) => !PARTS.some((part) => part === name))
if (unknown.length) {
  console.error(`There is no “${unknown.join('”, “')}” to measure; there are: ${PARTS.join(', ')}.`)
  process.exit(2)
}
const asked = (name: (typeof PARTS)[number]) => named.length === 0 || named.includes(name)

/** A work that has no rival here, once it is warm. */
async function measure(work: () => unknown, time = 1500): Promise<Times> {
  await turn(work, 200)
  return turn(work, time)
}

/** What the Bench asks for while a hand draws. */
const STAGE = { still: true }

// one slider step on a dressed figure, against a plain morph of the same vertices
if (asked('shape')) {
  const builder = new Builder(kits)
  let i = 0
  /** Another figure with every call, as under a hand that draws. */
  const swing = () => ((i++ % 200) - 100) / 100
  const { plain, tight } = bareMorphs(builder.build(maren, { ...near, keepSliders: ['build'] }).figure!.mesh, 'build+')
  const against = async (work: string, own: () => unknown) => {
    const { times, ratioTo } = await sideBySide([own, plain, tight])
    tell({
      work,
      ...times[0]!,
      guide: '3 ms, p95 6',
      against: `plain morph ${times[1]!.ms.toFixed(2)} ms`,
      ratio: `${ratioTo(1).toFixed(1)}x of at most 4x; written tightly ${times[2]!.ms.toFixed(2)} ms  ${ratioTo(2).toFixed(1)}x`,
    })
  }
  await against('slider step', () =>
    builder.build({ ...maren, sliders: { ...maren.sliders, build: swing() } }, near, STAGE),
  )
  const body = folk.bodies.get('human')!.def
  const [wide, long] = ['nose-width', 'nose-length'].filter((id) => body.sliders.some((s) => s.id === id))
  const pulled = [wide ?? 'build', long ?? 'stature']
  await against('pull: two sliders at once', () => {
    const to = swing()
    return builder.build({ ...maren, sliders: { ...maren.sliders, [pulled[0]!]: to, [pulled[1]!]: -to } }, near, STAGE)
  })
  const glad = body.expressions!.find((e) => e.mood)!
  await against('expression step', () => {
    const face = setFace(maren, body, [{ expression: glad, share: Math.abs(swing()) }])
    return builder.build(face, near, STAGE)
  })
  const at = [0.1, 1.45, 0.05] as const
  const drawn = (to: number, radius: number) =>
    nudgeFigure(builder, maren, undefined, {
      kind: 'pull',
      path: [at, [at[0] + 0.02 * to, at[1], at[2] + 0.02]],
      radius,
      softness: 1,
      strength: 1,
      mirrored: true,
    })
  // the stroke worked out, then the figure built: what one move of the pointer asks for
  await against('nudge stroke of 15 cm, both sides', () => builder.build(drawn(swing(), 0.15), near, STAGE))
}

// the first build of a process, in processes of their own: with the shelf that ships, and without
if (asked('build')) {
  const first = (shelf: boolean) => {
    const times = [0, 1, 2, 3, 4].map(() =>
      Number(
        execFileSync(process.execPath, [...process.execArgv, firstBuild, root, shelf ? 'shelf' : 'bare'], {
          encoding: 'utf8',
        }),
      ),
    )
    times.sort((a, b) => a - b)
    return { ms: times[2]!, p95: times[4]! }
  }
  tell({ work: 'first build of a process, shelf at hand', ...first(true), guide: '60 ms' })
  tell({ work: 'first build of a process, without', ...first(false), guide: '250 ms' })
  const warm = new Builder(kits)
  const coats = ['coat-quay', 'coat-oilskin', 'jacket-short', 'smock']
  let i = 0
  const other = await measure(() => {
    return warm.build(setPart(maren, 'over', partReference(folk, coats[i++ % coats.length]!)), near)
  })
  tell({ work: 'whole build, kit warm, other coat', ...other, guide: '12 ms' })
}

if (asked('mix')) {
  const start = process.hrtime.bigint()
  const crowd = selectCrowd({ ...mix, count: 1000 }, kits)
  const ms = Number(process.hrtime.bigint() - start) / 1e6
  tell({ work: `1,000 variants of 8,000 candidates (${crowd.twins.length} twins)`, ms, p95: ms, guide: '1 s' })
}

if (asked('write')) {
  // the exporter is given no targets, so that what both write is the same
  const { figure } = build(maren, kits, { ...near, keepExpressions: [] })
  const clips = clipsOf(figure!, kits, maren, wantedBy(near))
  const written = (of: typeof figure) => () => {
    const keyed = clips.map((clip) => keyClip(clip, of!.skeleton.bones, near))
    return writeFigure({ leaving: conform(of!, near).value!.figure, clips: keyed, recipe: maren, target: near })
  }
  const faces = build(maren, kits, near).figure
  tell({
    work: `the same with ${faces!.mesh.morphs.length} targets`,
    ...(await measure(written(faces))),
    guide: '25 ms',
  })
  const { mesh, skeleton } = figure!
  const corners = mesh.cornerPoints
  const gather = (from: ArrayLike<number>, stride: number) =>
    Float32Array.from(
      { length: corners.length * stride },
      (_, i) => from[corners[Math.floor(i / stride)]! * stride + (i % stride)]!,
    )
  const geometry = new BufferGeometry()
    .setAttribute('position', new BufferAttribute(gather(mesh.positions, 3), 3))
    .setAttribute('normal', new BufferAttribute(mesh.normals, 3))
    .setAttribute('uv', new BufferAttribute(mesh.uvs, 2))
    .setAttribute(
      'color',
      new BufferAttribute(
        Float32Array.from({ length: corners.length * 3 }, (_, i) => mesh.shades[Math.floor(i / 3)]! / 255),
        3,
      ),
    )
    .setAttribute('skinIndex', new BufferAttribute(Uint16Array.from(gather(mesh.joints, 4)), 4))
    .setAttribute('skinWeight', new BufferAttribute(gather(mesh.weights, 4), 4))
    .setIndex(new BufferAttribute(mesh.indices, 1))
  const bones = skeleton.bones.map(({ name }) => Object.assign(new Bone(), { name }))
  skeleton.bones.forEach(({ parent, at }, i) => {
    const from = skeleton.bones[parent]?.at ?? [0, 0, 0]
    bones[i]!.position.set(at[0] - from[0], at[1] - from[1], at[2] - from[2])
    if (parent >= 0) bones[parent]!.add(bones[i]!)
  })
  const skinned = new SkinnedMesh(geometry, new MeshStandardMaterial({ vertexColors: true }))
  skinned.add(bones[0]!)
  skinned.bind(new ThreeSkeleton(bones))
  const scene = new Scene().add(skinned)
  const animations = clips.map(
    (clip) =>
      new AnimationClip(clip.name, clip.duration, [
        ...clip.rotations.flatMap((turns, i) =>
          turns ? [new QuaternionKeyframeTrack(`${bones[i]!.name}.quaternion`, clip.times, turns)] : [],
        ),
        new VectorKeyframeTrack(`${bones[0]!.name}.position`, clip.times, clip.root),
      ]),
  )
  // the exporter needs a FileReader; it gets no texture to write, as that takes a browser
  class Reader {
    result: ArrayBuffer | null = null
    onloadend: (() => void) | null = null
    readAsArrayBuffer(blob: Blob) {
      void blob.arrayBuffer().then((b) => {
        this.result = b
        this.onloadend?.()
      })
    }
  }
  Object.assign(globalThis, { FileReader: Reader })
  const theirs = () => new GLTFExporter().parseAsync(scene, { binary: true, animations })
  const { times, ratioTo } = await sideBySide([written(figure), theirs])
  tell({
    work: 'writing the GLB of a near figure, with skin, clips, atlas',
    ...times[0]!,
    guide: '25 ms',
    against: `three.js exporter, without atlas ${times[1]!.ms.toFixed(1)} ms`,
    ratio: `${ratioTo(1).toFixed(1)}x, wanted below 1x`,
  })
}

if (asked('reduce')) {
  const { figure } = build(maren, kits, near)
  const mesh = figure!.mesh
  const all = new Builder(kits).build(maren, {
    ...near,
    keepSliders: folk.bodies.get('human')!.def.sliders.map((s) => s.id),
  }).figure!.mesh.morphs
  const joints = Float32Array.from(figure!.skeleton.bones.flatMap((b) => b.at))
  const limits = [0.5, 0.25, 0.12].map((share) => Math.floor((mesh.indices.length / 3) * share))
  const [, quarter] = limits as [number, number, number]
  // as many as a game may keep, of all there are; and all there are
  for (const [count, most] of [
    [40, 'at most 1.3x'],
    [all.length, ''],
  ] as const) {
    const morphs = all.filter(
      (_, i) => Math.floor((i * count) / all.length) !== Math.floor(((i - 1) * count) / all.length),
    )
    const whole = { ...mesh, morphs }
    const options = { joints, protect: morphs }
    // the rival gets the same vertices and attributes, made beforehand, and gives bare indices
    const given = reductionInput(whole, options)
    const bare = (limit: number) =>
      MeshoptSimplifier.simplifyWithAttributes(
        given.vertexOf,
        given.positions,
        3,
        given.attributes,
        given.stride,
        given.weights,
        given.lock,
        limit * 3,
        1,
        ['RegularizeLight', 'Prune'],
      )
    const against = async (work: string, ours: () => unknown, theirs: () => unknown) => {
      const { times, ratioTo } = await sideBySide([ours, theirs])
      tell({
        work,
        ...times[0]!,
        guide: '',
        against: `meshoptimizer, same attributes ${times[1]!.ms.toFixed(2)} ms`,
        ratio: `${ratioTo(1).toFixed(2)}x ${most && `of ${most}`}`,
      })
    }
    await against(
      `reduction to 25 % with ${morphs.length} morph targets`,
      () => new Reducer(whole, options).to(quarter),
      () => bare(quarter),
    )
    await against(
      'the same to 50, 25 and 12 %',
      () => {
        const reducer = new Reducer(whole, options)
        for (const limit of limits) reducer.to(limit)
      },
      () => limits.forEach(bare),
    )
  }
}

// a recolor is the atlas alone
if (asked('recolor')) {
  const builder = new Builder(kits)
  const red = ['#aa2211', '#2211aa']
  let i = 0
  const recolor = await measure(() =>
    builder.build({ ...maren, colors: { ...maren.colors, coat: red[i++ % 2]! } }, near),
  )
  tell({ work: 'recolor', ...recolor, guide: '5 ms' })
}

// motion from elsewhere onto a figure, against three.js' retargeter on the same table of bones
if (asked('carry')) {
  const { seconds, alone, everything, measured, three } = carryings(kits, maren, near)
  for (const [work, own, limit] of [
    ['carrying alone', alone, 'at most 0.5x'],
    ['carrying, feet planted, arms and hands kept', everything, 'at most 1x'],
    ['the same, and measured', measured, ''],
  ] as const) {
    const { times, ratioTo } = await sideBySide([own, three])
    tell({
      work: `${seconds} s of motion: ${work}`,
      ...times[0]!,
      guide: '',
      against: `three.js ${times[1]!.ms.toFixed(0)} ms`,
      ratio: `${ratioTo(1).toFixed(2)}x ${limit}`,
    })
  }
}

// bones for a mesh that has none
if (asked('rig')) {
  const { triangles, survey, weights } = riggings(kits, maren, near)
  const [looked, held] = [await measure(survey), await measure(weights)] as const
  const work = `bones for a mesh of ${triangles} triangles:`
  tell({ work: `${work} where its joints are`, ...looked, guide: 'both 2 s' })
  tell({ work: `${work} skeleton and weights`, ...held, guide: '' })
}

// a look put on by a game's runtime, against the same figure built whole; and the proof over every look there is
if (asked('picks')) {
  const read = (name: string) => readFileSync(join(root, 'kits/lantern-tide', name), 'utf8')
  const mirror = readTarget(read('mirror.target.json')).value!
  const { options, proof, dressed, slid, whole } = await dressings(
    kits,
    readPicks(read('sail-loft.picks.json')).value!,
    mirror,
  )
  for (const [work, own, guide] of [
    ['look put on by the runtime', dressed, '16 ms'],
    ['slider step in the runtime', slid, '3 ms'],
  ] as const) {
    const { times, ratioTo } = await sideBySide([own, whole])
    const against = `built whole, warm ${times[1]!.ms.toFixed(1)} ms`
    tell({ work, ...times[0]!, guide, against, ratio: `${ratioTo(1).toFixed(2)}x of at most 1x` })
  }
  const start = process.hrtime.bigint()
  proof()
  const ms = Number(process.hrtime.bigint() - start) / 1e6
  tell({ work: `proof over every look of ${options} parts`, ms, p95: ms, guide: '5 s' })
}

// a crowd by the command line, on every core; TINKER_BENCH_CROWD says how many
if (asked('crowd')) {
  const count = Number(process.env.TINKER_BENCH_CROWD ?? 1000)
  const folder = mkdtempSync(join(tmpdir(), 'tinker-bench-'))
  const start = process.hrtime.bigint()
  execFileSync(
    process.execPath,
    [
      join(root, 'packages/cli/bin/tinker.mjs'),
      'crowd',
      join(root, 'kits/lantern-tide/quay-at-noon.mix.json'),
      '--count',
      String(count),
      '--out',
      join(folder, 'crowd'),
    ],
    { stdio: 'ignore' },
  )
  const ms = Number(process.hrtime.bigint() - start) / 1e6
  rmSync(folder, { recursive: true })
  tell({ work: `${count} crowd variants chosen, built, reduced, written`, ms, p95: ms, guide: '30 s a thousand' })
}

import { WebIO } from '@gltf-transform/core'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { setPart } from '../recipe/edits.ts'
import { partIn } from '../recipe/instances.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { checkShipped } from './checkShipped.ts'
import { openFigure } from './openFigure.ts'
import { LodExtension, type Levels } from '../testing/LodExtension.ts'
import { clipsOf } from './clips.ts'
import { fileName, fileNames } from './names.ts'
import { shipFigure } from './shipFigure.ts'
import { createRandom } from '../recipe/random.ts'
import { thinKeys } from '../motion/thinKeys.ts'
import { glbFaults } from '../testing/glbFaults.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const maren = dressed(folk, 'human', MAREN)
const target = (id: string) => TARGETS.find((t) => t.id === id)!
const ship = (recipe: typeof maren, id: string, lods = false, keepSliders: string[] = []) =>
  shipFigure(new Builder(kits), kits, recipe, { ...target(id), keepSliders }, { lods })

describe('a shipped file', () => {
  it.each([
    ['near', false, []],
    ['near', true, ['belly', 'stature']],
    ['standard', false, []],
    ['crowd', true, []],
    ['far', false, []],
  ] as const)('for %s (levels: %s) passes the glTF validator and our own check', async (id, lods, keep) => {
    for (const recipe of [maren, dressed(tide, 'ottern', ['scarf-striped', 'whiskers-long', 'tail-rings'])]) {
      const { bytes, check, problems } = await ship(recipe, id, lods, recipe === maren ? [...keep] : [])
      expect(problems).toEqual([])
      expect(await glbFaults(bytes!)).toEqual([])
      expect(check!.facts!.triangles).toBeLessThanOrEqual(target(id).limits.triangles)
      expect(check!.facts!.bytes).toBeLessThanOrEqual(target(id).limits.fileBytes)
      expect(check!.facts!.levels).toBe(1 + (lods ? target(id).lods.length : 0))
    }
  })

  it('is the same to the byte each time and holds the recipe it was built from', async () => {
    const a = await ship(maren, 'crowd')
    const b = await ship(maren, 'crowd')
    expect(Buffer.from(a.bytes!).equals(Buffer.from(b.bytes!))).toBe(true)
    expect(a.check!.facts!.recipe).toEqual(maren)
    const again = await ship(a.check!.facts!.recipe!, 'crowd')
    expect(Buffer.from(again.bytes!).equals(Buffer.from(a.bytes!))).toBe(true)
  })

  it('has one skin, one material, canonical bones, two clips, and levels of detail that are found again', async () => {
    const { bytes } = await ship(maren, 'near', true, ['belly'])
    const document = await new WebIO().registerExtensions([LodExtension]).readBinary(bytes!)
    const root = document.getRoot()
    expect(root.listMaterials()).toHaveLength(1)
    expect(root.listAnimations().map((a) => a.getName())).toEqual(['Idle', 'Walk', 'slider belly+', 'slider belly-'])
    const bones = root
      .listSkins()[0]!
      .listJoints()
      .map((b) => b.getName())
    expect(bones).toEqual(
      expect.arrayContaining([
        'hips',
        'spine',
        'chest',
        'upperChest',
        'neck',
        'head',
        'leftUpperArm',
        'rightLowerLeg',
        'leftThumbMetacarpal',
        'leftIndexProximal',
      ]),
    )
    const node = root.listNodes().find((n) => n.getExtension('MSFT_lod'))!
    expect(node.getExtension<Levels>('MSFT_lod')!.listNodes()).toHaveLength(2)
    // sliders on every level, faces on the finest alone
    const names = ['belly+', 'belly-', 'happy', 'smug', 'aa', 'blinkLeft', 'lookUp']
    const { targetNames } = node.getMesh()!.getExtras() as { targetNames: string[] }
    expect(targetNames).toEqual(expect.arrayContaining(names))
    expect(targetNames).toHaveLength(2 + folk.bodies.get('human')!.def.expressions!.length)
    expect(node.getMesh()!.listPrimitives()[0]!.listTargets()).toHaveLength(targetNames.length)
    for (const level of node.getExtension<Levels>('MSFT_lod')!.listNodes())
      expect(level.getMesh()!.getExtras()).toEqual({ targetNames: ['belly+', 'belly-'] })
  })

  it('is not made from a recipe with errors', async () => {
    const { bytes, problems } = await ship(setPart(maren, 'hat', { ...partIn(maren, 'hat')!, id: 'gone' }), 'near')
    expect(bytes).toBeNull()
    expect(problems[0]!.code).toBe('part-unknown')
  })
})

describe('clips of a body whose kit has none', () => {
  const { figure } = new Builder(kits).build(maren, target('near'))
  const names = (all: typeof kits, body = 'human') =>
    clipsOf(figure!, all, { body: { ...maren.body, id: body } }).map((c) => c.id)
  const without = { ...folk, manifest: { ...folk.manifest, clips: [] } }
  const own = names(kits)

  it('are those of other kits for the same plan, each once, in whatever order the kits come', () => {
    expect(own).toContain('walk')
    const others = new Map([without, tide].map((k) => [k.manifest.id, k]))
    expect(names(others).sort()).toEqual([...own].sort())
    expect(names(new Map([...others].reverse()))).toEqual(names(others))
    const again = { ...tide, manifest: { ...tide.manifest, id: 'aa-more' } }
    expect(names(new Map([...others, ['aa-more', again]]))).toEqual(names(others))
  })

  it('are none where the plan is one of a kit’s own, or nobody has any', () => {
    expect(names(new Map([[without.manifest.id, without]]))).toEqual([])
    const plans = [{ ...folk.bodies.get('human')!.plan }]
    const planned = { ...without, manifest: { ...without.manifest, plans } }
    expect(names(new Map([planned, tide].map((k) => [k.manifest.id, k])))).toEqual([])
    expect(names(kits, 'nobody')).toEqual([])
  })
})

describe('checking a file', () => {
  it('finds it empty, cut off, foreign or without a skeleton', async () => {
    const { bytes } = await ship(maren, 'far')
    expect((await checkShipped(new Uint8Array())).problems[0]!.code).toBe('glb-empty')
    for (const broken of [bytes!.slice(0, 2000), new TextEncoder().encode('hello, this is no model')])
      expect((await checkShipped(broken)).problems[0]!.code).toBe('glb-broken')
    const io = new WebIO()
    const document = await io.readBinary(bytes!)
    for (const node of document.getRoot().listNodes()) node.setSkin(null)
    for (const skin of document.getRoot().listSkins()) skin.dispose()
    document.getRoot().getAsset().extras = {}
    const codes = (await checkShipped(await io.writeBinary(document))).problems.map((p) => p.code)
    expect(codes).toEqual(expect.arrayContaining(['skeleton', 'recipe']))
  })
})

describe('opening a file as a figure', () => {
  const text = (document: unknown) => new TextEncoder().encode(JSON.stringify(document))

  it('takes a shipped GLB and a recipe document', async () => {
    const { bytes } = await ship(maren, 'crowd')
    expect(await openFigure(bytes!, kits)).toEqual({ value: maren, problems: [] })
    expect((await openFigure(text(maren), kits)).value).toEqual(maren)
  })

  it('tells what is wrong with anything else', async () => {
    const { bytes } = await ship(maren, 'far')
    const foreign = await new WebIO().readBinary(bytes!)
    foreign.getRoot().getAsset().extras = {}
    const codes = async (b: Uint8Array) => {
      const { value, problems } = await openFigure(b, kits, 'x.glb')
      expect(value).toBeNull()
      return problems.map((p) => p.code)
    }
    expect(await codes(new Uint8Array())).toEqual(['file-empty'])
    expect(await codes(bytes!.slice(0, bytes!.length >> 1))).toEqual(['glb-broken'])
    expect(await codes(await new WebIO().writeBinary(foreign))).toEqual(['recipe'])
    expect(await codes(new TextEncoder().encode('{"format":'))).toEqual(['json'])
    expect(new Set(await codes(text({ ...maren, sliders: { build: 'wide' } })))).toEqual(new Set(['schema']))
    expect(await codes(text({ ...maren, body: { ...maren.body, kit: 'gone' } }))).toEqual(['kit-unknown'])
    expect(await codes(text(setPart(maren, 'eyes', { ...partIn(maren, 'eyes')!, id: 'gone' })))).toContain(
      'part-unknown',
    )
  })
})

describe('small things of shipping', () => {
  it('thins keys without leaving the tolerance', () => {
    const times = Float32Array.from({ length: 60 }, (_, i) => i / 30)
    const values = Float32Array.from({ length: 60 }, (_, i) => Math.sin(i / 9))
    const kept = thinKeys(times, values, 1, 0.01)
    expect(kept.times.length).toBeLessThan(30)
    for (let i = 0; i < 60; i++) {
      const k = Math.max(0, [...kept.times].findIndex((t) => t >= times[i]! - 1e-6) - 1)
      const f = (times[i]! - kept.times[k]!) / (kept.times[k + 1]! - kept.times[k]!)
      expect(Math.abs(kept.values[k]! * (1 - f) + kept.values[k + 1]! * f - values[i]!)).toBeLessThan(0.0101)
    }
  })

  it.each([3, 4] as const)('restores every key of noisy tracks of %i numbers, first and last exactly', (stride) => {
    const random = createRandom(stride)
    for (let round = 0; round < 20; round++) {
      const n = 2 + Math.floor(random.between(0, 50))
      const times = Float32Array.from({ length: n }, (_, i) => i / 30)
      let at = 0
      const values = Float32Array.from({ length: n * stride }, () => (at += random.between(-0.02, 0.02)))
      const kept = thinKeys(times, values, stride, 0.03)
      expect([kept.times[0], kept.times.at(-1)]).toEqual([times[0], times.at(-1)])
      for (let i = 0; i < n; i++) {
        const b = Math.max(
          1,
          [...kept.times].findIndex((t) => t >= times[i]! - 1e-6),
        )
        const f = (times[i]! - kept.times[b - 1]!) / (kept.times[b]! - kept.times[b - 1]!)
        for (let c = 0; c < stride; c++) {
          const value = kept.values[(b - 1) * stride + c]! * (1 - f) + kept.values[b * stride + c]! * f
          expect(Math.abs(value - values[i * stride + c]!)).toBeLessThan(0.0301)
        }
      }
    }
  })

  it('keeps only the ends of what stands still or moves evenly', () => {
    const times = Float32Array.from({ length: 40 }, (_, i) => i / 30)
    for (const values of [new Float32Array(40).fill(0.7), times.map((t) => 2 * t - 1)])
      expect([...thinKeys(times, values, 1, 1e-5).times]).toEqual([times[0], times[39]])
  })

  it('gives every figure of a crowd a name of its own', () => {
    expect(fileNames('{name}', ['Pim', 'Pim', 'Oda', 'Pim'])).toEqual(['pim', 'pim-2', 'oda', 'pim-4'])
    expect(fileNames('{target}', ['a', 'b', 'c'], { target: 'crowd' })).toEqual(['crowd', 'crowd-2', 'crowd-3'])
    expect(
      new Set(
        fileNames(
          'x',
          Array.from({ length: 200 }, () => 'y'),
        ),
      ).size,
    ).toBe(200)
  })

  it('makes safe file names from any pattern', () => {
    const fill = { name: 'Maren Quill', number: 7, target: 'near' }
    expect(fileName('{name}_{number}', fill)).toBe('maren-quill_007')
    expect(fileName('../../{name}/{target}', fill)).toBe('maren-quill-near')
    expect(fileName('…', fill)).toBe('figure')
    expect(fileName('Zoë', fill)).toBe('zoe')
  })
})

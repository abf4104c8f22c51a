import { unzipSync } from 'fflate'
import { beforeAll, describe, expect, it, vi } from 'vitest'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import {
  clearPart,
  newRecipe,
  pack,
  problem,
  readKit,
  readMix,
  setExpression,
  setSlider,
  type Kit,
  type Recipe,
} from '@idle-tinker/core'
import { demoKit, demoTarget, kitFiles, wear } from '../../packages/core/src/testing/demoKits.ts'
import type { FigureView, Workshop } from './protocol.ts'

const exposed = vi.hoisted(() => ({ workshop: null as unknown }))
/** Kits as the server has read them, packed; those it cannot give are not here. */
const readings = new Map<string, Uint8Array<ArrayBuffer>>()
/** What was handed over instead of copied, by the value it belongs to. */
const handedOver = new Map<object, Transferable[]>()
vi.mock('comlink', () => ({
  expose: (workshop: unknown) => (exposed.workshop = workshop),
  transfer: (value: object, list: Transferable[]) => {
    handedOver.set(value, list)
    return value
  },
}))

const IDS = ['saltwick-folk', 'tide-creatures']
const near = demoTarget('near')
const crowdTarget = demoTarget('crowd')
let workshop: Workshop
let folk: Kit
let human: Recipe

beforeAll(async () => {
  // as in a build, where page and server read alike
  vi.stubEnv('DEV', false)
  vi.stubGlobal('fetch', (address: string) => {
    const [, , , , what, id, ...path] = address.split('/')
    const file = () => (IDS.includes(id!) ? kitFiles(id!).get(path.join('/')) : undefined)
    const bytes = what === 'readings' ? readings.get(id!) : file()
    return Promise.resolve(bytes ? new Response(new Uint8Array(bytes)) : new Response(null, { status: 404 }))
  })
  await import('./workshop.worker.ts')
  workshop = exposed.workshop as Workshop
  folk = await demoKit('saltwick-folk')
  human = newRecipe(folk, 'human', 'Pim')
  for (const id of ['shirt-work', 'trousers', 'coat-quay']) human = wear(human, folk, id)
})

const addresses = () =>
  IDS.map((id) => ({
    ...{ id, hash: `hash of ${id}`, files: [...kitFiles(id).keys()] },
    reading: `/api/readings/${id}/hash?by=build`,
  }))
const build = async (recipe: Recipe, target = near, reduce = false): Promise<FigureView> =>
  (await workshop.build(recipe, target, reduce)).view!

describe('the worker', () => {
  it('has nothing to build with before the kits are there', async () => {
    const { view, problems } = await workshop.build(human, near, false)
    expect(view).toBeNull()
    expect(problems.map((p) => p.code)).toEqual(['kit-unknown'])
    expect(await workshop.clips(human, near)).toEqual([])
  })

  it('reads kits by their addresses and tells what colors each part has', async () => {
    const { loaded, broken } = await workshop.loadKits(addresses(), 'http://here')
    expect(broken).toEqual([])
    expect(loaded.map((k) => k.manifest.id)).toEqual(IDS)
    expect(loaded.flatMap((k) => k.problems)).toEqual([])
    expect(loaded[0]!.regions['coat-quay']).toContain('coat')
    expect(loaded[0]!.regions.human).toContain('skin')
  })

  it('says which kit could not be had, and opens the others all the same', async () => {
    const odd = { id: 'odd', hash: 'odd', files: ['kit.json', 'read me.txt'], reading: '/api/readings/odd/odd' }
    const { loaded, broken } = await workshop.loadKits([odd, ...addresses()], 'http://here')
    expect(loaded.map((k) => k.manifest.id)).toEqual(IDS)
    expect(broken.map((b) => b.id)).toEqual(['odd'])
    expect(broken[0]!.problems[0]!.message).toMatch(/(kit\.json|read me\.txt).*404/)
  })

  it('takes kits as the server has read them, without their files, and builds the same figure', async () => {
    await workshop.loadKits(addresses(), 'http://here')
    const before = await build(human)
    const asked = vi.spyOn(globalThis, 'fetch')
    for (const id of IDS) readings.set(id, pack(await readKit(kitFiles(id))))
    const { loaded, broken } = await workshop.loadKits(addresses(), 'http://here')
    expect([loaded.map((k) => k.manifest.id), broken]).toEqual([IDS, []])
    expect(asked.mock.calls.map(([address]) => address)).toEqual(
      addresses().map(({ reading }) => `http://here${reading}`),
    )
    const after = await build(human)
    expect(after.mesh).toEqual(before.mesh)
    expect(after.bones).toEqual(before.bones)
    // one that the server refuses is told as if it had been read here
    readings.set('tide-creatures', pack({ value: null, problems: [problem('json', 'kit.json', 'Odd.', 'Mend it.')] }))
    expect((await workshop.loadKits(addresses(), 'http://here')).broken.map((b) => b.problems[0]!.code)).toEqual([
      'json',
    ])
    // what cannot be had so, or is cut off on its way, is read from its files
    for (const odd of [undefined, pack(1).subarray(0, 3)]) {
      if (odd) readings.set('tide-creatures', odd)
      else readings.delete('tide-creatures')
      asked.mockClear()
      expect((await workshop.loadKits(addresses(), 'http://here')).loaded).toHaveLength(2)
      expect(asked.mock.calls.length).toBeGreaterThan(20)
    }
    readings.clear()
    asked.mockRestore()
  })

  it('hands a figure over with all its arrays, one vertex a corner', async () => {
    const answer = await workshop.build(human, near, false)
    const { mesh, atlas, pieces, costs } = answer.view!
    const count = mesh.positions.length / 3
    expect(count).toBe(costs.vertices)
    expect(mesh.indices.length / 3).toBe(costs.triangles)
    expect(Math.max(...mesh.indices)).toBeLessThan(count)
    for (const [array, stride] of [
      [mesh.normals, 3],
      [mesh.uvs, 2],
      [mesh.colors, 3],
      [mesh.joints, 4],
      [mesh.weights, 4],
    ] as const)
      expect(array.length).toBe(count * stride)
    expect(pieces.reduce((sum, p) => sum + p.count, 0)).toBe(mesh.indices.length)
    const list = handedOver.get(answer)!
    expect(new Set(list)).toEqual(
      new Set([...Object.values(mesh), atlas.pixels].map((a: { buffer: ArrayBufferLike }) => a.buffer)),
    )
  })

  it('keeps nothing that it has handed over: the next figure is built on other memory', async () => {
    const first = await build(human)
    const before = first.mesh.positions.slice()
    await build(setSlider(human, 'build', 1, { min: -1, max: 1, default: 0 }))
    expect(first.mesh.positions).toEqual(before)
    expect((await build(human)).mesh.positions).toEqual(before)
  })
})

describe('two figures of one topology', () => {
  const alike = ({ mesh, bones }: FigureView) => ({
    indices: mesh.indices,
    uvs: mesh.uvs,
    colors: mesh.colors,
    joints: mesh.joints,
    weights: mesh.weights,
    bones: bones.map(({ name, parent }) => ({ name, parent })),
  })

  it.each(['build', 'stature', 'belly', 'head', 'legs', 'arms'])(
    'differ in positions and normals alone, whatever “%s” says',
    async (slider) => {
      const rest = await build(human)
      const moved = await build({ ...human, sliders: { [slider]: 0.9 } })
      expect(moved.topology).toBe(rest.topology)
      expect(alike(moved)).toEqual(alike(rest))
      if (folk.bodies.get('human')!.def.sliders.some((s) => s.id === slider))
        expect(moved.mesh.positions).not.toEqual(rest.mesh.positions)
    },
  )

  it('may have other colors: those are in the atlas', async () => {
    const rest = await build(human)
    const dyed = await build({ ...human, colors: { coat: '#ff0000' } })
    expect(dyed.topology).toBe(rest.topology)
    expect(alike(dyed)).toEqual(alike(rest))
    expect(dyed.atlas.pixels).not.toEqual(rest.atlas.pixels)
  })

  it('are not those with other parts, other bones, fewer influences, or reduced', async () => {
    const topologies = await Promise.all(
      [
        build(human),
        build(clearPart(human, 'over')),
        build(human, { ...near, detail: 'crowd' }),
        build(human, { ...near, influences: 1 }),
        build(human, crowdTarget, true),
        build({ ...human, sliders: { build: 0.5 } }, crowdTarget, true),
      ].map(async (view) => (await view).topology),
    )
    expect(new Set(topologies).size).toBe(topologies.length)
  })
})

describe('the other work', () => {
  const on = () => true

  it('fits every clip of the kit to the figure', async () => {
    const clips = await workshop.clips(human, near)
    const own = folk.manifest.clips.filter((c) => c.plan === 'biped')
    expect(clips.map((c) => c.id)).toEqual(own.map((c) => c.id))
    const { bones } = await build(human)
    for (const { id, duration, travel } of clips) {
      const clip = await workshop.clip(human, near, id)
      expect(clip!.rotations).toHaveLength(bones.length)
      expect(clip).toMatchObject({ id, duration })
      expect(clip!.travel).toBeCloseTo(travel, 6)
    }
    expect(await workshop.clip(human, near, 'nothing')).toBeNull()
  })

  it('tells where its helper points are and how its joints bend, by the bones of the target; nothing of no figure', async () => {
    const crowd = demoTarget('crowd')
    for (const target of [near, crowd]) {
      const { bones } = (await workshop.build(human, target, false)).view!
      const [points, bends] = await Promise.all([workshop.helperPoints(human, target), workshop.bends(human, target)])
      const hangsFrom = Object.fromEntries(points.map((p) => [p.id, bones[p.bone]!.name]))
      expect(hangsFrom).toMatchObject({ leftEye: 'head', rightSole: 'rightFoot', leftGrip: 'leftHand' })
      for (const { bone, name } of bends) expect(bones[bone]!.name).toBe(name)
      expect(bends.length).toBeGreaterThan(12)
    }
    const nobody = { ...human, body: { kit: 'gone', id: 'gone', kitVersion: '1.0.0' } }
    expect([await workshop.helperPoints(nobody, near), await workshop.bends(nobody, near)]).toEqual([[], []])
  })

  it('tells how it moves when it blinks: to the very figure that has its eyes shut', async () => {
    for (const [kit, body] of [
      [folk, 'human'],
      [await demoKit('tide-creatures'), 'ottern'],
    ] as const) {
      const open = newRecipe(kit, body, 'Pim')
      const def = kit.bodies.get(body)!.def
      const asked = { ...crowdTarget, detail: 'standard' as const, keepExpressions: [] }
      const moves = (await workshop.faces(open, asked, false, ['blink'])).blink!
      const shut = setExpression(open, def, def.expressions!.find((e) => e.preset === 'blink')!.id, 1)
      const [from, to] = [await build(open, asked), await build(shut, asked)]
      const [moved, turned] = [from.mesh.positions.slice(), from.mesh.normals.slice()]
      moves.vertices.forEach((v, i) => {
        for (let k = 0; k < 3; k++) {
          moved[v * 3 + k]! += moves.offsets[i * 3 + k]!
          turned[v * 3 + k]! += moves.turns[i * 3 + k]!
        }
      })
      turned.forEach((n, i) => expect(Math.abs(n - to.mesh.normals[i]!), `${body} ${i}`).toBeLessThan(2e-3))
      // float32 sums in another order
      moved.forEach((x, i) => expect(Math.abs(x - to.mesh.positions[i]!), `${body} ${i}`).toBeLessThan(1e-5))
      expect(moved).not.toEqual(from.mesh.positions)
      // who sleeps has nothing to shut
      expect(await workshop.faces(shut, asked, false, ['blink'])).toEqual({})
    }
  })

  it('blinks under its limit only as far as that ships', async () => {
    expect(await workshop.faces(human, { ...crowdTarget, keepExpressions: [] }, true, ['blink'])).toEqual({})
    const tight = { ...near, limits: { ...near.limits, triangles: 1_800 } }
    const { vertices } = (await workshop.faces(human, tight, true, ['blink'])).blink!
    const { mesh } = await build(human, tight, true)
    expect(Math.max(...vertices)).toBeLessThan(mesh.positions.length / 3)
    expect(await workshop.faces({ ...human, body: { ...human.body, id: 'nobody' } }, near, false)).toEqual({})
  })

  it('makes a crowd of a mix, and refuses one of a kit it has not', async () => {
    const mix = readMix(readFileSync(join('kits/lantern-tide/quay-at-noon.mix.json'), 'utf8')).value!
    expect((await workshop.crowd({ ...mix, count: 5 }, on))!.variants).toHaveLength(5)
    const [kind] = mix.kinds
    const gone = { ...mix, kinds: [kind!, { ...kind!, id: 'more', body: { ...kind!.body, kit: 'gone' } }] }
    await expect(workshop.crowd(gone, on)).rejects.toThrow('gone')
  })

  it('tells how far a crowd is, answers others meanwhile, and ends it when told to', async () => {
    const mix = readMix(readFileSync(join('kits/lantern-tide/quay-at-noon.mix.json'), 'utf8')).value!
    const shares: number[] = []
    const order: string[] = []
    const later = (share: number) =>
      new Promise<boolean>((resolve) => setTimeout(() => resolve(shares.push(share) < 4)))
    const crowd = workshop.crowd({ ...mix, count: 2000 }, later).then((c) => (order.push('crowd'), c))
    const figure = build(human).then(() => order.push('figure'))
    expect(await crowd).toBeNull()
    await figure
    expect(shares).toHaveLength(4)
    expect(shares).toEqual([...shares].sort((a, b) => a - b))
    expect(shares.at(-1)).toBeLessThan(0.9)
    expect(order).toEqual(['figure', 'crowd'])
  })

  const order = () => ({ recipe: human, target: near, formats: ['glb' as const], lods: false, stem: 'pim', motions: [], keyed: [], insist: false }) // prettier-ignore

  it('ships a figure that it can open again', async () => {
    const { file, shipped } = await workshop.ship(order())
    expect(shipped.map((s) => [s.format, s.files, s.problems])).toEqual([['glb', ['pim.glb'], []]])
    expect(shipped[0]!.costs!.triangles).toBeLessThanOrEqual(near.limits.triangles)
    expect(shipped[0]!.passed.length).toBeGreaterThan(10)
    expect((await workshop.open(file!.bytes, 'pim.glb')).value).toEqual(human)
    const cut = await workshop.open(file!.bytes.slice(0, 500), 'cut.glb')
    expect(cut.value).toBeNull()
    expect(cut.problems[0]!.where).toContain('cut.glb')
  })

  it('ships several formats as a zip, without what cannot be', async () => {
    const { file, shipped } = await workshop.ship({ ...order(), formats: ['vrm', 'obj', 'dae'] })
    expect(file!.name).toBe('pim.zip')
    expect(shipped.map((s) => [s.format, s.files.length > 0])).toEqual([['vrm', false], ['obj', true], ['dae', true]]) // prettier-ignore
    expect(shipped[0]!.problems.map((p) => p.code)).toContain('vrm-author')
    expect(Object.keys(unzipSync(file!.bytes)).sort()).toEqual(shipped.flatMap((s) => s.files).sort().filter((f, i, all) => all.indexOf(f) === i)) // prettier-ignore
  })

  it('learns a target of a file that it has shipped, and says what is none', async () => {
    const { file } = await workshop.ship({ ...order(), formats: ['glb'] })
    const { value } = await workshop.learn(file!.bytes, 'game.glb', near)
    expect(value!.target.convention.bones.table).toMatchObject({ hips: 'hips', leftFoot: 'leftFoot' })
    const none = await workshop.learn(new Uint8Array([1, 2, 3]), 'odd.bin', near)
    expect([none.value, none.problems.map((p) => p.code)]).toEqual([null, ['motion-foreign']])
  })

  it('ships nothing of a figure whose body it has not', async () => {
    const { file, shipped } = await workshop.ship({ ...order(), recipe: { ...human, body: { ...human.body, id: 'gone' } } }) // prettier-ignore
    expect(file).toBeNull()
    expect(shipped[0]!.problems.map((p) => p.code)).toEqual(['body-unknown'])
  })
})

import { unzipSync, zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { demoKit, kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { scrambled } from '../../packages/core/src/testing/scrambledPack.ts'
import { foreignFigure } from '../../packages/core/src/testing/foreignFigure.ts'
import {
  boundsOf,
  Builder,
  newRecipe,
  newTarget,
  partReference,
  pointTriangles,
  readKit,
  setPart,
  signedVolume,
  THE_BODY,
} from '@idle-tinker/core'
import { makePack, openPack, pieceHealth } from './packs.ts'
import type { PackAsk } from './protocol'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const human = { kit: 'saltwick-folk', id: 'human' }
const part = (id: string) => kitFiles('saltwick-folk').get(`parts/${id}.glb`)!
const codes = ({ problems }: { problems: { code: string }[] }) => problems.map((p) => p.code)

describe('a pack in the worker', () => {
  it('is not there before it has been brought in', async () => {
    const order = { id: 'set', name: 'Set', slots: [], names: [], mend: [], sure: [], own: false, pictures: 0 }
    expect(codes(await makePack(kits, order))).toEqual(['pack-gone'])
    expect((await openPack(kits, { body: human, files: null, given: {}, arrangement: null })).sorted).toBeNull()
    expect(pieceHealth('any', [])).toBeNull()
  })

  it('is sorted from a zip, again without its files when asked otherwise, and made a kit', async () => {
    const zip = zipSync(Object.fromEntries(await scrambled(folk, ['coat-quay', 'boots-sea'], 'z -y', 'cm')))
    const first = await openPack(kits, { body: human, files: [['set.zip', zip]], given: {}, arrangement: null })
    expect(first.problems).toEqual([])
    expect(first.sorted).toMatchObject({
      placing: { up: 'z', front: '-y', unit: 'cm' },
      pieces: [{ guesses: [{ slot: 'over' }, {}, {}, {}] }, { guesses: [{ slot: 'feet' }, {}, {}, {}] }],
    })
    // as drawn: in metres, upright, with thick soles beneath bare feet
    const box = boundsOf(first.sorted!.pieces[1]!.view.mesh.positions)
    expect(box.min[1]).toBeGreaterThan(-0.04)
    expect(box.max[1]).toBeLessThan(0.6)
    const again = await openPack(kits, { body: human, files: null, given: { unit: 'mm' }, arrangement: null })
    expect(again.sorted!.placing).toMatchObject({ up: 'z', unit: 'mm', sure: { unit: 1 } })
    const ottern = await openPack(kits, {
      body: { kit: 'tide-creatures', id: 'ottern' },
      files: null,
      given: {},
      arrangement: null,
    })
    expect(ottern.sorted!.pieces).toHaveLength(2)
    await openPack(kits, { body: human, files: null, given: {}, arrangement: null })
    const [a, b] = first.sorted!.pieces.map((p) => p.id)
    const order = {
      id: 'set',
      name: 'Set',
      slots: [[a!, 'over'] as const, [b!, 'feet'] as const],
      names: [],
      mend: [],
      sure: [],
      own: false,
      pictures: 0,
    }
    const made = await makePack(kits, order)
    const { value } = await readKit(new Map(Object.entries(unzipSync(made.zip!))))
    expect([...value!.parts.values()].map((p) => p.def.slot)).toEqual(['over', 'feet'])
  })

  it('tells what is wrong with a piece, shows it, and mends it if it is to', async () => {
    // a box with a lid that is turned in
    const places = [0, 1, 2, 3, 4, 5, 6, 7].map((c) => `v ${c & 1 ? 5 : -5} ${c & 2 ? 10 : 0} ${c & 4 ? 5 : -5}`)
    const faces = ['1 3 4 2', '5 6 8 7', '1 2 6 5', '3 4 8 7', '1 5 7 3', '2 4 8 6']
    const box = new TextEncoder().encode(['o box', ...places, ...faces.map((f) => `f ${f}`)].join('\n'))
    const ask = {
      body: human,
      files: [['box.obj', box] as const],
      given: { up: 'y', front: 'z', unit: 'cm' } as const,
      arrangement: null,
    }
    const { sorted } = await openPack(kits, ask)
    const [piece] = sorted!.pieces
    expect(piece!.findings).toMatchObject([{ code: 'faces-against', severity: 'error' }])
    const seen = pieceHealth(piece!.id, ['faces-against'])!
    // the two that are wrong are painted, from both sides
    expect(seen.found.mesh.indices.length).toBe((12 + 2) * 3)
    expect(seen.mended.mesh.indices.length).toBe(12 * 3)
    expect(seen.found.atlas.pixels).not.toEqual(seen.mended.atlas.pixels)
    /** How many of the box's normals look away from its middle. */
    const outwards = ({ mesh }: typeof seen.found) =>
      Array.from({ length: mesh.positions.length / 3 }, (_, v) =>
        [0, 1, 2].reduce(
          (s, k) => s + mesh.normals[v * 3 + k]! * (mesh.positions[v * 3 + k]! - (k === 1 ? 0.05 : 0)),
          0,
        ),
      ).filter((dot) => dot > 0).length
    expect(outwards(seen.mended)).toBe(36)
    expect(outwards(pieceHealth(piece!.id, [])!.mended)).toBeLessThan(36)
    expect(pieceHealth('nobody', [])).toBeNull()
    const names = [[piece!.id, ' Nan’s tin ']] as const
    const order = {
      id: 'box',
      name: 'Box',
      slots: [[piece!.id, 'left-hand'] as const],
      names,
      sure: [],
      own: false,
      pictures: 0,
    }
    const volume = async (mend: Parameters<typeof makePack>[1]['mend']) => {
      const { zip } = await makePack(kits, { ...order, mend })
      const { value } = await readKit(new Map(Object.entries(unzipSync(zip!))))
      const { def, mesh } = [...value!.parts.values()][0]!
      expect([def.id, def.name]).toEqual(['nan-s-tin', 'Nan’s tin'])
      return signedVolume(mesh.positions, pointTriangles(mesh))
    }
    expect(await volume([[piece!.id, ['faces-against']]])).toBeCloseTo(0.001, 5)
    expect(await volume([])).toBeLessThan(0.0008)
  })

  it('takes a dressed figure apart, makes it whole again and joins its bits, and makes it a body with parts', async () => {
    const builder = new Builder(kits)
    const recipe = ['coat-quay', 'boots-sea', 'hat-tall'].reduce(
      (r, id) => setPart(r, folk.parts.get(id)!.def.slot, partReference(folk, id)),
      newRecipe(folk, 'human', 'Any'),
    )
    const figure = builder.build(recipe, newTarget('any', 'Any')).figure!
    const worn = figure.pieces.map((piece) => ({ figure, piece }))
    const bytes = await foreignFigure(worn, { meshes: 'one', materials: 'pieces', bone: (n) => n })
    const ask = (arrangement: PackAsk['arrangement'], files: PackAsk['files'] = null) =>
      openPack(kits, { body: human, files, given: {}, arrangement })
    const first = (await ask(null, [['whole.glb', bytes]])).sorted!
    expect(first.apart).toEqual(['whole.glb#0'])
    expect(first.figure).toMatchObject({ bones: figure.skeleton.bones.length, likely: true })
    expect(first.pieces.length).toBeGreaterThan(3)
    for (const { bitOf, view } of first.pieces) {
      expect(bitOf).toMatchObject({ piece: 'whole.glb#0' })
      expect(view.mesh.indices.length).toBeGreaterThan(0)
    }
    expect((await ask({ apart: [], joined: [] })).sorted!.pieces.map((p) => p.id)).toEqual(['whole.glb#0'])
    const [a, b] = first.pieces.map((p) => p.id)
    const joined = (await ask({ apart: first.apart, joined: [[a!, b!]] })).sorted!
    expect(joined.pieces).toHaveLength(first.pieces.length - 1)
    await ask({ apart: first.apart, joined: [] })
    const slots = first.pieces.map(
      (p) => [p.id, first.figure!.body.includes(p.id) ? THE_BODY : p.guesses[0]!.slot] as const,
    )
    const order = { id: 'own', name: 'Own', slots, names: [], mend: [], sure: [], own: true, pictures: 0 }
    const made = await makePack(kits, order)
    expect(made.problems).toEqual([])
    const { value, problems } = await readKit(new Map(Object.entries(unzipSync(made.zip!))))
    expect(problems).toEqual([])
    expect([value!.bodies.size, value!.parts.size > 2]).toEqual([1, true])
    // without a body there is no kit, and it is said
    const none = await makePack(kits, { ...order, slots: [] })
    expect([none.zip, codes(none)]).toEqual([null, ['body-none']])
  })

  it('says what it could not take, and that a kit is one', async () => {
    const ask = (files: [string, Uint8Array][], body = human) =>
      openPack(kits, { body, files, given: {}, arrangement: null })
    expect(codes(await ask([['bad.zip', new Uint8Array(40)]]))).toEqual(['zip-broken', 'pack-empty'])
    expect(codes(await ask([['a.glb', part('mug')]], { kit: 'no', id: 'body' }))).toEqual(['body-unknown'])
    const kit = await ask([
      ['mine/kit.json', new TextEncoder().encode('{}')],
      ['mine/a.glb', part('mug')],
    ])
    expect([codes(kit), kit.sorted!.pieces.length]).toEqual([['kit-already'], 1])
    // two zips with files of one name
    const zip = zipSync({ 'a.glb': part('mug') })
    const both = await ask([
      ['one.zip', zip],
      ['two.zip', zip],
    ])
    expect(both.sorted!.pieces.map((p) => p.id)).toEqual(['one.zip/a.glb#0', 'two.zip/a.glb#0'])
  })

  it('stands beside the body in its own colors, a rod of one metre on the other side', async () => {
    const { sorted } = await openPack(kits, {
      body: human,
      files: [['coat.glb', part('coat-quay')]],
      given: {},
      arrangement: null,
    })
    const { beside } = sorted!
    const { view } = sorted!.pieces[0]!
    const coat = view.mesh.positions.length
    const from = beside.mesh.positions.length - coat
    // to the right of the body, as high as before
    const shifts = view.mesh.positions.map((v, i) => beside.mesh.positions[from + i]! - v)
    expect(shifts[0]).toBeGreaterThan(0.5)
    shifts.forEach((shift, i) => expect(shift).toBeCloseTo(i % 3 ? 0 : shifts[0]!, 5))
    const colorAt = ({ mesh, atlas }: typeof view, v: number) => {
      const [u, w] = [mesh.uvs[v * 2]!, mesh.uvs[v * 2 + 1]!].map((x) => Math.floor(x * atlas.size))
      return [...atlas.pixels.subarray((w! * atlas.size + u!) * 4, (w! * atlas.size + u!) * 4 + 3)]
    }
    for (const v of [0, 500, 1000, coat / 3 - 1]) expect(colorAt(beside, from / 3 + v)).toEqual(colorAt(view, v))
    const { positions } = folk.bodies.get('human')!.mesh
    const left = positions.filter((_, i) => i % 3 === 0).reduce((a, b) => Math.min(a, b))
    const rod = Array.from({ length: from / 3 }, (_, v) => v).filter((v) => beside.mesh.positions[v * 3]! < left)
    const heights = rod.map((v) => beside.mesh.positions[v * 3 + 1]!)
    expect(Math.max(...heights) - Math.min(...heights)).toBeCloseTo(1)
  })

  it('cannot be sorted on a body without slots, and says so', async () => {
    const bare = { ...folk, manifest: { ...folk.manifest, slots: [] } }
    const answer = await openPack(new Map([['saltwick-folk', bare]]), {
      body: human,
      files: [['a.glb', part('mug')]],
      given: {},
      arrangement: null,
    })
    expect([codes(answer), answer.sorted]).toEqual([['slots-none'], null])
  })
})

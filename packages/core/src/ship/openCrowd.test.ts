import { zipSync } from 'fflate'
import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { readMix, type Mix } from '../crowd/mix.ts'
import { selectCrowd } from '../crowd/selectCrowd.ts'
import { newMix } from '../crowd/newMix.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { crowdTable } from './crowdTable.ts'
import { openCrowd } from './openCrowd.ts'
import { shipParcel } from './shipParcel.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const body = { kit: 'saltwick-folk', id: 'human' }
const quay: Mix = { ...newMix(kits, body, { id: 'quay', name: 'Quay' }, 3), count: 3 }
const costs = { triangles: 1, vertices: 1, bones: 1, drawCalls: 1, textureBytes: 1, fileBytes: 1, morphs: 0 } as never
const text = (value: string) => new TextEncoder().encode(value)
const made = selectCrowd(quay, kits).variants.map((v) => v.recipe)
const tableOf = (recipes: typeof made, mix: Mix | null = quay) =>
  text(crowdTable(mix, TARGETS[2]!, recipes.map((recipe, i) => ({ file: `${i}.glb`, recipe, costs })), kits)) // prettier-ignore
const recipesOf = (mix: Mix | null) => selectCrowd(mix!, kits).variants.map((v) => v.recipe)

describe('the crowd in a file', () => {
  it('that was shipped is the crowd it was, from its zip', async () => {
    const { files, problems } = await shipParcel(
      { kind: 'crowd', name: 'Quay', mix: quay, recipes: null },
      TARGETS[2]!,
      { ...{ formats: ['glb'], lods: false, insist: false, pattern: '', folders: '{target}/{crowd}', date: '' }, ...{ license: null, motions: [], keyed: [] } },
      { builder: new Builder(kits), kits, shelf: null, told: () => true },
    ) // prettier-ignore
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    const zip = zipSync(Object.fromEntries(files!))
    expect(openCrowd(zip, kits)).toEqual({ value: quay, problems: [] })
  })

  it('stays as it left where its mix makes others now, each figure in its place', () => {
    const other = made.map((recipe, i) => (i === 1 ? { ...made[1]!, name: 'Somebody' } : recipe))
    const { value, problems } = openCrowd(tableOf(other), kits)
    expect(problems).toEqual([])
    expect(recipesOf(value)).toEqual(other)
    expect(readMix(value).problems).toEqual([])
    // fewer left than the mix makes
    expect(recipesOf(openCrowd(tableOf(made.slice(0, 2)), kits).value)).toEqual(made.slice(0, 2))
  })

  it('that came of no mix is one of the bodies in it', () => {
    const mixed = [
      dressed(folk, 'human', MAREN),
      dressed(tide, 'ottern', ['whiskers-long']),
      dressed(folk, 'human', ['jersey']),
    ]
    const { value } = openCrowd(tableOf(mixed, null), kits)
    expect(value!.kinds.map((k) => [k.body.id, k.share])).toEqual([
      ['human', 2],
      ['ottern', 1],
    ])
    const bodies = recipesOf(value).map((r) => r.body.id)
    expect([...bodies].sort()).toEqual(['human', 'human', 'ottern'])
    expect(recipesOf(value).map((r) => r.parts.length).sort()).toEqual(mixed.map((r) => r.parts.length).sort()) // prettier-ignore
  })

  it('is a mix where the file is one, and of several in a zip the first, which is told', () => {
    expect(openCrowd(text(JSON.stringify(quay)), kits).value).toEqual(quay)
    const two = zipSync({ 'near/a/crowd.json': tableOf(made), 'near/b/crowd.json': tableOf(made.slice(1)) })
    const { value, problems } = openCrowd(two, kits)
    expect([value!.count, problems.map((p) => p.code)]).toEqual([3, []])
    const other = zipSync({ 'a/crowd.json': tableOf(made), 'b/crowd.json': tableOf(made, { ...quay, seed: 9 }) })
    expect(openCrowd(other, kits).problems.map((p) => p.code)).toEqual(['crowd-several'])
  })

  it.each<[string, Uint8Array, string]>([
    ['empty', new Uint8Array(), 'json'],
    ['no JSON', text('crowd'), 'json'],
    ['null', text('null'), 'crowd-foreign'],
    ['a list', text('[1, 2]'), 'crowd-foreign'],
    ['nobody', text('{"variants": []}'), 'crowd-foreign'],
    ['too many', text(JSON.stringify({ variants: Array.from({ length: 2001 }, () => ({})) })), 'crowd-foreign'],
    ['a zip without a table', zipSync({ 'a.glb': text('x') }), 'crowd-foreign'],
    ['a zip cut off', zipSync({ 'crowd.json': tableOf(made) }).slice(0, 500), 'zip-broken'],
    ['no recipes', text('{"variants": [null, 3]}'), 'format'],
    ['a mix that is none', text(JSON.stringify({ mix: 7, variants: [{ recipe: made[0] }] })), 'format'],
    ['a kit that is not here', text(JSON.stringify({ mix: null, variants: [{ recipe: { ...made[0], body: { kit: 'gone', id: 'x', kitVersion: '1.0.0' } } }] })), 'kit-unknown'],
  ])('is told where it is none: %s', (_, bytes, code) => {
    const { value, problems } = openCrowd(bytes, kits)
    expect(value).toBeNull()
    expect(problems.map((p) => p.code)).toContain(code)
  })
}) // prettier-ignore

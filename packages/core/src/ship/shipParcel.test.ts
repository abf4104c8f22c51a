import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { csvParse } from 'd3-dsv'
import { beforeAll, describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import { newMix } from '../crowd/newMix.ts'
import { readRecipe } from '../recipe/read.ts'
import { demoKit, demoTarget, KITS_FOLDER } from '../testing/demoKits.ts'
import type { Kit } from '../kit/Kit.ts'
import { fullName } from '../kit/library.ts'
import { checkShipped } from './checkShipped.ts'
import { shipParcel, stepsOf, withinMix, type Parcel, type ShipSettings, type ShipTools } from './shipParcel.ts'

let kits: Map<string, Kit>
let builder: Builder
beforeAll(async () => {
  kits = new Map([['saltwick-folk', await demoKit('saltwick-folk')]])
  builder = new Builder(kits)
})

const settings: ShipSettings = {
  ...{ formats: ['glb'], lods: false, insist: false, pattern: '', folders: '', date: '2026-11-29' },
  ...{ license: null, motions: [], keyed: [] },
}
const tools = (told: ShipTools['told'] = () => true): ShipTools => ({ builder, kits, shelf: null, told })
const maren = readRecipe(readFileSync(join(KITS_FOLDER, 'lantern-tide/maren-quill.recipe.json'), 'utf8')).value!
const crowd = demoTarget('crowd')
const mixOf = (count: number) => ({
  ...newMix(kits, maren.body, { id: 'quay', name: 'Quay & more' }, 1),
  ...{ count, triangles: 700 },
})
const textOf = (files: ReadonlyMap<string, Uint8Array>, name: string) => new TextDecoder().decode(files.get(name))

describe('a parcel', () => {
  it('of a mix is made into its crowd, within its own limit, with a table beside it', async () => {
    const steps: number[] = []
    const parcel: Parcel = { kind: 'crowd', name: 'Quay & more', mix: mixOf(3), recipes: null }
    expect(stepsOf(parcel)).toBe(3)
    const how = { ...settings, folders: '{target}/{crowd}/{figure}', pattern: '{number}' }
    const { files, figures, problems } = await shipParcel(parcel, crowd, how, tools((n) => steps.push(n) > 0)) // prettier-ignore
    expect(problems.filter((p) => p.severity === 'error')).toEqual([])
    expect(steps).toEqual([0, 1, 2, 3])
    expect(figures).toHaveLength(3)
    expect(figures.every((f) => f.triangles <= 700)).toBe(true)
    // a figure's own name in a folder is its own; the tables lie above them all
    const table = JSON.parse(textOf(files!, 'crowd/quay-more/crowd.json')) as {
      target: { limits: { triangles: number } }
      variants: { file: string; recipe: typeof maren }[]
    }
    expect(table.target.limits.triangles).toBe(700)
    const rows = csvParse(textOf(files!, 'crowd/quay-more/crowd.csv'))
    expect(rows.map((r) => r.file)).toEqual(table.variants.map((v) => v.file))
    for (const [i, { file, recipe }] of table.variants.entries()) {
      expect(file).toBe(figures[i]!.file)
      expect(file).toMatch(/^crowd\/quay-more\/[^/]+\/00\d\.glb$/)
      const { facts } = await checkShipped(files!.get(file)!)
      expect(facts!.triangles).toBe(figures[i]!.triangles)
      const row = rows[i]!
      expect([row.name, row.body, row.triangles]).toEqual([
        ...[recipe.name, fullName(recipe.body), String(facts!.triangles)],
      ])
      for (const { slot, part } of recipe.parts) expect(row[`slot ${slot}`]).toBe(fullName(part))
      expect(row['slot nowhere']).toBeUndefined()
    }
  })

  it('holds all of a crowd back for one that is at fault, unless one insists on what can be written', async () => {
    const gone = { ...maren, name: 'Nobody', body: { ...maren.body, id: 'nobody' } }
    const both: Parcel = { kind: 'crowd', name: 'Two', mix: null, recipes: [maren, gone] }
    for (const insist of [false, true]) {
      const { files, withheld, problems } = await shipParcel(both, crowd, { ...settings, insist }, tools())
      expect([files, withheld]).toEqual([null, false])
      expect(problems.find((p) => p.severity === 'error')!.where).toMatch(/^Nobody: /)
    }
    // ninety metres tall: it can be written, and nobody takes it for a figure
    const giant = { ...crowd, convention: { ...crowd.convention, scale: 50 } }
    const one: Parcel = { kind: 'figure', recipe: maren }
    const held = await shipParcel(one, giant, settings, tools())
    expect([held.files, held.withheld]).toEqual([null, true])
    const sent = await shipParcel(one, giant, { ...settings, insist: true }, tools())
    expect([...sent.files!.keys()]).toEqual(['maren-quill.glb'])
    expect(sent.problems.some((p) => p.severity === 'error')).toBe(true)
  })

  it('of a figure leaves in the formats in which it can, and tells of the others; of a crowd all or none', async () => {
    const formats = ['vrm', 'glb', 'obj'] as const
    // nobody has said who made it
    const near = demoTarget('near')
    const { files, problems, withheld, figures } = await shipParcel({ kind: 'figure', recipe: maren }, near, { ...settings, formats }, tools()) // prettier-ignore
    expect([...files!.keys()].map((name) => name.split('.').pop())).toEqual(['glb', 'obj', 'mtl', 'png'])
    expect(figures.map((f) => f.file)).toEqual(['maren-quill.glb'])
    expect(withheld).toBe(false)
    const errors = problems.filter((p) => p.severity === 'error')
    expect(errors.map((p) => [p.code, p.where])).toEqual([['vrm-author', 'VRM 1.0: Maren Quill']])
    const crowdOf: Parcel = { kind: 'crowd', name: 'One', mix: null, recipes: [maren] }
    const none = await shipParcel(crowdOf, near, { ...settings, formats }, tools())
    expect([none.files, none.withheld]).toEqual([null, false])
    // what is written and found at fault stays alone as well, and goes if one insists
    const tall = { ...near, convention: { ...near.convention, scale: 50 } }
    const both = { ...settings, formats: ['json', 'glb'] as const }
    const held = await shipParcel({ kind: 'figure', recipe: maren }, tall, both, tools())
    expect([[...held.files!.keys()], held.withheld]).toEqual([['maren-quill.recipe.json'], true])
    const sent = await shipParcel({ kind: 'figure', recipe: maren }, tall, { ...both, insist: true }, tools())
    expect([sent.files!.size, sent.withheld]).toEqual([2, false])
  })

  it('of a crowd is forgotten figure by figure as it is written; a figure by itself is still there for the next', async () => {
    const again = () => builder.build(maren, crowd, { reduce: true }).done
    await shipParcel({ kind: 'figure', recipe: maren }, crowd, settings, tools())
    expect(again()).not.toContain('dress')
    await shipParcel({ kind: 'crowd', name: 'One', mix: null, recipes: [maren] }, crowd, settings, tools())
    expect(again()).toContain('dress')
  })

  it('stops where it is told to, with nothing', async () => {
    const three: Parcel = { kind: 'crowd', name: 'Three', mix: mixOf(3), recipes: null }
    const { files, problems } = await shipParcel(three, crowd, settings, tools((n) => n < 2)) // prettier-ignore
    expect([files, problems.at(-1)!.code]).toEqual([null, 'canceled'])
  })

  it('has who made it from the shipment, or else from its target', async () => {
    const one: Parcel = { kind: 'figure', recipe: maren }
    const vrm = { ...settings, formats: ['vrm'] as const }
    const own = { ...demoTarget('near'), license: { authors: ['Target Maker'] } }
    const authorsIn = async (how: ShipSettings) => {
      const { files } = await shipParcel(one, own, how, tools())
      return new TextDecoder('latin1').decode(files!.get('maren-quill.vrm')).match(/"authors":\["([^"]+)"\]/)![1]
    }
    expect(await authorsIn(vrm)).toBe('Target Maker')
    expect(await authorsIn({ ...vrm, license: { authors: ['Page Writer'] } })).toBe('Page Writer')
  })

  it('refuses words in names and folders that nothing stands for', async () => {
    for (const odd of [{ pattern: '{hat}' }, { folders: '{target}/{hats}' }]) {
      const { files, problems } = await shipParcel({ kind: 'figure', recipe: maren }, crowd, { ...settings, ...odd }, tools()) // prettier-ignore
      expect([files, problems.map((p) => p.code)]).toEqual([null, ['pattern-unknown']])
    }
  })

  it('of nobody says so', async () => {
    const none: Parcel = { kind: 'crowd', name: 'None', mix: null, recipes: null }
    expect((await shipParcel(none, crowd, settings, tools())).problems).toMatchObject([{ code: 'crowd-empty' }])
  })
})

describe('the limit of a mix', () => {
  it('holds where it is the lower one', () => {
    expect(withinMix(crowd, { triangles: 500 }).limits.triangles).toBe(500)
    expect(withinMix(crowd, { triangles: 5000 })).toEqual(crowd)
    expect(withinMix(crowd, null)).toEqual(crowd)
  })
})

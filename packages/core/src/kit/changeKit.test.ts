import { isDeepStrictEqual } from 'node:util'
import { describe, expect, it } from 'vitest'
import { recipeOfLook } from '../recipe/looks.ts'
import { demoKit, kitFiles } from '../testing/demoKits.ts'
import { addToKit, alwaysOn, changePart, dropPart, nextVersion, versionAfter } from './changeKit.ts'
import { kitHash, readKit, type KnownModels } from './readKit.ts'
import type { KitManifest } from './schema.ts'

const folk = await demoKit('saltwick-folk')
const { manifest } = folk
const before = structuredClone(manifest)

describe('a kit that is changed', () => {
  it('stays the same object to whoever has it', () => {
    const coat = manifest.parts.find((p) => p.id === 'coat-quay')!
    const changed = changePart(manifest, { ...coat, name: 'Harbor coat' })
    expect(changed.parts.filter((p) => p.name === 'Harbor coat').map((p) => p.id)).toEqual(['coat-quay'])
    expect(changed.parts).toHaveLength(manifest.parts.length)
    expect(manifest).toEqual(before)
  })

  it('without a part has looks without it, and is sound', async () => {
    const worn = manifest.looks!.filter((l) => l.parts.includes('boots-sea')).length
    expect(worn).toBeGreaterThan(0)
    const less = dropPart(manifest, 'boots-sea')
    expect(less.looks!.filter((l) => l.parts.includes('boots-sea'))).toEqual([])
    const files = new Map([...kitFiles('saltwick-folk'), ['kit.json', new TextEncoder().encode(JSON.stringify(less))]])
    const { problems } = await readKit(files)
    expect(problems).toEqual([])
    expect(JSON.stringify(less)).not.toContain('"boots-sea"')
    // what a body always has cannot leave
    expect([alwaysOn(manifest, 'eyes-open'), alwaysOn(manifest, 'boots-sea')]).toEqual([['Human'], []])
    expect(manifest).toEqual(before)
  })

  it('takes up what another brings, in place of what has the same ids, and nothing twice', () => {
    const [first, second] = manifest.parts as [KitManifest['parts'][number], KitManifest['parts'][number]]
    const more: KitManifest = {
      ...manifest,
      parts: [
        { ...second, name: 'Other eyes' },
        { ...first, id: 'new-one', name: 'New one' },
      ],
      colorRegions: [...manifest.colorRegions, { id: 'new-color', name: 'New color', color: '#123456' }],
    }
    const joined = addToKit(manifest, more)
    expect(joined.parts.map((p) => p.id)).toEqual([...manifest.parts.map((p) => p.id), 'new-one'])
    expect(joined.parts[1]!.name).toBe('Other eyes')
    expect(joined.colorRegions).toHaveLength(manifest.colorRegions.length + 1)
    expect(joined.slots).toEqual(manifest.slots)
    expect(addToKit(joined, more)).toEqual(joined)
    // bodies, clips and looks as well; what it lacks of these is left as it is
    const bare: KitManifest = { ...manifest, id: 'bare', name: 'Bare', bodies: [], parts: [], clips: [] }
    delete bare.looks
    const whole = addToKit(bare, manifest)
    expect([whole.id, whole.name]).toEqual(['bare', 'Bare'])
    expect([whole.bodies, whole.parts, whole.clips, whole.looks]).toEqual([
      ...[manifest.bodies, manifest.parts, manifest.clips, manifest.looks],
    ])
    expect('looks' in addToKit(bare, bare)).toBe(false)
  })

  it('counts its versions on', () => {
    expect([nextVersion('2.3.0'), nextVersion('0.0.9')]).toEqual(['2.3.1', '0.0.10'])
    // a draft's own counts where it is later, by number and not by letter; no kit goes back
    const after = (now: string, said: string) => versionAfter(now, said)
    expect([after('2.3.0', '2.3.0'), after('2.3.1', '2.3.0'), after('2.10.0', '2.9.9')]).toEqual([
      ...['2.3.1', '2.3.2', '2.10.1'],
    ])
    expect([after('2.3.0', '2.4.0'), after('2.9.0', '2.10.0'), after('1.9.9', '2.0.0')]).toEqual([
      ...['2.4.0', '2.10.0', '2.0.0'],
    ])
  })

  it('is read again without its models being read again, and comes out the same', async () => {
    const files = kitFiles('tide-creatures')
    const known: KnownModels = new Map()
    const first = await readKit(files, known)
    const models = new Map(known)
    const again = await readKit(files, known)
    expect(isDeepStrictEqual(again, first)).toBe(true)
    for (const [path, model] of known) expect(model).toBe(models.get(path))
    // of a file that is another the model is another, and what is wrong with it is told
    const [path] = [...files.keys()].filter((p) => p.startsWith('parts/'))
    const broken = await readKit(new Map([...files, [path!, new TextEncoder().encode('no model')]]), known)
    expect(broken.problems.some((p) => p.where === path)).toBe(true)
    // what is known afterwards are the models it has now
    expect(known.size).toBe(models.size)
    const gone = [...models.keys()].filter((key) => !known.has(key))
    expect(gone).toEqual([expect.stringMatching(new RegExp(`^${path} `))])
    // by its files alone it is known as it is once it is read
    expect(await kitHash(files)).toBe(first.value!.hash)
    expect(await kitHash(new Map([...files, ['more.txt', new Uint8Array()]]))).not.toBe(first.value!.hash)
  })
})

describe('a look', () => {
  it('is a recipe of all it names; what is not there is left out, and without its body it is none', () => {
    const kits = new Map([[manifest.id, folk]])
    const look = manifest.looks!.find((l) => l.id === 'tide-bride')!
    const recipe = recipeOfLook(kits, manifest.id, look)
    expect(recipe.parts.map((p) => p.part.id)).toEqual(expect.arrayContaining(look.parts))
    // its face is set through movements, which are sliders
    expect(Object.keys(recipe.sliders).length).toBeGreaterThan(Object.keys(look.sliders).length)
    const odd = recipeOfLook(kits, manifest.id, { ...look, parts: ['crown', 'elsewhere/hat'], face: ['bored', 1] })
    expect(odd.parts.map((p) => p.slot).sort()).toEqual(['brows', 'eyes'])
    expect(odd.sliders).toEqual(look.sliders)
    expect(() => recipeOfLook(kits, manifest.id, { ...look, body: 'kraken' })).toThrow(RangeError)
  })
})

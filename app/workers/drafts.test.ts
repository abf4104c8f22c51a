import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { demoKit, kitFiles } from '../../packages/core/src/testing/demoKits.ts'
import { newRecipe, newTarget, partReference, setPart, Shelf, type KitManifest } from '@idle-tinker/core'
import { tryDraft, tryRefit } from './drafts.ts'
import type { KitDraft } from './protocol'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const files = kitFiles('saltwick-folk')
const shelf = new Shelf()
const target = newTarget('any', 'Any')
const recipe = setPart(newRecipe(folk, 'human', 'Somebody'), 'over', partReference(folk, 'coat-quay'))

const fetched: string[] = []
let away = false
beforeEach(() =>
  vi.stubGlobal('fetch', (address: string) => {
    fetched.push(address)
    if (away) return Promise.reject(new TypeError('no server'))
    const path = decodeURIComponent(address.split('/').slice(6).join('/'))
    return Promise.resolve(new Response(files.get(path) as BodyInit))
  }),
)
afterEach(() => void vi.unstubAllGlobals())

/** A draft of the folk's kit; each test's state on the server is another. */
const draft = (
  hash: string,
  change: (m: KitManifest) => KitManifest | string = (m) => m,
  fresh: KitDraft['files'] = [],
): KitDraft => {
  const changed = change(structuredClone(folk.manifest))
  return {
    address: { id: 'saltwick-folk', hash, files: [...files.keys()], reading: '' },
    base: 'http://here:1',
    json: typeof changed === 'string' ? changed : JSON.stringify(changed),
    files: fresh,
  }
}

describe('a kit as it is to become', () => {
  it('is read with its changes, and the figure is built with them', async () => {
    const plain = await tryDraft(kits, shelf, draft('one'), recipe, target)
    expect(plain.problems).toEqual([])
    expect(plain.manifest?.id).toBe('saltwick-folk')
    const count = fetched.length
    expect(count).toBe(files.size)
    // another coat under its name: nothing is fetched again
    const other = files.get('parts/coat-oilskin.glb')!
    const swapped = await tryDraft(
      kits,
      shelf,
      draft('one', (m) => m, [['parts/coat-quay.glb', other]]),
      recipe,
      target,
    )
    expect(fetched.length).toBe(count)
    expect(swapped.regions['coat-quay']).toContain('oilskin')
    expect(plain.regions['coat-quay']).not.toContain('oilskin')
    const triangles = (a: typeof plain) => a.view!.pieces.find((p) => p.id === 'coat-quay')!.count / 3
    expect(triangles(swapped)).not.toBe(triangles(plain))
    // what stands is not touched by it
    expect(folk.parts.get('coat-quay')!.mesh.regionNames).not.toContain('oilskin')
  })

  it('tells what is wrong: text that is none, a file that is none, another id, a body that lacks a slot', async () => {
    const codes = async (d: KitDraft) => (await tryDraft(kits, shelf, d, null, target)).problems.map((p) => p.code)
    expect(await codes(draft('two', () => '{ "format": '))).not.toEqual([])
    const broken = [['parts/coat-quay.glb', new TextEncoder().encode('no model')]] as const
    expect(await codes(draft('two', (m) => m, broken))).toContain('glb-foreign')
    expect(await codes(draft('two', (m) => ({ ...m, id: 'other' })))).toContain('kit-id')
    const lost = (m: KitManifest) => ({
      ...m,
      parts: m.parts.map((p) => (p.id === 'coat-quay' ? { ...p, bodies: ['tide-creatures/ottern'] } : p)),
    })
    expect(await codes(draft('two', lost))).toContain('slot-unknown')
  })

  it('that cannot be fetched is told, and is had the next time', async () => {
    away = true
    await expect(tryDraft(kits, shelf, draft('three'), null, target)).rejects.toThrow('no server')
    away = false
    expect((await tryDraft(kits, shelf, draft('three'), null, target)).problems).toEqual([])
  })
})

describe('a part that is tried on another body', () => {
  const ask = {
    ...{ id: 'on-ottern', name: 'On ottern', part: { kit: 'saltwick-folk', id: 'coat-quay' }, adjust: {} },
    ...{ from: { kit: 'saltwick-folk', id: 'human' }, to: { kit: 'tide-creatures', id: 'ottern' } },
  }
  it('is shown worn, and where it is doubtful in a color of its own, anew with each change', async () => {
    const { made } = await tryRefit(kits, shelf, ask, target)
    expect(made!.worn!.pieces.map((p) => p.id)).toContain('coat-quay')
    const marked = ({ places: { mesh, atlas } }: NonNullable<typeof made>) => {
      let red = 0
      for (let c = 0; c < mesh.indices.length; c += 3) {
        const v = mesh.indices[c]!
        const [x, y] = [0, 1].map((k) => Math.floor(mesh.uvs[v * 2 + k]! * atlas.size)) as [number, number]
        const [r, g, b] = atlas.pixels.subarray((y * atlas.size + x) * 4)
        if (r === 0xd2 && g === 0x3b && b === 0x2f) red++
      }
      return red
    }
    expect(marked(made!)).toBeGreaterThan(0)
    const looser = (await tryRefit(kits, shelf, { ...ask, adjust: { looser: 0.03 } }, target)).made!
    expect(marked(looser)).not.toBe(marked(made!))
    // the stage takes what has one topology for the same with its points elsewhere
    expect(looser.places.topology).not.toBe(made!.places.topology)
  })

  it('that cannot be carried over is told', async () => {
    const head = { ...ask, part: { kit: 'saltwick-folk', id: 'hook-left' } }
    const { made, problems } = await tryRefit(kits, shelf, head, target)
    expect([made, problems.map((p) => p.code)]).toEqual([null, ['refit-cannot', 'refit-none']])
    const nowhere = await tryRefit(kits, shelf, { ...ask, to: { kit: 'tide-creatures', id: 'nobody' } }, target)
    expect([nowhere.made, nowhere.problems.map((p) => p.code)]).toEqual([null, ['body-unknown']])
  })
})

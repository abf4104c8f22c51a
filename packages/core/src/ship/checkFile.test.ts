import { describe, expect, it } from 'vitest'
import { Builder } from '../build.ts'
import type { Target } from '../recipe/target.ts'
import { demoKit, dressed, MAREN, TARGETS } from '../testing/demoKits.ts'
import { processorSeconds } from '../testing/spent.ts'
import { checkFile } from './checkFile.ts'
import { shipFormats, type ShipFormat } from './shipFormats.ts'

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const near: Target = { ...TARGETS[0]!, keepExpressions: [], lods: [], license: { authors: ['A'] } }
const inches: Target = {
  ...near,
  convention: { ...near.convention, unit: 0.0254, up: '+z', front: '-y', bones: { names: 'table', table: { hips: 'Root', head: 'Skull' } } }, // prettier-ignore
}
const builder = new Builder(kits)
const FILES: [ShipFormat, string][] = [
  ['glb', 'm.glb'],
  ['gltf', 'm.gltf'],
  ['vrm', 'm.vrm'],
  ['obj', 'm.obj'],
  ['dae', 'm.dae'],
  ['dae', 'm-walk.dae'],
  ['bvh', 'm-walk.bvh'],
]
const shipped = new Map<string, ReadonlyMap<string, Uint8Array>>()
for (const target of [near, inches])
  for (const { format, files } of await shipFormats(
    builder,
    kits,
    dressed(folk, 'human', MAREN),
    target,
    ['glb', 'gltf', 'vrm', 'obj', 'dae', 'bvh'],
    { lods: false, stem: 'm' },
  ))
    // prettier-ignore
    shipped.set(`${format} ${target.convention.unit}`, files!)

const check = (format: ShipFormat, name: string, target: Target) => {
  const files = shipped.get(`${format} ${target.convention.unit}`)!
  return checkFile(files.get(name)!, name, target, (uri) => files.get(uri))
}
const codes = async (bytes: Uint8Array | string, name: string, target: Target | null = null, files: ReadonlyMap<string, Uint8Array> = new Map()) => // prettier-ignore
  (await checkFile(typeof bytes === 'string' ? new TextEncoder().encode(bytes) : bytes, name, target, (uri) => files.get(uri))).problems.map((p) => p.code) // prettier-ignore
const textOf = (format: ShipFormat, name: string) => new TextDecoder().decode(shipped.get(`${format} 1`)!.get(name))

describe('the check of a file of any format', () => {
  it.each(FILES)(
    'finds nothing wrong with a good one under its own target, and says how tall it is: %s %s',
    async (format, name) => {
      for (const target of [near, inches]) {
        const { passed, problems } = await check(format, name, target)
        expect(problems).toEqual([])
        const height = passed.map((line) => Number(/(\d\.\d\d) m tall/.exec(line)?.[1] ?? 0)).find((h) => h > 0)!
        // joints of a skeleton end at the crown's bone, drawn figures at their hats
        expect(height).toBeGreaterThan(1.4)
        expect(height).toBeLessThan(1.9)
      }
    },
  )

  it('sees that it is of another unit, of another size, or lies', async () => {
    const dae = textOf('dae', 'm.dae')
    expect(await codes(dae, 'm.dae', inches)).toEqual(['unit', 'up', 'names-missing'])
    expect(await codes(dae.replace('meter="1"', 'meter="0.0001"'), 'm.dae')).toEqual(['size'])
    // metres where inches are counted: a figure of four centimetres
    expect(await codes(textOf('bvh', 'm-walk.bvh'), 'm.bvh', inches)).toEqual(['size', 'names-missing'])
    expect(await codes(textOf('obj', 'm.obj'), 'm.obj', { ...inches, convention: { ...inches.convention, unit: 1e-3 } }, shipped.get('obj 1'))).toEqual(['size']) // prettier-ignore
  })

  it('sees that what it names is not beside it', async () => {
    const files = shipped.get('obj 1')!
    expect(await codes(files.get('m.obj')!, 'm.obj')).toEqual(['texture'])
    const lost = new Map([['m.mtl', files.get('m.mtl')!]])
    expect(await codes(files.get('m.obj')!, 'm.obj', null, lost)).toEqual(['texture'])
    const { problems } = await checkFile(shipped.get('gltf 1')!.get('m.gltf')!, 'm.gltf')
    expect(problems.map((p) => [p.code, p.severity])).toEqual([['gltf-broken', 'error']])
  })

  it('is soon through with a name that is nearly endless', async () => {
    const obj = `mtllib a${' '.repeat(100_000)}b\nv 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n`
    const beside = new Map([
      [`a${' '.repeat(100_000)}b`, new TextEncoder().encode(`newmtl m\nmap_Kd c${' '.repeat(100_000)}d\n`)],
    ])
    const before = processorSeconds()
    expect(await codes(obj, 'a.obj')).toContain('texture')
    expect(await codes(obj, 'a.obj', null, beside)).toContain('texture')
    // seconds; with every way to end the name tried it took 45
    expect(processorSeconds() - before).toBeLessThan(1)
  })

  it('sees that it is more than its target allows', async () => {
    const small = { ...near, limits: { ...near.limits, triangles: 500, bones: 10 }, influences: 2 as const }
    const found = await codes(shipped.get('glb 1')!.get('m.glb')!, 'm.glb', small)
    expect(found).toEqual(['influences', 'over-budget', 'over-budget'])
    expect(await codes(textOf('obj', 'm.obj'), 'm.obj', small, shipped.get('obj 1'))).toEqual(['over-budget'])
  })

  it('tells what is none, empty or cut, and never throws', async () => {
    expect(await codes('', 'a.glb')).toEqual(['glb-empty'])
    expect(await codes('hello', 'a.txt')).toEqual(['file-foreign'])
    expect(await codes('# nothing\n', 'a.obj')).toEqual(['obj-empty'])
    expect(await codes('{"asset":{"version":"2.0"}}', 'a.gltf')).toEqual(['mesh-missing'])
    for (const odd of [
      '"images":5',
      '"images":[{"uri":7}]',
      '"images":[null]',
      '"buffers":[null]',
      '"bufferViews":[{"buffer":9,"byteLength":4}]',
    ])
      expect(await codes(`{"asset":{"version":"2.0"},${odd}}`, 'a.gltf'), odd).toHaveLength(1)
    const clash = { ...near, convention: { ...near.convention, front: '-y' as const } }
    expect(await codes(textOf('bvh', 'm-walk.bvh'), 'm.bvh', clash)).toEqual(['axes-clash'])
    for (const [format, name] of FILES) {
      const bytes = shipped.get(`${format} 1`)!.get(name)!
      for (const share of [0.01, 0.3, 0.7, 0.97]) {
        const { passed, problems } = await checkFile(bytes.slice(0, Math.floor(bytes.length * share)), name)
        expect(passed.length + problems.length, `${name} ${share}`).toBeGreaterThan(0)
      }
      const spoiled = bytes.slice()
      for (let at = 40; at < spoiled.length; at += 1009) spoiled[at] = (spoiled[at]! * 7 + at) & 255
      const { passed, problems } = await checkFile(spoiled, name)
      expect(passed.length + problems.length, name).toBeGreaterThan(0)
    }
  })
})

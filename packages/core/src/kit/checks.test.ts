import { describe, expect, it } from 'vitest'
import { kitFiles } from '../testing/demoKits.ts'
import { readKit, type KitFiles } from './readKit.ts'
import type { KitManifest } from './schema.ts'

const files = kitFiles('tide-creatures')
const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as KitManifest
const changed = (change: (m: KitManifest) => void): KitFiles => {
  const copy = structuredClone(manifest)
  change(copy)
  return new Map([...files, ['kit.json', new TextEncoder().encode(JSON.stringify(copy))]])
}
const part = (m: KitManifest, id: string) => m.parts.find((p) => p.id === id)!

/** Faults that cost one part or body, with the place each names. */
const FAULTS: [string, (m: KitManifest) => void, string, string][] = [
  ['a plan that is not known', (m) => (m.bodies[0]!.plan = 'octopus'), 'plan-unknown', 'bodies/0/plan'],
  [
    'a slider in no group',
    (m) => (m.bodies[0]!.sliders[0]!.group = 'nowhere'),
    'slider-group-unknown',
    'bodies/0/sliders/0',
  ],
  [
    'no hips',
    (m) => (m.bodies[0]!.landmarks = m.bodies[0]!.landmarks.filter((l) => l.id !== 'hips')),
    'landmark-missing',
    'bodies/0/landmarks',
  ],
  [
    'a lower form that is not in the model',
    (m) => (m.bodies[0]!.sliders[1]!.down = 'gone'),
    'morph-missing',
    'bodies/0/sliders/1',
  ],
  [
    'a default in the wrong slot',
    (m) => (m.bodies[0]!.defaults = { neck: 'eyes-sly' }),
    'part-unknown',
    'bodies/0/defaults/neck',
  ],
  ['a body file that is not there', (m) => (m.bodies[0]!.file = 'bodies/gone.glb'), 'kit-file-missing', 'bodies/0'],
  [
    'a socket nobody has',
    (m) => ((part(m, 'spear') as { socket: string }).socket = 'elbow'),
    'socket-unknown',
    '/socket',
  ],
  [
    'a region nobody has',
    (m) => ((part(m, 'vest-trader') as { binds: string[] }).binds = ['wings']),
    'region-unknown',
    '/binds',
  ],
  ...(
    [
      ['of no body', { body: 'kraken' }, 'looks/0/body'],
      ['with a part that is not there', { parts: ['crown'] }, 'looks/0/parts'],
      ['with a part of another body', { parts: ['saddle'] }, 'looks/0/parts'],
      ['with a slider nobody has', { sliders: { wings: 1 } }, 'looks/0/sliders/wings'],
      ['of an archetype nobody has', { archetypes: ['pirate'] }, 'looks/0/archetypes'],
      ['with a face nobody makes', { face: ['bored', 1] }, 'looks/0/face'],
    ] as const
  ).map(([what, more, place]): (typeof FAULTS)[number] => [
    `a look ${what}`,
    (m) =>
      (m.looks = [{ id: 'one', name: 'One', body: 'ottern', parts: [], sliders: {}, colors: {}, ...more } as never]),
    'look-unknown',
    place,
  ]),
  [
    'a leg that lands before it leaves',
    (m) => (m.clips.find((c) => c.stances)!.stances = { leftHind: [0.5, 0.2] }),
    'clip-stance',
    'stances/leftHind',
  ],
  [
    'a leg the plan has not',
    (m) => (m.clips.find((c) => c.phases)!.phases = { wing: 0.5 }),
    'leg-unknown',
    'phases/wing',
  ],
  [
    'a rope that runs nowhere',
    (m) => (m.clips[0]!.grip = { kind: 'line', along: [0, 0, 0] }),
    'clip-grip',
    'clips/0/grip/along',
  ],
  ['two slots of one id', (m) => m.slots.push(structuredClone(m.slots[0]!)), 'id-twice', 'slots/'],
  ['two palettes of one id', (m) => m.palettes.push(structuredClone(m.palettes[0]!)), 'id-twice', 'palettes/'],
]

/** Faults of form, which the schema finds. */
const FORMS: [string, (m: KitManifest) => void, string][] = [
  ['a path that climbs out', (m) => (m.parts[0]!.file = '../secret.glb'), 'parts/0'],
  ['a path that is no GLB', (m) => (m.bodies[0]!.file = 'bodies/ottern.exe'), 'bodies/0/file'],
  ['an id with a space', (m) => (m.slots[0]!.id = 'my slot'), 'slots/0/id'],
  ['a color by name', (m) => (m.colorRegions[0]!.color = 'brown'), 'colorRegions/0/color'],
  ['a version that is none', (m) => (m.kitVersion = 'new'), 'kitVersion'],
  ['a slider that reaches too far', (m) => (m.bodies[0]!.sliders[0]!.max = 9), 'sliders/0/max'],
  ['a clip that takes no time', (m) => (m.clips[0]!.duration = 0), 'clips/0/duration'],
  ['a curve without a key', (m) => (m.clips[0]!.curves.x = []), 'clips/0/curves/x'],
  ['care beyond measure', (m) => (m.slots[0]!.care = 99), 'slots/0/care'],
  ['an unknown member', (m) => ((m as unknown as Record<string, unknown>).extra = 1), 'kit.json'],
]

describe('a kit with a fault', () => {
  it.each(FAULTS)('— %s — tells it, where, and what to do', async (_name, change, code, where) => {
    const { problems } = await readKit(changed(change))
    const found = problems.find((p) => p.code === code)!
    expect(found).toBeDefined()
    expect(found.where).toContain(where)
    expect(found.remedy.length).toBeGreaterThan(5)
    expect(found.message).not.toMatch(/undefined|\[object/)
  })

  it.each(FORMS)('of form — %s — is refused with the place', async (_name, change, where) => {
    const { value, problems } = await readKit(changed(change))
    expect(value).toBeNull()
    expect(problems.some((p) => p.code === 'schema' && p.where.includes(where))).toBe(true)
  })

  it('in one part keeps all the others', async () => {
    const { value } = await readKit(changed((m) => ((part(m, 'spear') as { socket: string }).socket = 'elbow')))
    expect(value!.parts.has('spear')).toBe(false)
    expect(value!.parts.size).toBe(manifest.parts.length - 1)
    expect(value!.bodies.size).toBe(manifest.bodies.length)
  })

  it('in its body keeps no figure from being told so', async () => {
    const { value, problems } = await readKit(changed((m) => (m.bodies[0]!.file = 'bodies/gone.glb')))
    expect(value!.bodies.size).toBe(manifest.bodies.length - 1)
    expect(problems.length).toBeGreaterThan(0)
  })

  it('whose material is no color region is only warned of', async () => {
    const { value, problems } = await readKit(
      changed((m) => (m.colorRegions = m.colorRegions.filter((c) => c.id !== 'scarf-stripe'))),
    )
    expect(problems.filter((p) => p.code === 'color-region-unknown')).not.toEqual([])
    expect(problems.every((p) => p.severity !== 'error')).toBe(true)
    expect(value!.parts.has('scarf-striped')).toBe(true)
  })
})

describe('the hash of a kit', () => {
  it('does not depend on the order of its files', async () => {
    const turned = new Map([...files].reverse())
    expect((await readKit(turned)).value!.hash).toBe((await readKit(files)).value!.hash)
  })

  it('changes with any file, named or not', async () => {
    const more = new Map([...files, ['notes.txt', new TextEncoder().encode('hello')]])
    expect((await readKit(more)).value!.hash).not.toBe((await readKit(files)).value!.hash)
  })
})

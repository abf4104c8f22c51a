import { describe, expect, it } from 'vitest'
import { demoKit, kitFiles } from '../testing/demoKits.ts'
import { readKit, type KitFiles } from './readKit.ts'
import { readModel } from './readModel.ts'
import type { KitManifest } from './schema.ts'
import { foldBones } from './plan.ts'

const encode = (value: unknown) => new TextEncoder().encode(typeof value === 'string' ? value : JSON.stringify(value))
const files = kitFiles('saltwick-folk')
const manifest = JSON.parse(new TextDecoder().decode(files.get('kit.json'))) as KitManifest
const withManifest = (change: (m: KitManifest) => void): KitFiles => {
  const copy = structuredClone(manifest)
  change(copy)
  return new Map([...files, ['kit.json', encode(copy)]])
}

describe('reading a kit', () => {
  it('gives the bodies and parts of the demo kits without a problem', async () => {
    const folk = await readKit(files)
    expect(folk.problems).toEqual([])
    expect(folk.value!.parts.size).toBeGreaterThanOrEqual(45)
    expect(folk.value!.manifest.slots.length).toBeGreaterThanOrEqual(9)
    const body = folk.value!.bodies.get('human')!
    expect(body.def.sliders.length).toBeGreaterThanOrEqual(10)
    const tide = await demoKit('tide-creatures')
    expect(tide.parts.size).toBeGreaterThanOrEqual(14)
    expect(tide.bodies.get('ottern')!.def.sliders.length).toBeGreaterThanOrEqual(6)
    expect(tide.bodies.get('ottern')!.bones.filter((b) => b.name.startsWith('tail'))).toHaveLength(4)
  })

  it.each([
    ['no kit.json', new Map(), 'kit-json-missing'],
    ['broken JSON', new Map([['kit.json', encode('{"format":')]]), 'json'],
    ['a wrong schema', new Map([['kit.json', encode({ format: 'idle-tinker-kit', version: 1 })]]), 'schema'],
    ['a newer version', new Map([['kit.json', encode({ format: 'idle-tinker-kit', version: 3 })]]), 'kit-newer'],
  ])('tells of %s and does not throw', async (_name, broken, code) => {
    const { value, problems } = await readKit(broken as KitFiles)
    expect(value).toBeNull()
    expect(problems.some((p) => p.code === code)).toBe(true)
    expect(problems.every((p) => p.where && p.remedy)).toBe(true)
  })

  it('loses only the part whose file is gone, empty or cut off', async () => {
    const whole = (await readKit(files)).value!
    for (const bytes of [undefined, new Uint8Array(), files.get('parts/mug.glb')!.slice(0, 700)]) {
      const broken = new Map(files)
      if (bytes) broken.set('parts/mug.glb', bytes)
      else broken.delete('parts/mug.glb')
      const { value, problems } = await readKit(broken)
      expect(value!.parts.size).toBe(whole.parts.size - 1)
      expect(problems).toHaveLength(1)
      expect(problems[0]!.severity).toBe('error')
    }
  })

  it.each([
    ['a part in an unknown slot', (m: KitManifest) => (m.parts[0]!.slot = 'nowhere'), 'slot-unknown'],
    ['a part for an unknown body', (m: KitManifest) => (m.parts[0]!.bodies = ['nobody']), 'body-unknown'],
    ['an id used twice', (m: KitManifest) => (m.parts[1]!.id = m.parts[0]!.id), 'id-twice'],
    ['a slider without its morph', (m: KitManifest) => (m.bodies[0]!.sliders[0]!.up = 'gone'), 'morph-missing'],
    [
      'a bone without a landmark',
      (m: KitManifest) => (m.bodies[0]!.landmarks = m.bodies[0]!.landmarks.filter((l) => l.id !== 'leftLowerArm')),
      'landmark-missing',
    ],
    ['a default that is no part', (m: KitManifest) => (m.bodies[0]!.defaults = { eyes: 'gone' }), 'part-unknown'],
  ])('names %s', async (_name, change, code) => {
    const { problems } = await readKit(withManifest(change))
    expect(problems.map((p) => p.code)).toContain(code)
  })

  it('has another hash when one byte of one file differs', async () => {
    const a = (await readKit(files)).value!.hash
    const b = (await readKit(withManifest((m) => (m.name += '.')))).value!.hash
    expect(a).not.toBe(b)
  })
})

describe('reading a model', () => {
  it('refuses what is not a GLB, in words', async () => {
    expect((await readModel(new Uint8Array(), 'a.glb')).problems[0]!.code).toBe('glb-empty')
    expect((await readModel(encode('not a model at all'), 'a.glb')).problems[0]!.code).toBe('glb-foreign')
    const cut = files.get('bodies/human.glb')!.slice(0, 5000)
    expect((await readModel(cut, 'a.glb')).problems[0]).toMatchObject({ code: 'glb-cut-off', where: 'a.glb' })
    const scrambled = files.get('bodies/human.glb')!.slice()
    scrambled.fill(0x7b, 20, 400)
    expect((await readModel(scrambled, 'a.glb')).problems[0]!.code).toBe('json')
  })

  it('keeps skin weights summing to one and morphs in rising order', async () => {
    const { value } = await readModel(files.get('bodies/human.glb')!, 'human.glb')
    const { mesh } = value!
    for (let p = 0; p < mesh.weights.length; p += 4)
      expect(mesh.weights.subarray(p, p + 4).reduce((s, w) => s + w, 0)).toBeCloseTo(1, 4)
    for (const morph of mesh.morphs) expect([...morph.points]).toEqual([...morph.points].sort((a, b) => a - b))
  })
})

describe('the skeleton plan', () => {
  it('has three levels of detail whose bones fold onto bones that stay', async () => {
    const { bones } = (await demoKit('saltwick-folk')).bodies.get('human')!
    const count = (level: 'near' | 'standard' | 'crowd') => new Set(foldBones(bones, level)).size
    expect([count('near'), count('standard'), count('crowd')]).toEqual([45, 30, 22])
    const index = (name: string) => bones.findIndex((b) => b.name === name)
    const standard = foldBones(bones, 'standard')
    expect(standard[index('leftLittleIntermediate')]).toBe(index('leftMiddleIntermediate'))
    expect(foldBones(bones, 'crowd')[index('leftLittleIntermediate')]).toBe(index('leftHand'))
  })

  it('leaves out bones that a body has no landmark for, and the limbs that need them', async () => {
    const bare = withManifest((m) => {
      const body = m.bodies[0]!
      body.landmarks = body.landmarks.filter((l) => !/(Index|Jaw|jaw)/.test(l.id))
    })
    const body = (await readKit(bare)).value!.bodies.get('human')
    // its skin uses those bones: the body cannot be read, and is told so
    expect(body).toBeUndefined()
    const { bones, limbs } = (await demoKit('tide-creatures')).bodies.get('ottern')!
    expect(bones.some((b) => b.name === 'leftLittleProximal')).toBe(false)
    expect(limbs.some((l) => l.bones.includes('leftLittleProximal'))).toBe(false)
    expect(limbs.find((l) => l.id === 'leftLeg')!.bones).toHaveLength(4)
  })
})

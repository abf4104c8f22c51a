import Ajv from 'ajv'
import { decode } from 'fast-png'
import { describe, expect, it } from 'vitest'
import { build, kits, smallPackage, smallPicks, smallTarget } from '../../../../runtime/src/testing/smallPackage.ts'
import { glbFaults } from '../../testing/glbFaults.ts'
import { codeProblems, withCodes } from '../codes.ts'
import type { Picks } from '../picks.ts'

const built = await smallPackage()
const human = built.manifest.bodies[0]!

/** Picks with one thing changed. */
function changed(change: (picks: Picks) => void): Picks {
  const picks = smallPicks()
  picks.bodies.length = 1
  change(picks)
  return picks
}

describe('a package of picks', () => {
  it('is the same to the last byte when it is built again', async () => {
    const again = (await build(smallPicks())).value!
    expect([...again.files.keys()]).toEqual([...built.files.keys()])
    const other = [...built.files].filter(([path, bytes]) => Buffer.compare(bytes, again.files.get(path)!) !== 0)
    expect(other.map(([path]) => path)).toEqual([])
  })

  it('has a manifest that its schema allows, and every file that it names, as long as it says', () => {
    const text = (path: string): unknown => JSON.parse(new TextDecoder().decode(built.files.get(path)))
    const validate = new Ajv({ strict: false }).compile(text('package.schema.json') as object)
    expect([validate(text('package.json')), validate.errors]).toEqual([true, null])
    expect(validate({ ...built.manifest, version: 2 })).toBe(false)
    const named = built.manifest.bodies.flatMap((b) => [
      b.base,
      b.atlas,
      ...b.slots.map((s) => s.chunk),
      ...b.options.map((o) => o.icon),
    ])
    for (const { path, bytes } of named) expect([path, built.files.get(path)?.length]).toEqual([path, bytes])
    expect(built.files.size).toBe(new Set(named.map((f) => f.path)).size + 2)
  })

  it('holds files that the validator of the standard finds no fault in', async () => {
    for (const [path, bytes] of built.files)
      if (path.endsWith('.glb')) expect([path, await glbFaults(bytes)]).toEqual([path, []])
  })

  it('shows each option on its picture, in its own colors, with a clear background', () => {
    for (const { id, icon } of human.options) {
      const { data, width, height } = decode(built.files.get(icon.path)!)
      expect([width, height]).toEqual([48, 48])
      let [clear, own] = [0, 0]
      for (let i = 0; i < data.length; i += 4) {
        if (data[i + 3] === 0) clear++
        // the bust is a gray that leans to yellow by this much at full light
        else if (Math.abs(data[i]! - data[i + 2]! - (15 * data[i]!) / 185) > 8) own++
      }
      expect([id, clear > 50, own > 40]).toEqual([id, true, true])
    }
  })

  it('gives each swatch a cell of its own in the atlas, in its color', () => {
    const { data, width } = decode(built.files.get(human.atlas.path)!)
    let cells = 0
    for (const region of human.regions) {
      const color = region.color === null ? null : human.colors[region.color]!
      region.cells.forEach(([u, v], i) => {
        const at = (Math.floor(v * width) * width + Math.floor(u * width)) * 4
        const hex = `#${[0, 1, 2].map((k) => data[at + k]!.toString(16).padStart(2, '0')).join('')}`
        if (color) expect([region.name, hex]).toEqual([region.name, color.swatches[i]!.color])
        cells++
      })
    }
    expect(cells).toBeGreaterThan(human.regions.length)
  })

  it('is not built of what cannot be put on, and says why', async () => {
    const codes = async (picks: Picks) => {
      const { value, problems } = await build(picks)
      return [value, ...problems.filter((p) => p.severity === 'error').map((p) => p.code)]
    }
    // the start itself breaks a rule
    const both: Picks['bodies'][0]['rules'][0] = { kind: 'excludes', parts: ['shirt-work', 'trousers'] }
    expect(await codes(changed((p) => p.bodies[0]!.rules.push(both)))).toEqual([null, 'start-broken'])
    expect(await codes(changed((p) => p.bodies.push(p.bodies[0]!)))).toContain('body-twice')
    expect(await codes(changed((p) => (p.bodies[0]!.body.id = 'nobody')))).toEqual([null, 'body-unknown'])
    expect(await codes(changed((p) => Object.assign(p.bodies[0]!.sliders[0]!, { min: 0.5, max: -0.5 })))).toEqual([
      null,
      'slider-limits',
    ])
    const small = { ...smallTarget(), atlas: 64 as const }
    const colors = Object.fromEntries(['skin', 'hair'].map((id) => [id, { swatches: swatches(40), start: '#000000' }]))
    const full = await build(
      changed((p) => (p.bodies[0]!.colors = colors)),
      small,
    )
    expect([full.value, full.problems.map((p) => p.code)]).toEqual([null, ['atlas-full']])
  })

  it('says what goes over its target, and is built all the same', async () => {
    const target = smallTarget()
    const { value } = await build(
      changed(() => undefined),
      { ...target, limits: { ...target.limits, triangles: 4400 } },
    )
    const proof = value!.proofs.get('human')!
    expect([proof.over, proof.costs.triangles!.most.cost]).toEqual([['triangles'], human.triangles[0]!.most])
    const side = human.atlas.size
    expect([proof.costs.texture!.least, proof.costs.texture!.most.cost]).toEqual([side * side * 4, side * side * 4])
    // what it says to leave out is enough, when it is
    const out = proof.leaveOut.triangles!.options!
    expect([out.length > 0, out.length]).toEqual([true, proof.leaveOut.triangles!.atLeast])
    const less = await build(
      changed((p) => {
        for (const s of p.bodies[0]!.slots) {
          s.parts = s.parts.filter(({ part }) => !out.includes(`saltwick-folk/${part}`))
          if (!s.parts.some(({ part }) => part === s.start)) s.start = s.needed ? s.parts[0]!.part : null
        }
        p.bodies[0]!.slots = p.bodies[0]!.slots.filter((s) => s.parts.length)
      }),
      { ...target, limits: { ...target.limits, triangles: 4400 } },
    )
    expect(less.value!.proofs.get('human')!.over).toEqual([])
  })
})

const swatches = (count: number) =>
  Array.from({ length: count }, (_, i) => `#${(i * 4099).toString(16).padStart(6, '0')}`)

describe('the numbers that looks are written with', () => {
  it('stay when other things come, go, or are put into another order', () => {
    const before = smallPicks()
    const next = structuredClone(before)
    const [pick] = next.bodies as [Picks['bodies'][0]]
    pick.slots.reverse()
    const hat = pick.slots.find((s) => s.slot === 'hat')!
    hat.parts = [{ part: 'hat-tall' }, { part: 'cap-knit' }]
    pick.sliders = [{ slider: 'jaw', min: -1, max: 1, start: 0 }, ...pick.sliders.slice(2)]
    const codes = withCodes(next).codes!.ofBody.human!
    const had = before.codes!.ofBody.human!
    expect(codes.slots).toEqual(had.slots)
    const parts = had.parts.hat!
    expect(codes.parts.hat).toEqual([...parts, 'saltwick-folk/hat-tall'])
    expect(codes.sliders).toEqual([...had.sliders, 'jaw'])
    // and what comes back finds its own
    hat.parts.push({ part: 'hat-brimmed' })
    expect(withCodes({ ...next, codes: withCodes(next).codes! }).codes!.ofBody.human!.parts.hat).toEqual(
      codes.parts.hat,
    )
    expect(kits.size).toBe(2)
  })

  it('run out some day, which is told before a look is read as another', () => {
    const picks = smallPicks()
    expect(codeProblems(picks)).toEqual([])
    picks.codes!.ofBody.human!.sliders = Array.from({ length: 255 }, (_, i) => `s${i}`)
    expect(codeProblems(picks).map((p) => [p.code, p.where])).toEqual([
      ['codes-full', 'picks/codes/ofBody/human/sliders'],
    ])
  })
})

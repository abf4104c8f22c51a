import { zipSync } from 'fflate'
import { beforeAll, describe, expect, it } from 'vitest'
import type { Problem } from '../base/problem.ts'
import { Builder } from '../build.ts'
import { reducerReady } from '../budget/reduceMesh.ts'
import { readMix } from '../crowd/mix.ts'
import { selectCrowd } from '../crowd/selectCrowd.ts'
import { createRandom, type Random } from '../recipe/random.ts'
import { newRecipe } from '../recipe/defaults.ts'
import { readRecipe, readTarget } from '../recipe/read.ts'
import { openFigure } from '../ship/openFigure.ts'
import { shipFigure } from '../ship/shipFigure.ts'
import { processorSeconds } from '../testing/spent.ts'
import { demoKit, demoTarget, dressed, kitFiles, MAREN, wear } from '../testing/demoKits.ts'
import { meadowKit } from '../testing/meadowKit.ts'
import { readKit } from './readKit.ts'
import { readModel } from './readModel.ts'
import { unpackKit } from './unpackKit.ts'

/* Two thousand inputs that nobody made by hand, the same at every run: each is read, or refused in words, soon. */

// by hand more of them: TINKER_FUZZ=5000
const RUNS = Number(process.env.TINKER_FUZZ ?? 250)
/** No single one may take longer, ms of this process; a sound kit of this size takes a fiftieth of it. */
const SOON = 3000

const files = await meadowKit()
const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])
const recipe = dressed(folk, 'human', MAREN)
const text = (bytes: Uint8Array) => new TextDecoder().decode(bytes)
const mix = JSON.parse(text(kitFiles('lantern-tide').get('quay-at-noon.mix.json')!)) as unknown

beforeAll(() => reducerReady)

const joined = (...parts: Uint8Array[]) => new Uint8Array(Buffer.concat(parts))

/** Bytes with some of them turned, cut out, doubled, or the end missing. */
function spoil(bytes: Uint8Array, random: Random): Uint8Array {
  const pick = (n: number) => Math.floor(random.next() * n)
  let out = bytes.slice()
  for (let n = 1 + pick(6); n > 0; n--) {
    const at = pick(out.length)
    switch (pick(6)) {
      case 0:
        out[at] = pick(256)
        break
      case 1:
        out[at]! ^= 1 << pick(8)
        break
      case 2:
        out = out.slice(0, at)
        break
      case 3:
        out = joined(out.subarray(0, at), out.subarray(at + pick(40)))
        break
      case 4:
        out = joined(out.subarray(0, at), out.subarray(Math.max(0, at - pick(60)), at), out.subarray(at))
        break
      default:
        // a length or an offset that says far too much
        out.set([0xff, 0xff, 0xff, pick(2) ? 0x7f : 0xff].slice(0, out.length - at), at)
    }
  }
  return out
}

const ODD: readonly unknown[] = [
  null,
  true,
  -1,
  0,
  1e308,
  -1e308,
  5e-324,
  0.1,
  '',
  ' ',
  'x'.repeat(5000),
  '\u0000',
  '\ud800',
  '__proto__',
  '../..',
  [],
  {},
  [[]],
  [null],
  { a: { a: { a: {} } } },
  'ü',
  '🐟',
  'a\nb',
  '\u2028',
]
const KEYS = ['__proto__', 'constructor', 'a\nb', '\u2028', '', 'ü', 'x'.repeat(300), 'toString', '0', ' x']

/** Every text in a document. */
function textsIn(document: unknown): string[] {
  if (typeof document === 'string') return [document]
  return document !== null && typeof document === 'object' ? Object.values(document).flatMap(textsIn) : []
}

/**
 * A document with a few of its values changed: half of the changes keep to the form (another number,
 * a name that stands elsewhere, a list turned or shortened), so that they come through to what lies
 * behind the schema; the others put odd values in, add keys and take keys away.
 */
function distort(document: unknown, random: Random): unknown {
  const pick = <T>(list: readonly T[]) => list[Math.floor(random.next() * list.length)]!
  const copy = JSON.parse(JSON.stringify(document)) as object
  const names = textsIn(copy)
  const likely = (value: unknown): unknown => {
    if (typeof value === 'number') return pick([0, 1, -value, value * 2, Math.round(value) + 1, value * 1.01])
    if (typeof value === 'string') return pick(names)
    if (typeof value === 'boolean') return !value
    if (!Array.isArray(value)) return value
    return pick([[...value].reverse(), value.slice(1), [...value, ...value.slice(0, 1)], []]) as unknown
  }
  const plain = random.next() < 0.5
  for (let n = 1 + Math.floor(random.next() * 2); n > 0; n--) {
    let at = copy as Record<string, unknown>
    for (;;) {
      const inner = Object.keys(at).filter((k) => at[k] !== null && typeof at[k] === 'object')
      if (inner.length === 0 || random.next() < 0.15) break
      at = at[pick(inner)] as Record<string, unknown>
    }
    const keys = Object.keys(at)
    const chance = random.next()
    if (plain && keys.length) {
      const key = pick(keys)
      at[key] = likely(at[key])
    } else if (chance < 0.6 && keys.length) at[pick(keys)] = structuredClone(pick(ODD))
    else if (chance < 0.75 && keys.length) Reflect.deleteProperty(at, pick(keys))
    else {
      const value = structuredClone(pick(ODD))
      Object.defineProperty(at, pick(KEYS), { value, enumerable: true, configurable: true, writable: true })
    }
  }
  return copy
}

function inWords(problems: readonly Problem[]): void {
  expect(problems.length).toBeLessThan(200)
  for (const p of problems) {
    expect(p.code).toMatch(/^[a-z-]+$/)
    expect(p.message.length).toBeGreaterThan(5)
    expect(p.remedy.length).toBeGreaterThan(3)
  }
}

/** Runs the same work on many inputs; tells how many were read and how many refused. */
async function many(seed: number, one: (random: Random) => Promise<boolean> | boolean): Promise<[number, number]> {
  const counts: [number, number] = [0, 0]
  for (let i = 0; i < RUNS; i++) {
    const start = processorSeconds()
    const read = await one(createRandom(seed * 1000 + i))
    expect((processorSeconds() - start) * 1000, `input ${i}`).toBeLessThan(SOON)
    counts[read ? 0 : 1]++
  }
  return counts
}

describe('spoiled files', () => {
  it('as zips are unpacked whole or refused', async () => {
    const zip = zipSync(Object.fromEntries(files), { level: 6 })
    const [read, refused] = await many(1, async (random) => {
      const unpacked = unpackKit(spoil(zip, random))
      inWords(unpacked.problems)
      if (!unpacked.value) return false
      const kit = await readKit(unpacked.value)
      inWords(kit.problems)
      return kit.value !== null
    })
    // most bytes of a zip are covered by a checksum
    expect(refused).toBeGreaterThan(RUNS / 2)
    expect(read).toBeLessThan(RUNS / 2)
  })

  it('as models are read or refused, and no number in what was read is none', async () => {
    const glb = [...files].find(([path]) => path.endsWith('.glb'))![1]
    const [, refused] = await many(2, async (random) => {
      const { value, problems } = await readModel(spoil(glb, random), 'odd.glb')
      inWords(problems)
      if (!value) return false
      const { positions, weights, indices, morphs } = value.mesh
      for (const array of [positions, weights, ...morphs.map((m) => m.deltas)])
        expect(array.every((v) => Number.isFinite(v))).toBe(true)
      expect(Math.max(0, ...indices)).toBeLessThanOrEqual(value.mesh.cornerPoints.length)
      return true
    })
    expect(refused).toBeGreaterThan(RUNS / 4)
  })

  it('that were shipped from here are opened or refused', async () => {
    const { bytes } = await shipFigure(new Builder(kits), kits, recipe, demoTarget('crowd'), { lods: false })
    await many(3, async (random) => {
      const { value, problems } = await openFigure(spoil(bytes!, random), kits, 'odd.glb')
      inWords(problems)
      return value !== null
    })
  })

  it('as manifests with their models as they were are read or refused', async () => {
    const manifest = JSON.parse(text(files.get('kit.json')!)) as unknown
    const [read, refused] = await many(4, async (random) => {
      const json = new TextEncoder().encode(JSON.stringify(distort(manifest, random)))
      const { value, problems } = await readKit(new Map([...files, ['kit.json', json]]))
      inWords(problems)
      if (!value) return false
      // what is read can be built, or is said to be no good
      const own = new Map([[value.manifest.id, value]])
      for (const id of value.bodies.keys()) {
        const made = [...value.parts.keys()]
          .slice(0, 3)
          .reduce((r, part) => wear(r, value, part), newRecipe(value, id, 'Odd'))
        inWords(new Builder(own).build(made, demoTarget('near')).problems)
      }
      return true
    })
    expect(Math.min(read, refused)).toBeGreaterThan(5)
  })
})

describe('distorted documents', () => {
  it('as figures are built or refused, and never break what builds them', async () => {
    const builder = new Builder(kits)
    const [read, refused] = await many(5, (random) => {
      const { value, problems } = readRecipe(JSON.stringify(distort(recipe, random)))
      inWords(problems)
      if (!value) return false
      inWords(builder.build(value, demoTarget('near')).problems)
      return true
    })
    expect(Math.min(read, refused)).toBeGreaterThan(5)
  })

  it('as mixes are made or refused', async () => {
    const [read, refused] = await many(6, (random) => {
      const { value, problems } = readMix(JSON.stringify(distort(mix, random)))
      inWords(problems)
      if (!value) return false
      inWords(selectCrowd({ ...value, count: Math.min(3, value.count) }, kits).problems)
      return true
    })
    expect(Math.min(read, refused)).toBeGreaterThan(5)
  })

  it('as targets are taken or refused', async () => {
    const [read, refused] = await many(7, (random) => {
      const { value, problems } = readTarget(JSON.stringify(distort(demoTarget('near'), random)))
      inWords(problems)
      return value !== null
    })
    expect(Math.min(read, refused)).toBeGreaterThan(5)
  })

  it('as texts that are hardly JSON any more are refused in words', async () => {
    const whole = new TextEncoder().encode(JSON.stringify(recipe))
    const [, refused] = await many(8, (random) => {
      const { value, problems } = readRecipe(text(spoil(whole, random)))
      inWords(problems)
      return value !== null
    })
    expect(refused).toBeGreaterThan(RUNS / 2)
  })
})

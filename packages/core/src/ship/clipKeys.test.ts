import { Matrix4, Quaternion, Vector3 } from 'three'
import { beforeAll, describe, expect, it } from 'vitest'
import { reducerReady } from '../budget/reduceMesh.ts'
import { Builder } from '../build.ts'
import type { Clip } from '../motion/Clip.ts'
import type { Recipe } from '../recipe/schema.ts'
import type { Target } from '../recipe/target.ts'
import { demoKit, demoTarget, dressed, MAREN } from '../testing/demoKits.ts'
import { glbFaults } from '../testing/glbFaults.ts'
import { keyClip } from './clipKeys.ts'
import { clipsOf, listClips } from './clips.ts'
import { shipFigure } from './shipFigure.ts'
import { ShippedFile } from './ShippedFile.ts'

const folk = await demoKit('saltwick-folk')
const tide = await demoKit('tide-creatures')
const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
const plain: Target = { ...demoTarget('near'), keepExpressions: [], keepClips: ['walk', 'wave', 'run'] }
const maren = dressed(folk, 'human', MAREN)

beforeAll(() => reducerReady)

async function shipped(motion: Target['motion'], recipe: Recipe = maren) {
  const target: Target = motion ? { ...plain, motion } : plain
  const { bytes, figure, check, problems } = await shipFigure(new Builder(kits), kits, recipe, target, { lods: false })
  expect(problems.filter((p) => p.severity === 'error')).toEqual([])
  expect(await glbFaults(bytes!)).toEqual([])
  const file = new ShippedFile(bytes!)
  const keys = file.clips().reduce((sum, c) => sum + c.channels.reduce((n, ch) => n + ch.times.length, 0), 0)
  const told = check!.passed.find((line) => line.startsWith('Clips have'))!
  const [, kept, of, off] = /have ([\d,]+) keys of ([\d,]+); .* than ([\d.]+) mm/.exec(told)!
  const number = (text: string) => Number(text.replaceAll(',', ''))
  return { file, figure: figure!, keys, bytes: bytes!.length, kept: number(kept!), of: number(of!), off: Number(off) }
}

/** How far joints of a shipped file are from those of the file with every key, at times between keys too, metres. */
function apart(a: ShippedFile, b: ShippedFile): number {
  let most = 0
  for (const clip of a.clips()) {
    const other = b.clips().find((c) => c.name === clip.name)!
    for (let i = 0; i <= 40; i++) {
      const time = (clip.duration * i) / 40
      const [p, q] = [a.at({ clip, time }), b.at({ clip: other, time })]
      for (const joint of a.jointsOf(0)) {
        const [m, n] = [p.world[joint]!.elements, q.world[joint]!.elements]
        most = Math.max(most, Math.hypot(m[12]! - n[12]!, m[13]! - n[13]!, m[14]! - n[14]!))
      }
    }
  }
  return most
}

describe('the keys of clips', () => {
  it('are the fewer the more they may be off, and never are off by more, in the file itself', async () => {
    const every = await shipped({ tolerance: 0 })
    let before = Infinity
    for (const tolerance of [0.3, 1, 4, 15]) {
      const { file, keys, kept, of, off } = await shipped({ tolerance })
      expect(keys).toBe(kept)
      expect(of).toBe(every.kept)
      expect(keys).toBeLessThan(before)
      before = keys
      expect(off).toBeLessThanOrEqual(tolerance)
      // between two keys an engine turns by an arc, the error is told for a line: a tenth more
      expect(apart(file, every.file) * 1000).toBeLessThan(tolerance * 1.1 + 0.05)
      // it is told as it is, not only kept: half of it is seen at the least
      expect(apart(file, every.file) * 1000).toBeGreaterThan(off * 0.5)
    }
    expect(before).toBeLessThan(every.keys / 5)
  })

  it('are as they were where a target says nothing', async () => {
    const { keys, off, bytes } = await shipped(undefined)
    const every = await shipped({ tolerance: 0 })
    expect(off).toBeLessThan(4)
    expect(keys).toBeLessThan(every.keys / 2)
    expect(bytes).toBeLessThan(every.bytes)
  })

  it('are no more a second than is asked for, and clips last as long', async () => {
    const [usual, slow] = [await shipped({ tolerance: 0 }), await shipped({ tolerance: 0, rate: 15 })]
    for (const clip of slow.file.clips()) {
      expect(clip.duration).toBeCloseTo(usual.file.clips().find((c) => c.name === clip.name)!.duration, 5)
      for (const { times } of clip.channels)
        for (let i = 1; i < times.length; i++) expect(times[i]! - times[i - 1]!).toBeGreaterThan(1 / 15 - 0.01)
    }
    expect(slow.keys).toBeLessThan(usual.keys / 1.7)
    // what is lost between the fewer samples is told; a hand that swings at two metres a second cuts its corners by some
    expect(slow.off).toBeGreaterThan(1)
    expect(apart(slow.file, usual.file)).toBeLessThan(0.06)
    expect(apart(slow.file, usual.file) * 1000).toBeGreaterThan(slow.off * 0.5)
  })
})

describe('a figure that goes along', () => {
  it.each([
    ['a person', maren, 'Walk'],
    ['a hopper', dressed(tide, 'gulper', []), 'Hop'],
  ])('goes as far as its clip says, and its feet stay where they stand: %s', async (_name, recipe, name) => {
    const target: Partial<Target> = { keepClips: 'all' }
    const { bytes, figure } = await shipFigure(
      new Builder(kits),
      kits,
      recipe,
      { ...plain, ...target, motion: { travels: true, tolerance: 0 }, limits: { ...plain.limits, fileBytes: 9 << 20 } },
      { lods: false },
    )
    const file = new ShippedFile(bytes!)
    const clip = file.clips().find((c) => c.name === name)!
    const drawn = file.drawn()[0]!
    const [a, b] = [0, clip.duration].map((time) => file.posed(drawn, file.at({ clip, time })))
    const { travel } = listClips(figure!, kits, recipe).find((c) => c.name === name)!
    expect(travel).toBeGreaterThan(0.1)
    for (let i = 0; i < a!.length; i += 3) {
      expect(b![i + 2]! - a![i + 2]!).toBeCloseTo(travel, 3)
      expect(b![i]! - a![i]!).toBeCloseTo(0, 3)
    }
    // while it stands, what touches the ground does not move over it
    let far = 0
    for (let n = 0; n < 60; n++) {
      const [p, q] = [n, n + 1].map((f) => file.posed(drawn, file.at({ clip, time: (clip.duration * f) / 60 })))
      const low = [...Array(p!.length / 3).keys()].filter((v) => p![v * 3 + 1]! < 0.004 && q![v * 3 + 1]! < 0.004)
      if (low.length < 12) continue
      far = Math.max(far, Math.abs(low.reduce((s, v) => s + q![v * 3 + 2]! - p![v * 3 + 2]!, 0) / low.length))
    }
    // it would be a sixtieth of the way in every step
    expect(far).toBeLessThan(travel / 60 / 2)
    const still = file.clips().find((c) => c.name === 'Idle')!
    const [s, e] = [0, still.duration].map((time) => file.at({ clip: still, time }))
    const root = file.jointsOf(drawn.skin!)[0]!
    expect(e!.world[root]!.elements[14]).toBeCloseTo(s!.world[root]!.elements[14]!, 5)
  })
})

describe('a clip of odd samples', () => {
  const { figure } = new Builder(kits).build(maren, plain)
  const { bones } = figure!.skeleton
  const clip = clipsOf(figure!, kits, maren, (c) => c.id === 'wave')[0]!

  it('of two samples keeps both, whatever is asked', () => {
    const short: Clip = {
      ...{ ...clip, duration: 0.01, times: Float32Array.of(0, 0.01), root: clip.root.slice(0, 6) },
      rotations: clip.rotations.map((r) => r?.slice(0, 8) ?? null),
    }
    for (const motion of [{ rate: 5 }, { tolerance: 50 }, { travels: true }]) {
      const { tracks } = keyClip(short, bones, { motion })
      for (const { times } of tracks) expect([...times]).toEqual([...short.times])
    }
  })

  it('that has few keys left tells how far joints are off at most', () => {
    const { tracks, error } = keyClip(clip, bones, { motion: { tolerance: 30 } })
    // posed by matrices alone, between keys by a line
    const placesAt = (turnOf: (bone: number) => Quaternion, root: Vector3) => {
      const world: Matrix4[] = []
      bones.forEach(({ parent, at }, b) => {
        const from = parent < 0 ? root : new Vector3(...at).sub(new Vector3(...bones[parent]!.at))
        const own = new Matrix4().compose(from, turnOf(b), new Vector3(1, 1, 1))
        world.push(parent < 0 ? own : world[parent]!.clone().multiply(own))
      })
      return world.map((m) => new Vector3().setFromMatrixPosition(m))
    }
    let most = 0
    clip.times.forEach((time, s) => {
      const there = placesAt(
        (b) => (clip.rotations[b] ? new Quaternion().fromArray(clip.rotations[b], s * 4) : new Quaternion()),
        new Vector3().fromArray(clip.root, s * 3),
      )
      const track = (bone: number, path: string) => tracks.find((t) => t.bone === bone && t.path === path)
      const between = ({ times, values }: (typeof tracks)[number], size: number): number[] => {
        const next = Math.max(
          1,
          times.findIndex((t, i) => t >= time - 1e-6 || i === times.length - 1),
        )
        const share = (time - times[next - 1]!) / (times[next]! - times[next - 1]!)
        return Array.from({ length: size }, (_, k) => {
          const [a, b] = [values[(next - 1) * size + k]!, values[next * size + k]!]
          return a + (b - a) * share
        })
      }
      const here = placesAt(
        (b) => {
          const own = track(b, 'rotation')
          return own ? new Quaternion(...between(own, 4)).normalize() : new Quaternion()
        },
        track(0, 'translation') ? new Vector3(...between(track(0, 'translation')!, 3)) : new Vector3(...bones[0]!.at),
      )
      there.forEach((at, b) => (most = Math.max(most, at.distanceTo(here[b]!))))
    })
    expect(most).toBeGreaterThan(0.001)
    expect(error()).toBeCloseTo(most, 5)
  })

  it('that never moves has two keys a track', () => {
    const n = clip.times.length
    const stiff: Clip = {
      ...{ ...clip, root: Float32Array.from({ length: n * 3 }, (_, i) => clip.root[i % 3]!) },
      rotations: clip.rotations.map(() => null),
    }
    const { tracks, kept, error } = keyClip(stiff, bones, { motion: { tolerance: 0.1 } })
    expect(tracks).toHaveLength(1)
    expect([kept, error()]).toEqual([2, 0])
  })
})

import type { BodyPlan, Limb } from '../kit/plan.ts'
import type { ClipDef } from '../kit/schema.ts'
import type { Clip } from './Clip.ts'
import { sampleCurve } from './curves.ts'

type Keys = ClipDef['curves'][string]

/** Numbers that change a clip; what is not said is as the clip was made. */
export interface Dials {
  /** So many times as fast. */
  pace?: number
  /** So many times as far in a loop. */
  stride?: number
  /** How much trunk and arms move about their mean, and how high feet are lifted: 0 not at all, 1 as made. */
  energy?: number
  /** Degrees by which arms hang farther out. */
  clearance?: number
  /** Degrees by which the trunk leans forward. */
  lean?: number
  /** Degrees by which its way turns to the left in a loop. */
  turn?: number
  /** Left and right exchanged. */
  mirrored?: boolean
  /** The share of it that is played, from and to, 0 to 1. */
  trim?: [from: number, to: number]
}

export type NumberDial = Exclude<keyof Dials, 'mirrored' | 'trim'>

/** Within which ends each number can be set, and what stands for as it was made. */
export const DIAL_RANGES: Readonly<Record<NumberDial, readonly [least: number, made: number, most: number]>> = {
  pace: [0.5, 1, 2],
  stride: [0.4, 1, 1.25],
  energy: [0, 1, 2],
  clearance: [-10, 0, 40],
  lean: [-15, 0, 30],
  turn: [-45, 0, 45],
}
/** No less of a clip can be left, as a share of it. */
export const LEAST_TRIM = 0.05

/** Which dials make sense for a clip on bodies of a plan. */
export function dialsFor(clip: Pick<ClipDef, 'travel' | 'loop' | 'lies'>, plan: BodyPlan): NumberDial[] {
  const arms = plan.limbs.some((l) => l.kind === 'arm')
  const all: [NumberDial, boolean][] = [
    ['pace', true],
    ['stride', clip.travel > 0],
    // what goes somewhere and does not come back has no mean to move about
    ['energy', clip.loop && !clip.lies],
    ['clearance', arms],
    ['lean', !clip.lies],
    ['turn', clip.travel > 0],
  ]
  return all.flatMap(([dial, makesSense]) => (makesSense ? [dial] : []))
}

/** A clip with its dials set, still to be fitted to a figure: all but pace and what is trimmed, see `playedAt`. */
export function dialClip(clip: ClipDef, plan: BodyPlan, dials: Dials): ClipDef {
  const sensible = new Set(dialsFor(clip, plan))
  const value = (dial: NumberDial) => {
    const [least, made, most] = DIAL_RANGES[dial]
    return sensible.has(dial) ? Math.min(most, Math.max(least, dials[dial] ?? made)) : made
  }
  let now = clip
  if (dials.mirrored) now = mirrorClip(now, plan)
  if (value('energy') !== 1) now = withEnergy(now, plan, value('energy'))
  if (value('stride') !== 1) now = withStride(now, plan, value('stride'))
  if (value('clearance') !== 0) now = withClearance(now, plan, value('clearance'))
  if (value('lean') !== 0) now = withLean(now, plan, value('lean'))
  if (value('turn') !== 0) now = { ...now, arc: (now.arc ?? 0) + value('turn') }
  return now
}

/** A fitted clip at its pace, and as much of it as is played. As many samples as ever: feet hold as well at any pace. */
export function playedAt(clip: Clip, { pace = 1, trim }: Pick<Dials, 'pace' | 'trim'>): Clip {
  const [least, , most] = DIAL_RANGES.pace
  const by = Math.min(most, Math.max(least, pace))
  const cut = trim ? trimClip(clip, trim) : clip
  return by === 1 ? cut : { ...cut, duration: cut.duration / by, times: cut.times.map((t) => t / by) }
}

/** The share of a clip that is played: at least a little of it, whichever way round it is said. */
export function spanOf({ trim: [a, b] = [0, 1] }: Pick<Dials, 'trim'>): [from: number, to: number] {
  const [from, to] = [Math.max(0, Math.min(a, b)), Math.min(1, Math.max(a, b))]
  return to - from >= LEAST_TRIM
    ? [from, to]
    : [Math.min(from, 1 - LEAST_TRIM), Math.min(from, 1 - LEAST_TRIM) + LEAST_TRIM]
}

/** A fitted clip from one share of it to another; it goes round no more. */
export function trimClip(clip: Clip, trim: NonNullable<Dials['trim']>): Clip {
  const [from, to] = spanOf({ trim })
  const last = clip.times.length - 1
  const first = Math.min(last - 1, Math.max(0, Math.round(from * last)))
  const end = Math.min(last, Math.max(first + 1, Math.round(to * last)))
  if (first === 0 && end === last) return clip
  const start = clip.times[first]!
  return {
    ...clip,
    loop: false,
    duration: clip.times[end]! - start,
    times: clip.times.slice(first, end + 1).map((t) => t - start),
    rotations: clip.rotations.map((r) => r?.slice(first * 4, (end + 1) * 4) ?? null),
    root: clip.root.slice(first * 3, (end + 1) * 3),
    travel: (clip.travel * (end - first)) / last,
    ...(clip.arc && { arc: (clip.arc * (end - first)) / last }),
  }
}

const map = (clip: ClipDef, change: (channel: string, keys: Keys) => readonly [string, Keys]): ClipDef => ({
  ...clip,
  curves: Object.fromEntries(Object.entries(clip.curves).map(([channel, keys]) => change(channel, keys))),
})
const nameOf = (channel: string) => channel.split('.')[0]!
const whatOf = (channel: string) => channel.split('.')[1]!

/** What clips call the bones of limbs of a kind: by their channels, or by their own names. */
function namesOf(limbs: readonly Limb[]): Set<string> {
  return new Set(limbs.flatMap((l) => [...l.channels, ...l.bones]))
}

function withEnergy(clip: ClipDef, plan: BodyPlan, energy: number): ClipDef {
  const legs = namesOf(plan.limbs.filter((l) => l.kind === 'leg'))
  return map(clip, (channel, keys) => {
    if (legs.has(nameOf(channel)))
      return [channel, whatOf(channel) === 'lift' ? keys.map(([p, v]) => [p, v * energy]) : keys]
    const mean = meanOf(keys, clip.loop)
    return [channel, keys.map(([p, v]) => [p, mean + (v - mean) * energy])]
  })
}

/** The mean over the whole of a clip, not over its keys: those may lie close. */
function meanOf(keys: Keys, loop: boolean): number {
  const samples = 24
  let sum = 0
  for (let i = 0; i < samples; i++) sum += sampleCurve(keys, i / samples, loop)
  return sum / samples
}

function withStride(clip: ClipDef, plan: BodyPlan, stride: number): ClipDef {
  const legs = namesOf(plan.limbs.filter((l) => l.kind === 'leg'))
  return {
    ...map(clip, (channel, keys) => [
      channel,
      legs.has(nameOf(channel)) && whatOf(channel) === 'along' ? keys.map(([p, v]) => [p, v * stride]) : keys,
    ]),
    travel: clip.travel * stride,
  }
}

function withClearance(clip: ClipDef, plan: BodyPlan, degrees: number): ClipDef {
  const arms = plan.limbs.filter((l) => l.kind === 'arm')
  const shared = [...new Set(arms.map((l) => l.channels[0]!))]
  const shoulders = new Set([...shared, ...arms.map((l) => l.bones[0]!)])
  const curves = { ...clip.curves }
  for (const channel of shared) curves[`${channel}.out`] ??= [[0, 0]]
  return map({ ...clip, curves }, (channel, keys) => [
    channel,
    shoulders.has(nameOf(channel)) && whatOf(channel) === 'out' ? keys.map(([p, v]) => [p, v + degrees]) : keys,
  ])
}

function withLean(clip: ClipDef, plan: BodyPlan, degrees: number): ClipDef {
  const bones = trunkOf(plan)
  const curves = { ...clip.curves }
  for (const bone of bones) curves[`${bone}.pitch`] ??= [[0, 0]]
  const leaning = new Set(bones.map((b) => `${b}.pitch`))
  return map({ ...clip, curves }, (channel, keys) => [
    channel,
    leaning.has(channel) ? keys.map(([p, v]) => [p, v + degrees / bones.length]) : keys,
  ])
}

/** The bones of the trunk that bend: those between the root and where arms hang; the root itself where there are none. */
function trunkOf({ bones, limbs, pairs }: BodyPlan): string[] {
  const paired = new Set(pairs.flatMap(({ left, right }) => [left, right]))
  const parent = new Map(bones.map((b) => [b.name, b.parent]))
  const arm = limbs.find((l) => l.kind === 'arm')
  const way: string[] = []
  for (let at = arm && parent.get(arm.bones[0]!); at && parent.get(at) !== null; at = parent.get(at))
    if (!paired.has(at)) way.unshift(at)
  return way.length ? way : [bones[0]!.name]
}

/**
 * A clip on the other side: left and right change places, what turns to a side turns to the other. One in which the sides
 * take turns comes out half a loop later, so that it begins with the same foot.
 */
export function mirrorClip(clip: ClipDef, { pairs, limbs }: BodyPlan): ClipDef {
  const mate = new Map(
    pairs.flatMap(({ left, right }) => [
      [left, right],
      [right, left],
    ]),
  )
  const sided = new Set([...pairs.map((p) => p.id), ...limbs.filter((l) => l.side).flatMap((l) => l.channels)])
  const later = clip.alternate && clip.loop ? 0.5 : 0
  const legMate = new Map(
    limbs.flatMap((l) => {
      const other = limbs.find((o) => o.bones[0] === mate.get(l.bones[0]!))
      return other ? [[l.id, other.id] as const] : []
    }),
  )
  const legs = <T>(of: Readonly<Record<string, T>>) =>
    Object.fromEntries(Object.entries(of).map(([leg, value]) => [legMate.get(leg) ?? leg, value]))
  const { phases, stances, grip, arc } = clip
  return {
    ...map(clip, (channel, keys) => {
      const [name, what] = [nameOf(channel), whatOf(channel)]
      const other = mate.get(name)
      // each side is the mirror of the other; but what goes about the middle of the figure goes the other way
      if (what === 'turn') return [other ? `${other}.${what}` : channel, keys.map(([p, v]) => [p, -v])]
      if (other) return [`${other}.${what}`, keys]
      if (sided.has(name)) return [channel, keys]
      const side = what === 'x' || what === 'yaw' || what === 'roll' ? -1 : 1
      return [channel, shifted(keys, later).map(([p, v]) => [p, v * side])]
    }),
    // by half a loop legs have changed places already
    ...(phases && { phases: later ? phases : legs(phases) }),
    ...(stances && { stances: legs(stances) }),
    ...(arc && { arc: -arc }),
    ...(grip?.kind === 'line' && { grip: { ...grip, along: mirroredPlace(grip.along) } }),
  }
}

const mirroredPlace = ([x, y, z]: readonly [number, number, number]): [number, number, number] => [x && -x, y, z]

/** Keys of a loop, so much later. */
function shifted(keys: Keys, by: number): Keys {
  if (by === 0) return keys
  const at = new Map(keys.map(([p, v]) => [Number(((p + by) % 1).toFixed(6)), v]))
  return [...at].sort(([a], [b]) => a - b)
}

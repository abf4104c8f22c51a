import { Quaternion, Vector3 } from 'three'
import type { ClipDef } from '../kit/schema.ts'

const X = new Vector3(1, 0, 0)
const Y = new Vector3(0, 1, 0)
const Z = new Vector3(0, 0, 1)

/** A clip's curves: the value of a channel at a phase, 0 where there is none. */
export interface Channels {
  at(name: string, phase: number): number
  /** The same of what is said of a bone by its own name, or else by the channel it shares with the other side's. */
  of(bone: string | undefined, channel: string, what: string, phase: number): number
  /**
   * The turn a channel asks for, on the left or mirrored; null where nothing is said of it. It is the
   * same for every skeleton and remembered: not to be changed.
   */
  turn(channel: string, phase: number, mirror: 1 | -1): Readonly<Quaternion> | null
}

const known = new WeakMap<object, Channels>()
/** Turns of one channel that are remembered: twice as many as moments in a minute of motion. */
const MOST_TURNS = 4_000

export function channelsOf(clip: Pick<ClipDef, 'curves' | 'loop'>): Channels {
  let channels = known.get(clip)
  if (!channels) known.set(clip, (channels = readChannels(clip)))
  return channels
}

function readChannels(clip: Pick<ClipDef, 'curves' | 'loop'>): Channels {
  const curves = new Map(Object.entries(clip.curves))
  const turns = new Map([...curves.keys()].map((name) => [name.split('.')[0]!, [new Map(), new Map()] as Turns]))
  const at = (name: string, phase: number) => {
    const keys = curves.get(name)
    return keys ? sampleCurve(keys, phase, clip.loop) : 0
  }
  return {
    at,
    of(bone, channel, what, phase) {
      const own = bone && curves.get(`${bone}.${what}`)
      return own ? sampleCurve(own, phase, clip.loop) : at(`${channel}.${what}`, phase)
    },
    turn(channel, phase, mirror) {
      const own = turns.get(channel)?.[mirror > 0 ? 0 : 1]
      if (!own) return null
      let turn = own.get(phase)
      if (!turn) {
        if (own.size >= MOST_TURNS) own.clear()
        own.set(phase, (turn = turnAt(at, channel, phase, mirror)))
      }
      return turn
    },
  }
}

/** By phase: as drawn, and mirrored. */
type Turns = [Map<number, Quaternion>, Map<number, Quaternion>]

function turnAt(at: Channels['at'], channel: string, phase: number, mirror: 1 | -1): Quaternion {
  return new Quaternion()
    .setFromAxisAngle(Y, radians(mirror * at(`${channel}.yaw`, phase)))
    .multiply(new Quaternion().setFromAxisAngle(X, radians(at(`${channel}.pitch`, phase))))
    .multiply(new Quaternion().setFromAxisAngle(Z, radians(mirror * at(`${channel}.roll`, phase))))
}

/**
 * Value of a curve at a phase. Keys are [phase, value] in rising order; between them runs a
 * Catmull-Rom spline (1974) on uneven spacing, which for loops runs on over the end.
 */
export function sampleCurve(keys: Keys, phase: number, loop: boolean): number {
  const n = keys.length
  if (n === 1) return keys[0]![1]
  const t = loop ? phase - Math.floor(phase) : Math.min(keys[n - 1]![0], Math.max(keys[0]![0], phase))
  let i = -1
  while (i + 1 < n && !(keys[i + 1]![0] > t)) i++
  if (!loop) i = Math.min(n - 2, Math.max(0, i))
  const p0 = phaseOf(keys, i - 1, loop)
  const p1 = phaseOf(keys, i, loop)
  const p2 = phaseOf(keys, i + 1, loop)
  const p3 = phaseOf(keys, i + 2, loop)
  const v0 = valueOf(keys, i - 1, loop)
  const v1 = valueOf(keys, i, loop)
  const v2 = valueOf(keys, i + 1, loop)
  const v3 = valueOf(keys, i + 2, loop)
  const span = p2 - p1
  if (span <= 0) return v1
  const f = (t - p1) / span
  const m1 = p2 > p0 ? ((v2 - v0) / (p2 - p0)) * span : 0
  const m2 = p3 > p1 ? ((v3 - v1) / (p3 - p1)) * span : 0
  const f2 = f * f
  const f3 = f2 * f
  return (2 * f3 - 3 * f2 + 1) * v1 + (f3 - 2 * f2 + f) * m1 + (3 * f2 - 2 * f3) * v2 + (f3 - f2) * m2
}

type Keys = readonly (readonly [phase: number, value: number])[]

/** Where a key stands by its number; beyond the ends of a loop those of the next and the last one, of others the end itself. */
function phaseOf(keys: Keys, k: number, loop: boolean): number {
  const turns = loop ? Math.floor(k / keys.length) : 0
  return keys[within(keys, k, loop)]![0] + turns
}

function valueOf(keys: Keys, k: number, loop: boolean): number {
  return keys[within(keys, k, loop)]![1]
}

function within({ length }: Keys, k: number, loop: boolean): number {
  return loop ? k - Math.floor(k / length) * length : Math.min(length - 1, Math.max(0, k))
}

export const radians = (degrees: number) => (degrees * Math.PI) / 180

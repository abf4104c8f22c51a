import { Vector3 } from 'three'

/** Where a foot of the one who moved was: ankle and, where there is one, ball; one place a sample. */
export interface FootTrack {
  ankle: Vector3[]
  ball: Vector3[] | null
}

export interface Contacts {
  /** By leg, by sample: whether it stands, and how far through its swing it is. */
  standing: boolean[][]
  swing: number[][]
  /** By leg, by sample: whether all of the foot is down. */
  flat: boolean[][]
  /** How the ground goes under one who walks on the spot, lengths a second; zero for one who does not. */
  ground: Vector3
}

/** What a foot on the ground is: its share of a leg above its lowest, and leg lengths a second over the ground. */
const LOW = 0.065
const SLOW = 0.6
/** A foot that stands goes on standing until it is so much higher or faster. */
const HOLDS = 1.4
/** Shorter gaps are none, and shorter stands are none; seconds. */
const GAP = 0.06
const STAND = 0.08
/** Ground that goes slower than this is the sway of feet, leg lengths a second. */
const TREADMILL = 0.25
/** Of its heights a foot's floor is the one so many of a hundred are under. */
const FLOOR = 0.05

/**
 * When feet stand, from the motion alone: low and slow, by hysteresis.
 *
 * @param leg  length of a leg, in the unit of the tracks
 * @param rate samples a second
 */
export function contactsOf(feet: readonly FootTrack[], leg: number, rate: number, loop: boolean): Contacts {
  const points = feet.map(({ ankle, ball }) => (ball ? [ankle, ball] : [ankle]).map((p) => trackOf(p, leg, rate, loop)))
  const ground = groundOf(points.flat(), leg)
  const down = points.map((own) => own.map((track) => standsOf(track, ground, leg)))
  const standing = down.map((own) => {
    const any = own[0]!.map((_, i) => own.some((d) => d[i]))
    fill(any, true, Math.round(GAP * rate), loop)
    fill(any, false, Math.round(STAND * rate), loop)
    return any
  })
  return {
    standing,
    swing: standing.map((own) => swingOf(own, loop)),
    flat: down.map((own, l) => own[0]!.map((_, i) => standing[l]![i]! && own.every((d) => d[i]))),
    ground,
  }
}

interface Track {
  /** Above its own floor. */
  height: number[]
  /** A second. */
  speed: Vector3[]
}

function trackOf(places: readonly Vector3[], leg: number, rate: number, loop: boolean): Track {
  const sorted = places.map((p) => p.y).sort((a, b) => a - b)
  const floor = sorted[Math.floor(FLOOR * (sorted.length - 1))] ?? 0
  const n = places.length
  const speed = places.map((_, i) => {
    const [a, b] = [Math.max(0, i - 1), Math.min(n - 1, i + 1)]
    return a === b
      ? new Vector3()
      : places[b]!.clone()
          .sub(places[a]!)
          .multiplyScalar(rate / (b - a))
  })
  // what is known at an end of a loop is known from one side alone: it is as just before and after
  if (loop && n > 2) {
    speed[0] = speed[1]!.clone()
    speed[n - 1] = speed[n - 2]!.clone()
  }
  return { height: places.map((p) => (p.y - floor) / leg), speed }
}

/** The middle of how low points go, level. */
function groundOf(tracks: readonly Track[], leg: number): Vector3 {
  const low = tracks.flatMap(({ height, speed }) => speed.filter((_, i) => height[i]! < LOW))
  const middle = (k: 'x' | 'z') => low.map((v) => v[k]).sort((a, b) => a - b)[low.length >> 1] ?? 0
  const ground = new Vector3(middle('x'), 0, middle('z'))
  return ground.length() < TREADMILL * leg ? ground.set(0, 0, 0) : ground
}

function standsOf({ height, speed }: Track, ground: Vector3, leg: number): boolean[] {
  let stands = false
  return height.map((h, i) => {
    const by = stands ? HOLDS : 1
    const pace = Math.hypot(speed[i]!.x - ground.x, speed[i]!.z - ground.z) / leg
    stands = h < LOW * by && pace < SLOW * by
    return stands
  })
}

/** Turns runs of the other value that are shorter than `least` into `value`. */
function fill(list: boolean[], value: boolean, least: number, loop: boolean): void {
  const n = list.length
  const start = list.indexOf(value)
  if (start < 0) return
  for (let i = start; i < start + n;) {
    const at = i % n
    if (!loop && i >= n) break
    if (list[at] === value) {
      i++
      continue
    }
    let end = i
    while (end < start + n && list[end % n] !== value) end++
    const open = !loop && end >= n
    if (end - i < least && !open) for (let k = i; k < end; k++) list[k % n] = value
    i = end
  }
}

/** How far through its swing a leg is; in the middle of one that has no beginning or end. */
function swingOf(standing: readonly boolean[], loop: boolean): number[] {
  const n = standing.length
  const at = (i: number) => standing[((i % n) + n) % n]!
  if (!standing.includes(true)) return standing.map(() => 0.5)
  return standing.map((stands, i) => {
    if (stands) return 0
    let [before, after] = [1, 1]
    while (!at(i - before) && (loop || i - before > 0)) before++
    while (!at(i + after) && (loop || i + after < n - 1)) after++
    const [begins, ends] = [loop || i - before >= 0, loop || i + after <= n - 1].map(
      (inside, k) => inside && at(k ? i + after : i - before),
    )
    const share = before / (before + after)
    return begins && ends ? share : ends ? 0.5 + share / 2 : begins ? share / 2 : 0.5
  })
}

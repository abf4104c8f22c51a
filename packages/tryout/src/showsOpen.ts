import { Surface } from '@idle-tinker/core'
import { Assembly, type Active, type BodyEntry, type Piece } from '@idle-tinker/runtime'

/** Triangles that are left out as something covers them, and can be seen all the same: there the figure is open. */
export interface Open {
  /** Options; null for the body itself. */
  inner: number | null
  /** What is to cover them: the first of it that is worn. */
  outer: number
  /** Area of each, square metres, by its number: the same numbers as long as nothing is dressed anew. */
  places: Map<number, number>
}

/** Ways one looks from: around, level and from above; up into a hem nobody looks who stands on the same ground. */
const WAYS: readonly (readonly [number, number, number])[] = [-5, 15, 35].flatMap((tilt) =>
  Array.from({ length: 8 }, (_, i) => {
    const [turn, up] = [(i * Math.PI) / 4, (tilt * Math.PI) / 180]
    return [Math.sin(turn) * Math.cos(up), Math.sin(up), Math.cos(turn) * Math.cos(up)] as const
  }),
)
/** What is seen at a sharper angle than this cosine is seen by nobody. */
const SHARPEST = 0.3
/** A look begins so far off its triangle, metres: not at what touches it. */
const OFF = 0.0005
/** What is seen no deeper than this behind a triangle stands in for it, metres. */
const DEEP = 0.04
/** Farther than any figure is tall, metres. */
const FAR = 20

/** A patch that is not drawn. */
export interface LeftOut {
  /** The option it is of; null for the body itself. */
  inner: number | null
  /** Its place in its piece. */
  patch: number
  /** Those that hide it and are worn. */
  by: number[]
  /** In the whole mesh's indices. */
  from: number
  to: number
}

/**
 * A look with all its triangles, those too that the game leaves out beneath others: from each of them it is looked
 * outwards, past what is drawn. It is worked out on the positions alone; nothing is known of how parts were cut.
 */
export class Uncovered {
  private readonly assembly: Assembly
  private pieces: readonly Piece[] = []
  /** Runs of the whole mesh's indices that are drawn; what they hold, once it is asked for. */
  private runs: (readonly [from: number, to: number])[] = []
  private drawn: Uint32Array | null = null
  private left: LeftOut[] = []

  constructor(body: BodyEntry) {
    this.assembly = new Assembly(body)
  }

  /** @param pieces the body's first, then those of the options that are worn; their finest levels */
  dress(pieces: readonly Piece[]): void {
    const worn = new Set(pieces.flatMap((p) => (p.option === null ? [] : [p.option])))
    this.pieces = pieces
    this.left = []
    this.runs = []
    this.drawn = null
    let at = 0
    pieces.forEach(({ option, levels }) => {
      levels[0]!.patches.forEach(({ from, to, hiddenBy }, patch) => {
        const by = hiddenBy.filter((o) => worn.has(o))
        const run = [at, (at += to - from)] as const
        if (by.length) this.left.push({ inner: option, patch, by, from: run[0], to: run[1] })
        else this.runs.push(run)
      })
    })
  }

  /** Puts everything together, as if nothing hid anything: the patches lie one after the other. Answers what is drawn of it. */
  private assemble(): Uint32Array {
    const whole = this.pieces.map((p): Piece => {
      const [finest] = p.levels
      return { ...p, levels: [{ ...finest!, patches: finest!.patches.map((patch) => ({ ...patch, hiddenBy: [] })) }] }
    })
    this.assembly.dress(whole, 0)
    const { index } = this.assembly.mesh
    return Uint32Array.from(this.runs.flatMap(([from, to]) => [...index.subarray(from, to)]))
  }

  /**
   * What is open with sliders as they act.
   *
   * @param asked which patches are looked at
   * @returns for every patch that was looked at what is open of it, if anything, by a name that stays
   */
  open(active: Active, asked: (patch: LeftOut, name: string) => boolean = () => true): Map<string, Open> {
    const found = new Map<string, Open>()
    const own = this.left.filter((l) => asked(l, nameOf(l)))
    if (own.length === 0) return found
    // most looks show nothing that was not looked at before
    this.drawn ??= this.assemble()
    this.assembly.shape(active)
    const { position, corners, index } = this.assembly.mesh
    const positions = position.slice(0, corners * 3)
    const surface = new Surface(positions, this.drawn)
    const hints = new Int32Array(WAYS.length * 2).fill(-1)
    for (const patch of own) {
      const places = new Map<number, number>()
      for (let t = patch.from; t < patch.to; t += 3) {
        const area = openArea(positions, index.subarray(t, t + 3), surface, hints)
        if (area > 0) places.set(t, area)
      }
      found.set(nameOf(patch), { inner: patch.inner, outer: patch.by[0]!, places })
    }
    return found
  }
}

const nameOf = ({ inner, patch }: LeftOut) => `${inner} ${patch}`

/** A triangle is looked at in the middles of four parts, and where one of them is seen of sixteen, all of one size. */
const [FIRST, PARTS] = [middlesOf(2), middlesOf(4)]

/**
 * How much of a triangle is seen from anywhere out in front of it, square metres.
 *
 * @param hints what stood in each way last, and behind it (see `Surface.blocks`)
 */
function openArea(positions: Float32Array, triangle: Uint32Array, surface: Surface, hints: Int32Array): number {
  const [a, b, c] = [...triangle].map((v) => positions.subarray(v * 3, v * 3 + 3)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  const [ux, uy, uz] = [b[0]! - a[0]!, b[1]! - a[1]!, b[2]! - a[2]!]
  const [vx, vy, vz] = [c[0]! - a[0]!, c[1]! - a[1]!, c[2]! - a[2]!]
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  const length = Math.hypot(x, y, z)
  if (length < 1e-12) return 0
  const facing = [x / length, y / length, z / length] as const
  const ways = [...WAYS.keys()].filter((w) => {
    const [dx, dy, dz] = WAYS[w]!
    return dx * facing[0] + dy * facing[1] + dz * facing[2] > SHARPEST
  })
  const isSeen = (part: (typeof PARTS)[number]) => {
    const from = [0, 1, 2].map((k) => part[0] * a[k]! + part[1] * b[k]! + part[2] * c[k]! + OFF * facing[k]!) as [
      number,
      number,
      number,
    ]
    return ways.some((w) => {
      const [dx, dy, dz] = WAYS[w]!
      return (
        !surface.blocks(...from, dx, dy, dz, FAR, hints, w * 2) &&
        // what lies beneath it is seen in its place, as where it has come out through what is to cover it
        !surface.blocks(...from, -dx, -dy, -dz, DEEP, hints, w * 2 + 1)
      )
    })
  }
  if (!FIRST.some(isSeen)) return 0
  return (length / 2) * (PARTS.filter(isSeen).length / PARTS.length)
}

/** The middles of the n² like triangles that one is cut into, as shares of its corners. */
function middlesOf(n: number): (readonly [number, number, number])[] {
  const middles: (readonly [number, number, number])[] = []
  for (let i = 0; i < n; i++)
    for (let j = 0; i + j < n; j++)
      for (const third of i + j < n - 1 ? [1 / 3, 2 / 3] : [1 / 3]) {
        const [v, w] = [(i + third) / n, (j + third) / n]
        middles.push([1 - v - w, v, w])
      }
  return middles
}

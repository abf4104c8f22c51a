import { deflateSync } from 'fflate'
import { inflate } from './inflate.ts'

type Numbers = Uint8Array | Uint16Array | Uint32Array | Float32Array
/** A result as it is kept: named arrays of numbers. */
export type Arrays = Record<string, Numbers>

const KINDS = { u8: Uint8Array, u16: Uint16Array, u32: Uint32Array, f32: Float32Array } as const
type Kind = keyof typeof KINDS

/** Results of an older way of working them out are of no use: raise it when any of them changes. */
const VERSION = 1
const MAGIC = 0x4c485349
/** No shelf is larger, bytes. */
const LARGEST = 256 * 1024 * 1024

/**
 * What was worked out once for a body and one or two parts, under the content it was made from. The
 * same keys mean the same results on every machine, so a shelf may be kept in a file or a browser's
 * database, and shipped with a kit.
 */
export class Shelf {
  private readonly most: number
  private readonly results = new Map<string, Arrays>()
  private readonly growing = new Map<string, () => Arrays>()
  /** How many results have been put since it was last packed or filled. */
  added = 0
  /** Told of every result that is put, so that it can be passed on. */
  onPut: ((key: string, arrays: Arrays) => void) | null = null

  /** @param most results beyond this push out those that were put first */
  constructor(most = 4_000) {
    this.most = most
  }

  get size(): number {
    return this.results.size
  }

  get(key: string): Arrays | undefined {
    return this.results.get(key)
  }

  put(key: string, arrays: Arrays): void {
    this.results.set(key, arrays)
    this.added++
    this.onPut?.(key, arrays)
    this.forget()
  }

  /** Takes over a result that was put on another shelf. */
  take(key: string, arrays: Arrays): void {
    this.results.set(key, arrays)
    this.forget()
  }

  /** A result that grows as long as it is of use: it is put as it stands whenever the shelf is packed. */
  grow(key: string, read: () => Arrays): void {
    this.growing.set(key, read)
    this.forget()
  }

  private forget(): void {
    for (const kept of [this.results, this.growing])
      for (const key of kept.keys()) {
        if (kept.size <= this.most) break
        kept.delete(key)
      }
  }

  /** The shelf as bytes, compressed; the same for the same results in whatever order they came. */
  pack(): Uint8Array {
    for (const [key, read] of this.growing) this.results.set(key, read())
    this.forget()
    const entries = [...this.results].sort(([a], [b]) => (a < b ? -1 : 1))
    const index = entries.map(([key, arrays]) => [
      key,
      Object.entries(arrays).map(([name, array]) => [name, kindOf(array), array.length]),
    ])
    const head = new TextEncoder().encode(JSON.stringify(index))
    // every array begins at a multiple of four
    const sizes = entries.flatMap(([, arrays]) => Object.values(arrays).map((a) => aligned(a.byteLength)))
    const start = aligned(12 + head.length)
    const body = new Uint8Array(start + sizes.reduce((s, n) => s + n, 0))
    new DataView(body.buffer).setUint32(0, MAGIC, true)
    new DataView(body.buffer).setUint32(4, VERSION, true)
    new DataView(body.buffer).setUint32(8, head.length, true)
    body.set(head, 12)
    let at = start
    for (const [, arrays] of entries)
      for (const array of Object.values(arrays)) {
        body.set(new Uint8Array(array.buffer, array.byteOffset, array.byteLength), at)
        at += aligned(array.byteLength)
      }
    this.added = 0
    return deflateSync(body, { level: 6 })
  }

  /** Adds what packed bytes hold; false if they are not a shelf of this version. Never throws. */
  async fill(packed: Uint8Array): Promise<boolean> {
    try {
      const body = await inflate(packed, LARGEST)
      const view = new DataView(body.buffer, body.byteOffset, body.byteLength)
      if (view.getUint32(0, true) !== MAGIC || view.getUint32(4, true) !== VERSION) return false
      const length = view.getUint32(8, true)
      const index = JSON.parse(new TextDecoder().decode(body.subarray(12, 12 + length))) as [
        string,
        [string, Kind, number][],
      ][]
      let at = body.byteOffset + aligned(12 + length)
      for (const [key, arrays] of index) {
        const entry: Arrays = {}
        for (const [name, kind, count] of arrays) {
          const array = new KINDS[kind](body.buffer, at, count)
          entry[name] = array
          at += aligned(array.byteLength)
        }
        this.results.set(key, entry)
      }
      this.forget()
      return true
    } catch {
      // damaged or foreign: everything on it can be worked out again
      return false
    }
  }
}

const aligned = (bytes: number) => (bytes + 3) & ~3

function kindOf(array: Numbers): Kind {
  if (array instanceof Float32Array) return 'f32'
  if (array instanceof Uint32Array) return 'u32'
  return array instanceof Uint16Array ? 'u16' : 'u8'
}

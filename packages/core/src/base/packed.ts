import { parse, stringify } from 'devalue'

/*
 * Values with millions of numbers as bytes that any engine can take up again: a head of eight bytes with the length of
 * a text, the text (devalue: objects, maps, sets, what stands in several places once), and the contents of all typed
 * arrays, each from a multiple of eight bytes on, little-endian.
 */

const KINDS = {
  Float32Array,
  Float64Array,
  Int8Array,
  Int16Array,
  Int32Array,
  Uint8Array,
  Uint16Array,
  Uint32Array,
} as const
type Kind = keyof typeof KINDS
type Row = InstanceType<(typeof KINDS)[Kind]>

const STEP = 8
const inSteps = (bytes: number) => Math.ceil(bytes / STEP) * STEP

/**
 * Plain objects, lists, maps, sets, typed arrays and what JSON has, as bytes.
 *
 * @throws where it holds anything else, as functions or instances of classes
 */
export function pack(value: unknown): Uint8Array<ArrayBuffer> {
  const rows: { at: number; row: Row }[] = []
  let end = 0
  const take = (row: unknown) => {
    if (!ArrayBuffer.isView(row)) return false
    const kind = row.constructor.name
    if (!Object.hasOwn(KINDS, kind)) throw new TypeError(`A ${kind} cannot be packed.`)
    const at = end
    rows.push({ at, row: row as Row })
    end += inSteps(row.byteLength)
    return [kind, at, (row as Row).length]
  }
  const text = new TextEncoder().encode(stringify(value, { row: take }))
  const start = STEP + inSteps(text.length)
  const bytes = new Uint8Array(start + end)
  new DataView(bytes.buffer).setUint32(0, text.length, true)
  bytes.set(text, STEP)
  for (const { at, row } of rows) bytes.set(new Uint8Array(row.buffer, row.byteOffset, row.byteLength), start + at)
  return bytes
}

/**
 * What was packed. Each typed array has a buffer of its own.
 *
 * @throws where the bytes are not what was packed, as far as that can be told
 */
export function unpack(bytes: Uint8Array): unknown {
  const head = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const length = head.getUint32(0, true)
  const text = new TextDecoder('utf-8', { fatal: true }).decode(bytes.subarray(STEP, STEP + length))
  const start = STEP + inSteps(length)
  const give = ([kind, at, count]: [Kind, number, number]) => {
    const row = new KINDS[kind](count)
    const from = bytes.subarray(start + at, start + at + row.byteLength)
    if (from.length < row.byteLength) throw new RangeError('The bytes end before what was packed does.')
    new Uint8Array(row.buffer).set(from)
    return row
  }
  return parse(text, { row: give })
}

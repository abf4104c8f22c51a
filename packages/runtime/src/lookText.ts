import type { BodyEntry, Look, PackageManifest, Told } from './manifest.ts'
import { settle, startLook, type Earned } from './looks.ts'

/*
 * A look as a short text, to be put into a save, a link or a chat. Letters of base64url, six bits each, the highest first:
 *
 *   version 6 · package 12 · body 6 · slots 6, then for each by its code a part: 0 nothing, 255 the start, else code + 1 (8)
 *   · sliders 6, each by its code: 255 the start, else value (8) · colors 6, each by its code: 127 the start, else the
 *   swatch's code (7) · expression: 0 none, else code + 1 (8) · check 18
 *
 * Codes are given once and never again to anything else, so a text says the same whatever is added to the package, or
 * taken out. A slider's value is counted in 64ths from -2, no limits in it, so that limits may change.
 */

const VERSION = 1
const LETTERS = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789-_'
/** As it is at the start. */
const START = 255
const START_SWATCH = 127
const STEP = 64
/** No text of ours is longer. */
const MOST = 400

class Bits {
  private readonly bits: number[] = []
  private at = 0

  put(value: number, width: number): void {
    for (let i = width - 1; i >= 0; i--) this.bits.push((value >> i) & 1)
  }

  take(width: number): number {
    let value = 0
    for (let i = 0; i < width; i++) value = value * 2 + (this.bits[this.at++] ?? 0)
    return value
  }

  get over(): boolean {
    return this.at > this.bits.length
  }

  text(): string {
    let out = ''
    for (let i = 0; i < this.bits.length; i += 6) {
      let value = 0
      for (let k = 0; k < 6; k++) value = value * 2 + (this.bits[i + k] ?? 0)
      out += LETTERS[value]
    }
    return out
  }

  static of(text: string): Bits | null {
    const bits = new Bits()
    for (const letter of text) {
      const value = LETTERS.indexOf(letter)
      if (value < 0) return null
      bits.put(value, 6)
    }
    return bits
  }
}

/** FNV-1a of a text, folded to a number of bits. */
function hash(text: string, width: number): number {
  let h = 0x811c9dc5
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193) >>> 0
  return (h ^ (h >>> width)) & ((1 << width) - 1)
}

/** The list with each entry at its code; as short as what is not as at the start allows. */
function byCode<T extends { code: number }>(
  list: readonly T[],
  valueOf: (entry: T) => number,
  start: number,
): number[] {
  const out: number[] = []
  for (const entry of list) {
    const value = valueOf(entry)
    if (value === start) continue
    while (out.length <= entry.code) out.push(start)
    out[entry.code] = value
  }
  // counts have six bits
  return out.slice(0, 63)
}

/** Writes a look; one that cannot be worn is settled first. */
export function lookToText(manifest: PackageManifest, look: Look, earned?: Earned): string {
  const body = manifest.bodies.find((b) => b.id === look.body) ?? manifest.bodies[0]!
  const { look: own } = settle(body, look, earned)
  const bits = new Bits()
  bits.put(VERSION, 6)
  bits.put(hash(manifest.id, 12), 12)
  bits.put(body.code, 6)
  const codeOf = (id: string) => body.options.find((o) => o.id === id)!.code + 1
  const startOf = (start: number | null) => (start === null ? null : body.options[start]!.id)
  const slots = byCode(
    body.slots.filter((s) => s.chosen),
    ({ id, start }) => (own.parts[id] === startOf(start) ? START : own.parts[id] === null ? 0 : codeOf(own.parts[id]!)),
    START,
  )
  const sliders = byCode(
    body.sliders,
    ({ id, start }) => (counted(own.sliders[id]!) === counted(start) ? START : counted(own.sliders[id]!)),
    START,
  )
  const colors = byCode(
    body.colors,
    ({ id, start, swatches }) => {
      const at = swatches.findIndex((s) => s.color === own.colors[id])
      return at === start ? START_SWATCH : swatches[at]!.code
    },
    START_SWATCH,
  )
  for (const [list, width] of [
    [slots, 8],
    [sliders, 8],
    [colors, 7],
  ] as const) {
    bits.put(list.length, 6)
    for (const value of list) bits.put(value, width)
  }
  const face = body.expressions.find((e) => e.id === own.expression)
  bits.put(face ? face.code + 1 : 0, 8)
  const text = bits.text()
  const check = new Bits()
  check.put(hash(text, 18), 18)
  return text + check.text()
}

/** A slider's value in 64ths from -2; 254 steps. */
const counted = (value: number) => Math.min(254, Math.max(0, Math.round((value + 2) * STEP)))

/**
 * Reads a look. What is no longer in the package is as at the start, and told; what was never a look of this package is
 * told, and the start is given. Never throws.
 */
export function lookFromText(manifest: PackageManifest, text: unknown): { look: Look; told: Told[] } {
  const first = manifest.bodies[0]!
  const refuse = (code: string, message: string) => ({
    look: startLook(first),
    told: [{ code, where: 'text', message }],
  })
  if (typeof text !== 'string' || text.length < 5 || text.length > MOST) return refuse('not-a-look', 'This is no look.')
  const [own, check] = [text.slice(0, -3), Bits.of(text.slice(-3))]
  const bits = Bits.of(own)
  if (!bits || !check) return refuse('not-a-look', 'This is no look.')
  if (check.take(18) !== hash(own, 18)) return refuse('look-damaged', 'A letter of this look is wrong.')
  if (bits.take(6) !== VERSION) return refuse('other-version', 'This look was written by a later version.')
  if (bits.take(12) !== hash(manifest.id, 12)) return refuse('other-package', 'This look is of another game.')
  const code = bits.take(6)
  const body = manifest.bodies.find((b) => b.code === code)
  if (!body) return refuse('unknown-body', 'The body of this look is not here any more.')
  const lists = [8, 8, 7].map((width) => Array.from({ length: bits.take(6) }, () => bits.take(width)))
  const face = bits.take(8)
  if (bits.over) return refuse('look-damaged', 'This look is cut off.')
  return readLists(body, lists as [number[], number[], number[]], face)
}

function readLists(
  body: BodyEntry,
  [slots, sliders, colors]: readonly [number[], number[], number[]],
  face: number,
): { look: Look; told: Told[] } {
  const look = startLook(body)
  const told: Told[] = []
  const gone = (where: string, what: string) =>
    void told.push({ code: 'gone', where, message: `${what} is not here any more; it is as at the start.` })
  slots.forEach((value, code) => {
    if (value === START) return
    const slot = body.slots.find((s) => s.chosen && s.code === code)
    const option = slot?.options.find((o) => body.options[o]!.code === value - 1)
    if (!slot) gone(`slot ${code}`, 'A slot')
    else if (value === 0) look.parts[slot.id] = null
    else if (option === undefined) gone(slot.id, `What was worn in “${slot.name}”`)
    else look.parts[slot.id] = body.options[option]!.id
  })
  sliders.forEach((value, code) => {
    if (value === START) return
    const slider = body.sliders.find((s) => s.code === code)
    // ends are ends, whatever they are counted in
    if (slider) look.sliders[slider.id] = Math.min(slider.max, Math.max(slider.min, value / STEP - 2))
    else gone(`slider ${code}`, 'A slider')
  })
  colors.forEach((value, code) => {
    if (value === START_SWATCH) return
    const color = body.colors.find((c) => c.code === code)
    const swatch = color?.swatches.find((s) => s.code === value)
    if (color && swatch) look.colors[color.id] = swatch.color
    else gone(color?.id ?? `color ${code}`, color ? `A swatch of “${color.name}”` : 'A color')
  })
  const expression = body.expressions.find((e) => e.code === face - 1)
  if (expression) look.expression = expression.id
  else if (face > 0) gone('expression', 'Its expression')
  return { look, told }
}

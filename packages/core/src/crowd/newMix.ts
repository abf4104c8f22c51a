import {
  bodyOf,
  fullName,
  leftToHands,
  palettesFor,
  partsFor,
  slotsFor,
  type KitRef,
  type Manifests,
} from '../kit/library.ts'
import { referenceTo } from '../recipe/defaults.ts'
import { shapeSlidersOf } from '../kit/movements.ts'
import { MIX_FORMAT, type Mix, type MixKind } from './mix.ts'

/** A slot that may be empty is so on this share of a new crowd. */
const EMPTY = 1 / 3
/** Of the way to either end of a slider, so far go the figures of a new crowd. */
const SPREAD = 0.4

/**
 * A kind of figure of everything there is for a body: each part of a slot as often as the others, slots that need
 * none empty now and then, sliders around their rest, every palette. Throws if the body is not there.
 */
export function newKind(kits: Manifests, body: KitRef, id = body.id, share = 1): MixKind {
  const def = bodyOf(kits, body)
  if (!def) throw new RangeError(`no body ${fullName(body)}`)
  const slots: MixKind['slots'] = {}
  for (const { id: slot } of slotsFor(kits, body).filter((s) => !leftToHands(s))) {
    const parts = partsFor(kits, body, slot).slice(0, 99)
    if (parts.length === 0) continue
    const needed = Object.hasOwn(def.defaults, slot)
    slots[slot] = [
      ...(needed ? [] : [{ part: null, share: round((parts.length * EMPTY) / (1 - EMPTY)) }]),
      ...parts.map(({ kit, def: part }) => ({
        part: kit === body.kit ? part.id : fullName({ kit, id: part.id }),
        share: 1,
      })),
    ]
  }
  return {
    id,
    share,
    body: referenceTo(kits, body),
    slots,
    sliders: Object.fromEntries(
      shapeSlidersOf(def).map(({ id: slider, min, max, default: rest }) => [
        slider,
        [round(rest + (min - rest) * SPREAD), round(rest + (max - rest) * SPREAD)],
      ]),
    ),
    palettes: palettesFor(kits, body)
      .slice(0, 40)
      .map((palette) => ({ id: palette.id, share: 1 })),
    atMostOnce: [],
  }
}

/** A mix of everything there is for a body. Throws if the body is not there. */
export function newMix(kits: Manifests, body: KitRef, { id, name }: { id: string; name: string }, seed: number): Mix {
  return {
    format: MIX_FORMAT,
    version: 3,
    id,
    name,
    count: 40,
    seed,
    kinds: [newKind(kits, body)],
    triangles: 900,
  }
}

const round = (value: number) => Math.round(value * 100) / 100

import { decodeImage, type Pixels } from '../../color/decodeImage.ts'
import { bodyOf, colorRegionsOf, fullName, refOf, slotsFor } from '../../kit/library.ts'
import type { Kits } from '../../recipe/resolve.ts'
import { fileNames } from '../../ship/names.ts'
import type { ChoiceRule } from '../ChoiceModel.ts'
import type { BodyChoices } from '../choicesOf.ts'
import type { BodyCodes, PickBody } from '../picks.ts'
import type { PackageBody } from './manifest.ts'
import type { PlacedRegion } from './packageAtlas.ts'
import type { PackedPiece } from './pieces.ts'
import type { Standing } from './standing.ts'

/* What a package's manifest says of a body, list by list. */

type File = PackageBody['base']

/** To a hundredth of a millimetre. */
const rounded = (v: number) => Math.round(v * 1e5) / 1e5

/** The options a player begins with, and what the body always has on. */
export function startOf(pick: PickBody, { parts }: BodyChoices, kits: Kits): Set<string> {
  const nameOf = (text: string) => fullName(refOf(text, pick.body.kit))
  const chosen = pick.slots.flatMap((s) => (s.start === null ? [] : [nameOf(s.start)]))
  const defaults = Object.entries(bodyOf(kits, pick.body)!.defaults)
    .filter(([slot]) => !pick.slots.some((s) => s.slot === slot))
    .map(([, id]) => nameOf(id))
  return new Set([...chosen, ...defaults].filter((o) => parts.has(o)))
}

export function bonesOf({ skeleton, boneOf }: Standing): PackageBody['bones'] {
  return skeleton.bones.map(({ name, parent, at }, i) => ({
    ...{ name, parent, of: boneOf[i]! },
    at: [rounded(at[0]), rounded(at[1]), rounded(at[2])],
  }))
}

export function optionsOf(
  pick: PickBody,
  choices: BodyChoices,
  { options }: Standing,
  codes: BodyCodes,
  pieces: readonly PackedPiece[],
  icon: (file: string, option: number) => File,
): PackageBody['options'] {
  const files = fileNames(
    '{name}',
    options.map((o) => o.name),
  )
  return options.map(({ name, part: { part } }, i) => {
    const slot = choices.groups.findIndex((g) => g.options.includes(name))
    const offered = pick.slots.flatMap((s) => s.parts).find((p) => fullName(refOf(p.part, pick.body.kit)) === name)
    const { id } = choices.groups[slot]!
    return {
      ...{ id: name, name: offered?.name ?? part.def.name, slot },
      // what a player has no say in is in no look
      code: Object.hasOwn(codes.parts, id) ? codes.parts[id]!.indexOf(name) : 0,
      tags: offered?.tags ?? part.def.tags,
      ...(offered?.earned !== undefined && { earned: offered.earned }),
      icon: icon(files[i]!, i),
      triangles: pieces[i + 1]!.levels[0]!.indices.length / 3,
    }
  })
}

export function slotsOf(
  pick: PickBody,
  { groups }: BodyChoices,
  kits: Kits,
  codes: BodyCodes,
  start: ReadonlySet<string>,
  place: ReadonlyMap<string, number>,
  chunk: (slot: string, options: number[]) => File,
): PackageBody['slots'] {
  const named = new Map(slotsFor(kits, pick.body).map((s) => [s.id, s.name]))
  return groups.map(({ id, options, needed }) => {
    const chosen = pick.slots.find((s) => s.slot === id)
    const own = options.map((o) => place.get(o)!)
    const begins = options.find((o) => start.has(o))
    return {
      ...{ id, name: chosen?.name ?? named.get(id) ?? id, code: chosen ? codes.slots.indexOf(id) : 0, needed },
      ...{ chosen: chosen !== undefined, start: begins === undefined ? null : place.get(begins)! },
      ...{ options: own, chunk: chunk(id, own) },
    }
  })
}

export function placedRule(rule: ChoiceRule, place: ReadonlyMap<string, number>): PackageBody['rules'] {
  const at = (option: string) => place.get(option)!
  const all = (options: readonly string[]) => options.filter((o) => place.has(o)).map(at)
  if (rule.kind === 'needs') return [{ kind: rule.kind, one: at(rule.one), oneOf: all(rule.oneOf) }]
  if (rule.kind === 'covers') return [{ kind: rule.kind, one: at(rule.one), others: all(rule.others) }]
  return [{ kind: rule.kind, one: at(rule.one), other: at(rule.other) }]
}

export function slidersOf(pick: PickBody, { body }: Standing, codes: BodyCodes): PackageBody['sliders'] {
  return pick.sliders.flatMap(({ slider, name, min, max, start }) => {
    const own = body.model.def.sliders.find((s) => s.id === slider)
    return own ? [{ id: slider, name: name ?? own.name, code: codes.sliders.indexOf(slider), min, max, start }] : []
  })
}

export function morphsOf({ morphs }: Standing): PackageBody['morphs'] {
  return morphs.map(({ morph, kind, when, moves: { joints } }) => ({
    ...{ name: morph.name, kind, when },
    joints: Array.from({ length: joints.length / 3 }, (_, b) => b).flatMap((b) => {
      const way = [0, 1, 2].map((k) => rounded(joints[b * 3 + k]!)) as [number, number, number]
      return way.some((v) => v !== 0) ? [[b, ...way] as [number, number, number, number]] : []
    }),
  }))
}

export function expressionsOf(
  pick: PickBody,
  { morphs, body }: Standing,
  codes: BodyCodes,
): PackageBody['expressions'] {
  return morphs.flatMap(({ expression }, morph) => {
    const id = expression === undefined ? undefined : pick.expressions[expression]
    const own = body.model.def.expressions?.find((e) => e.id === id)
    return own ? [{ id: own.id, name: own.name, code: codes.expressions.indexOf(own.id), morph }] : []
  })
}

/** How the chains swing that are said to. */
export function springsOf(pick: PickBody, { skeleton }: Standing): PackageBody['springs'] {
  const place = new Map(skeleton.bones.map((b, i) => [b.name, i]))
  return Object.entries(pick.springs ?? {}).flatMap(([limb, spring]) => {
    const own = skeleton.limbs.find((l) => l.id === limb)
    const bones = own?.bones.flatMap((b) => (place.has(b) ? [place.get(b)!] : [])) ?? []
    return bones.length ? [{ bones, ...spring }] : []
  })
}

/** Looks to begin with, whole: what they do not say is as everybody begins. */
export function looksOf(pick: PickBody, { parts }: BodyChoices): PackageBody['looks'] {
  const nameOf = (text: string) => fullName(refOf(text, pick.body.kit))
  return (pick.looks ?? []).map(({ id, name, parts: own = {}, sliders = {}, colors = {}, expression = null }) => ({
    ...{ id, name },
    look: {
      parts: Object.fromEntries(
        pick.slots.flatMap(({ slot, start }): [string, string | null][] => {
          const text = Object.hasOwn(own, slot) ? own[slot]! : start
          return text === null ? [[slot, null]] : parts.has(nameOf(text)) ? [[slot, nameOf(text)]] : []
        }),
      ),
      ...{ sliders, colors, expression },
    },
  }))
}

/** A color region of a package's pieces. */
export interface Region {
  name: string
  swatches: string[]
  start: string
  picture: Pixels | null
}

/** The regions of all pieces, with the swatches a player has for each. */
export function regionsOf({ merged }: Standing, pick: PickBody, kits: Kits): Region[] {
  const colors = colorRegionsOf(kits, pick.body.kit)
  return merged.mesh.regionNames.map((name, i) => {
    const paint = merged.paints[i]
    const picture = paint ? decodeImage(paint, name).value : null
    const own = Object.hasOwn(pick.colors, name) ? pick.colors[name]! : null
    const rest = picture ? '#ffffff' : (colors.get(name)?.color ?? '#9a9a9a')
    return { name, swatches: own ? own.swatches : [rest], start: own ? own.start : rest, picture }
  })
}

export function colorsOf(
  pick: PickBody,
  kits: Kits,
  codes: BodyCodes,
  regions: readonly Region[],
  placed: readonly PlacedRegion[],
): Pick<PackageBody, 'colors' | 'regions'> {
  const names = colorRegionsOf(kits, pick.body.kit)
  const own = Object.entries(pick.colors)
  const share = (v: number) => Math.round(v * 1e6) / 1e6
  return {
    colors: own.map(([id, { swatches, start }]) => ({
      ...{ id, name: names.get(id)?.name ?? id, code: codes.colors.indexOf(id) },
      start: swatches.indexOf(start),
      swatches: swatches.map((color) => ({ color, code: codes.swatches[id]!.indexOf(color) })),
    })),
    regions: regions.map(({ name }, i) => {
      const color = own.findIndex(([id]) => id === name)
      const { cells, picture } = placed[i]!
      return {
        ...{ name, color: color < 0 ? null : color },
        cells: cells.map(([u, v]): [number, number] => [share(u), share(v)]),
        picture: picture && (picture.map(share) as [number, number, number, number]),
      }
    }),
  }
}

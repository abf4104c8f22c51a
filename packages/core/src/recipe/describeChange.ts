import { boneWords, withoutSide } from '../base/words.ts'
import { bodyOf, colorRegionsOf, fullName, partOf, slotsFor, type Manifests } from '../kit/library.ts'
import type { SliderDef } from '../kit/schema.ts'
import { movementsOf, shapeSlidersOf } from '../kit/movements.ts'
import { isHeld } from './edits.ts'
import { dialsOf } from './dials.ts'
import { expressionOf, isFaceAtRest } from './expressions.ts'
import { softnessOf } from './joints.ts'
import { nudgeOn } from './nudges.ts'
import { sidesOf, unevenSliders } from './symmetry.ts'
import type { Recipe } from './schema.ts'

/**
 * Says in a few words what makes one recipe another, as a step of its history is called: the thing itself
 * where it is one, how many of each kind where they are several. Things whose kits are not here go by their ids.
 */
export function describeChange(before: Recipe, after: Recipe, kits: Manifests): string {
  const { body, name, parts, face, shape, nudged, joints, dials, springs, colors, locks } = changesOf(
    before,
    after,
    kits,
  )
  const all = [
    ...body,
    ...name,
    ...parts,
    ...face,
    ...shape,
    ...nudged,
    ...joints,
    ...dials,
    ...springs,
    ...colors,
    ...locks,
  ]
  const [only] = all
  if (all.length === 0) return 'Nothing seen'
  if (all.length === 1) return only!
  if (shape.length === all.length && isEvened(before, after, kits)) return 'Evened out'
  const counted = [
    ...body,
    ...name,
    ...countOf(parts, 'part'),
    ...face,
    ...countOf(shape, 'slider'),
    ...nudged,
    ...countOf(joints, 'joint'),
    ...countOf(dials, 'clip'),
    ...springs,
    ...countOf(colors, 'color'),
    ...countOf(locks, 'lock'),
  ]
  return counted.join(', ')
}

/** All that makes one recipe another, one thing after another. */
export function listChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  return Object.values(changesOf(before, after, kits)).flat()
}

function changesOf(before: Recipe, after: Recipe, kits: Manifests) {
  const parts = partChanges(before, after, kits)
  const [face, shape] = [faceChange(before, after, kits), shapeChanges(before, after, kits)]
  const colors = colorChanges(before, after, kits)
  const locks = lockChanges(before, after, kits)
  const name = before.name === after.name ? [] : [`Named “${after.name}”`]
  const body = fullName(before.body) === fullName(after.body) ? [] : [`Body: ${bodyName(after, kits)}`]
  return {
    body,
    name,
    parts,
    face,
    shape,
    nudged: nudgeChanges(before, after, kits),
    joints: jointChanges(before, after),
    dials: dialChanges(before, after, kits),
    springs: springChanges(before, after),
    colors,
    locks,
  }
}

const countOf = (changes: readonly string[], noun: string) =>
  changes.length === 0 ? [] : [changes.length === 1 ? changes[0]! : `${changes.length} ${noun}s`]

function bodyName({ body }: Recipe, kits: Manifests): string {
  return bodyOf(kits, body)?.name ?? body.id
}

function slotNames({ body }: Recipe, kits: Manifests): (slot: string) => string {
  const names = new Map(slotsFor(kits, body).map(({ id, name }) => [id, name]))
  return (slot) => names.get(slot) ?? slot
}

function partChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const slotName = slotNames(after, kits)
  const old = new Map(before.parts.map((p) => [p.id, p]))
  const now = new Map(after.parts.map((p) => [p.id, p]))
  const changes: string[] = []
  for (const [id, { slot, part, ...more }] of now) {
    const was = old.get(id)
    const name = partOf(kits, part)?.def.name ?? part.id
    if (!was || fullName(was.part) !== fullName(part)) changes.push(`${slotName(slot)}: ${name}`)
    else {
      const { part: _part, slot: _slot, ...moreBefore } = was
      if (JSON.stringify(more) !== JSON.stringify(moreBefore)) changes.push(`${name} sits otherwise`)
    }
  }
  for (const [id, { slot }] of old) if (!now.has(id)) changes.push(`${slotName(slot)}: off`)
  return changes
}

/** A face that has become a named one, or at rest, is one change, however many muscles moved. */
function faceChange(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const body = bodyOf(kits, after.body)
  if (!body) return []
  const moved = movementsOf(body).filter(
    (s) => JSON.stringify(sidesOf(before, s)) !== JSON.stringify(sidesOf(after, s)),
  )
  if (moved.length < 2) return moved.flatMap((s) => sliderChange(before, after, s))
  const now = expressionOf(after, body)
  if (now) return [`Face: ${now.expression.name}`]
  return [isFaceAtRest(after, body) ? 'Face: at rest' : 'Face: by hand']
}

function sliderChange(before: Recipe, after: Recipe, slider: SliderDef): string[] {
  const [was, now] = [sidesOf(before, slider), sidesOf(after, slider)]
  const moved = [0, 1].filter((side) => was[side] !== now[side])
  if (moved.length === 0) return []
  const by = moved.reduce((sum, side) => sum + now[side]! - was[side]!, 0)
  const where = moved.length === 1 ? `, ${moved[0] === 0 ? 'left' : 'right'}` : ''
  const rests = moved.every((side) => now[side] === slider.default)
  const how = rests ? 'as it was made' : `more ${by < 0 ? slider.ends[0] : slider.ends[1]}`
  return [`${slider.name}${where}: ${how}`]
}

function shapeChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const body = bodyOf(kits, after.body)
  const sliders = body?.sliders ?? []
  const known = new Set(sliders.map((s) => s.id))
  const named = (body ? shapeSlidersOf(body) : []).flatMap((slider) => sliderChange(before, after, slider))
  const ids = new Set([...Object.keys(before.sliders), ...Object.keys(after.sliders)])
  const others = [...ids].filter(
    (id) => !known.has(id) && JSON.stringify(before.sliders[id]) !== JSON.stringify(after.sliders[id]),
  )
  return [...named, ...others]
}

/** What was nudged, where, or brought back. */
function nudgeChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const places = new Set([...(before.nudges ?? []), ...(after.nudges ?? [])].map((n) => n.on))
  return [...places].flatMap((on) => {
    const [was, now] = [nudgeOn(before, on), nudgeOn(after, on)]
    if (JSON.stringify(was) === JSON.stringify(now)) return []
    const part = after.parts.find((p) => p.id === on)?.part
    // one that went with its part is told as the part's going
    if (on !== undefined && !part) return []
    const name = part ? (partOf(kits, part)?.def.name ?? part.id) : bodyName(after, kits)
    return [now ? `${name}: nudged` : `${name}: nudges brought back`]
  })
}

/** Both of a pair are one change. */
function jointChanges(before: Recipe, after: Recipe): string[] {
  const bones = [...new Set([...Object.keys(before.joints ?? {}), ...Object.keys(after.joints ?? {})])]
  const changes = bones.flatMap((bone) => {
    const [was, now] = [softnessOf(before, bone), softnessOf(after, bone)]
    if (was === now) return []
    const name = boneWords(withoutSide(bone)).toLowerCase()
    return [`Joint at the ${name}: ${now > was ? 'softer' : 'stiffer'}`]
  })
  return [...new Set(changes)]
}

function dialChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const clips = [...new Set([...Object.keys(before.dials ?? {}), ...Object.keys(after.dials ?? {})])]
  return clips.flatMap((clip) => {
    const [was, now] = [dialsOf(before, clip), dialsOf(after, clip)]
    if (JSON.stringify(was) === JSON.stringify(now)) return []
    const name = [...kits.values()].flatMap((k) => k.manifest.clips).find((c) => c.id === clip)?.name ?? clip
    return [`${name}: ${Object.keys(now).length ? 'plays otherwise' : 'plays as made'}`]
  })
}

/** Chains are changed together: one line for all of them. */
function springChanges({ springs: was = {} }: Recipe, { springs: now = {} }: Recipe): string[] {
  const changed = [...new Set([...Object.keys(was), ...Object.keys(now)])].filter(
    (limb) => JSON.stringify(was[limb]) !== JSON.stringify(now[limb]),
  )
  if (changed.length === 0) return []
  const names = [...new Set(changed.map((limb) => boneWords(withoutSide(limb))))]
  const [how] = changed.map((limb) => (!was[limb] ? 'swings' : now[limb] ? 'swings otherwise' : 'swings no more'))
  return [names.length === 1 ? `${names[0]!}: ${how!}` : `${names.length} chains: ${how!}`]
}

function isEvened(before: Recipe, after: Recipe, kits: Manifests): boolean {
  const sliders = bodyOf(kits, after.body)?.sliders ?? []
  const changed = sliders.filter((s) => String(sidesOf(before, s)) !== String(sidesOf(after, s)))
  return unevenSliders(before, changed).length === changed.length && unevenSliders(after, changed).length === 0
}

function colorChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const regions = colorRegionsOf(kits, after.body.kit)
  const ids = new Set([...Object.keys(before.colors), ...Object.keys(after.colors)])
  return [...ids]
    .filter((id) => before.colors[id] !== after.colors[id])
    .map((id) => `${regions.get(id)?.name ?? id}: another color`)
}

function lockChanges(before: Recipe, after: Recipe, kits: Manifests): string[] {
  const slotName = slotNames(after, kits)
  const changed = (from: Recipe, to: Recipe, word: string) =>
    to.locks.filter((slot) => !from.locks.includes(slot)).map((slot) => `${slotName(slot)} ${word}`)
  const body = bodyOf(kits, after.body)
  const regions = colorRegionsOf(kits, after.body.kit)
  const nameOf = {
    groups: (id: string) => body?.sliderGroups.find((g) => g.id === id)?.name ?? id,
    colors: (id: string) => regions.get(id)?.name ?? id,
  }
  const held = (from: Recipe, to: Recipe, word: string) =>
    (['groups', 'colors'] as const).flatMap((kind) =>
      (to.held?.[kind] ?? []).filter((id) => !isHeld(from, kind, id)).map((id) => `${nameOf[kind](id)} ${word}`),
    )
  return [
    ...changed(before, after, 'locked'),
    ...changed(after, before, 'unlocked'),
    ...held(before, after, 'locked'),
    ...held(after, before, 'unlocked'),
  ]
}

import { problem, type Problem } from '../base/problem.ts'
import { BODY_PLANS } from './plans/index.ts'
import { boneFault, type BodyPlan } from './plan.ts'
import { namesBody, planOf, refOf } from './library.ts'
import type { KitManifest } from './schema.ts'

/** At most so many faults of one kind are told: a kit with thousands has one cause. */
const MOST = 50

/** What is wrong with a kit's description by itself: names used twice, names of nothing, plans that are none. */
export function checkManifest(manifest: KitManifest): Problem[] {
  return [
    ...duplicateIds(manifest),
    ...(manifest.plans ?? []).flatMap((plan, i) => checkPlan(plan, `kit.json/plans/${i}`)),
    ...checkSlots(manifest),
    ...checkClips(manifest),
    ...checkLooks(manifest),
  ]
}

function duplicateIds(manifest: KitManifest): Problem[] {
  const problems: Problem[] = []
  const lists: Record<string, readonly { id: string }[]> = {
    plans: manifest.plans ?? [],
    bodies: manifest.bodies,
    slots: manifest.slots,
    parts: manifest.parts,
    colorRegions: manifest.colorRegions,
    palettes: manifest.palettes,
    clips: manifest.clips,
    poses: manifest.poses ?? [],
    looks: manifest.looks ?? [],
  }
  manifest.plans?.forEach((plan, i) => (lists[`plans/${i}/points`] = plan.points ?? []))
  manifest.bodies.forEach((body, i) => {
    lists[`bodies/${i}/expressions`] = body.expressions ?? []
    for (const list of ['sliders', 'sliderGroups', 'regions', 'landmarks', 'sockets', 'seams'] as const)
      lists[`bodies/${i}/${list}`] = body[list]
  })
  for (const [name, list] of Object.entries(lists)) {
    const seen = new Set<string>()
    list.forEach((item, i) => {
      if (seen.has(item.id) && problems.length < MOST)
        problems.push(
          problem('id-twice', `kit.json/${name}/${i}`, `The id “${item.id}” is used twice.`, 'Give each its own id.'),
        )
      seen.add(item.id)
    })
  }
  return problems
}

/** What is wrong with a body plan: bones that are no tree, limbs and pairs of bones that are not there. */
export function checkPlan(plan: BodyPlan, where: string): Problem[] {
  const fault = boneFault(plan.bones)
  if (fault)
    return [
      problem(
        'bones-order',
        `${where}/bones`,
        `The bone “${fault.bone}” ${fault.reason}.`,
        'List every bone once, each after the one it hangs from.',
      ),
    ]
  const names = new Set(plan.bones.map((b) => b.name))
  const used: [string, string][] = [
    ...plan.pairs.flatMap(({ left, right }, i): [string, string][] => [
      [`pairs/${i}`, left],
      [`pairs/${i}`, right],
    ]),
    ...plan.limbs.flatMap((limb, i) => limb.bones.map((b): [string, string] => [`limbs/${i}`, b])),
    ...plan.ground.map((b): [string, string] => ['ground', b]),
    ...(plan.points ?? []).flatMap(({ bone, amid = [] }, i) =>
      [bone, ...amid].map((b): [string, string] => [`points/${i}`, b]),
    ),
    ...plan.poses.flatMap((pose, i) => Object.keys(pose.turns).map((b): [string, string] => [`poses/${i}`, b])),
  ]
  const problems = used
    .filter(([, bone]) => !names.has(bone))
    .slice(0, MOST)
    .map(([place, bone]) =>
      problem('bone-unknown', `${where}/${place}`, `The plan has no bone “${bone}”.`, 'Name one of its bones.'),
    )
  plan.limbs.forEach(({ bones, channels, kind }, i) => {
    const many = channels.length === 1 || channels.length === bones.length
    if (!many || (kind === 'leg' && (bones.length < 3 || channels.length < 3)))
      problems.push(
        problem(
          'limb-channels',
          `${where}/limbs/${i}`,
          'A limb has one channel for all its bones or one for each; a leg has at least upper, lower and foot.',
          'Correct its bones or channels.',
        ),
      )
  })
  return problems
}

function checkSlots(manifest: KitManifest): Problem[] {
  const problems: Problem[] = []
  manifest.slots.forEach((slot, i) => {
    for (const name of slot.bodies) {
      const ref = refOf(name, manifest.id)
      if (ref.kit !== manifest.id) continue
      const body = manifest.bodies.find((b) => b.id === ref.id)
      if (!body)
        problems.push(
          problem(
            'body-unknown',
            `kit.json/slots/${i}/bodies`,
            `There is no body “${name}”.`,
            'Name a body of the kit.',
          ),
        )
      else if (!body.regions.some((r) => r.id === slot.region))
        problems.push(
          problem(
            'region-unknown',
            `kit.json/slots/${i}/region`,
            `The body “${name}” has no region “${slot.region}”.`,
            'Name one of its regions.',
            'warning',
          ),
        )
    }
  })
  manifest.bodies.forEach((body, i) => {
    for (const slot of Object.keys(body.defaults)) {
      const here = manifest.slots.some(
        (s) => s.id === slot && namesBody(s.bodies, manifest.id, { kit: manifest.id, id: body.id }),
      )
      if (!here)
        problems.push(
          problem(
            'slot-unknown',
            `kit.json/bodies/${i}/defaults/${slot}`,
            `The body has no slot “${slot}”.`,
            'Add the slot or remove the default.',
          ),
        )
    }
  })
  return problems.slice(0, MOST)
}

function checkClips(manifest: KitManifest): Problem[] {
  const problems: Problem[] = []
  manifest.clips.forEach((clip, i) => {
    const where = `kit.json/clips/${i}`
    if (!manifest.plans?.some((p) => p.id === clip.plan) && !BODY_PLANS.has(clip.plan))
      problems.push(
        problem('plan-unknown', `${where}/plan`, `There is no body plan “${clip.plan}”.`, 'Name a plan.', 'warning'),
      )
    for (const [place, [start, end]] of [
      ['stance', clip.stance] as const,
      ...Object.entries(clip.stances ?? {}).map(([leg, stance]) => [`stances/${leg}`, stance] as const),
    ])
      if (start > end)
        problems.push(
          problem(
            'clip-stance',
            `${where}/${place}`,
            'The stance ends before it begins.',
            'Put the smaller phase first.',
          ),
        )
    const limbs = planOf(manifest, clip.plan)?.limbs
    for (const place of ['phases', 'stances'] as const)
      for (const leg of Object.keys(clip[place] ?? {}))
        if (limbs && !limbs.some((l) => l.kind === 'leg' && l.id === leg))
          problems.push(
            problem(
              'leg-unknown',
              `${where}/${place}/${leg}`,
              `The plan has no leg “${leg}”.`,
              'Name one of its legs.',
              'warning',
            ),
          )
    if (clip.grip?.kind === 'line' && clip.grip.along.every((x) => x === 0))
      problems.push(problem('clip-grip', `${where}/grip/along`, 'The line goes nowhere.', 'Say which way it runs.'))
    for (const [channel, keys] of Object.entries(clip.curves))
      if (keys.some(([phase], k) => k > 0 && phase <= keys[k - 1]![0]))
        problems.push(
          problem('clip-curve', `${where}/curves/${channel}`, 'Its phases do not rise.', 'Put its keys in order.'),
        )
  })
  manifest.poses?.forEach(({ clip }, i) => {
    if (!manifest.clips.some((c) => c.id === clip))
      problems.push(
        problem('clip-unknown', `kit.json/poses/${i}/clip`, `There is no clip “${clip}”.`, 'Name one.', 'warning'),
      )
  })
  return problems.slice(0, MOST)
}

/** Looks that name what is not there. Of other kits' bodies and parts nothing is known here. */
function checkLooks(manifest: KitManifest): Problem[] {
  const problems: Problem[] = []
  manifest.looks?.forEach((look, i) => {
    const miss = (place: string, what: string, remedy: string) =>
      problems.push(problem('look-unknown', `kit.json/looks/${i}/${place}`, what, remedy, 'warning'))
    const bodyRef = refOf(look.body, manifest.id)
    for (const name of look.parts) {
      const ref = refOf(name, manifest.id)
      const part = manifest.parts.find((p) => p.id === ref.id)
      if (ref.kit !== manifest.id) continue
      if (!part) miss('parts', `There is no part “${name}”.`, 'Name a part of the kit.')
      else if (!namesBody(part.bodies, manifest.id, bodyRef))
        miss('parts', `The part “${name}” is not for the body “${look.body}”.`, 'Choose another part.')
    }
    if (bodyRef.kit !== manifest.id) return
    const body = manifest.bodies.find((b) => b.id === bodyRef.id)
    if (!body) {
      miss('body', `There is no body “${look.body}”.`, 'Name a body of the kit.')
      return
    }
    for (const slider of Object.keys(look.sliders))
      if (!body.sliders.some((s) => s.id === slider))
        miss(`sliders/${slider}`, `The body has no slider “${slider}”.`, 'Name one of its sliders.')
    const known = new Set(body.archetypes?.flatMap((set) => set.archetypes.map((a) => a.id)))
    for (const id of look.archetypes ?? [])
      if (!known.has(id)) miss('archetypes', `The body has no archetype “${id}”.`, 'Name one of its archetypes.')
    const [face] = look.face ?? []
    if (face !== undefined && !body.expressions?.some((e) => e.id === face))
      miss('face', `The body has no expression “${face}”.`, 'Name one of its expressions.')
  })
  return problems.slice(0, MOST)
}

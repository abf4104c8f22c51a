import { problem, type Problem, type Read } from '../base/problem.ts'
import { springBodyOf } from '../motion/springs.ts'
import type { License } from '../recipe/license.ts'
import type { Target } from '../recipe/target.ts'
import type { GlbWriter } from '../scene/GlbWriter.ts'
import { localPlace } from './boneAxes.ts'
import { HUMAN_BONES } from './humanoid.ts'
import type { Prepared } from './prepare.ts'
import { glbOf } from './writeFigure.ts'

const DIGITS = ['Thumb', 'Index', 'Middle', 'Ring', 'Little']
/** All that it knows. */
const HUMANOID = new Set([
  ...HUMAN_BONES,
  ...['chest', 'upperChest', 'neck', 'leftEye', 'rightEye', 'jaw'],
  ...['left', 'right'].flatMap((side) => [
    ...['Toes', 'Shoulder'].map((bone) => `${side}${bone}`),
    ...DIGITS.flatMap((digit) =>
      (digit === 'Thumb' ? ['Metacarpal', 'Proximal', 'Distal'] : ['Proximal', 'Intermediate', 'Distal']).map(
        (part) => `${side}${digit}${part}`,
      ),
    ),
  ]),
])
const PRESETS = new Set([
  ...['happy', 'angry', 'sad', 'relaxed', 'surprised', 'aa', 'ih', 'ou', 'ee', 'oh'],
  ...['blink', 'blinkLeft', 'blinkRight', 'lookUp', 'lookDown', 'lookLeft', 'lookRight', 'neutral'],
])
const LOOKS = ['lookUp', 'lookDown', 'lookLeft', 'lookRight']

/** The target by which a figure is made a VRM: arms straight out, the finest level alone, with all its faces and no clips. */
export function vrmTarget(target: Target): Target {
  const { convention } = target
  const { joints, ...bones } = convention.bones
  return {
    ...target,
    // chains that swing have their widths in metres, whatever a joint is scaled by: none is
    convention: {
      ...{ ...convention, rest: 't' },
      bones: { ...bones, ...(joints && { joints: joints.map(({ scale: _, ...joint }) => joint) }) },
    },
    // what reads avatars may read neither
    gltf: {},
    ...{ lods: [], keepSliders: [], keepClips: [], keepExpressions: target.keepExpressions ?? 'all' },
  }
}

/**
 * Writes a figure as VRM 1.0: binary glTF with what avatars need — which node is which bone of a human, faces, where it
 * looks, what is seen of it from within, chains that swing, and its license.
 *
 * @param prepared by `vrmTarget`
 */
export function writeVrm(prepared: Prepared): Read<Uint8Array> {
  const { leaving, place, recipe, target } = prepared
  const fault = (code: string, message: string, fix: string): Read<Uint8Array> => ({
    value: null,
    problems: [problem(code, recipe.name, message, fix)],
  })
  const missing = HUMAN_BONES.filter((bone) => !place.has(bone))
  if (missing.length)
    return fault(
      'vrm-humanoid',
      `VRM is for figures with a human’s bones; it has no ${missing.map((b) => `“${b}”`).join(', ')}.`,
      'Take GLB for this figure, or more skeleton.',
    )
  const authors = target.license?.authors ?? []
  if (authors.length === 0)
    return fault('vrm-author', 'A VRM says who made it, and nobody is named.', 'Say who made it, in its license.')
  const { file, joints, levels } = glbOf({ ...prepared, clips: [] })
  const nodeOf = (bone: string) => joints[place.get(bone)!]!
  const bones = [...place].filter(([bone, i]) => HUMANOID.has(bone) && leaving.bones[i] !== undefined)
  // two bones folded onto one are one: the first of them, which is nearer to the root
  const humanBones: Record<string, { node: number }> = {}
  const taken = new Set<number>()
  for (const [bone] of bones) {
    if (taken.has(nodeOf(bone))) continue
    taken.add(nodeOf(bone))
    humanBones[bone] = { node: nodeOf(bone) }
  }
  const { expressions, problems } = facesOf(prepared, levels[0]!)
  const eyes = ['leftEye', 'rightEye'].every((e) => Object.hasOwn(humanBones, e))
  const looks = LOOKS.every((name) => Object.hasOwn(expressions.preset, name))
  const springs = springsOf(prepared, file, joints)
  file.json.extensions = {
    VRMC_vrm: {
      specVersion: '1.0',
      meta: metaOf(recipe.name, target.license!),
      humanoid: { humanBones },
      firstPerson: { meshAnnotations: levels.map((node) => ({ node, type: 'auto' })) },
      ...((eyes || looks) && { lookAt: lookAtOf(prepared, eyes ? 'bone' : 'expression') }),
      expressions,
    },
    ...(springs && { VRMC_springBone: springs }),
  }
  file.json.extensionsUsed = ['VRMC_vrm', ...(springs ? ['VRMC_springBone'] : [])]
  return { value: file.bytes(), problems }
}

/** What the standard asks of a file, in its words. */
function metaOf(name: string, license: License) {
  const { authors, contact, usedBy = 'authors', gain = 'none', credit = 'needed', changed = 'no' } = license
  return {
    name,
    authors,
    ...(contact && { contactInformation: contact }),
    licenseUrl: 'https://vrm.dev/licenses/1.0/',
    avatarPermission: { authors: 'onlyAuthor', 'those-asked': 'onlySeparatelyLicensedPerson', everyone: 'everyone' }[
      usedBy
    ],
    commercialUsage: { none: 'personalNonProfit', personal: 'personalProfit', companies: 'corporation' }[gain],
    creditNotation: credit === 'needed' ? 'required' : 'unnecessary',
    allowRedistribution: license.passedOn ?? false,
    modification: {
      no: 'prohibited',
      'for-oneself': 'allowModification',
      'and-passed-on': 'allowModificationRedistribution',
    }[changed],
    allowExcessivelyViolentUsage: license.violence ?? false,
    allowExcessivelySexualUsage: license.sexual ?? false,
    allowPoliticalOrReligiousUsage: license.politics ?? false,
    allowAntisocialOrHateUsage: license.hate ?? false,
  }
}

function facesOf({ leaving }: Prepared, node: number) {
  const preset: Record<string, unknown> = {}
  const custom: Record<string, unknown> = {}
  leaving.movements.forEach(({ name, kind }, index) => {
    if (kind !== 'expression') return
    const face = { isBinary: false, morphTargetBinds: [{ node, index, weight: 1 }] }
    ;(PRESETS.has(name) ? preset : custom)[name] = face
  })
  const none = Object.keys(preset).length + Object.keys(custom).length === 0
  const problems: Problem[] = none
    ? [
        problem(
          'vrm-faces',
          leaving.name,
          'It has no faces to make.',
          'Let the target keep expressions, or choose a body that has some.',
          'warning',
        ),
      ]
    : []
  return { expressions: { preset, ...(Object.keys(custom).length && { custom }) }, problems }
}

/** Eyes turn as far as these, degrees; faces that look are whole there. */
const LOOKING = { most: 90, eyes: 10 }

function lookAtOf({ leaving, place, points }: Prepared, type: 'bone' | 'expression') {
  const head = leaving.bones[place.get('head')!]!
  const eyes = points.filter((p) => p.id === 'leftEye' || p.id === 'rightEye').map((p) => p.at)
  const between = eyes.length
    ? [0, 1, 2].map((k) => eyes.reduce((sum, at) => sum + at[k]!, 0) / eyes.length)
    : head.tail.map((v, k) => (v + head.at[k]!) / 2)
  const range = { inputMaxValue: LOOKING.most, outputScale: type === 'bone' ? LOOKING.eyes : 1 }
  return {
    type,
    offsetFromHeadBone: localPlace(head, between),
    rangeMapHorizontalInner: range,
    rangeMapHorizontalOuter: range,
    rangeMapVerticalDown: range,
    rangeMapVerticalUp: range,
  }
}

/** Chains that the recipe lets swing, with capsules along the figure's bones to keep out of; none where nothing swings. */
function springsOf({ recipe, target, standing, leaving, place }: Prepared, file: GlbWriter, joints: readonly number[]) {
  const swinging = standing.skeleton.limbs.filter(({ id }) => recipe.springs && Object.hasOwn(recipe.springs, id))
  if (swinging.length === 0) return null
  const scale = target.convention.scale ?? 1
  const { capsules, thick } = springBodyOf(standing.mesh, standing.skeleton)
  const own = new Map(standing.skeleton.bones.map((b, i) => [b.name, i]))
  const inChains = new Set(swinging.flatMap((l) => l.bones))
  const colliders = capsules
    .filter(({ bone }) => !inChains.has(standing.skeleton.bones[bone]!.name))
    .map(({ bone, along, radius }) => {
      const index = place.get(standing.skeleton.bones[bone]!.name)!
      const { at } = leaving.bones[index]!
      const end = along.toArray().map((v, k) => v * scale + at[k]!)
      return {
        node: joints[index]!,
        shape: { capsule: { offset: [0, 0, 0], radius: radius * scale, tail: localPlace(leaving.bones[index]!, end) } },
      }
    })
  const springs = swinging.map(({ id, bones }) => {
    const { stiffness, drag, gravity } = recipe.springs![id]!
    const chain = bones.filter((b) => place.has(b))
    const said = chain.map((bone) => ({
      node: joints[place.get(bone)!]!,
      hitRadius: (thick[own.get(bone)!] ?? 0) * scale,
      ...{ stiffness, gravityPower: gravity, gravityDir: [0, -1, 0], dragForce: Math.min(1, drag) },
    }))
    // the standard's chains end in a joint that only tells where the last one ends
    const last = leaving.bones[place.get(chain.at(-1)!)!]!
    const end = file.add('nodes', { name: `${last.name}End`, translation: localPlace(last, last.tail) })
    ;(file.json.nodes![said.at(-1)!.node]!.children ??= []).push(end)
    return { name: id, joints: [...said, { node: end }], ...(colliders.length && { colliderGroups: [0] }) }
  })
  return {
    specVersion: '1.0',
    ...(colliders.length && { colliders, colliderGroups: [{ name: 'body', colliders: colliders.map((_, i) => i) }] }),
    springs,
  }
}

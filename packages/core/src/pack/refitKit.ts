import { Document, WebIO, type Accessor, type Material } from '@gltf-transform/core'
import { Quaternion, Vector3 } from 'three'
import { problem, type Problem, type Read } from '../base/problem.ts'
import type { BodyModel, Kit, PartModel } from '../kit/Kit.ts'
import { colorRegionsOf, fullName, namesBody, slotsFor, type KitRef } from '../kit/library.ts'
import type { KitFiles } from '../kit/readKit.ts'
import type { PartDef, SlotDef } from '../kit/schema.ts'
import { addManifest, freshId, newManifest } from './packKit.ts'
import { refitPart, type Refit } from './refit.ts'
import { worstEnd, type RefitAdjust, type RefitReport, type WorstEnd } from './refitFit.ts'

/** Parts that are carried over from one body to another, and the kit they come to be in. */
export interface RefitOrder {
  id: string
  name: string
  parts: readonly KitRef[]
  from: KitRef
  to: KitRef
  /** How they are to lie otherwise than they come to. */
  adjust?: RefitAdjust
}

/** A part that was carried over, how it went, and how it sits at the ends of the body's sliders. */
export interface RefitPart {
  part: KitRef
  report: RefitReport
  /** Points it has. */
  points: number
  /** Where the doubtful ones lie on the other body, xyz each, metres. */
  doubtfulAt: Float32Array
  end: WorstEnd | null
}

/**
 * Makes a kit of parts that are made for one body, carried over to another.
 *
 * @returns the files of the kit, and of each part how it went; parts that cannot be carried over are told and left out
 */
export async function refitKit(
  kits: ReadonlyMap<string, Kit>,
  { id, name, parts, from, to, adjust }: RefitOrder,
): Promise<Read<{ files: KitFiles; parts: RefitPart[] }>> {
  const problems: Problem[] = []
  const [here, there] = [from, to].map((ref) => kits.get(ref.kit)?.bodies.get(ref.id))
  for (const [ref, body] of [
    [from, here],
    [to, there],
  ] as const)
    if (!body) problems.push(problem('body-unknown', fullName(ref), 'This body is not here.', 'Choose another.'))
  if (!here || !there) return { value: null, problems }
  const manifests = new Map([...kits].map(([kit, { manifest }]) => [kit, { manifest }]))
  const [slots, theirs] = [slotsFor(manifests, to), slotsFor(manifests, from)]
  const manifest = newManifest(id, name)
  const files = new Map<string, Uint8Array>()
  const made: RefitPart[] = []
  const taken = new Set<string>()
  for (const ref of parts) {
    const part = kits.get(ref.kit)?.parts.get(ref.id)
    const fault = part ? whyNot(part, here, there) : 'It is not here.'
    const refit = fault || !part ? null : refitPart(part, here, there, adjust)
    if (!part || !refit) {
      const message = fault ?? 'The two bodies share no bones.'
      problems.push(problem('refit-cannot', fullName(ref), message, 'Leave it out.', 'warning'))
      continue
    }
    const partId = freshId([ref.id], taken)
    const file = `parts/${partId}.glb`
    const { model, def } = onOther(part, refit, there, { ...part.def, id: partId, file, bodies: [fullName(to)] }, slots)
    files.set(file, await writeModel(model))
    manifest.parts.push(def)
    // a slot that the other body lacks comes along
    const slot = theirs.find((s) => s.id === def.slot)
    if (slot && ![...slots, ...manifest.slots].some((s) => s.id === def.slot)) {
      const region = there.def.regions.some((r) => r.id === slot.region) ? slot.region : there.def.regions[0]!.id
      manifest.slots.push({ ...slot, region, bodies: [fullName(to)] })
    }
    const colors = colorRegionsOf(manifests, ref.kit)
    for (const region of part.mesh.regionNames)
      if (colors.has(region) && !manifest.colorRegions.some((r) => r.id === region))
        manifest.colorRegions.push(colors.get(region)!)
    const end = worstEnd(there, { ...model, def })
    const doubtfulAt = rows(refit.report.doubtful, refit.positions, 3)
    made.push({ part: ref, report: refit.report, points: refit.positions.length / 3, doubtfulAt, end })
  }
  if (made.length === 0) {
    problems.push(problem('refit-none', 'refit', 'No part could be carried over.', 'Name others, or another body.'))
    return { value: null, problems }
  }
  const faults = addManifest(files, manifest)
  if (faults.length) return { value: null, problems: [...problems, ...faults] }
  return { value: { files, parts: made }, problems }
}

/** Why a part cannot be carried over; null where nothing speaks against it. */
function whyNot({ kit, def, bones }: PartModel, from: BodyModel, to: BodyModel): string | null {
  const ref = { kit: from.kit, id: from.def.id }
  if (!namesBody(def.bodies, kit, ref)) return `It is not made for “${from.def.name}”.`
  if (def.how === 'replaces') return 'It takes the place of a part of the body.'
  if (bones.length) return 'It brings bones of its own.'
  if (def.how === 'attached' && !to.def.sockets.some((s) => s.id === def.socket))
    return `“${to.def.name}” has no socket “${def.socket}”.`
  return null
}

/** The part on the other body: its model there, and what of its rules means something there. */
function onOther(part: PartModel, { positions, turns }: Refit, to: BodyModel, def: PartDef, slots: readonly SlotDef[]) {
  const socket = def.how === 'attached' ? to.def.sockets.find((s) => s.id === def.socket)! : null
  const placed = socket ? positions.map((v, i) => v - socket.at[i % 3]!) : positions
  const known = (ids: readonly string[] | undefined) => {
    const left = ids?.filter((slot) => slots.some((s) => s.id === slot))
    return left?.length ? left : undefined
  }
  const { requires: _, excludes: __, ...rest } = def
  const covers = known(def.covers)
  const common = { ...rest, covers }
  if (common.how === 'worn') {
    const binds = common.binds?.every((r) => to.def.regions.some((one) => one.id === r)) ? common.binds : undefined
    Object.assign(common, { binds, presses: known(common.presses), skin: undefined })
  }
  const morphs = part.mesh.morphs.map((morph) => {
    const turn = new Quaternion()
    const move = new Vector3()
    const deltas = new Float32Array(morph.deltas.length)
    morph.points.forEach((p, i) => {
      turn.fromArray(turns, p * 4)
      // its length is the root of what is grown
      const grown = turn.lengthSq()
      move
        .fromArray(morph.deltas, i * 3)
        .applyQuaternion(turn.normalize())
        .multiplyScalar(grown)
        .toArray(deltas, i * 3)
    })
    return { ...morph, deltas }
  })
  const { skin: ___, ...model } = part
  return {
    model: { ...model, mesh: { ...part.mesh, positions: placed, morphs } } satisfies PartModel,
    def: common as PartDef,
  }
}

/** A part's model as a GLB of a kit: a vertex a corner, a primitive a color region, with its light, softness, picture and moves. */
async function writeModel({ mesh, paints, def }: Pick<PartModel, 'mesh' | 'paints' | 'def'>): Promise<Uint8Array> {
  const document = new Document()
  document.getRoot().getAsset().generator = 'idle-tinker'
  const buffer = document.createBuffer()
  const made = document.createMesh(def.id).setExtras({ targetNames: mesh.morphs.map((m) => m.name) })
  const rowOf = mesh.morphs.map((m) => new Map([...m.points].map((p, i) => [p, i])))
  for (const [r, region] of mesh.regionNames.entries()) {
    const corners: number[] = []
    const number = new Map<number, number>()
    const indices: number[] = []
    for (let t = 0; t < mesh.indices.length; t += 3) {
      if (mesh.regions[mesh.indices[t]!] !== r) continue
      for (let k = 0; k < 3; k++) {
        const c = mesh.indices[t + k]!
        if (!number.has(c)) number.set(c, corners.push(c) - 1)
        indices.push(number.get(c)!)
      }
    }
    if (indices.length === 0) continue
    const accessor = (
      type: Parameters<Accessor['setType']>[0],
      array: Float32Array<ArrayBuffer> | Uint32Array<ArrayBuffer> | Uint8Array<ArrayBuffer>,
    ) => document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
    const points = corners.map((c) => mesh.cornerPoints[c]!)
    const primitive = document
      .createPrimitive()
      .setMaterial(materialOf(document, region, paints))
      .setIndices(accessor('SCALAR', Uint32Array.from(indices)))
      .setAttribute('POSITION', accessor('VEC3', rows(points, mesh.positions, 3)))
      .setAttribute(
        'COLOR_0',
        accessor('VEC3', Uint8Array.from(corners.flatMap((c) => Array<number>(3).fill(mesh.shades[c]!)))).setNormalized(
          true,
        ),
      )
    if (corners.some((c) => mesh.softness[c]! > 0))
      primitive.setAttribute(
        '_SOFTNESS',
        accessor(
          'SCALAR',
          Float32Array.from(corners, (c) => mesh.softness[c]! / 255),
        ),
      )
    if (paints.has(region)) primitive.setAttribute('TEXCOORD_0', accessor('VEC2', rows(corners, mesh.uvs, 2)))
    for (const [m, morph] of mesh.morphs.entries()) {
      const deltas = points.flatMap((p) => {
        const row = rowOf[m]!.get(p)
        return row === undefined ? [0, 0, 0] : [...morph.deltas.subarray(row * 3, row * 3 + 3)]
      })
      primitive.addTarget(
        document
          .createPrimitiveTarget(morph.name)
          .setAttribute(
            'POSITION',
            accessor('VEC3', Float32Array.from(deltas)).setSparse(
              deltas.filter((v) => v !== 0).length * 2 < deltas.length,
            ),
          ),
      )
    }
    made.addPrimitive(primitive)
  }
  document.createScene(def.id).addChild(document.createNode(def.id).setMesh(made))
  return new WebIO().writeBinary(document)
}

const rows = (list: readonly number[], from: Float32Array, size: number) =>
  Float32Array.from(list.flatMap((i) => [...from.subarray(i * size, i * size + size)]))

function materialOf(document: Document, region: string, paints: PartModel['paints']): Material {
  const material = document.createMaterial(region).setRoughnessFactor(0.9).setMetallicFactor(0)
  const paint = paints.get(region)
  if (paint)
    material.setBaseColorTexture(
      document.createTexture(region).setMimeType(paint.mimeType).setImage(new Uint8Array(paint.image)),
    )
  return material
}

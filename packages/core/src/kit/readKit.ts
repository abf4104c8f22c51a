import { hasErrors, problem, type Problem, type Read } from '../base/problem.ts'
import { contentHash } from '../base/canonical.ts'
import { parseJson, validate } from '../base/validate.ts'
import type { Mesh } from '../mesh/Mesh.ts'
import { readModel, type Model } from './readModel.ts'
import { KIT_FORMAT, KitSchema, type BodyDef, type KitManifest, type PartDef } from './schema.ts'
import { planBones, type PlannedBone } from './skeletonPlan.ts'

/** The files of a kit by path, `kit.json` among them. */
export type KitFiles = ReadonlyMap<string, Uint8Array>

/** A body ready for use: its mesh's joints index `bones`. */
export interface BodyModel {
  kit: string
  def: BodyDef
  mesh: Mesh
  bones: PlannedBone[]
}

export interface PartModel {
  kit: string
  def: PartDef
  mesh: Mesh
}

/** A kit that has been read and checked. What was broken is left out and told as problems. */
export interface Kit {
  manifest: KitManifest
  /** Content hash of every file. */
  hash: string
  bodies: Map<string, BodyModel>
  parts: Map<string, PartModel>
}

/** Reads a kit. A broken kit never throws; a broken part costs only that part. */
export async function readKit(files: KitFiles): Promise<Read<Kit>> {
  const json = files.get('kit.json')
  if (!json)
    return {
      value: null,
      problems: [
        problem('kit-json-missing', 'kit.json', 'There is no kit.json.', 'Put kit.json at the top of the kit.'),
      ],
    }
  const parsed = parseJson(new TextDecoder().decode(json), 'kit.json')
  if (parsed.problems.length) return { value: null, problems: parsed.problems }
  const newer = parsed.value as { format?: unknown; version?: unknown } | null
  if (newer?.format === KIT_FORMAT && typeof newer.version === 'number' && newer.version > 1)
    return {
      value: null,
      problems: [
        problem(
          'kit-newer',
          'kit.json/version',
          `The kit is of format version ${newer.version}; this workshop reads 1.`,
          'Update the workshop.',
        ),
      ],
    }
  const checked = validate(KitSchema, parsed.value, 'kit.json')
  if (!checked.value) return { value: null, problems: checked.problems }
  const manifest = checked.value
  const problems: Problem[] = [...duplicateIds(manifest)]

  const models = new Map<string, Model>()
  const load = async (file: string, where: string): Promise<Model | null> => {
    const ready = models.get(file)
    if (ready) return ready
    const bytes = files.get(file)
    if (!bytes) {
      problems.push(
        problem('kit-file-missing', where, `The file ${file} is not in the kit.`, 'Add it or correct its path.'),
      )
      return null
    }
    const read = await readModel(bytes, file)
    problems.push(...read.problems)
    if (read.value) models.set(file, read.value)
    return read.value
  }

  const bodies = new Map<string, BodyModel>()
  for (const [i, def] of manifest.bodies.entries()) {
    const model = await load(def.file, `kit.json/bodies/${i}`)
    if (!model) continue
    const body = checkBody(manifest, def, model, `kit.json/bodies/${i}`)
    problems.push(...body.problems)
    if (body.value) bodies.set(def.id, body.value)
  }

  const parts = new Map<string, PartModel>()
  for (const [i, def] of manifest.parts.entries()) {
    const where = `kit.json/parts/${i}`
    const found = checkPart(manifest, def, where)
    problems.push(...found)
    const model = await load(def.file, where)
    if (!model || hasErrors(found)) continue
    const unknown = model.mesh.regionNames.filter((r) => !manifest.colorRegions.some((c) => c.id === r))
    for (const r of unknown)
      problems.push(
        problem(
          'color-region-unknown',
          `${def.file}`,
          `Its material “${r}” is not one of the kit's color regions.`,
          'Name the material after a color region.',
          'warning',
        ),
      )
    parts.set(def.id, { kit: manifest.id, def, mesh: model.mesh })
  }
  const listing = [...files].sort(([a], [b]) => (a < b ? -1 : 1)).map(([path, bytes]) => [path, contentHash(bytes)])
  return { value: { manifest, hash: contentHash(listing), bodies, parts }, problems }
}

function duplicateIds(manifest: KitManifest): Problem[] {
  const problems: Problem[] = []
  const lists = {
    bodies: manifest.bodies,
    slots: manifest.slots,
    parts: manifest.parts,
    colorRegions: manifest.colorRegions,
    palettes: manifest.palettes,
    clips: manifest.clips,
  }
  for (const [name, list] of Object.entries(lists)) {
    const seen = new Set<string>()
    list.forEach((item, i) => {
      if (seen.has(item.id))
        problems.push(
          problem('id-twice', `kit.json/${name}/${i}`, `The id “${item.id}” is used twice.`, 'Give each its own id.'),
        )
      seen.add(item.id)
    })
  }
  return problems
}

function checkBody(manifest: KitManifest, def: BodyDef, model: Model, where: string): Read<BodyModel> {
  const problems: Problem[] = []
  const landmarks = new Set(def.landmarks.map((l) => l.id))
  const bones = planBones(def.plan, landmarks, def.bones)
  const index = new Map(bones.map((b, i) => [b.name, i]))
  if (!index.has('hips'))
    problems.push(
      problem(
        'landmark-missing',
        `${where}/landmarks`,
        'There is no landmark “hips”.',
        'Every skeleton starts at the hips: add it.',
      ),
    )
  for (const bone of bones)
    if (bone.parent !== null && !index.has(bone.parent))
      problems.push(
        problem(
          'landmark-missing',
          `${where}/landmarks`,
          `The bone “${bone.name}” hangs from “${bone.parent}”, which has no landmark.`,
          `Add the landmark “${bone.parent}”.`,
        ),
      )
  for (const [i, slider] of def.sliders.entries())
    if (!def.sliderGroups.some((g) => g.id === slider.group))
      problems.push(
        problem(
          'slider-group-unknown',
          `${where}/sliders/${i}/group`,
          `There is no slider group “${slider.group}”.`,
          'Add it to sliderGroups or choose another.',
        ),
      )
  for (const [i, slider] of def.sliders.entries())
    for (const morph of [slider.up, slider.down])
      if (morph !== undefined && !model.mesh.morphs.some((m) => m.name === morph))
        problems.push(
          problem(
            'morph-missing',
            `${where}/sliders/${i}`,
            `The model has no morph target “${morph}”.`,
            'Add it to the GLB or correct the name.',
          ),
        )
  const { joints, weights } = model.mesh
  const unknown = new Set<string>()
  const renamed = Uint8Array.from(joints, (j, i) => {
    if (weights[i] === 0) return 0
    const name = model.boneNames[j] ?? `joint ${j}`
    const at = index.get(name)
    if (at === undefined) unknown.add(name)
    return at ?? 0
  })
  for (const name of unknown)
    problems.push(
      problem(
        'bone-unknown',
        `${where}/landmarks`,
        `The skin uses a bone “${name}” that has no landmark.`,
        'Add a landmark of that name.',
      ),
    )
  for (let p = 0; p < weights.length; p += 4)
    if (weights[p]! + weights[p + 1]! + weights[p + 2]! + weights[p + 3]! < 0.5) {
      problems.push(
        problem(
          'skin-missing',
          def.file,
          'Some points of the body have no skin weights.',
          'Skin every vertex of the body.',
        ),
      )
      break
    }
  for (const [slot, part] of Object.entries(def.defaults))
    if (!manifest.parts.some((p) => p.id === part && p.slot === slot))
      problems.push(
        problem(
          'part-unknown',
          `${where}/defaults/${slot}`,
          `There is no part “${part}” for this slot.`,
          'Name a part of the kit.',
        ),
      )
  if (hasErrors(problems)) return { value: null, problems }
  return { value: { kit: manifest.id, def, mesh: { ...model.mesh, joints: renamed }, bones }, problems }
}

function checkPart(manifest: KitManifest, def: PartDef, where: string): Problem[] {
  const problems: Problem[] = []
  if (!manifest.slots.some((s) => s.id === def.slot))
    problems.push(
      problem('slot-unknown', `${where}/slot`, `There is no slot “${def.slot}”.`, 'Add the slot or choose another.'),
    )
  for (const id of def.bodies) {
    const body = manifest.bodies.find((b) => b.id === id)
    if (!body) {
      problems.push(problem('body-unknown', `${where}/bodies`, `There is no body “${id}”.`, 'Name a body of the kit.'))
      continue
    }
    if (def.how === 'attached' && !body.sockets.some((s) => s.id === def.socket))
      problems.push(
        problem(
          'socket-unknown',
          `${where}/socket`,
          `The body has no socket “${def.socket}”.`,
          'Name one of its sockets.',
        ),
      )
    if (def.how === 'replaces' && !body.seams.some((s) => s.id === def.seam))
      problems.push(
        problem('seam-unknown', `${where}/seam`, `The body has no seam “${def.seam}”.`, 'Name one of its seams.'),
      )
    if (def.how === 'worn')
      for (const region of def.binds ?? [])
        if (!body.regions.some((r) => r.id === region))
          problems.push(
            problem(
              'region-unknown',
              `${where}/binds`,
              `The body has no region “${region}”.`,
              'Name one of its regions.',
            ),
          )
  }
  return problems
}

import type { BodyDef, KitManifest, PartDef } from '@idle-tinker/core'
import { planOf, prepareBody, readKit, regionLoop } from '@idle-tinker/core'
import { Dummy } from './model/garment.ts'
import { surfaceOf } from './model/bake.ts'
import type { Face, Point, Sculpt } from './model/Sculpt.ts'
import { mean, sub, type V3 } from './model/vector.ts'
import { writeGlb } from './model/writeGlb.ts'
import type { PartSpec } from './folk/parts/spec.ts'
import type { SliderSpec } from './folk/sliders/fields.ts'
import type { CorrectiveSpec } from './folk/sliders/whole.ts'

export interface BodySource {
  id: string
  name: string
  /** A plan of the kit, or one that comes with the workshop. */
  plan: string
  /** Metres in one body unit. */
  scale: number
  sculpt: Sculpt
  landmarks: ReadonlyMap<string, V3>
  skin: (p: Point) => [string, number][]
  sliders: SliderSpec[]
  correctives: CorrectiveSpec[]
  sliderGroups: BodyDef['sliderGroups']
  expressions?: BodyDef['expressions']
  archetypes?: BodyDef['archetypes']
  regions: BodyDef['regions']
  bones: BodyDef['bones']
  /** Chains of bones beyond the plan. */
  limbs: NonNullable<BodyDef['limbs']>
  /** Places in body units. */
  sockets: BodyDef['sockets']
  /** Around a whole region, or around some faces of the body. */
  seams: { id: string; name: string; region: string; faces?: (f: Face) => boolean }[]
  defaults: Record<string, string>
  parts: PartSpec[]
}

/** Parts for a body of another kit, modeled on it. */
export interface GuestSource extends Pick<BodySource, 'scale' | 'sculpt' | 'sockets' | 'parts'> {
  /** As "kit/body". */
  id: string
}

export interface KitSource {
  manifest: Pick<
    KitManifest,
    | 'format'
    | 'version'
    | 'id'
    | 'name'
    | 'kitVersion'
    | 'license'
    | 'plans'
    | 'slots'
    | 'colorRegions'
    | 'palettes'
    | 'clips'
    | 'poses'
    | 'looks'
  >
  bodies: BodySource[]
  guests?: GuestSource[]
}

const round = (v: number) => Math.round(v * 1e5) / 1e5
const metres = (at: readonly number[], k: number): [number, number, number] => [
  round(at[0]! * k),
  round(at[1]! * k),
  round(at[2]! * k),
]

/** Makes a kit's files: GLBs for bodies and parts, then kit.json. Same source, same bytes. */
export async function writeKit(source: KitSource): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  const bodies: BodyDef[] = []
  const parts: PartDef[] = []
  for (const body of source.bodies) {
    const dummy = new Dummy(body.sculpt)
    const file = `bodies/${body.id}.glb`
    const bones = [...planOf(source.manifest, body.plan)!.bones, ...body.bones].filter((b) =>
      body.landmarks.has(b.name),
    )
    files.set(
      file,
      await writeGlb({
        name: body.id,
        sculpt: body.sculpt,
        scale: body.scale,
        around: dummy.surface,
        morphs: [
          ...body.sliders.flatMap((s) => [
            { name: `${s.id}+`, move: s.up },
            ...(s.down ? [{ name: `${s.id}-`, move: s.down }] : []),
          ]),
          ...body.correctives.map(({ id, move }) => ({ name: id, move })),
        ],
        skin: {
          bones: bones.map((b) => ({ name: b.name, parent: b.parent, at: body.landmarks.get(b.name)! })),
          of: body.skin,
        },
      }),
    )
    bodies.push({
      id: body.id,
      name: body.name,
      plan: body.plan,
      file,
      sliders: body.sliders.map(({ id, name, group, ends, down, pull, range }) => ({
        id,
        name,
        group,
        min: range?.[0] ?? -1,
        max: range?.[1] ?? 1,
        default: 0,
        up: `${id}+`,
        ...(down ? { down: `${id}-` } : {}),
        ends,
        ...(pull
          ? { pull: { landmark: pull.landmark, direction: [...pull.direction] as [number, number, number] } }
          : {}),
      })),
      ...(body.correctives.length
        ? { correctives: body.correctives.map(({ id, when }) => ({ morph: id, when })) }
        : {}),
      sliderGroups: body.sliderGroups,
      ...(body.archetypes ? { archetypes: body.archetypes } : {}),
      ...(body.expressions?.length ? { expressions: body.expressions } : {}),
      regions: body.regions,
      landmarks: [...body.landmarks].map(([id, at]) => ({ id, at: metres(at, body.scale) })),
      sockets: body.sockets.map((s) => ({ ...s, at: metres(s.at, body.scale) })),
      seams: [],
      bones: body.bones,
      ...(body.limbs.length ? { limbs: body.limbs } : {}),
      defaults: body.defaults,
    })
  }
  for (const body of [...source.bodies, ...(source.guests ?? [])]) {
    const dummy = new Dummy(body.sculpt)
    for (const spec of body.parts) {
      const { make, morphs, skin, alsoOn = [], ...def } = spec
      const sculpt = make(dummy)
      const socket = def.how === 'attached' ? body.sockets.find((s) => s.id === def.socket)! : null
      // shade falls from the body too, where the part will sit
      const around = surfaceOf(
        sculpt,
        body.sculpt.copy().move((p) => sub(p, socket?.at ?? [0, 0, 0])),
      )
      files.set(
        `parts/${def.id}.glb`,
        await writeGlb({
          name: def.id,
          sculpt,
          scale: body.scale,
          around,
          morphs: morphs?.(dummy) ?? [],
          ...(skin && { skin }),
        }),
      )
      parts.push({ ...def, bodies: [body.id, ...alsoOn], file: `parts/${def.id}.glb` } as PartDef)
    }
  }
  const manifest: KitManifest = { ...source.manifest, bodies, parts }
  await addSeams(manifest, files, source)
  files.set('kit.json', new TextEncoder().encode(`${JSON.stringify(manifest, null, 1)}\n`))
  return files
}

/** Seam loops are read off the finished body, so that parts can be checked against them. */
async function addSeams(
  manifest: KitManifest,
  files: ReadonlyMap<string, Uint8Array>,
  source: KitSource,
): Promise<void> {
  const bare = {
    ...manifest,
    parts: [],
    looks: [],
    bodies: manifest.bodies.map((b) => ({ ...b, defaults: {}, archetypes: [] })),
  }
  const { value: kit, problems } = await readKit(
    new Map([...files, ['kit.json', new TextEncoder().encode(JSON.stringify(bare))]]),
  )
  if (!kit) throw new Error(problems.map((p) => `${p.where}: ${p.message}`).join('\n'))
  for (const body of source.bodies) {
    const model = kit.bodies.get(body.id)
    if (!model) throw new Error(problems.map((p) => `${p.where}: ${p.message}`).join('\n'))
    const prepared = prepareBody(model)
    manifest.bodies.find((b) => b.id === body.id)!.seams = body.seams.map(({ faces, ...seam }) => ({
      ...seam,
      ...(faces
        ? seamAround(body, faces)
        : {
            points: regionLoop(prepared, seam.region).map((p) =>
              metres(model.mesh.positions.subarray(p * 3, p * 3 + 3) as unknown as number[], 1),
            ),
          }),
    }))
  }
}

/** The longest border of some faces of a body, and a place among them. */
function seamAround({ sculpt, scale }: BodySource, faces: (f: Face) => boolean) {
  const area = sculpt.peel(faces)
  const loop = area.rims().sort((a, b) => b.length - a.length)[0]!
  const within = mean(area.faces[0]!.v.map((i) => area.at(i)))
  return { points: loop.map((i) => metres(area.at(i), scale)), within: metres(within, scale) }
}

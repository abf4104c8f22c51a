import { zipSync } from 'fflate'
import { Matrix4 } from 'three'
import {
  boundsOf,
  legsBy,
  moved,
  placeMesh,
  PLAN_OF,
  problem,
  readPack,
  rigKit,
  settled,
  surveyPlaced,
  toPlace,
  type BodyModel,
  type DrawnChain,
  type Kit,
  type Landmark,
  type Pack,
  type Point,
  type PlacedMesh,
  type Problem,
} from '@idle-tinker/core'
import { filesOf, knowledgeOf } from './packs'
import { viewOf } from './plainView'
import type { MeshAnswer, MeshAsk } from './protocol'

/** The mesh that lies open. */
let open: { pack: Pack; mesh: PlacedMesh } | null = null

/** Reads a mesh and looks for its joints; without files, anew for the one that lies open. */
export async function openMesh(ask: MeshAsk): Promise<MeshAnswer> {
  const problems: Problem[] = []
  let pack = open?.pack ?? null
  if (ask.files) {
    open = pack = null
    const read = await readPack(filesOf(ask.files, problems))
    problems.push(...read.problems)
    pack = read.value
  }
  if (!pack) return { mesh: null, problems }
  const mesh = placeMesh(pack, ask.given)
  problems.push(...mesh.problems)
  if (!mesh.value) return { mesh: null, problems }
  open = { pack, mesh: mesh.value }
  if (pack.pieces.some((p) => p.skin))
    problems.push(
      problem(
        'rig-skinned',
        'mesh',
        'It has bones already.',
        'To keep them, bring it in at Kits. Here it gets new ones.',
        'info',
      ),
    )
  const survey = surveyPlaced(mesh.value, ask.given)
  problems.push(...survey.problems)
  const { up, front, unit, sure, height, toBody } = mesh.value.placing
  const matrix = new Matrix4().fromArray(toBody)
  const placed = pack.pieces.map((piece) => ({ ...piece, positions: moved(piece.positions, matrix) }))
  return {
    mesh: {
      placing: { up, front, unit, sure, height },
      landmarks: survey.value?.landmarks ?? [],
      build: survey.value?.build ?? null,
      view: viewOf(
        placed.map(({ positions, triangles, materials, materialOf }) => ({
          ...{ positions, triangles },
          colorOf: (t) => materials[materialOf[t]!]!.color,
        })),
      ),
      box: boundsOf(mesh.value.figure.soup.positions),
      plane: toPlace(mesh.value.figure, mesh.value.figure.plane, 0, 0)[0],
    },
    problems,
  }
}

/** A landmark of the mesh that lies open, in the middle of the limb that is behind it. */
export function settle(at: Point, axis: 0 | 2): Point | null {
  return open && settled(open.mesh.figure, at, axis)
}

/** The kit of the mesh that lies open, as a zip. */
export async function rigMesh(
  kits: ReadonlyMap<string, Kit>,
  { id, name, landmarks, chains }: { id: string; name: string; landmarks: Landmark[]; chains: DrawnChain[] },
): Promise<{ zip: Uint8Array | null; problems: Problem[] }> {
  const refuse = (code: string, message: string, remedy: string) => ({
    zip: null,
    problems: [problem(code, 'mesh', message, remedy)],
  })
  if (!open) return refuse('mesh-gone', 'No mesh lies open.', 'Bring it in again.')
  const plan = landmarks.length ? PLAN_OF[legsBy(landmarks)].id : undefined
  const like = bodyLike(kits, plan) ?? bodyLike(kits)
  if (!like) return refuse('body-none', 'No kit here has a body whose slots it could have.', 'Add one.')
  const made = await rigKit({ ...open.mesh, landmarks, chains }, knowledgeOf(kits, like), kits, { id, name })
  return { zip: made.value ? zipSync(Object.fromEntries(made.value)) : null, problems: made.problems }
}

/** The first body of a plan, or of any: what is rigged here takes over its slots. */
function bodyLike(kits: ReadonlyMap<string, Kit>, plan?: string): BodyModel | null {
  for (const { bodies } of kits.values())
    for (const body of bodies.values()) if (plan === undefined || body.plan.id === plan) return body
  return null
}

import { problem, type Problem, type Read } from '../base/problem.ts'
import { GlbWriter } from '../scene/GlbWriter.ts'
import type { KeyedClip } from './clipKeys.ts'
import { writeClip } from './ClipWriter.ts'
import { clipStems } from './names.ts'
import type { Prepared } from './prepare.ts'
import { turnedClip } from './turnedClip.ts'
import { glbOf } from './writeFigure.ts'
import { writeSkeleton } from './writeSkeleton.ts'

/**
 * Writes a figure as binary glTF in one file or in several, as its target has it: coarser levels of detail and clips in
 * files of their own. A clip without its figure has the bones alone, which are called and turned as the figure's are.
 *
 * @returns files by name, the figure's first
 */
export function writeGltf(prepared: Prepared, stem: string): Read<Map<string, Uint8Array>> {
  const { levels = 'together', clips: where = 'together' } = prepared.target.gltf ?? {}
  const { leaving, clips } = prepared
  const files = new Map<string, Uint8Array>()
  const own = where === 'together' ? clips : []
  const meshes = levels === 'together' ? [leaving.mesh] : [leaving.mesh, ...leaving.lods]
  meshes.forEach((mesh, level) => {
    const alone = { ...leaving, mesh, ...(levels === 'files' && { lods: [] }) }
    // what plays is with the finest
    const contents = { ...prepared, leaving: alone, clips: level === 0 ? own : [] }
    files.set(`${levelStem(stem, level)}.glb`, glbOf(contents, level).file.bytes())
  })
  const told = prepared.target.gltf?.colors === 'vertices' && leaving.atlas.painted ? [picturesStay(stem)] : []
  if (where === 'together') return { value: files, problems: told }
  const stems = clipStems(
    stem,
    clips,
    [...files.keys()].map((name) => name.slice(0, -'.glb'.length)),
  )
  clips.forEach((clip, i) => {
    const alone = { ...prepared, leaving: { ...leaving, lods: [] }, clips: [clip] }
    files.set(`${stems[i]!}.glb`, where === 'files' ? glbOf(alone).file.bytes() : clipAlone(prepared, clip))
  })
  return { value: files, problems: [...told, ...(where === 'apart' ? facesLeft(prepared, stem) : [])] }
}

const levelStem = (stem: string, level: number) => (level === 0 ? stem : `${stem}-lod${level}`)

/** A clip with the bones that it moves, and no mesh. */
function clipAlone({ leaving }: Prepared, clip: KeyedClip): Uint8Array {
  const file = new GlbWriter({ generator: 'Idle Tinker' })
  const { root, joints, above } = writeSkeleton(file, leaving.bones, { above: leaving.above, skin: false })
  file.json.scenes = [{ name: clip.name, nodes: [root] }]
  file.json.scene = 0
  writeClip(file, turnedClip(clip, leaving), joints, null, above)
  return file.bytes()
}

const picturesStay = (stem: string): Problem =>
  problem(
    ...([
      'colors-picture',
      stem,
      'What is worn has pictures on it, which vertices cannot hold: its colors are in a picture.',
    ] as const),
    'Leave those parts off, or let colors go in a picture.',
    'warning',
  )

/** Faces are of the mesh: a clip without it has none. */
function facesLeft({ leaving, clips }: Prepared, stem: string): Problem[] {
  const morphs = new Set(leaving.movements.map((m) => m.name))
  const faced = clips.filter((c) => c.face?.names.some((n) => morphs.has(n)))
  if (faced.length === 0) return []
  const said = `The faces of ${faced.length} clips do not go along: a clip apart has no mesh.`
  return [problem('faces-left', stem, said, 'Let clips go in files with the figure.', 'warning')]
}

import { join } from 'node:path'
import { checkShipped, writeLook, problem, type Problem } from '@idle-tinker/core'
import {
  Assembly,
  lookFromText,
  lookToText,
  shuffleLook,
  startLook,
  Wardrobe,
  weightsOf,
  type Fitting,
  type OpenBody,
  type Told,
} from '@idle-tinker/runtime'
import { readBytes, writeWhole } from '../files.ts'
import type { Voice } from '../Voice.ts'

export interface LookOptions {
  package: string
  out?: string
  level: number
  seed?: number
  body?: string
}

/** Puts on a look as a game would, with the package and its runtime alone, and writes it as a GLB. */
export async function lookOf(text: string | undefined, options: LookOptions, voice: Voice): Promise<number> {
  const read = async (path: string) => {
    const { value, problems } = await readBytes(join(options.package, path))
    if (!value) throw new Error(problems[0]!.message)
    return value
  }
  const { wardrobe, told } = await Wardrobe.open(read)
  if (!wardrobe) return voice.tell(told.map((t) => fault(t, 'error')))
  const { manifest } = wardrobe
  const entry = options.body === undefined ? manifest.bodies[0]! : wardrobe.body(options.body)
  if (!entry)
    return voice.tell([
      problem(
        'body-unknown',
        '--body',
        `The package has no body “${options.body}”.`,
        `It has: ${manifest.bodies.map((b) => b.id).join(', ')}.`,
      ),
    ])
  const begins = options.seed === undefined ? startLook(entry) : shuffleLook(entry, options.seed)
  const asked = text === undefined ? { look: begins, told: [] } : lookFromText(manifest, text)
  // a text that is no look is an error; what fell back to its start is not
  const refused = asked.told.some((t) => t.where === 'text')
  if (refused) return voice.tell(asked.told.map((t) => fault(t, 'error')))
  let open: OpenBody
  try {
    open = await wardrobe.openBody(wardrobe.body(asked.look.body)!)
  } catch (error) {
    return voice.tell([problem('body-missing', options.package, String(error), 'Build the package anew.')])
  }
  const fitting = await wardrobe.fit(open, asked.look)
  voice.tell([...asked.told, ...fitting.told].map((t) => fault(t, t.code === 'piece-missing' ? 'error' : 'warning')))
  const missing = fitting.told.some((t) => t.code === 'piece-missing')
  const { assembly, costs } = assemble(open, fitting, options.level)
  const own = lookToText(manifest, fitting.look)
  const sum = `${costs.triangles} triangles, ${costs.bones} bones`
  if (options.out === undefined) voice.say(`${own}: ${sum}`, { look: own, ...fitting.look, costs })
  else {
    const bytes = writeLook(named(assembly, open), await wardrobe.bytes(open.entry.atlas))
    const { problems } = await checkShipped(bytes, options.out)
    // a look has no recipe of ours in it
    const faults = problems.filter((p) => p.code !== 'recipe')
    const code = voice.tell(faults)
    const written = voice.tell(await writeWhole(options.out, bytes))
    if (code || written) return 1
    voice.say(`${options.out}: ${own}, ${sum}`, { file: options.out, look: own, ...fitting.look, costs })
  }
  return missing ? 1 : 0
}

function assemble(open: OpenBody, { look, pieces }: Fitting, level: number) {
  const assembly = new Assembly(open.entry)
  assembly.dress([open.piece, ...pieces], level)
  assembly.paintLook(look)
  assembly.shape(weightsOf(open.entry, look))
  const { mesh, bones } = assembly
  return { assembly, costs: { triangles: mesh.indices / 3, vertices: mesh.corners, bones: bones.length } }
}

/** What is drawn, as it stands on the ground. */
function named({ mesh, bones, joints, lift }: Assembly, { entry }: OpenBody) {
  const raised = (v: number, i: number) => (i % 3 === 1 ? v + lift : v)
  const at = joints.map(raised)
  return {
    name: entry.name,
    smooth: entry.atlas.smooth,
    positions: mesh.position.slice(0, mesh.corners * 3).map(raised),
    normals: mesh.normal.slice(0, mesh.corners * 3),
    uvs: mesh.uv.slice(0, mesh.corners * 2),
    colors: mesh.color.slice(0, mesh.corners * 3),
    joints: mesh.skinIndex.slice(0, mesh.corners * 4),
    weights: mesh.skinWeight.slice(0, mesh.corners * 4),
    indices: mesh.index.slice(0, mesh.indices),
    bones: bones.map((b) => ({
      name: entry.bones[b]!.name,
      parent: bones.indexOf(entry.bones[b]!.parent),
      at: [at[b * 3]!, at[b * 3 + 1]!, at[b * 3 + 2]!] as [number, number, number],
    })),
  }
}

const fault = ({ code, where, message }: Told, severity: Problem['severity']): Problem =>
  problem(code, where, message, remedyOf(where, severity), severity)

function remedyOf(where: string, severity: Problem['severity']): string {
  if (severity !== 'error') return 'It is as at the start.'
  return where === 'text' ? 'Copy the look whole.' : 'Build the package anew.'
}

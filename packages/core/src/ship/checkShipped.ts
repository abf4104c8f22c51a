import { WebIO } from '@gltf-transform/core'
import { problem, type Problem } from '../base/problem.ts'
import { boundsOf } from '../mesh/Mesh.ts'
import { readRecipe } from '../recipe/read.ts'
import type { Recipe } from '../recipe/schema.ts'
import { LodExtension } from './LodExtension.ts'
import { EXTRAS_KEY } from './writeFigure.ts'

/** What a shipped file was found to hold. */
export interface ShippedFacts {
  triangles: number
  vertices: number
  bones: number
  levels: number
  clips: string[]
  height: number // metres
  bytes: number
  recipe: Recipe | null
}

export interface ShippedCheck {
  facts: ShippedFacts | null
  problems: Problem[]
  /** What was looked at and found good, in plain words. */
  passed: string[]
}

/** Reads a shipped GLB again as an engine would and checks what goes wrong most often. */
export async function checkShipped(bytes: Uint8Array, where = 'file'): Promise<ShippedCheck> {
  const problems: Problem[] = []
  const passed: string[] = []
  const note = (ok: boolean, good: string, code: string, bad: string, remedy: string) => {
    if (ok) passed.push(good)
    else problems.push(problem(code, where, bad, remedy))
  }
  if (bytes.length === 0)
    return {
      facts: null,
      passed,
      problems: [problem('glb-empty', where, 'The file is empty (0 bytes).', 'Ship it again.')],
    }
  let document
  try {
    document = await new WebIO().registerExtensions([LodExtension]).readBinary(bytes)
  } catch (error) {
    const detail = error instanceof Error ? error.message : String(error)
    return {
      facts: null,
      passed,
      problems: [
        problem(
          'glb-broken',
          where,
          `The file cannot be read: ${detail}`,
          'Ship it again; if it was copied, copy it anew.',
        ),
      ],
    }
  }
  const root = document.getRoot()
  const meshes = root.listMeshes()
  const first = meshes[0]?.listPrimitives()[0]
  const position = first?.getAttribute('POSITION')?.getArray()
  if (!first || !position)
    return {
      facts: null,
      passed,
      problems: [problem('mesh-missing', where, 'There is no mesh in the file.', 'Ship it again.')],
    }
  const box = boundsOf(position)
  const height = box.max[1] - box.min[1]
  const skin = root.listSkins()[0]
  const bones = skin?.listJoints() ?? []
  const clips = root.listAnimations()

  note(
    position.every(Number.isFinite),
    'Every vertex has a place.',
    'not-finite',
    'Some vertices are not numbers.',
    'Build the figure again.',
  )
  note(
    height > 0.2 && height < 5,
    `It stands ${height.toFixed(2)} m tall, upright along +Y.`,
    'size',
    `It is ${height.toFixed(2)} m tall, which no figure is.`,
    'Check the unit of the kit.',
  )
  note(
    Math.abs(box.min[1]) < 0.35,
    'Its feet are at the ground.',
    'ground',
    'Its lowest point is far from the ground.',
    'Build the figure again.',
  )
  note(
    bones.length > 0,
    `${bones.length} bones, all found.`,
    'skeleton',
    'There is no skeleton.',
    'Ship it with a skeleton.',
  )
  note(
    new Set(bones.map((b) => b.getName())).size === bones.length,
    'Every bone has its own name.',
    'bone-names',
    'Two bones share a name.',
    'Rename one.',
  )
  note(
    root.listTextures().every((t) => (t.getImage()?.length ?? 0) > 0),
    'The texture is inside the file.',
    'texture',
    'A texture is missing.',
    'Ship it again.',
  )
  note(
    meshes.every((m) => m.listPrimitives().length === 1) && root.listMaterials().length === 1,
    'One material, one draw call.',
    'materials',
    'There is more than one material.',
    'Ship it with one atlas.',
  )
  const weights = first.getAttribute('WEIGHTS_0')
  const joints = first.getAttribute('JOINTS_0')
  let skinned = Boolean(weights && joints)
  if (weights && joints) {
    const w = [0, 0, 0, 0]
    const j = [0, 0, 0, 0]
    for (let i = 0; i < weights.getCount() && skinned; i++) {
      weights.getElement(i, w)
      joints.getElement(i, j)
      if (Math.abs(w.reduce((s, v) => s + v, 0) - 1) > 0.01 || j.some((b, k) => w[k]! > 0 && b >= bones.length))
        skinned = false
    }
  }
  note(
    skinned,
    'Every vertex hangs on bones, its weights sum to one.',
    'skin',
    'Some vertices are not skinned properly.',
    'Build the figure again.',
  )
  note(
    clips.every((c) => c.listChannels().every((ch) => ch.getTargetNode() !== null)),
    clips.length ? `Clips: ${clips.map((c) => c.getName()).join(', ')}.` : 'No clips were asked for.',
    'clip-target',
    'A clip moves a bone that is not there.',
    'Ship it again.',
  )
  const extras = root.getAsset().extras as Record<string, unknown> | undefined
  const inside = extras?.[EXTRAS_KEY] as { recipe?: unknown } | undefined
  const recipe = inside?.recipe ? readRecipe(inside.recipe, `${where}/recipe`) : null
  note(
    Boolean(recipe?.value),
    'The recipe is inside: the file can be opened as a figure.',
    'recipe',
    'There is no readable recipe in the file.',
    'Only files shipped from here can be opened as figures.',
  )
  const primitives = meshes.map((m) => m.listPrimitives()[0]!)
  return {
    facts: {
      triangles: (first.getIndices()?.getCount() ?? 0) / 3,
      vertices: position.length / 3,
      bones: bones.length,
      levels: primitives.length,
      clips: clips.map((c) => c.getName()),
      height,
      bytes: bytes.length,
      recipe: recipe?.value ?? null,
    },
    problems,
    passed,
  }
}

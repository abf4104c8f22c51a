import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { Builder, type Figure } from '../build.ts'
import { readRecipe } from '../recipe/read.ts'
import { BLOCKS, blockFigure } from './blockFigure.ts'
import { demoKit, demoTarget, KITS_FOLDER } from './demoKits.ts'
import { foreignFigure } from './foreignFigure.ts'
import type { Pack, PackPiece } from '../pack/Pack.ts'
import { readPack } from '../pack/readPack.ts'
import { surveyFigure, type FigureSurvey, type RigGiven } from '../pack/rigPack.ts'

/* Figures of the demo as files of somebody else have them, without bones; and how far what was found on them is from those. */

export const [folk, tide] = [await demoKit('saltwick-folk'), await demoKit('tide-creatures')]
export const kits = new Map([folk, tide].map((k) => [k.manifest.id, k]))
export const builder = new Builder(kits)
export const near = demoTarget('near')

export type Place = readonly number[]

/** A demo figure, dressed. */
export function demo(id: string): Figure {
  const text = readFileSync(join(KITS_FOLDER, 'lantern-tide', `${id}.recipe.json`), 'utf8')
  return builder.build(readRecipe(text, id).value!, near).figure!
}

/** Its triangles and nothing else, as a file of somebody else's has them; with arms turned to a slope, degrees under level. */
export async function meshOf(
  figure: Figure,
  slope: number | null = null,
  zUp = false,
): Promise<{ pack: Pack; joints: Map<string, Place> }> {
  const { mesh, skeleton } = figure
  const positions = mesh.positions.slice()
  const joints = new Map(skeleton.bones.map((b) => [b.name, [...b.at]]))
  for (const [side, sign] of slope === null
    ? []
    : ([
        ['left', 1],
        ['right', -1],
      ] as const)) {
    const top = skeleton.bones.findIndex((b) => b.name === `${side}UpperArm`)
    const [at, hand] = [skeleton.bones[top]!.at, joints.get(`${side}Hand`)!]
    const now = Math.atan2(hand[1]! - at[1], (hand[0]! - at[0]) * sign)
    const angle = ((-slope! * Math.PI) / 180 - now) * sign
    const turn = (x: number, y: number) => [
      at[0] + (x - at[0]) * Math.cos(angle) - (y - at[1]) * Math.sin(angle),
      at[1] + (x - at[0]) * Math.sin(angle) + (y - at[1]) * Math.cos(angle),
    ]
    const inArm = skeleton.bones.map((_, i) => {
      let b = i
      while (b >= 0 && b !== top) b = skeleton.bones[b]!.parent
      return b === top
    })
    for (let p = 0; p < positions.length / 3; p++) {
      let w = 0
      for (let k = 0; k < 4; k++) if (inArm[mesh.joints[p * 4 + k]!]) w += mesh.weights[p * 4 + k]!
      const [x, y] = turn(positions[p * 3]!, positions[p * 3 + 1]!)
      positions[p * 3]! += w * (x! - positions[p * 3]!)
      positions[p * 3 + 1]! += w * (y! - positions[p * 3 + 1]!)
    }
    skeleton.bones.forEach((b, i) => {
      if (!inArm[i]) return
      const [x, y] = turn(b.at[0], b.at[1])
      joints.set(b.name, [x!, y!, b.at[2]])
    })
  }
  const turned = { ...figure, mesh: { ...mesh, positions } }
  const bytes = await foreignFigure(
    figure.pieces.map((piece) => ({ figure: turned, piece })),
    { meshes: 'one', materials: 'regions', unit: zUp ? 100 : 1, zUp },
  )
  return { pack: (await readPack(new Map([['mesh.glb', bytes]]))).value!, joints }
}

const BONE: Record<string, string> = {
  ...{
    Shoulder: 'UpperArm',
    Elbow: 'LowerArm',
    Wrist: 'Hand',
    Hip: 'UpperLeg',
    Knee: 'LowerLeg',
    Ankle: 'Foot',
    Ball: 'Toes',
  },
  ...{ HindHip: 'HindUpperLeg', HindKnee: 'HindLowerLeg', HindAnkle: 'HindFoot', HindBall: 'HindToes' },
  ...{ ForeShoulder: 'ForeUpperLeg', ForeElbow: 'ForeLowerLeg', ForeWrist: 'ForeFoot', ForeBall: 'ForeToes' },
  ...{ headBase: 'head', neckBase: 'neck', tailBase: 'tail1' },
}

/** How far landmarks are from the joints they stand for, as shares of the height. */
export function errors({ landmarks, placing }: FigureSurvey, joints: ReadonlyMap<string, Place>): Map<string, number> {
  return new Map(
    landmarks.flatMap(({ id, at }) => {
      const stem = id.replace(/^(left|right)/, '')
      const joint = joints.get(stem === id ? (BONE[id] ?? id) : `${id.slice(0, -stem.length)}${BONE[stem]}`)
      return joint ? [[id, Math.hypot(...at.map((v, k) => v - joint[k]!)) / placing.height] as const] : []
    }),
  )
}
export const mean = (values: Iterable<number>) => {
  const list = [...values]
  return list.reduce((a, b) => a + b, 0) / list.length
}

export const seen = (pack: Pack, given: RigGiven = {}) => {
  const { value, problems } = surveyFigure(pack, given)
  return { survey: value, codes: problems.map((p) => p.code) }
}
export const piece = (positions: ArrayLike<number>, triangles: ArrayLike<number>): Pack => ({
  joints: [],
  pieces: [
    {
      ...blockFigure(BLOCKS.tall!).piece,
      positions: Float32Array.from(positions),
      triangles: Uint32Array.from(triangles),
      materialOf: new Uint16Array(triangles.length / 3),
    },
  ],
})
export const alone = (one: PackPiece): Pack => ({ joints: [], pieces: [one] })

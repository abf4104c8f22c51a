import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Quaternion, Vector3 } from 'three'
import { afterAll } from 'vitest'
import { Builder } from '../../packages/core/src/build.ts'
import { poseOfTurns } from '../../packages/core/src/rig/Pose.ts'
import { clipsOf } from '../../packages/core/src/ship/clips.ts'
import { beast, BEASTS } from '../../packages/core/src/testing/beasts.ts'
import { writeBvh } from '../../packages/core/src/testing/bvh.ts'
import { demoKit, dressed, TARGETS } from '../../packages/core/src/testing/demoKits.ts'
import { foreignFigure } from '../../packages/core/src/testing/foreignFigure.ts'

const folder = mkdtempSync(join(tmpdir(), 'tinker-motions-'))
afterAll(() => rmSync(folder, { recursive: true, force: true }))

const folk = await demoKit('saltwick-folk')
const kits = new Map([[folk.manifest.id, folk]])

/** A file with a figure's mesh and no bones, as somebody else's: Z up, centimetres. */
export async function meshFile(name: string): Promise<string> {
  const recipe = dressed(folk, 'human', ['shirt-work', 'trousers', 'boots-sea', 'hair-bob'])
  const figure = new Builder(kits).build(recipe, TARGETS[0]!).figure!
  const file = join(folder, `${name}.glb`)
  const worn = figure.pieces.map((piece) => ({ figure, piece }))
  writeFileSync(file, await foreignFigure(worn, { meshes: 'one', materials: 'regions', unit: 100, zUp: true }))
  return file
}

/** A file with an animal's mesh and no bones. */
export function beastFile(name: keyof typeof BEASTS): string {
  const { positions, triangles } = beast(BEASTS[name]!).piece
  const rows = (key: string, list: ArrayLike<number>, off = 0) =>
    Array.from(
      { length: list.length / 3 },
      (_, i) => `${key} ${[0, 1, 2].map((k) => list[i * 3 + k]! + off).join(' ')}`,
    )
  const file = join(folder, `${name}.obj`)
  writeFileSync(file, [...rows('v', positions), ...rows('f', triangles, 1)].join('\n'))
  return file
}

/** A file with a clip as somebody else’s: Z up, centimetres, arms out at rest, names with the side behind. */
export function motionFile(name: string, clip: string): string {
  const recipe = dressed(folk, 'human', [])
  const figure = new Builder(kits).build(recipe, TARGETS[0]!).figure!
  const { bones } = figure.skeleton
  const text = writeBvh(
    clipsOf(figure, kits, recipe).find((c) => c.id === clip)!,
    figure.skeleton,
    {
      axes: new Quaternion().setFromAxisAngle(new Vector3(1, 0, 0), Math.PI / 2),
      rest: poseOfTurns(bones, { leftUpperArm: [0, 0, 42], rightUpperArm: [0, 0, -42] }),
      nameOf: (b) =>
        b.replace(/^(left|right)(.*)$/, (_, side: string, rest: string) => `${rest}.${side[0]!.toUpperCase()}`),
    },
  )
  const file = join(folder, `${name}.bvh`)
  writeFileSync(file, text)
  return file
}

import { Logger, WebIO } from '@gltf-transform/core'
import type { Kit } from '../kit/Kit.ts'
import type { Unit } from '../pack/placePack.ts'
import type { PackFiles } from '../pack/readPack.ts'
import { kitFiles } from './demoKits.ts'

const io = new WebIO().setLogger(new Logger(Logger.Verbosity.SILENT))

/** What a pack's axes are to ours, written out by hand: the column of each of our axes, as its file has it. */
export const LYING: Record<string, readonly [readonly number[], readonly number[], readonly number[]]> = {
  'y z': [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ],
  'z -y': [
    [1, 0, 0],
    [0, 0, 1],
    [0, -1, 0],
  ],
  'y -z': [
    [-1, 0, 0],
    [0, 1, 0],
    [0, 0, -1],
  ],
  'y x': [
    [0, 0, -1],
    [0, 1, 0],
    [1, 0, 0],
  ],
}
const METRES: Record<Unit, number> = { m: 1, cm: 0.01, mm: 0.001, inch: 0.0254, foot: 0.3048 }

/** Parts of a kit as somebody else's pack: other axes, another unit, no names that say anything. */
export async function scrambled(kit: Kit, ids: readonly string[], lying: string, unit: Unit): Promise<PackFiles> {
  const files = new Map<string, Uint8Array>()
  const columns = LYING[lying]!.map((c) => c.map((v) => v / METRES[unit]))
  for (const [i, id] of ids.entries()) {
    const document = await io.readBinary(kitFiles(kit.manifest.id).get(kit.parts.get(id)!.def.file)!)
    const root = document.getRoot()
    for (const thing of [...root.listNodes(), ...root.listMeshes()]) thing.setName('')
    const [x, y, z] = columns as [number[], number[], number[]]
    const turned = document
      .createNode('')
      .setMatrix([x[0]!, x[1]!, x[2]!, 0, y[0]!, y[1]!, y[2]!, 0, z[0]!, z[1]!, z[2]!, 0, 0, 0, 0, 1])
    const [scene] = root.listScenes()
    for (const node of scene!.listChildren()) turned.addChild(node)
    scene!.addChild(turned)
    files.set(`m${i.toString().padStart(3, '0')}.glb`, await io.writeBinary(document))
  }
  return files
}

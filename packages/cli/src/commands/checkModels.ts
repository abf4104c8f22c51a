import { healthOf, readKit, readPack } from '@idle-tinker/core'
import type { Voice } from '../Voice.ts'
import { packFiles } from './sortPack.ts'

/** Says what is wrong with every model there is, be it of a kit or not. */
export async function checkModels(input: string, voice: Voice): Promise<number> {
  const files = await packFiles(input)
  if (!files.value) return voice.tell(files.problems)
  // a kit has more to be checked than its models
  const kit = files.value.has('kit.json') ? await readKit(files.value) : null
  const pack = await readPack(files.value)
  // a kit keeps its pictures
  const ofPack = kit ? pack.problems.filter((p) => p.code !== 'picture-left') : pack.problems
  const told = voice.tell([...(kit?.problems ?? []), ...ofPack])
  if (!pack.value) return 1
  const findings = pack.value.pieces.map(healthOf)
  // which triangles it is about only a picture can tell
  const code = voice.tell(findings.flat().map(({ triangles: _triangles, ...finding }) => finding))
  const sound = findings.filter((f) => f.length === 0).length
  voice.say(`${sound} of ${findings.length} pieces are sound.`, { sound, pieces: findings.length })
  return Math.max(told, code)
}

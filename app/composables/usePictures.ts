import { Box3, Vector3 } from 'three'
import { TARGETS, type Recipe } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import { plain } from '../workers/plain'
import { crowdWorkshop, useProject } from '../stores/project'

const pictures = reactive(new Map<string, string>())
const asked = new Set<string>()
let queue: Promise<unknown> = Promise.resolve()

/** Pictures of parts from their real geometry, made one after another when first looked at. */
export function usePictures() {
  const project = useProject()

  async function take(kitId: string, bodyId: string, partId: string): Promise<void> {
    const manifest = project.manifest(kitId)
    const def = manifest?.parts.find((p) => p.id === partId)
    const body = manifest?.bodies.find((b) => b.id === bodyId)
    if (!manifest || !def || !body) return
    const reference = (id: string) => ({ kit: kitId, kitVersion: manifest.kitVersion, id })
    const parts: Recipe['parts'] = Object.fromEntries(Object.entries(body.defaults).map(([slot, id]) => [slot, reference(id)]))
    parts[def.slot] = reference(partId)
    const recipe: Recipe = { format: 'idle-tinker-recipe', version: 1, name: def.name, body: reference(bodyId), parts, sliders: {}, colors: {}, locks: [] }
    const worker = await crowdWorkshop()
    const { view } = await worker.build(recipe, plain(TARGETS[0]!), false)
    if (!view) return
    const piece = view.pieces.find((p) => p.id === partId)
    if (!piece) return
    const region = manifest.slots.find((s) => s.id === def.slot)?.region
    const head = view.landmarks.head!
    const crown = view.landmarks.crown ?? [0, head[1] + 0.25, 0]
    const face = region === 'head' && !['hat', 'horns'].includes(def.slot)
    const size = (crown[1] - head[1]) * 0.62
    const middle = (crown[1] + head[1]) / 2
    const small = def.slot === 'eyes' || def.slot === 'brows' || def.slot === 'whiskers'
    const box = face
      ? new Box3(new Vector3(-size, middle - size * (small ? 0.75 : 1.25), -size), new Vector3(size, middle + size * (small ? 0.75 : 1.15), size))
      : undefined
    const canvas = theBooth().take(view, 132, 132, { turn: small ? 0.15 : def.slot === 'back' ? 2.6 : 0.5, ...(box ? { box } : { only: [piece] }) })
    pictures.set(`${kitId}/${partId}`, canvas.toDataURL())
  }

  /** The picture of a part, or undefined until it has been taken. */
  function pictureOf(kit: string, body: string, part: string): string | undefined {
    const key = `${kit}/${part}`
    if (!asked.has(key)) {
      asked.add(key)
      queue = queue.then(() => take(kit, body, part)).catch(() => asked.delete(key))
    }
    return pictures.get(key)
  }
  return { pictureOf }
}

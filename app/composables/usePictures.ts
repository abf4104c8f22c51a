import { Box3, Vector3 } from 'three'
import { newRecipe, partReference, TARGETS } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import { plain } from '../workers/plain'
import { crowdWorkshop, useProject } from '../stores/project'

const pictures = reactive(new Map<string, string>())
const asked = new Set<string>()
let queue: Promise<unknown> = Promise.resolve()

const keyOf = (kit: string, body: string, part: string) => `${kit}/${body}/${part}`

/** Pictures of parts from their real geometry, made one after another when first looked at. */
export function usePictures() {
  const project = useProject()

  async function take(kitId: string, bodyId: string, partId: string): Promise<void> {
    const manifest = project.manifest(kitId)
    if (!manifest) return
    const def = manifest.parts.find((p) => p.id === partId)
    const recipe = newRecipe({ manifest }, bodyId, def?.name ?? bodyId)
    if (def) recipe.parts[def.slot] = partReference({ manifest }, partId)
    const worker = await crowdWorkshop()
    const { view } = await worker.build(recipe, plain(TARGETS[0]!), false)
    if (!view) return
    const key = keyOf(kitId, bodyId, partId)
    if (!def) {
      pictures.set(key, theBooth().take(view, 132, 132, { turn: 0.4, armsDown: true }).toDataURL())
      return
    }
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
      ? new Box3(
          new Vector3(-size, middle - size * (small ? 0.75 : 1.25), -size),
          new Vector3(size, middle + size * (small ? 0.75 : 1.15), size),
        )
      : undefined
    const canvas = theBooth().take(view, 132, 132, {
      turn: small ? 0.15 : def.slot === 'back' ? 2.6 : 0.5,
      ...(box ? { box } : { only: [piece] }),
    })
    pictures.set(key, canvas.toDataURL())
  }

  /** The picture of a part on a body, or of the body itself without one; undefined until it has been taken. */
  function pictureOf(kit: string, body: string, part = ''): string | undefined {
    const key = keyOf(kit, body, part)
    if (!asked.has(key)) {
      asked.add(key)
      queue = queue.then(() => take(kit, body, part)).catch(() => asked.delete(key))
    }
    return pictures.get(key)
  }
  return { pictureOf }
}

import { Box3, Vector3 } from 'three'
import { newRecipe, partReference, TARGETS, type KitManifest, type SlotDef } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import type { FigureView } from '../workers/protocol'
import { plain } from '../workers/plain'
import { crowdWorkshop, useProject } from '../stores/project'

const pictures = reactive(new Map<string, string>())
const asked = new Set<string>()
let queue: Promise<unknown> = Promise.resolve()

const keyOf = (kit: KitManifest, body: string, part: string) => `${kit.id} ${kit.kitVersion}/${body}/${part}`

type Shown = NonNullable<SlotDef['picture']>

/** From where each kind of picture is taken, radians from the front. */
const TURNS: Record<Shown, number> = { alone: 0.5, head: 0.5, face: 0.15, behind: 2.6 }

/** The head with what grows on it, or the face alone. */
function headBox(view: FigureView, shown: 'head' | 'face'): Box3 {
  const head = view.landmarks.head!
  const crown = view.landmarks.crown ?? [0, head[1] + 0.25, 0]
  const size = (crown[1] - head[1]) * 0.62
  const middle = (crown[1] + head[1]) / 2
  const [below, above] = shown === 'face' ? [0.75, 0.75] : [1.25, 1.15]
  return new Box3(new Vector3(-size, middle - size * below, -size), new Vector3(size, middle + size * above, size))
}

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
    const key = keyOf(manifest, bodyId, partId)
    if (!def) {
      pictures.set(key, theBooth().take(view, 132, 132, { turn: 0.4, armsDown: true }).toDataURL())
      return
    }
    const piece = view.pieces.find((p) => p.id === partId)
    if (!piece) return
    const shown = manifest.slots.find((s) => s.id === def.slot)?.picture ?? 'alone'
    const canvas = theBooth().take(view, 132, 132, {
      turn: TURNS[shown],
      ...(shown === 'head' || shown === 'face' ? { box: headBox(view, shown) } : { only: [piece] }),
    })
    pictures.set(key, canvas.toDataURL())
  }

  /** The picture of a part on a body, or of the body itself without one; undefined until it has been taken. */
  function pictureOf(kit: string, body: string, part = ''): string | undefined {
    const manifest = project.manifest(kit)
    if (!manifest) return undefined
    const key = keyOf(manifest, body, part)
    if (!asked.has(key)) {
      asked.add(key)
      queue = queue.then(() => take(kit, body, part)).catch(() => asked.delete(key))
    }
    return pictures.get(key)
  }
  return { pictureOf }
}

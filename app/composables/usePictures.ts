import PQueue from 'p-queue'
import { Box3, Vector3 } from 'three'
import {
  fullName,
  newRecipe,
  partOf,
  recipeOfLook,
  refOf,
  referenceTo,
  setPart,
  slotsFor,
  type KitRef,
  type LookDef,
  type SlotDef,
} from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import { headOf } from '../stage/headOf'
import type { FigureView } from '../workers/protocol'
import { plain } from '../workers/plain'
import { PICTURES } from '../workers/pictureTarget'
import { inPool, useProject } from '../stores/project'
import { keptPictures } from './keptPictures'

/** More than any shelf has. */
const kept = keptPictures('pictures', 4000)
const pictures = reactive(new Map<string, string>())
const asked = new Set<string>()
/** One after another: the person looks at the first ones first. */
const queue = new PQueue({ concurrency: 1 })

/** One that could not be taken is tried again when it is next looked for. */
function keep(key: string, canvas: HTMLCanvasElement | null): void {
  if (!canvas) {
    asked.delete(key)
    return
  }
  const picture = canvas.toDataURL()
  pictures.set(key, picture)
  void kept.keep(key, [picture])
}

type Shown = NonNullable<SlotDef['picture']>

/** From where each kind of picture is taken, radians from the front. */
const TURNS: Record<Shown, number> = { alone: 0.5, head: 0.5, face: 0.15, behind: 2.6 }

/** The head with what grows on it, or the face alone. */
function headBox(view: FigureView, shown: 'head' | 'face'): Box3 {
  const { low, high, width, middle } = headOf(view, 2)
  const size = Math.max((high - low) * 0.62, width * 0.55)
  const [below, above] = shown === 'face' ? [0.75, 0.75] : [1.25, 1.15]
  const half = new Vector3(size, 0, size)
  const box = new Box3(middle.clone().sub(half), middle.clone().add(half))
  box.min.y -= size * below
  box.max.y += size * above
  return box
}

/** Pictures of parts from their real geometry, made one after another when first looked at. */
export function usePictures() {
  const project = useProject()

  async function take(body: KitRef, part: KitRef | null, key: string): Promise<void> {
    const [before] = (await kept.get(key)) ?? []
    if (before) {
      pictures.set(key, before)
      return
    }
    const kit = project.library.get(body.kit)
    if (!kit) return
    const def = part ? partOf(project.library, part)?.def : undefined
    let recipe = newRecipe(kit, body.id, def?.name ?? body.id)
    if (def && part) recipe = setPart(recipe, def.slot, referenceTo(project.library, part))
    const { view } = await inPool((worker) => worker.build(plain(recipe), plain(PICTURES), false))
    if (!view) return
    if (!def || !part) {
      keep(key, theBooth().take(view, 132, 132, { turn: 0.4, armsDown: true }))
      return
    }
    const piece = view.pieces.find((p) => p.kit === part.kit && p.id === part.id)
    if (!piece) return
    const shown = slotsFor(project.library, body).find((s) => s.id === def.slot)?.picture ?? 'alone'
    const canvas = theBooth().take(view, 132, 132, {
      turn: TURNS[shown],
      ...(shown === 'head' || shown === 'face' ? { box: headBox(view, shown) } : { only: [piece] }),
    })
    keep(key, canvas)
  }

  /** The picture of a part on a body, or of the body itself without one; undefined until it has been taken. */
  function pictureOf(body: KitRef, part: KitRef | null = null): string | undefined {
    if (!project.library.has(body.kit)) return undefined
    const key = [body, ...(part ? [part] : [])].map((ref) => `${fullName(ref)} ${project.hashOf(ref.kit)}`).join(' on ')
    if (!asked.has(key)) {
      asked.add(key)
      // what could not be taken is tried again when it is next looked for
      queue.add(() => take(body, part, key)).catch(() => asked.delete(key))
    }
    return pictures.get(key)
  }

  /** The picture of a look that a kit brings; undefined until it has been taken. */
  function pictureOfLook(kit: string, look: LookDef): string | undefined {
    const named = new Set([look.body, ...look.parts].map((name) => refOf(name, kit).kit))
    const key = `look ${fullName({ kit, id: look.id })} ${[kit, ...named].map((id) => project.hashOf(id)).join()}`
    const takeLook = async () => {
      const [before] = (await kept.get(key)) ?? []
      if (before) {
        pictures.set(key, before)
        return
      }
      const recipe = recipeOfLook(project.library, kit, look)
      const { view } = await inPool((worker) => worker.build(plain(recipe), plain(PICTURES), false))
      if (view) keep(key, theBooth().take(view, 132, 180, { turn: 0.4, armsDown: true }))
    }
    if (!asked.has(key)) {
      asked.add(key)
      queue.add(takeLook).catch(() => asked.delete(key))
    }
    return pictures.get(key)
  }
  return { pictureOf, pictureOfLook }
}

import PQueue from 'p-queue'
import { type Kept } from '@idle-tinker/core'
import type { Entry } from '../documents/Keeper'
import { theBooth } from '../stage/Booth'
import { inPool } from '../stores/project'
import { plain } from '../workers/plain'
import { PICTURES } from '../workers/pictureTarget'

const pictures = reactive(new Map<string, string>())
const asked = new Set<string>()
const queue = new PQueue({ concurrency: 1 })

/** Pictures of kept recipes, drawn from the recipe when first looked at. */
export function useSnapshotPictures() {
  async function take({ id, content }: Entry<Kept>): Promise<void> {
    const { view } = await inPool((worker) => worker.build(plain(content.recipe), plain(PICTURES), false))
    const canvas = view && theBooth().take(view, 74, 82, { turn: 0.4, armsDown: true })
    if (canvas) pictures.set(id, canvas.toDataURL())
    else asked.delete(id)
  }
  function pictureOf(entry: Entry<Kept>): string | undefined {
    if (!asked.has(entry.id)) {
      asked.add(entry.id)
      // what could not be taken is tried again when it is next looked for
      queue.add(() => take(entry)).catch(() => asked.delete(entry.id))
    }
    return pictures.get(entry.id)
  }
  return { pictureOf }
}

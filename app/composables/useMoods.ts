import PQueue from 'p-queue'
import { Box3 } from 'three'
import { movementsOf, setFace, type BodyDef, type ExpressionDef, type Recipe } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import { headOf } from '../stage/headOf'
import { inPool } from '../stores/project'
import type { FigureView } from '../workers/protocol'
import { plain } from '../workers/plain'
import { PICTURES } from '../workers/pictureTarget'

const pictures = reactive(new Map<string, string>())
const queue = new PQueue({ concurrency: 1 })
/** What the pictures show, whatever the face: they stay as long as this does. */
let of = ''
const SIZE = 84

/** The face without the hat over it and the collar below. */
function faceBox(view: FigureView): Box3 {
  const { low, high, width, middle } = headOf(view, 2)
  const half = Math.max((high - low) * 0.42, width * 0.45)
  const center = middle.clone().setY(low + (high - low) * 0.36)
  return new Box3(center.clone().subScalar(half), center.clone().addScalar(half))
}

/** A figure without its face: what makes its pictures others. */
function without(recipe: Recipe, body: BodyDef): string {
  const moving = new Set(movementsOf(body).map((s) => s.id))
  const shape = Object.entries(recipe.sliders).filter(([id]) => !moving.has(id))
  return JSON.stringify([recipe.body, recipe.parts, shape.sort(), Object.entries(recipe.colors).sort()])
}

async function take(recipe: Recipe, body: BodyDef, expression: ExpressionDef, asked: string): Promise<void> {
  if (of !== asked) return
  const faced = setFace(recipe, body, [{ expression, share: 1 }])
  const { view } = await inPool((worker) => worker.build(plain(faced), plain(PICTURES), false))
  if (!view || of !== asked || !view.landmarks.head) return
  const canvas = theBooth().take(view, SIZE, SIZE, { turn: 0.12, box: faceBox(view) })
  if (canvas) pictures.set(expression.id, canvas.toDataURL())
}

/** Small pictures of this figure's own face in every mood. */
export function useMoods() {
  /** Asks for them, unless they are those of this very figure. */
  function show(recipe: Recipe, body: BodyDef, moods: readonly ExpressionDef[]): void {
    const asked = without(recipe, body)
    if (asked === of) return
    of = asked
    queue.clear()
    for (const mood of moods)
      queue
        .add(() => take(recipe, body, mood, asked))
        // asked for again when the figure changes, or the panel is opened again
        .catch(() => {
          if (of === asked) of = ''
        })
  }
  /** Another figure's faces say nothing about this one. */
  function forget(): void {
    of = ''
    queue.clear()
    pictures.clear()
  }
  return { moodPicture: (id: string) => pictures.get(id), show, forget }
}

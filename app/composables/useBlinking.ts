import type { ShallowRef } from 'vue'
import { useTimeoutFn } from '@vueuse/core'
import type { Stage } from '../stage/Stage'
import { useFigure } from '../stores/figure'
import { inPool } from '../stores/project'
import { useView } from '../stores/view'
import { plain } from '../workers/plain'

/** A figure blinks once it has stood still for so long, ms. */
const STILL = 1200
/** The expression of the open VRM standard for both eyes shut. */
const SHUT = 'blink'

/** Lets the figure on a stage blink by itself, once it has stood still for a while. */
export function useBlinking(stage: ShallowRef<Stage | null>): void {
  const figure = useFigure()
  const view = useView()

  async function learn(): Promise<void> {
    const { view: shown, recipe } = figure
    if (!shown || !recipe || !view.blinks) return
    const { [SHUT]: moves } = await inPool((worker) =>
      worker.faces(plain(recipe), plain(view.target), view.reduced, [SHUT]),
    )
    // meanwhile it has changed, or is to keep its eyes open
    if (figure.view === shown && figure.recipe === recipe && view.blinks) stage.value?.blink(moves ?? null)
  }
  const { start } = useTimeoutFn(
    () => {
      // without it the figure stands as it stands
      learn().catch((error: unknown) => console.error('blink:', error))
    },
    STILL,
    { immediate: false },
  )
  watch(
    [() => figure.view, () => view.blinks, stage],
    () => {
      if (!view.blinks) stage.value?.blink(null)
      start()
    },
    { immediate: true },
  )
}

import type { Recipe, Target } from '@idle-tinker/core'
import { unlessEnded } from '../workers'
import { plain } from '../workers/plain'
import { useFigure } from '../stores/figure'
import { useView } from '../stores/view'

/**
 * What a worker tells of the figure on the stage: asked anew with each of its changes as long as it is wanted, and no
 * longer. What is wanted again of a figure that has not changed is there at once.
 */
export function useOfFigure<T>(ask: (recipe: Recipe, target: Target) => Promise<T[]>) {
  const figure = useFigure()
  const view = useView()
  const known = shallowRef<T[]>([])
  /** The figure that it is told of. */
  let of: typeof figure.view = null
  const wanted = ref(false)
  let run = 0

  watch(
    [() => figure.view, wanted],
    async ([built, now], [before, already] = [null, false]) => {
      const mine = ++run
      if (now && built && built === of) return
      // of other bones it would be of another figure; and what has changed while nobody looked is not shown as it was
      if (built?.bones.length !== before?.bones.length || (now && !already)) {
        known.value = []
        of = null
      }
      if (!built || !now || !figure.recipe) return
      const found = await unlessEnded(ask(plain(figure.recipe), plain(view.target)))
      // meanwhile the figure may have become another, or nobody want to know
      if (!found || mine !== run) return
      known.value = found
      of = built
    },
    { immediate: true },
  )
  return { told: computed(() => (wanted.value ? known.value : [])), wanted }
}

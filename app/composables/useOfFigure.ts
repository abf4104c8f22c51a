import type { Recipe, Target } from '@idle-tinker/core'
import { unlessEnded } from '../workers'
import { plain } from '../workers/plain'
import { useFigure } from '../stores/figure'
import { useView } from '../stores/view'

/** What a worker tells of the figure on the stage: asked anew with each of its changes as long as it is wanted, and no longer. */
export function useOfFigure<T>(ask: (recipe: Recipe, target: Target) => Promise<T[]>) {
  const figure = useFigure()
  const view = useView()
  const told = shallowRef<T[]>([])
  const wanted = ref(false)
  let run = 0

  watch(
    [() => figure.view, wanted],
    async ([built], [before] = [null, false]) => {
      const mine = ++run
      // of other bones it would be of another figure
      if (!wanted.value || built?.bones.length !== before?.bones.length) told.value = []
      if (!built || !wanted.value || !figure.recipe) return
      const found = await unlessEnded(ask(plain(figure.recipe), plain(view.target)))
      // meanwhile the figure may have become another, or nobody want to know
      if (found && mine === run) told.value = found
    },
    { immediate: true },
  )
  return { told, wanted }
}

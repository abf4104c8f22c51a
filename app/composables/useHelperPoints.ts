import type { HelperPoint } from '@idle-tinker/core'
import { unlessEnded, workshop } from '../workers'
import { plain } from '../workers/plain'
import { useFigure } from '../stores/figure'
import { useView } from '../stores/view'

/** The helper points of the figure on the stage, by the bones it has there. */
export function useHelperPoints() {
  const figure = useFigure()
  const view = useView()
  const points = shallowRef<HelperPoint[]>([])
  const shown = ref(false)
  const lit = ref<string | null>(null)
  let run = 0

  watch(
    [() => figure.view, shown],
    async ([built], [before] = [null, false]) => {
      const mine = ++run
      // of other bones they would be elsewhere
      if (built?.bones.length !== before?.bones.length) points.value = []
      if (!built || !shown.value || !figure.recipe) return
      const found = await unlessEnded(workshop('bench').helperPoints(plain(figure.recipe), plain(view.target)))
      // meanwhile the figure may have become another
      if (found && mine === run) points.value = found
    },
    { immediate: true },
  )
  return { points, shown, lit }
}

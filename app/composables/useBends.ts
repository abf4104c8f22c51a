import { bendClip, type BendScore } from '@idle-tinker/core'
import { unlessEnded, workshop } from '../workers'
import { plain } from '../workers/plain'
import { useFigure } from '../stores/figure'
import { useView } from '../stores/view'

/** How the joints of the figure on the stage bend, and the bend that is tried on it. */
export function useBends() {
  const figure = useFigure()
  const view = useView()
  const scores = shallowRef<BendScore[]>([])
  const shown = ref(false)
  const tried = ref<string | null>(null)
  let run = 0

  watch(
    [() => figure.view, shown],
    async ([built, wanted]) => {
      const mine = ++run
      if (!wanted) tried.value = null
      if (!built || !wanted || !figure.recipe) return
      const found = await unlessEnded(workshop('bench').bends(plain(figure.recipe), plain(view.target)))
      // meanwhile the figure may have become another
      if (found && mine === run) scores.value = found
    },
    { immediate: true },
  )

  /** The joint that is tried at its worst, as a clip; none where the figure has no such joint now. */
  const clip = computed(() => {
    const score = scores.value.find((s) => s.name === tried.value)
    const bones = figure.view?.bones
    return score && bones?.[score.bone]?.name === score.name ? bendClip(bones, score.bone, score.worst) : null
  })
  return { scores, shown, tried, clip }
}

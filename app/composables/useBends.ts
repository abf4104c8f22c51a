import { bendClip } from '@idle-tinker/core'
import { workshop } from '../workers'
import { useFigure } from '../stores/figure'

/** How the joints of the figure on the stage bend, and the bend that is tried on it. */
export function useBends() {
  const figure = useFigure()
  const { told: scores, wanted: shown } = useOfFigure((...of) => workshop('bench').bends(...of))
  const tried = ref<string | null>(null)
  watch(shown, () => (tried.value = null))

  /** The joint that is tried at its worst, as a clip; none where the figure has no such joint now. */
  const clip = computed(() => {
    const score = scores.value.find((s) => s.name === tried.value)
    const bones = figure.view?.bones
    return score && bones?.[score.bone]?.name === score.name ? bendClip(bones, score.bone, score.worst) : null
  })
  return { scores, shown, tried, clip }
}

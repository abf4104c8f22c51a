import { lookTo } from '@idle-tinker/core'
import type { Stage } from '../../stage/Stage'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'
import { useKit } from '../useKit'
import type { StageHand } from './hand'

/** Turns the eyes towards the pointer; of the side that is worked on, or both. */
export function useLookHand(): StageHand {
  const figure = useFigure()
  const view = useView()
  const { body } = useKit()
  const look = (stage: Stage, event: PointerEvent) => {
    const to = stage.lookAngles(event.clientX, event.clientY)
    if (to && figure.recipe && body.value)
      figure.edit(lookTo(figure.recipe, body.value, to.toLeft, to.up, view.side), 'look')
  }
  return {
    ready: () => view.pointing,
    down: (stage, event) => {
      if (view.pointing) look(stage, event)
      return view.pointing
    },
    move: look,
    up: () => figure.settle(),
  }
}

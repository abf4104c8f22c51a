import type { Stage } from '../../stage/Stage'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'
import { useKit } from '../useKit'
import { pointedBy, usePlacing } from '../usePlacing'
import type { StageHand } from './hand'

/** Sets what is to be placed where the pointer is, and moves what was placed along the surface. */
export function usePlaceHand(): StageHand {
  const figure = useFigure()
  const view = useView()
  const { holdsSeveralIn } = useKit()
  const { moveTo } = usePlacing()
  let moving: string | null = null
  /** The last answer still on its way. */
  let last: Promise<void> = Promise.resolve()

  function follow(stage: Stage, event: PointerEvent): void {
    const id = moving
    const to = id && pointedBy(stage.placeAt(event.clientX, event.clientY, id))
    if (id && to) last = moveTo(id, to, `move ${id}`)
  }
  return {
    ready: () => view.placing,
    down: (stage, event) => {
      const piece = stage.pieceAt(event.clientX, event.clientY)
      if (view.placing && view.instance) moving = view.instance
      else if (piece && holdsSeveralIn(piece.slot)) {
        view.select(piece.slot, piece.instance)
        moving = piece.instance
        // it is only picked up: it moves with the pointer
        return true
      } else return false
      follow(stage, event)
      return true
    },
    move: follow,
    up: () => {
      moving = null
      view.placing = false
      void last.then(() => figure.settle())
    },
  }
}

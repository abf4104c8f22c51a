import type { Stage } from '../../stage/Stage'

/** What the pointer does on the stage instead of turning it, while it is wanted. */
export interface StageHand {
  /** Whether the pointer shows that it is in hand. */
  ready: () => boolean
  /** Takes the press, or leaves it to others. */
  down: (stage: Stage, event: PointerEvent) => boolean
  move: (stage: Stage, event: PointerEvent) => void
  up: (stage: Stage, event: PointerEvent) => void
  /** The pointer above the stage, nothing pressed. */
  hover?: (stage: Stage, event: PointerEvent | null) => void
}

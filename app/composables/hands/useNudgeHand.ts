import type { Stage } from '../../stage/Stage'
import { useView } from '../../stores/view'
import { stageHere } from '../stageHere'
import { useNudging } from '../useNudging'
import type { StageHand } from './hand'

/** Where the brush is above the stage, and how large it looks there, pixels of the stage; null while it is not. */
export const brushAt = ref<{ x: number; y: number; size: number } | null>(null)

/** One press of a key moves the brush so far, pixels, and pulls so far, as a share of its radius. */
const KEY_MOVE = 10
const KEY_PULL = 0.05

/** The brush by keys: arrows move it over the figure, with Shift they pull; Enter makes a stroke. */
export function useNudgeKeys(): (event: KeyboardEvent) => void {
  const view = useView()
  const { begin, go, end } = useNudging()
  return (event) => {
    const stage = stageHere.value
    if (!stage) return
    const { left, top, width, height } = stage.canvas.getBoundingClientRect()
    const now = brushAt.value ?? { x: width / 2, y: height / 2 }
    const [right, up] = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key] ?? [
      0, 0,
    ]
    const strokes = event.key === 'Enter' || event.key === ' '
    if (!right && !up && !strokes) return
    event.preventDefault()
    event.stopPropagation()
    const pulls = event.shiftKey && !strokes
    const to = pulls ? now : { x: now.x + right! * KEY_MOVE, y: now.y - up! * KEY_MOVE }
    const hit = stage.placeAt(left + to.x, top + to.y)
    brushAt.value = { ...to, size: stage.pixelsOf(view.brush.radius, hit?.at ?? [0, 1, 0]) }
    if (!hit || !(pulls || strokes)) return
    const far = stage.pixelsOf(view.brush.radius, hit.at) * KEY_PULL
    const on = hit.on.slot === 'body' ? undefined : hit.on.instance
    begin(on, hit.at, pulls ? 'pull' : undefined)
    const pulled = pulls && stage.placeFacing(hit.at, left + to.x + right! * far, top + to.y - up! * far)
    if (pulled) go(pulled)
    void end()
  }
}

/** Nudges what is under the pointer. */
export function useNudgeHand(): StageHand {
  const view = useView()
  const { begin, go, end } = useNudging()
  let grabbed: [number, number, number] | null = null

  function show(stage: Stage, event: PointerEvent, at: [number, number, number] | null): void {
    const { left, top } = stage.canvas.getBoundingClientRect()
    const size = at ? stage.pixelsOf(view.brush.radius, at) : 0
    brushAt.value = size ? { x: event.clientX - left, y: event.clientY - top, size } : null
  }
  const under = (stage: Stage, event: PointerEvent) => stage.placeAt(event.clientX, event.clientY)
  return {
    ready: () => view.tray === 'nudge' && view.slot === null,
    down: (stage, event) => {
      const hit = view.tray === 'nudge' && view.slot === null ? under(stage, event) : null
      // beside the figure the stage is turned as ever
      if (!hit) return false
      grabbed = hit.at
      begin(hit.on.slot === 'body' ? undefined : hit.on.instance, hit.at)
      return true
    },
    move: (stage, event) => {
      if (!grabbed) return
      // pulling goes along the plane that faces the eye; the others stay on the figure
      const at =
        view.brush.kind === 'pull'
          ? stage.placeFacing(grabbed, event.clientX, event.clientY)
          : (under(stage, event)?.at ?? null)
      show(stage, event, at ?? grabbed)
      if (at) go(at)
    },
    up: () => {
      grabbed = null
      void end()
    },
    hover: (stage, event) => {
      if (!event || view.tray !== 'nudge' || view.slot !== null) brushAt.value = null
      else show(stage, event, under(stage, event)?.at ?? null)
    },
  }
}

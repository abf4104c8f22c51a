import { heldClip } from '@idle-tinker/core'
import { watchDebounced } from '@vueuse/core'
import { theBooth } from '../stage/Booth'
import { useFigure } from '../stores/figure'
import type { ListedPose, Posing } from './usePosing'

/** Of one picture, pixels. */
const [WIDTH, HEIGHT] = [84, 104]
/** From where poses are seen: from the front, a little to the side. */
const TURN = 0.5

/** Pictures of poses on the figure as it is, by their ids; those of what has changed are taken anew, one a frame. */
export function usePosePictures(posing: Pick<Posing, 'listed' | 'shown' | 'rig'>) {
  const figure = useFigure()
  const pictures = ref<Record<string, string>>({})
  /** What each picture is of. */
  const taken = new Map<string, { view: unknown; pose: string }>()
  let run = 0

  const keyOf = ({ pose }: ListedPose) => `${pose.root.join()} ${pose.turns.join()}`

  async function take(): Promise<void> {
    const mine = ++run
    const { view } = figure
    const bones = posing.rig.value?.bones
    if (!view || !bones || !posing.shown.value) return
    for (const listed of posing.listed.value) {
      const before = taken.get(listed.id)
      const pose = keyOf(listed)
      if (before?.view === view && before.pose === pose) continue
      await new Promise((next) => requestAnimationFrame(next))
      if (mine !== run || figure.view !== view) return
      const clip = heldClip(bones, listed.pose)
      const picture = theBooth().take(view, WIDTH * 2, HEIGHT * 2, { turn: TURN, clip })
      if (!picture) return
      taken.set(listed.id, { view, pose })
      pictures.value = { ...pictures.value, [listed.id]: picture.toDataURL() }
    }
  }
  // a hand that drags waits for the figure, not for pictures
  watchDebounced([posing.listed, posing.shown, () => figure.view], () => void take(), {
    debounce: 250,
    immediate: true,
  })
  onScopeDispose(() => run++)
  return { pictures, width: WIDTH, height: HEIGHT }
}

import { useClip } from './stores/clip'
import { useCrowd } from './stores/crowd'
import { useFigure } from './stores/figure'
import { usePicks } from './stores/picks'
import { usePose } from './stores/pose'
import { useShip } from './stores/ship'
import { useTarget } from './stores/target'

/** A room of the workshop: where it is, and which kind of document is worked on there. */
export interface Station {
  name: string
  route: string
  /** `shipped`: whatever is about to leave. */
  edits: 'figure' | 'mix' | 'picks' | 'shipped'
}

/** In the order in which work goes through them. A new station is one entry here and one page. */
export const STATIONS: readonly Station[] = [
  { name: 'Kits', route: '/kits', edits: 'figure' },
  { name: 'Bench', route: '/bench', edits: 'figure' },
  { name: 'Motion', route: '/motion', edits: 'figure' },
  { name: 'Crowd', route: '/crowd', edits: 'mix' },
  { name: 'Picks', route: '/picks', edits: 'picks' },
  { name: 'Ship', route: '/ship', edits: 'shipped' },
]

/** The station on screen; none on a page of another kind. */
export function useStation() {
  const route = useRoute()
  return computed(() => STATIONS.find((s) => s.route === route.path))
}

/** What the station on screen shows: the figure, or the crowd. */
export function useShown() {
  const station = useStation()
  const figure = useFigure()
  const crowd = useCrowd()
  const ship = useShip()
  return computed(() => {
    const edits = station.value?.edits
    return edits === 'mix' || (edits === 'shipped' && ship.what === 'crowd') ? crowd : figure
  })
}

/** The document that the station on screen works on: undo, redo and saving are of this one alone. */
export function useOpenDocument() {
  const shown = useShown()
  const target = useTarget()
  const pose = usePose()
  const clip = useClip()
  const picks = usePicks()
  // each is open for as long as it is worked on on screen
  return computed(() => (target.id ? target : pose.id ? pose : clip.id ? clip : picks.id ? picks : shown.value))
}

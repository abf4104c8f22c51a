import { useCrowd } from './stores/crowd'
import { useFigure } from './stores/figure'

/** A room of the workshop: where it is, and which kind of document is worked on there. */
export interface Station {
  name: string
  route: string
  edits: 'figure' | 'mix'
}

/** In the order in which work goes through them. A new station is one entry here and one page. */
export const STATIONS: readonly Station[] = [
  { name: 'Kits', route: '/kits', edits: 'figure' },
  { name: 'Bench', route: '/bench', edits: 'figure' },
  { name: 'Motion', route: '/motion', edits: 'figure' },
  { name: 'Crowd', route: '/crowd', edits: 'mix' },
  { name: 'Ship', route: '/ship', edits: 'figure' },
]

/** The document that the station on screen works on: undo, redo and saving are of this one alone. */
export function useOpenDocument() {
  const route = useRoute()
  const figure = useFigure()
  const crowd = useCrowd()
  return computed(() => (STATIONS.find((s) => s.route === route.path)?.edits === 'mix' ? crowd : figure))
}

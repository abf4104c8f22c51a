import {
  addPart,
  copyPart,
  mirroredPlace,
  placePart,
  referenceTo,
  removePart,
  type KitRef,
  type Place,
  type SpotAsk,
} from '@idle-tinker/core'
import type { Stage } from '../stage/Stage'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useView } from '../stores/view'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import { stageHere } from './stageHere'

type At = readonly [number, number, number]
/** A place on the figure, and the instance it is on; null is the body. */
export interface Pointed {
  on: string | null
  at: At
}
/** What was hit on the stage, as the recipe names it. */
export const pointedBy = (hit: ReturnType<Stage['placeAhead']>): Pointed | null =>
  hit && { on: hit.on.slot === 'body' ? null : hit.on.instance, at: hit.at }

/** What one press of a key moves along the surface, metres. */
const STEP = 0.006

/** What is asked, one after another. */
let chain: Promise<void> = Promise.resolve()
/** A move that waits its turn: a newer one takes its place. */
let waiting: (() => Promise<void>) | null = null

/** What fails is told, and does not keep the next from its turn. */
const inTurn = (work: () => Promise<void>) =>
  (chain = chain.then(work).catch((error: unknown) => useFigure().tellUndone(error)))

function newestInTurn(work: () => Promise<void>): Promise<void> {
  const before = waiting
  waiting = work
  if (before) return chain
  return inTurn(() => {
    const newest = waiting!
    waiting = null
    return newest()
  })
}

/** Parts that hands put on the figure: set, moved along, turned, scaled, mirrored, copied. */
export function usePlacing() {
  const figure = useFigure()
  const project = useProject()
  const view = useView()

  const instanceOf = (id: string) => figure.recipe?.parts.find((p) => p.id === id)

  /** Asks for a spot of the figure as it is when it is asked. */
  const withSpot =
    (ask: () => SpotAsk | null, use: (at: NonNullable<Place['at']>) => void) => async (): Promise<void> => {
      const now = ask()
      if (!figure.recipe || !now) return
      const { id } = figure
      const spot = await workshop('bench').spot(plain(figure.recipe), plain(now))
      // another figure has been opened meanwhile
      if (spot && figure.id === id) use(spot)
    }

  /** From where a question about an instance begins. */
  function from(id: string): Pick<SpotAsk, 'on' | 'from'> | null {
    const at = instanceOf(id)?.place?.at
    if (at && 'triangle' in at) return { on: at.on?.instance ?? null, from: at }
    const middle = stageHere.value?.middleOf(id)
    return middle ? { on: null, from: middle } : null
  }

  /** One more of a part, in the middle of what is seen; it is the one that is worked on then. */
  function add(slot: string, part: KitRef): void {
    if (!figure.recipe) return
    const to = pointedBy(stageHere.value?.placeAhead() ?? null)
    const put = (at?: Place['at']) => {
      if (!figure.recipe) return
      const before = new Set(figure.recipe.parts.map((p) => p.id))
      figure.edit(addPart(figure.recipe, slot, referenceTo(project.library, part), at ? { place: { at } } : {}))
      view.instance = figure.recipe?.parts.find((p) => !before.has(p.id))?.id ?? null
      view.placing = true
    }
    if (to) void inTurn(withSpot(() => ({ on: to.on, from: to.at }), put))
    else put()
  }

  /** Moves it; moves with the same mark are one step. */
  function set(id: string, change: Partial<Place>, mark: string | null = null): void {
    const now = instanceOf(id)
    if (figure.recipe && now) figure.edit(placePart(figure.recipe, id, { ...now.place, ...change }), mark)
  }

  const moveTo = (id: string, to: Pointed, mark: string | null) =>
    newestInTurn(
      withSpot(
        () => ({ on: to.on, from: to.at }),
        (at) => set(id, { at }, mark),
      ),
    )

  /** By keys, in steps along the surface: to its right and up. */
  function step(id: string, right: number, up: number): void {
    const ask = () => {
      const begin = from(id)
      return begin && { ...begin, then: { beside: [right * STEP, up * STEP] as const } }
    }
    void inTurn(withSpot(ask, (at) => set(id, { at }, `move ${id}`)))
  }

  function copyTo(
    id: string,
    then: SpotAsk['then'],
    placed: (place: Place | undefined, at: Place['at']) => Place,
  ): void {
    const ask = () => {
      const begin = from(id)
      return begin && { ...begin, then }
    }
    const put = (at: Place['at']) => {
      if (!figure.recipe) return
      const before = new Set(figure.recipe.parts.map((p) => p.id))
      figure.edit(copyPart(figure.recipe, id, placed(instanceOf(id)?.place, at)))
      view.instance = figure.recipe.parts.find((p) => !before.has(p.id))?.id ?? view.instance
    }
    void inTurn(withSpot(ask, put))
  }
  /** Beside it, so that there are two to see. */
  const copy = (id: string) => copyTo(id, { beside: [4 * STEP, 0] }, (place, at) => ({ ...place, at }))
  const copyAcross = (id: string) => copyTo(id, 'across', mirroredPlace)

  function remove(id: string): void {
    if (!figure.recipe) return
    figure.edit(removePart(figure.recipe, id))
    if (view.instance === id) view.instance = null
    view.placing = false
  }

  return { instanceOf, add, set, moveTo, step, copy, copyAcross, remove }
}

import {
  evenOut,
  nudgeOn,
  setNudge,
  type BrushKind,
  type Recipe,
  type Side,
  type SliderDef,
  type Stroke,
} from '@idle-tinker/core'
import { useFigure } from '../stores/figure'
import { useView } from '../stores/view'
import { workshop } from '../workers'
import { plain } from '../workers/plain'

type At = readonly [number, number, number]

/** One stroke, from press to release. */
interface Drawing {
  figure: string
  /** The instance; undefined is the body. */
  on: string | undefined
  kind: BrushKind
  /** The figure as it was when the stroke began; taken once the stroke before is done. */
  before: Recipe | null
  /** Places the brush has passed that no answer counts in yet. */
  path: At[]
  /** Where it acted last. */
  last: At
}

/** From one place where the brush acts to the next, as a share of its radius. */
const SPACING = 0.25

let drawing: Drawing | null = null
let busy: Promise<void> | null = null

/** Strokes of the brush on the figure. While one answer is on its way, places gather for the next. */
export function useNudging() {
  const figure = useFigure()
  const view = useView()

  function begin(on: string | undefined, at: At, kind: BrushKind = view.brush.kind): void {
    if (!figure.id || !figure.recipe) return
    drawing = { figure: figure.id, on, kind, before: null, path: [at], last: at }
    // what is only pulled begins when the hand moves
    if (kind !== 'pull') draw()
  }

  function go(at: At): void {
    if (!drawing) return
    // a pull goes from where it took hold to where the hand is now; the others act every so often along the way
    if (drawing.kind === 'pull') drawing.path = [drawing.path[0]!, at]
    else if (Math.hypot(...at.map((v, k) => v - drawing!.last[k]!)) < view.brush.radius * SPACING) return
    else Object.assign(drawing, { path: [...drawing.path, at], last: at })
    draw()
  }

  function draw(): void {
    if (busy) return
    busy = work()
      .catch((error: unknown) => {
        // the stroke ends where it was
        drawing = null
        figure.tellUndone(error)
      })
      .finally(() => (busy = null))
  }

  async function work(): Promise<void> {
    for (let now = drawing; now && now.path.length > (now.kind === 'pull' ? 1 : 0); now = drawing) {
      const { path, on, kind } = now
      const pulls = kind === 'pull'
      const stroke: Stroke = { ...plain(view.brush), kind, path }
      // pulling starts from the figure as it was; the others go on from what they have made
      const from = pulls ? (now.before ??= plain(figure.recipe!)) : plain(figure.recipe!)
      if (!pulls) now.path = []
      const after = await workshop('bench').nudge(from, on, stroke)
      // another figure has been opened meanwhile
      if (figure.id !== now.figure || !figure.recipe) return
      figure.edit(setNudge(figure.recipe, on, nudgeOn(after, on)), 'nudge')
      // one that began meanwhile has its turn
      if (pulls && now.path === path && drawing === now) return
    }
  }

  /** The stroke ends: it is one step. */
  async function end(): Promise<void> {
    const last = drawing
    await busy
    if (drawing === last) drawing = null
    figure.settle()
  }

  /** Brings the body back, in one region or everywhere. */
  async function bringBack(region: string | null): Promise<void> {
    const { id, recipe } = figure
    if (!recipe) return
    try {
      const after = await workshop('bench').unnudge(plain(recipe), region)
      if (figure.id === id && figure.recipe) figure.edit(setNudge(figure.recipe, undefined, nudgeOn(after, undefined)))
    } catch (error) {
      figure.tellUndone(error)
    }
  }

  /** Makes sliders and what was nudged on the body alike on both sides, in one step. */
  async function even(sliders: readonly SliderDef[], like: Side): Promise<void> {
    const { id, recipe } = figure
    if (!recipe) return
    try {
      const after = nudgeOn(recipe, undefined) ? await workshop('bench').evenNudge(plain(recipe), like) : recipe
      if (figure.id !== id || !figure.recipe) return
      figure.edit(evenOut(setNudge(figure.recipe, undefined, nudgeOn(after, undefined)), [...sliders], like))
    } catch (error) {
      figure.tellUndone(error)
    }
  }

  /** Brings a part back. */
  function bringPartBack(on: string): void {
    if (figure.recipe) figure.edit(setNudge(figure.recipe, on, null))
  }

  return { begin, go, end, even, bringBack, bringPartBack }
}

import PQueue from 'p-queue'
import type { InjectionKey, Ref } from 'vue'
import { Box3, Vector3 } from 'three'
import { contentHash, setSide, type Recipe, type SliderDef } from '@idle-tinker/core'
import { theBooth } from '../stage/Booth'
import { useFigure } from '../stores/figure'
import { inPool, useProject } from '../stores/project'
import type { FigureView } from '../workers/protocol'
import { plain } from '../workers/plain'
import { PICTURES } from '../workers/pictureTarget'
import { keptPictures } from './keptPictures'

/** Pictures of the figure with a slider at its lower and at its upper end. */
export type Ends = readonly [low: string, high: string]

/** Whether the hand or the focus is among the sliders. */
export const NEAR_SLIDERS: InjectionKey<Ref<boolean>> = Symbol('near the sliders')

/** Those of about twenty figures. */
const kept = keptPictures('ends', 400)
const ends = reactive(new Map<string, Ends>())
const queue = new PQueue({ concurrency: 1 })
/** Of which recipe each picture was asked. */
const askedOf = new Map<string, Recipe>()

/** A picture shows at least so much, metres: a nostril by itself tells nothing. */
const LEAST = 0.13
/** What moves less is not what the slider is about, metres. */
const HARDLY = 0.0008
const SIZE = 88

/** Where two views of one figure differ, and from where that is best seen, radians from the front. */
export function differenceOf(low: FigureView, high: FigureView): { box: Box3; turn: number } | null {
  const [a, b] = [low.mesh.positions, high.mesh.positions]
  if (a.length !== b.length) return null
  const box = new Box3()
  const p = new Vector3()
  const moved = new Vector3()
  let depth = 0
  for (let i = 0; i < a.length; i += 3) {
    const d = [0, 1, 2].map((k) => Math.abs(b[i + k]! - a[i + k]!)) as [number, number, number]
    if (Math.hypot(...d) < HARDLY) continue
    box.expandByPoint(p.fromArray(a, i)).expandByPoint(p.fromArray(b, i))
    moved.x += d[0]
    moved.y += d[1]
    moved.z += d[2]
    depth += d[2] * (a[i + 2]! + b[i + 2]!)
  }
  if (box.isEmpty()) return null
  const size = box.getSize(new Vector3())
  const most = new Vector3(Math.max(0, LEAST - size.x), Math.max(0, LEAST - size.y), Math.max(0, LEAST - size.z))
  box.expandByVector(most.multiplyScalar(0.5))
  // what goes to the front and back is seen from the side, and from behind if that is where it is
  const turn = moved.z > Math.max(moved.x, moved.y) * 1.15 ? (depth < 0 ? 2.1 : 1.15) : 0.35
  return { box, turn }
}

/** What both pictures of a slider depend on: the figure but for its name and where that slider stands, and the kits. */
function keyOf(slider: SliderDef, recipe: Recipe): string {
  const kits = useProject().kits.map(({ manifest, hash }) => [manifest.id, hash])
  return `${slider.id} ${contentHash([{ ...setSide(recipe, slider, 'both', slider.min), name: '' }, kits])}`
}

async function take(slider: SliderDef, recipe: Recipe): Promise<void> {
  const key = keyOf(slider, recipe)
  const before = await kept.get(key)
  if (before) {
    if (askedOf.get(slider.id) === recipe) ends.set(slider.id, before as unknown as Ends)
    return
  }
  const views: FigureView[] = []
  for (const value of [slider.min, slider.max]) {
    // the figure has changed meanwhile: its new pictures are asked for
    if (askedOf.get(slider.id) !== recipe) return
    const { view } = await inPool((worker) =>
      worker.build(plain(setSide(recipe, slider, 'both', value)), plain(PICTURES), false),
    )
    if (!view) return
    views.push(view)
  }
  // while it was built another figure may have come
  if (askedOf.get(slider.id) !== recipe) return
  const [low, high] = views as [FigureView, FigureView]
  const seen = differenceOf(low, high)
  if (!seen) return
  const pictures = [low, high].map((view) => theBooth().take(view, SIZE, SIZE, { turn: seen.turn, box: seen.box }))
  if (!pictures.every((p) => p !== null)) {
    // without graphics there are none; they are asked for again when the row is seen again
    askedOf.delete(slider.id)
    return
  }
  const taken = pictures.map((p) => p.toDataURL())
  ends.set(slider.id, taken as unknown as Ends)
  void kept.keep(key, taken)
}

/** Both ends of sliders on the figure that is on the Bench; they come once it has stood still for a while. */
export function useEnds() {
  const figure = useFigure()

  /** Asks for a slider's pictures, unless those of this very figure are there or on their way. */
  function show(slider: SliderDef): void {
    const recipe = figure.recipe
    if (!recipe || askedOf.get(slider.id) === recipe) return
    askedOf.set(slider.id, recipe)
    queue
      .add(() => take(slider, recipe))
      // they are asked for again when the figure changes or the row is seen again
      .catch(() => askedOf.delete(slider.id))
  }
  /** Another figure's pictures say nothing about this one. */
  function forget(): void {
    queue.clear()
    ends.clear()
    askedOf.clear()
  }
  return { endsOf: (slider: SliderDef): Ends | undefined => ends.get(slider.id), show, forget }
}

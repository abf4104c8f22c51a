import {
  colorRegionsOf,
  holdsSeveral,
  palettesFor,
  partIn,
  partOf,
  partsFor,
  partsIn,
  setSide,
  sidesOf,
  slotsFor,
  type SliderDef,
} from '@idle-tinker/core'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useView } from '../stores/view'

/** What the kits hold for the figure on the Bench: its body, slots, parts, colors and palettes. */
export function useKit() {
  const project = useProject()
  const figure = useFigure()
  const view = useView()
  const manifest = computed(() => (figure.recipe ? project.manifest(figure.recipe.body.kit) : undefined))
  const body = computed(() => manifest.value?.bodies.find((b) => b.id === figure.recipe?.body.id))
  const slots = computed(() => (figure.recipe ? slotsFor(project.library, figure.recipe.body) : []))
  const partsOf = (slot: string) => (figure.recipe ? partsFor(project.library, figure.recipe.body, slot) : [])
  /** The part in a slot and its kit; undefined where it is empty or its kit is not here. */
  const wornIn = (slot: string) => {
    const part = figure.recipe && partIn(figure.recipe, slot)
    return part ? partOf(project.library, part) : undefined
  }
  const holdsSeveralIn = (slot: string) => slots.value.some((s) => s.id === slot && holdsSeveral(s))
  const colorRegions = computed(() => colorRegionsOf(project.library, figure.recipe?.body.kit ?? ''))
  const palettes = computed(() => (figure.recipe ? palettesFor(project.library, figure.recipe.body) : []))
  const colorOf = (region: string) =>
    figure.recipe?.colors[region] ?? colorRegions.value.get(region)?.color ?? '#808080'
  const regionsIn = (slot: string) => {
    const worn = figure.recipe ? partsIn(figure.recipe, slot) : []
    return [...new Set(worn.flatMap(({ part }) => project.regionsOf(part.kit, part.id)))]
  }
  /** A slider's values on the figure's left and right. */
  const valuesOf = (slider: SliderDef) => sidesOf(figure.recipe ?? { sliders: {} }, slider)
  /** A slider as one number: of the side that is worked on; of both the middle. */
  const sliderValue = (slider: SliderDef) => {
    const [left, right] = valuesOf(slider)
    return view.side === 'left' ? left : view.side === 'right' ? right : (left + right) / 2
  }
  /** Moves a slider on the side that is worked on; changes with the same mark are one step. */
  const slide = (slider: SliderDef, value: number, mark: string | null) => {
    if (figure.recipe) figure.edit(setSide(figure.recipe, slider, view.side, value), mark)
  }
  return {
    manifest,
    body,
    slots,
    partsOf,
    wornIn,
    holdsSeveralIn,
    colorRegions,
    palettes,
    colorOf,
    regionsIn,
    valuesOf,
    sliderValue,
    slide,
  }
}

import {
  colorRegionsOf,
  meanValue,
  palettesFor,
  partIn,
  partOf,
  partsFor,
  slotsFor,
  type SliderDef,
} from '@idle-tinker/core'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'

/** What the kits hold for the figure on the Bench: its body, slots, parts, colors and palettes. */
export function useKit() {
  const project = useProject()
  const figure = useFigure()
  const manifest = computed(() => (figure.recipe ? project.manifest(figure.recipe.body.kit) : undefined))
  const body = computed(() => manifest.value?.bodies.find((b) => b.id === figure.recipe?.body.id))
  const slots = computed(() => (figure.recipe ? slotsFor(project.library, figure.recipe.body) : []))
  const partsOf = (slot: string) => (figure.recipe ? partsFor(project.library, figure.recipe.body, slot) : [])
  /** The part in a slot and its kit; undefined where it is empty or its kit is not here. */
  const wornIn = (slot: string) => {
    const part = figure.recipe && partIn(figure.recipe, slot)
    return part ? partOf(project.library, part) : undefined
  }
  const colorRegions = computed(() => colorRegionsOf(project.library, figure.recipe?.body.kit ?? ''))
  const palettes = computed(() => (figure.recipe ? palettesFor(project.library, figure.recipe.body) : []))
  const colorOf = (region: string) =>
    figure.recipe?.colors[region] ?? colorRegions.value.get(region)?.color ?? '#808080'
  const regionsIn = (slot: string) => {
    const part = wornIn(slot)
    return part ? project.regionsOf(part.kit, part.def.id) : []
  }
  /** A slider as one number; the mean where its sides differ. */
  const sliderValue = (slider: SliderDef) => meanValue(figure.recipe?.sliders[slider.id] ?? slider.default)
  return { manifest, body, slots, partsOf, wornIn, colorRegions, palettes, colorOf, regionsIn, sliderValue }
}

import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'

/** The kit, body, slots and sliders of the figure on the Bench. */
export function useKit() {
  const project = useProject()
  const figure = useFigure()
  const manifest = computed(() => (figure.recipe ? project.manifest(figure.recipe.body.kit) : undefined))
  const body = computed(() => manifest.value?.bodies.find((b) => b.id === figure.recipe?.body.id))
  const slots = computed(() => manifest.value?.slots.filter((s) => s.bodies.includes(body.value?.id ?? '')) ?? [])
  const partsOf = (slot: string) =>
    manifest.value?.parts.filter((p) => p.slot === slot && p.bodies.includes(body.value?.id ?? '')) ?? []
  const partIn = (slot: string) =>
    manifest.value?.parts.find((p) => p.id === figure.recipe?.parts[slot]?.id && p.slot === slot)
  const colorOf = (region: string) =>
    figure.recipe?.colors[region] ?? manifest.value?.colorRegions.find((c) => c.id === region)?.color ?? '#808080'
  const regionsIn = (slot: string) => {
    const part = partIn(slot)
    return part && manifest.value ? project.regionsOf(manifest.value.id, part.id) : []
  }
  return { manifest, body, slots, partsOf, partIn, colorOf, regionsIn }
}

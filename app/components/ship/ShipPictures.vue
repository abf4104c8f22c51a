<script setup lang="ts">
import { heldClip, restOf, type Target } from '@idle-tinker/core'
import { theBooth } from '../../stage/Booth'
import { useCrowd } from '../../stores/crowd'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'

/** What is about to leave, as it will arrive: a figure beside a rule of one metre, or a crowd. */
const props = defineProps<{
  what: 'figure' | 'crowd' | 'several'
  target: Target
  /** Of several, which: “figure:id”. */
  chosen: readonly string[]
}>()
const project = useProject()
const figure = useFigure()
const crowd = useCrowd()
const plan = usePlan()

/** As many of a crowd as stand beside the form on a large screen. */
const MOST_PICTURES = 60
const pictures = computed(() => {
  if (props.what === 'several') return severalOf()
  if (props.what === 'crowd') return crowd.cards.flatMap((c) => c.picture ?? []).slice(0, MOST_PICTURES)
  const { view: built } = figure
  const rest = built && plan.value && restOf({ skeleton: built }, plan.value, props.target).value
  const color = getComputedStyle(document.documentElement).getPropertyValue('--ink-soft').trim() || '#555'
  const seen = { turn: 0.4, level: true, rule: { times: props.target.convention.scale ?? 1, color } }
  // as it will stand, where that is said; as people stand where it is not
  const framing = rest ? { ...seen, clip: heldClip(built.bones, rest) } : { ...seen, armsDown: true }
  const taken = built && theBooth().take(built, 340, 540, framing)
  return taken ? [taken.toDataURL()] : []
})

/** The figures among what is chosen, as the list of figures shows them. */
function severalOf(): string[] {
  const figures = project.figures.filter((f) => f.hasPicture && props.chosen.includes(`figure:${f.id}`))
  return figures
    .slice(0, MOST_PICTURES)
    .map((f) => `/api/documents/figure/${f.id}/picture?${f.savedAt}${project.pictureVersion}`)
}
// those that have no picture yet get one
watch(
  () => props.what,
  (what) => void (what === 'several' && project.takeMissingPictures()),
  { immediate: true },
)
</script>

<template>
  <div class="pictures" :class="what" aria-hidden="true">
    <img v-for="(p, i) in pictures" :key="i" :src="p" alt="" />
  </div>
</template>

<style scoped>
.pictures {
  display: grid;
  justify-items: center;
  align-content: center;
  padding: var(--s4) 0;
  border-right: 1px solid var(--rule);
}

.pictures.figure {
  position: sticky;
  top: 0;
  align-self: start;
  height: calc(100vh - 52px - 46px - 2 * var(--s5));
}

.pictures:not(.figure) {
  grid-template-columns: repeat(auto-fill, minmax(94px, 1fr));
  grid-auto-rows: 146px;
  align-content: start;
  gap: var(--s2) 0;
  /* whole rows only, as many as there is room for */
  height: calc(round(down, 100vh - 52px - 46px - 2 * var(--s5), 146px + var(--s2)) - var(--s2));
  overflow: hidden;
  padding: 0;
}

.pictures.figure img {
  height: min(540px, 62vh);
}

.pictures.crowd img {
  height: 146px;
}

.pictures.several img {
  /* as large as they were drawn */
  height: 120px;
}

@media (max-width: 959px) {
  .pictures {
    display: none;
  }
}
</style>

<script setup lang="ts">
import { ChevronRight, Lock, LockOpen, Shuffle } from 'lucide-vue-next'
import { isHeld, setHeld, shuffleShape, type SliderDef } from '@idle-tinker/core'
import { randomSeed } from '../../composables/randomSeed'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

/** The sliders of one region, folded away until they are wanted. */
const props = defineProps<{ id: string; name: string; sliders: readonly SliderDef[]; moves?: boolean }>()
const figure = useFigure()
const project = useProject()
const view = useView()
const open = computed(() => view.openGroups.includes(props.id))
const place = ref<HTMLElement>()
/** How many are not at rest: told where they are not seen. */
const moved = computed(() => props.sliders.filter((s) => Object.hasOwn(figure.recipe?.sliders ?? {}, s.id)).length)

function shuffle(): void {
  if (figure.recipe) figure.edit(shuffleShape(figure.recipe, project.library, props.id, randomSeed(), view.strength))
}

const held = computed(() => figure.recipe !== null && isHeld(figure.recipe, 'groups', props.id))
function hold(): void {
  if (figure.recipe) figure.edit(setHeld(figure.recipe, 'groups', props.id, !held.value))
}

// opened from elsewhere, as by a click on the figure, it comes into sight
watch(
  () => view.groupToShow,
  async (id) => {
    if (id !== props.id) return
    await nextTick()
    place.value?.scrollIntoView({ block: 'start', behavior: 'smooth' })
    view.groupToShow = null
  },
)
</script>

<template>
  <section ref="place" class="group" :data-test="`group-${id}`">
    <h3>
      <button class="fold" :aria-expanded="open" @click="view.turnGroup(id)">
        <ChevronRight :size="15" class="mark" :class="{ open }" />
        {{ name }}
        <i v-if="!open && moved" class="soft number" :title="`${moved} not at rest`">{{ moved }}</i>
      </button>
      <button
        v-if="!moves"
        class="quiet lock"
        :class="{ on: held }"
        :aria-label="`${held ? 'Unlock' : 'Lock'}: ${name}`"
        :title="held ? 'Unlock' : 'Lock: shuffling leaves these'"
        :data-test="`hold-${id}`"
        @click="hold"
      >
        <component :is="held ? Lock : LockOpen" :size="14" />
      </button>
      <button
        v-if="!moves"
        class="quiet"
        :aria-label="`Shuffle: ${name}`"
        title="Shuffle these alone"
        :data-test="`shuffle-group-${id}`"
        @click="shuffle"
      >
        <Shuffle :size="14" />
      </button>
    </h3>
    <template v-if="open"><SliderRow v-for="s in sliders" :key="s.id" :slider="s" /></template>
  </section>
</template>

<style scoped>
.group {
  margin-top: var(--s2);
  scroll-margin-top: var(--s2);
}

.lock {
  margin-left: auto;
}

.lock.on {
  color: var(--act);
}

h3 {
  display: flex;
  align-items: center;
  justify-content: space-between;
  border-bottom: 1px solid var(--rule);
  margin-bottom: var(--s1);
}

.fold {
  appearance: none;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  cursor: pointer;
  flex: 1;
  display: flex;
  align-items: center;
  gap: 3px;
  padding: 4px 0;
  text-align: left;
}

.fold:hover {
  color: var(--act);
}

.mark {
  transition: rotate 120ms;
}

.mark.open {
  rotate: 90deg;
}

i {
  font-size: 11px;
  font-style: normal;
  margin-left: var(--s1);
}
</style>

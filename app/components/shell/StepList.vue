<script setup lang="ts">
import { History } from 'lucide-vue-next'
import { describeChange, type Recipe } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'
import { stepsIn } from '../../stores/history'
import { useProject } from '../../stores/project'

/** The steps that led to the figure, the newest first; any of them can be gone to. */
const figure = useFigure()
const project = useProject()
const panel = ref<{ toggle(e: Event): void }>()
const shown = ref(false)
const steps = computed(() => {
  if (!shown.value || !figure.history) return []
  const describe = (before: Recipe, after: Recipe) => describeChange(before, after, project.library)
  return stepsIn(figure.history, describe)
    .map(({ at, name }, place) => ({ at, place, name: name ?? 'As it was opened' }))
    .reverse()
})
</script>

<template>
  <button
    class="quiet"
    aria-haspopup="dialog"
    aria-label="Steps"
    title="Steps"
    data-test="steps"
    :disabled="!figure.history"
    @click="panel?.toggle($event)"
  >
    <History :size="18" />
  </button>
  <Popover ref="panel" aria-label="Steps" @show="shown = true" @hide="shown = false">
    <ol class="steps scroll" data-test="step-list">
      <li v-for="s in steps" :key="s.place">
        <button
          :class="s.at"
          :aria-current="s.at === 'now' ? 'step' : undefined"
          :disabled="s.at === 'now'"
          @click="figure.jump(s.place)"
        >
          {{ s.name }}
        </button>
      </li>
    </ol>
  </Popover>
</template>

<style scoped>
.steps {
  width: 300px;
  max-height: 60vh;
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  border-bottom: 1px solid var(--rule);
}

li button {
  appearance: none;
  width: 100%;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px var(--text);
  text-align: left;
  padding: 6px var(--s2);
  cursor: pointer;
}

li button:hover:enabled {
  background: var(--act-soft);
}

li .now {
  border-left: 3px solid var(--act);
  font-weight: 650;
  cursor: default;
}

li .future {
  color: var(--ink-soft);
  font-style: italic;
}
</style>

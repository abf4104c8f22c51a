<script setup lang="ts">
import { setSprings, SPRING_RANGES, springOf, swingingChains, USUAL_SPRING, type Spring } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'

/** Which of the figure's chains swing, and how. */
const figure = useFigure()
const DIALS: readonly { key: keyof Spring; name: string; step: number }[] = [
  { key: 'stiffness', name: 'Stiffness', step: 0.05 },
  { key: 'drag', name: 'Drag', step: 0.05 },
  { key: 'gravity', name: 'Gravity', step: 0.05 },
]

/** Both of a pair are one. */
const chains = computed(() =>
  swingingChains(figure.view?.limbs ?? []).map((chain) => ({
    ...{ ...chain, name: boneWords(chain.id) },
    spring: figure.recipe && springOf(figure.recipe, chain.limbs[0]!),
  })),
)
function set(limbs: readonly string[], spring: Spring | null, mark: string | null): void {
  if (figure.recipe) figure.edit(setSprings(figure.recipe, limbs, spring), mark)
}
</script>

<template>
  <section v-if="chains.length" aria-label="Springs" data-test="springs">
    <template v-for="c in chains" :key="c.id">
      <label class="swings"
        ><ToggleSwitch
          :model-value="c.spring !== null"
          :input-id="`swings-${c.id}`"
          :data-test="`swings-${c.id}`"
          @update:model-value="set(c.limbs, $event ? USUAL_SPRING : null, null)"
        />
        {{ c.name }} swings</label
      >
      <template v-if="c.spring">
        <DialRow
          v-for="d in DIALS"
          :key="d.key"
          :name="d.name"
          :label="`${d.name}: ${c.name}`"
          :value="c.spring[d.key]"
          :words="c.spring[d.key].toFixed(2)"
          :min="SPRING_RANGES[d.key][0]"
          :max="SPRING_RANGES[d.key][2]"
          :step="d.step"
          :test="`spring-${c.id}-${d.key}`"
          @change="set(c.limbs, { ...c.spring, [d.key]: $event }, `spring ${c.id} ${d.key}`)"
          @settle="figure.settle()"
        />
      </template>
    </template>
  </section>
</template>

<style scoped>
section {
  margin-bottom: var(--s3);
}

.swings {
  display: flex;
  align-items: center;
  gap: var(--s2);
  margin-bottom: var(--s2);
}
</style>

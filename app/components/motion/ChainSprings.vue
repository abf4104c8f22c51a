<script setup lang="ts">
import { SPRING_RANGES, USUAL_SPRING, type Spring, type SwingingChain } from '@idle-tinker/core'

/** Chains that can swing, and how each does. */
defineProps<{ chains: readonly (SwingingChain & { name: string; spring: Spring | null })[] }>()
const emit = defineEmits<{ set: [limbs: string[], spring: Spring | null, mark: string | null]; settle: [] }>()
const DIALS: readonly { key: keyof Spring; name: string; step: number }[] = [
  { key: 'stiffness', name: 'Stiffness', step: 0.05 },
  { key: 'drag', name: 'Drag', step: 0.05 },
  { key: 'gravity', name: 'Gravity', step: 0.05 },
]
</script>

<template>
  <template v-for="c in chains" :key="c.id">
    <label class="swings"
      ><ToggleSwitch
        :model-value="c.spring !== null"
        :input-id="`swings-${c.id}`"
        :data-test="`swings-${c.id}`"
        @update:model-value="emit('set', c.limbs, $event ? USUAL_SPRING : null, null)"
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
        @change="emit('set', c.limbs, { ...c.spring, [d.key]: $event }, `spring ${c.id} ${d.key}`)"
        @settle="emit('settle')"
      />
    </template>
  </template>
</template>

<style scoped>
.swings {
  display: flex;
  align-items: center;
  gap: var(--s2);
  margin-bottom: var(--s2);
}
</style>

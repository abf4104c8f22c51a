<script setup lang="ts">
import { AXIS_NAMES, UNIT_NAMES, UNSURE, type Placing, type PlacingGiven } from '@idle-tinker/core'

/** How models that were brought in lie, how sure that is, and where a person says so otherwise. */
defineProps<{ placing: Omit<Placing, 'toBody'>; test: string }>()
const emit = defineEmits<{ give: [given: PlacingGiven] }>()

const FIELDS = [
  { key: 'up', label: 'Up', options: [...AXIS_NAMES] },
  { key: 'front', label: 'Front', options: [...AXIS_NAMES] },
  { key: 'unit', label: 'Unit', options: [...UNIT_NAMES] },
] as const
const percent = (v: number): string => `${Math.round(v * 100)} %`
</script>

<template>
  <div class="lying">
    <label v-for="{ key, label, options } in FIELDS" :key="key"
      >{{ label }}
      <Select
        :model-value="placing[key]"
        :options="[...options]"
        size="small"
        :data-test="`${test}-${key}`"
        @update:model-value="emit('give', { [key]: $event })"
      />
      <i class="number" :class="{ care: placing.sure[key] < UNSURE }">{{ percent(placing.sure[key]) }}</i>
    </label>
  </div>
</template>

<style scoped>
.lying {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2) var(--s3);
}

label {
  display: inline-flex;
  align-items: center;
  gap: var(--s2);
  font-size: 13px;
}

.care {
  color: var(--care);
}
</style>

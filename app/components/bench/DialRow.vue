<script setup lang="ts" generic="V extends number | number[]">
/** A slider with its name before it and its value in words behind; of two numbers from one to the other. */
defineProps<{
  name: string
  value: V
  min: number
  max: number
  step: number
  words: string
  label: string
  test?: string
}>()
const emit = defineEmits<{ change: [value: V]; settle: [] }>()
</script>

<template>
  <div class="dial-row">
    <span>{{ name }}</span>
    <Slider
      :model-value="value"
      :range="Array.isArray(value)"
      :min="min"
      :max="max"
      :step="step"
      :aria-label="label"
      :data-test="test"
      @update:model-value="emit('change', $event as V)"
      @slideend="emit('settle')"
    />
    <span class="number">{{ words }}</span>
  </div>
</template>

<style scoped>
.dial-row {
  display: grid;
  grid-template-columns: 62px 1fr minmax(46px, auto);
  align-items: center;
  gap: var(--s3);
  padding: 5px 0;
  font-size: 13px;
}

.number {
  text-align: right;
  font-size: 12px;
}
</style>

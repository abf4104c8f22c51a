<script setup lang="ts">
/** A slider with its name before it and its value in words behind. */
defineProps<{
  name: string
  value: number
  min: number
  max: number
  step: number
  words: string
  label: string
  test?: string
}>()
const emit = defineEmits<{ change: [value: number]; settle: [] }>()
</script>

<template>
  <div class="line">
    <span>{{ name }}</span>
    <Slider
      :model-value="value"
      :min="min"
      :max="max"
      :step="step"
      :aria-label="label"
      :data-test="test"
      @update:model-value="emit('change', $event as number)"
      @slideend="emit('settle')"
    />
    <span class="number">{{ words }}</span>
  </div>
</template>

<style scoped>
.line {
  display: grid;
  grid-template-columns: 62px 1fr 46px;
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

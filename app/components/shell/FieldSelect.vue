<script setup lang="ts" generic="T">
/** One choice of several in a form, its name above it; attributes go to the field. */
defineOptions({ inheritAttrs: false })
withDefaults(
  defineProps<{
    name: string
    options: readonly { id: T; name: string }[]
    /** How many columns of its form it takes. */
    columns?: 1 | 2 | 'all'
  }>(),
  { columns: 1 },
)
const value = defineModel<T>({ required: true })
const PLACES = { 1: 'auto', 2: 'span 2', all: '1 / -1' } as const
</script>

<template>
  <label class="field" :style="{ gridColumn: PLACES[columns] }"
    >{{ name }}
    <Select
      v-model="value"
      :options="[...options]"
      option-label="name"
      option-value="id"
      size="small"
      fluid
      :aria-label="name"
      v-bind="$attrs"
  /></label>
</template>

<style scoped>
.field {
  min-width: 0;
  display: grid;
  /* what is chosen may be wider than its place */
  grid-template-columns: minmax(0, 1fr);
  gap: 2px;
  font-size: 12px;
  color: var(--ink-soft);
}
</style>

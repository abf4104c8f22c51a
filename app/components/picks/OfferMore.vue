<script setup lang="ts" generic="T">
/** Something more to take, of a list; nothing of it stays chosen. */
defineProps<{ options: readonly T[]; label: string }>()
const emit = defineEmits<{ take: [option: T] }>()
/** Made anew with each that was taken. */
const taken = ref(0)
function take(option: unknown): void {
  taken.value++
  emit('take', option as T)
}
</script>

<template>
  <Select
    v-if="options.length"
    :key="taken"
    :model-value="null"
    :options="[...options]"
    option-label="name"
    :placeholder="`${label} …`"
    size="small"
    filter
    fluid
    :aria-label="label"
    @update:model-value="take"
  />
</template>

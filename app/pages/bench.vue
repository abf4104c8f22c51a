<script setup lang="ts">
import { useView } from '../stores/view'

const view = useView()
const turned = ref<'left' | 'right'>('left')
// whoever chooses a part wants to see what else there is for its place
watch(
  () => view.slot,
  (slot) => slot && (turned.value = 'right'),
)
</script>

<template>
  <StationLayout v-model:turned="turned" left="Build sheet" right="Tray">
    <template #left><BuildSheet /></template>
    <StageView tabs />
    <template #right><PartTray /></template>
  </StationLayout>
</template>

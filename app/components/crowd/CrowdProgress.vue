<script setup lang="ts">
import { useCrowd } from '../../stores/crowd'

/** How far the crowd that is being made is. */
const crowd = useCrowd()
const choosing = computed(() => crowd.phase === 'choosing')
const share = computed(() => (choosing.value ? crowd.chosen : crowd.done / Math.max(1, crowd.cards.length)))
</script>

<template>
  <div class="progress" role="status" data-test="progress">
    <span>{{
      choosing ? 'Choosing figures that differ' : `Building and drawing: ${crowd.done} of ${crowd.cards.length}`
    }}</span>
    <ProgressBar :value="Math.round(share * 100)" :show-value="false" aria-label="How far the crowd is" />
  </div>
</template>

<style scoped>
.progress {
  display: grid;
  gap: 4px;
}
</style>

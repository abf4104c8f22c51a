<script setup lang="ts">
import { useCrowd } from '../stores/crowd'
import { useProject } from '../stores/project'

const crowd = useCrowd()
const project = useProject()

onMounted(() => {
  if (!crowd.mix && project.mixes[0]) crowd.open(project.mixes[0].id)
})
</script>

<template>
  <StationLayout v-if="crowd.mix" left="Mix" right="Numbers" right-width="290px">
    <template #left><MixEditor :key="crowd.id ?? ''" /></template>
    <ContactSheet />
    <template #right><CrowdCharts /></template>
  </StationLayout>
  <p v-else class="none soft" data-test="no-mix">
    There is no mix yet. Open the list of mixes above and make one from a body of your kits.
  </p>
</template>

<style scoped>
.none {
  height: 100%;
  margin: 0;
  display: grid;
  place-content: center;
}
</style>

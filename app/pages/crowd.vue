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
  <div class="crowd">
    <MixEditor v-if="crowd.mix" />
    <ContactSheet v-if="crowd.mix" />
    <CrowdCharts v-if="crowd.mix" />
  </div>
</template>

<style scoped>
.crowd {
  display: grid;
  grid-template-columns: 310px minmax(0, 1fr) 290px;
  height: 100%;
}

.crowd > * {
  min-height: 0;
}
</style>

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
    <template v-if="crowd.mix">
      <MixEditor :key="crowd.id ?? ''" />
      <ContactSheet />
      <CrowdCharts />
    </template>
    <p v-else class="none soft" data-test="no-mix">
      There is no mix yet. Open the list of mixes above and make one from a body of your kits.
    </p>
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

.none {
  grid-column: 1 / -1;
  place-self: center;
}
</style>

<script setup lang="ts">
import { slotsFor } from '@idle-tinker/core'
import { usePicks } from '../stores/picks'
import { useProject } from '../stores/project'

const picks = usePicks()
const project = useProject()
const bodyId = ref<string | null>(null)
const slotId = ref<string | null>(null)
const body = computed(() => picks.now?.bodies.find((b) => b.id === bodyId.value) ?? picks.now?.bodies[0] ?? null)
const slot = computed(() => body.value?.slots.find((s) => s.slot === slotId.value) ?? null)
const slotName = computed(() =>
  body.value && slot.value
    ? (slotsFor(project.library, body.value.body).find((s) => s.id === slot.value!.slot)?.name ?? slot.value.slot)
    : '',
)

onMounted(() => {
  const [first] = project.documents.picks
  if (!picks.id && first) picks.open(first.id)
})
onBeforeUnmount(() => picks.close())
// another package has other bodies
watch(
  () => picks.id,
  () => {
    bodyId.value = null
    slotId.value = null
  },
)
</script>

<template>
  <StationLayout v-if="picks.now && body" left="Offered" right="Selected" left-width="300px" right-width="330px">
    <template #left><PicksSheet v-model:body="bodyId" v-model:slot="slotId" /></template>
    <PicksRoom />
    <template #right>
      <SlotPicks
        v-if="slot"
        :key="`${picks.id} ${body.id} ${slot.slot}`"
        :body="body"
        :slot-picks="slot"
        :slot-name="slotName"
      />
      <BodyPicks v-else :key="`${picks.id} ${body.id}`" :body="body" />
    </template>
  </StationLayout>
  <p v-else class="none soft" data-test="no-picks">
    There is no package yet. Open the list of packages above and make one for a body of your kits.
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

<script setup lang="ts">
import { useProject } from '../../stores/project'
import { useTarget } from '../../stores/target'
import { useView } from '../../stores/view'
import { plain } from '../../workers/plain'

/** The skeleton that is tried on the figure, and the way to keep it in its target. */
const view = useView()
const project = useProject()
const target = useTarget()

const canKeep = computed(() => project.documents.target.some((t) => t.id === view.ownTarget.id))
/** Whether the target lies open for what was kept here: then its saving, and what is wrong with that, is what the header tells. */
const keeping = ref(false)
function keep(): void {
  const tried = plain(view.skeleton)
  target.open(view.ownTarget.id)
  if (!target.now || !tried) return
  keeping.value = true
  const { chains: _before, ...rest } = plain(target.now)
  const { detail, chains = {} } = tried
  target.change({ ...rest, detail, ...(Object.keys(chains).length && { chains }) })
  target.flush()
  view.skeleton = null
}
function done(): void {
  if (keeping.value) target.close()
  keeping.value = false
}
// once it is safe, here or on the server, the figure is what is worked on again
watch(
  () => target.save,
  (save) => (save === 'saved' || save === 'away') && done(),
)
onBeforeUnmount(() => {
  done()
  // what is tried here is not what ships
  view.skeleton = null
})
</script>

<template>
  <p v-if="view.skeleton" class="soft" data-test="tried-skeleton">
    Tried here alone: “{{ view.ownTarget.name }}” ships its own skeleton.
    <Button v-if="canKeep" size="small" text label="Ship this one" data-test="keep-skeleton" @click="keep" />
    <Button size="small" text label="Back to its own" data-test="drop-skeleton" @click="view.skeleton = null" />
  </p>
</template>

<script setup lang="ts">
import { onKeyStroke, useEventListener } from '@vueuse/core'
import { useOpenDocument, useStation } from './stations'
import { useClip } from './stores/clip'
import { useCrowd } from './stores/crowd'
import { useFigure } from './stores/figure'
import { forgetDrafting } from './stores/kitDraft'
import { forgetPool, useProject } from './stores/project'
import { usePicks } from './stores/picks'
import { usePose } from './stores/pose'
import { useTarget } from './stores/target'
import { useView } from './stores/view'
import { onWorkerEnd } from './workers'

const project = useProject()
const figure = useFigure()
const crowd = useCrowd()
const target = useTarget()
const pose = usePose()
const picks = usePicks()
const clip = useClip()
const open = useOpenDocument()
const view = useView()
const toast = useToast()
const route = useRoute()
const station = useStation()

onMounted(async () => {
  view.start()
  // a game's own page, which knows nothing of the workshop
  if (route.meta.bare) return
  await project.load()
  figure.openLast()
})

/** A worker that ends again and again is not started for ever. */
const MOST_STARTS = 3
let starts = 0

onMounted(() => {
  const forget = onWorkerEnd((name) => {
    if (name === 'bench' && ++starts > MOST_STARTS) {
      project.state = 'failed'
      project.message = 'The worker of this page keeps ending. What you made is kept; load the page again.'
      return
    }
    toast.add({
      severity: 'warn',
      summary: 'A worker of this page has ended',
      detail: 'It is started again; nothing you made is lost.',
      life: 8000,
    })
    if (name === 'draft') forgetDrafting()
    else if (name !== 'bench') forgetPool(name)
    else
      project
        .openKits()
        .then(() => figure.rebuild())
        .catch((error: unknown) => {
          project.state = 'failed'
          project.message = error instanceof Error ? error.message : String(error)
        })
  })
  onBeforeUnmount(forget)
})

watch([() => JSON.stringify(view.target), () => view.reduced], () => void figure.rebuild())

onKeyStroke(['z', 'Z', 'y', 'Y'], (event) => {
  if (!(event.ctrlKey || event.metaKey) || typing(event.target)) return
  event.preventDefault()
  if (event.shiftKey || event.key.toLowerCase() === 'y') open.value.redo()
  else open.value.undo()
})
onKeyStroke('?', (event) => {
  if (!typing(event.target)) view.sheet = !view.sheet
})
useEventListener('beforeunload', () => {
  figure.flush()
  crowd.flush()
  target.flush()
  pose.flush()
  clip.flush()
  picks.flush()
})
</script>

<template>
  <NuxtPage v-if="route.meta.bare" />
  <div v-else class="house">
    <AppHeader />
    <main class="room">
      <h1 class="unseen">{{ station?.name ?? 'Idle Tinker' }}</h1>
      <div v-if="project.state === 'loading'" class="waiting" role="status">Opening the workshop …</div>
      <div v-else-if="project.state === 'failed'" class="waiting" role="alert">
        <p>The workshop could not be opened: {{ project.message }}</p>
        <Button label="Try again" @click="project.load().then(() => figure.openLast())" />
      </div>
      <NuxtPage v-else />
    </main>
    <BudgetRail />
    <KeySheet />
    <ConfirmDialog :style="{ width: 'min(460px, 94vw)' }" />
    <Toast position="bottom-right" />
  </div>
</template>

<style scoped>
.house {
  height: 100%;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  grid-template-rows: auto minmax(0, 1fr) auto;
}

.room {
  min-height: 0;
  position: relative;
}

.waiting {
  height: 100%;
  display: grid;
  place-content: center;
  gap: var(--s4);
  justify-items: center;
  color: var(--ink-soft);
}
</style>

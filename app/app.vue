<script setup lang="ts">
import { useOpenDocument } from './stations'
import { useCrowd } from './stores/crowd'
import { useFigure } from './stores/figure'
import { forgetPool, useProject } from './stores/project'
import { useView } from './stores/view'
import { onWorkerEnd } from './workers'

const project = useProject()
const figure = useFigure()
const crowd = useCrowd()
const open = useOpenDocument()
const view = useView()

onMounted(async () => {
  view.start()
  await project.load()
  figure.openLast()
})

/** A worker that ends again and again is not started for ever. */
const MOST_STARTS = 3
let starts = 0

onMounted(() => {
  const forget = onWorkerEnd((name) => {
    if (name !== 'bench') forgetPool(name)
    else if (++starts > MOST_STARTS) {
      project.state = 'failed'
      project.message = 'The worker of this page keeps ending. What you made is kept; load the page again.'
    } else
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

watch([() => view.targetId, () => view.reduced], () => void figure.rebuild())

function onKey(event: KeyboardEvent): void {
  const command = event.ctrlKey || event.metaKey
  if (command && event.key.toLowerCase() === 'z') {
    if (typing(event.target)) return
    event.preventDefault()
    if (event.shiftKey) open.value.redo()
    else open.value.undo()
  } else if (command && event.key.toLowerCase() === 'y' && !typing(event.target)) {
    event.preventDefault()
    open.value.redo()
  } else if (event.key === '?' && !typing(event.target)) view.sheet = !view.sheet
}

onMounted(() => window.addEventListener('keydown', onKey))
onBeforeUnmount(() => window.removeEventListener('keydown', onKey))
onMounted(() =>
  window.addEventListener('beforeunload', () => {
    figure.flush()
    crowd.flush()
  }),
)
</script>

<template>
  <div class="house">
    <AppHeader />
    <main class="room">
      <div v-if="project.state === 'loading'" class="waiting" role="status">Opening the workshop …</div>
      <div v-else-if="project.state === 'failed'" class="waiting" role="alert">
        <p>The workshop could not be opened: {{ project.message }}</p>
        <Button label="Try again" @click="project.load().then(() => figure.openLast())" />
      </div>
      <NuxtPage v-else />
    </main>
    <BudgetRail />
    <KeySheet />
  </div>
</template>

<style scoped>
.house {
  height: 100%;
  display: grid;
  grid-template-rows: 52px minmax(0, 1fr) 46px;
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

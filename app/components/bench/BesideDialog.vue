<script setup lang="ts">
import { listChanges, type Recipe } from '@idle-tinker/core'
import { useResizeObserver } from '@vueuse/core'
import { Stage } from '../../stage/Stage'
import { useFigure } from '../../stores/figure'
import { inPool, useProject } from '../../stores/project'
import { useView } from '../../stores/view'
import { plain } from '../../workers/plain'

/** Two figures side by side, turned together, and what makes one the other. */
const props = defineProps<{ recipe: Recipe; name: string; returns?: boolean }>()
const emit = defineEmits<{ close: [] }>()
const figure = useFigure()
const project = useProject()
const view = useView()
const open = ref(true)
watch(open, (now) => !now && emit('close'))

const left = ref<HTMLCanvasElement>()
const right = ref<HTMLCanvasElement>()
const said = ref('')
const stages: Stage[] = []
const changes = computed(() => (figure.recipe ? listChanges(props.recipe, figure.recipe, project.library) : []))

async function start(): Promise<void> {
  const style = getComputedStyle(document.documentElement)
  for (const canvas of [left.value!, right.value!]) {
    const stage = new Stage(canvas)
    stage.setColors(style.getPropertyValue('--stage').trim(), style.getPropertyValue('--plate').trim())
    stages.push(stage)
  }
  const [a, b] = stages as [Stage, Stage]
  // whichever is turned, the other goes along
  a.onFrame = () => {
    left.value!.dataset.frames = String(a.frames)
    b.lookLike(a)
  }
  b.onFrame = () => {
    right.value!.dataset.frames = String(b.frames)
    a.lookLike(b)
  }
  for (const [stage, recipe] of [
    [a, props.recipe],
    [b, figure.recipe!],
  ] as const) {
    const answer = await inPool((worker) => worker.build(plain(recipe), plain(view.target), false))
    if (!stages.length) return
    if (answer.view) stage.show(answer.view)
  }
  // both from where the one just made is seen whole
  a.lookLike(b)
}
onMounted(() => nextTick(() => start().catch((error: unknown) => (said.value = String(error)))))
for (const [i, canvas] of [left, right].entries())
  useResizeObserver(canvas, ([entry]) => stages[i]?.resize(entry!.contentRect.width, entry!.contentRect.height))
onBeforeUnmount(() => {
  for (const stage of stages.splice(0)) stage.dispose()
})

function goBack(): void {
  figure.edit(plain(props.recipe))
  open.value = false
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    header="Side by side"
    :style="{ width: 'min(1180px, 94vw)' }"
    data-test="beside-dialog"
  >
    <div class="two">
      <figure>
        <canvas ref="left" data-test="beside-left" role="img" :aria-label="name" />
        <figcaption>
          <b>{{ name }}</b>
          <Button v-if="returns" size="small" outlined label="Back to this" data-test="back-to" @click="goBack" />
        </figcaption>
      </figure>
      <figure>
        <canvas ref="right" data-test="beside-right" role="img" aria-label="The figure now" />
        <figcaption>
          <b>{{ figure.recipe?.name }}, now</b>
        </figcaption>
      </figure>
      <div class="differs scroll">
        <h3>What differs</h3>
        <p v-if="said">{{ said }}</p>
        <p v-else-if="changes.length === 0" class="soft">Nothing.</p>
        <ul data-test="differences">
          <li v-for="c in changes" :key="c">{{ c }}</li>
        </ul>
      </div>
    </div>
  </Dialog>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: 1fr 1fr 220px;
  gap: var(--s3);
  height: min(560px, 68vh);
}

figure {
  margin: 0;
  display: grid;
  grid-template-rows: minmax(0, 1fr) 40px;
  min-width: 0;
}

canvas {
  width: 100%;
  height: 100%;
  min-height: 0;
  touch-action: none;
  border-radius: 4px;
}

figcaption {
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.differs {
  min-height: 0;
}

ul {
  margin: 0;
  padding-left: var(--s4);
  font-size: 13px;
}

@media (max-width: 800px) {
  .two {
    grid-template-columns: 1fr 1fr;
    grid-template-rows: 1fr auto;
    height: auto;
  }

  canvas {
    height: 40vh;
  }

  .differs {
    grid-column: 1 / -1;
  }
}
</style>

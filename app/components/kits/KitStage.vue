<script setup lang="ts">
import { RotateCw } from 'lucide-vue-next'
import { tryOnScopeDispose, useRafFn, useResizeObserver } from '@vueuse/core'
import { onlyPiece } from '../../stage/onlyPiece'
import { Stage } from '../../stage/Stage'
import { theViewport } from '../../stage/Viewport'
import { useView } from '../../stores/view'
import type { FigureView } from '../../workers/protocol'

/** A turntable: a figure, or one piece of it by itself or in its place. */
const props = defineProps<{
  view: FigureView | null
  /** Which piece it is about, by its part; all of the figure if not said. */
  part?: { kit: string; id: string } | null
  /** Only that piece is drawn. */
  alone?: boolean
  /** On what it is seen: it is looked at anew when that is another. */
  on?: string
  label: string
}>()
const look = useView()
const canvas = ref<HTMLCanvasElement>()
const place = ref<HTMLElement>()
const stage = shallowRef<Stage | null>(null)
const away = ref('')
/** Radians a second. */
const SPEED = 0.6

function colors(): void {
  const style = getComputedStyle(document.documentElement)
  stage.value?.setColors(style.getPropertyValue('--stage').trim(), style.getPropertyValue('--plate').trim())
}

/** What is looked at; when it is another thing, it is looked at from the front anew. */
let framed = ''
function show(): void {
  const { view, part } = props
  if (!view || !stage.value) return
  const piece = part && view.pieces.find((p) => p.kit === part.kit && p.id === part.id)
  const one = piece && props.alone ? onlyPiece(view, piece) : { view, piece: piece ?? null }
  stage.value.show(one.view)
  // by itself it needs no line around it
  stage.value.setOutline(one.piece && !props.alone ? [one.piece] : [])
  const frame = `${part?.kit}/${part?.id} ${props.alone} ${props.on} ${Boolean(piece)}`
  if (frame === framed) return
  framed = frame
  stage.value.home()
  if (one.piece) stage.value.closeUp(one.piece)
}

onMounted(() => {
  try {
    stage.value = new Stage(canvas.value!)
  } catch {
    away.value = 'This browser gives no WebGL: nothing can be drawn here. All else works.'
    return
  }
  stage.value.onFrame = () => (canvas.value!.dataset.frames = String(stage.value!.frames))
  colors()
  show()
  tryOnScopeDispose(
    theViewport().onLost((lost) => (away.value = lost ? 'The graphics of this browser are away; wait a moment.' : '')),
  )
})
onBeforeUnmount(() => stage.value?.dispose())
useResizeObserver(place, ([entry]) => stage.value?.resize(entry!.contentRect.width, entry!.contentRect.height))
watch([() => props.view, () => props.part?.id, () => props.part?.kit, () => props.alone, () => props.on], show)
watch(
  () => look.lamp,
  () => nextTick(colors),
)

const held = ref(false)
const { pause, resume } = useRafFn(
  ({ delta }) => !held.value && stage.value?.turnBy((SPEED * Math.min(delta, 100)) / 1000, 0),
  {
    immediate: false,
  },
)
watch(
  () => look.turns,
  (on) => (on ? resume() : pause()),
  { immediate: true },
)
const STEP = 0.12
function keys(event: KeyboardEvent): void {
  const way = { ArrowLeft: [-STEP, 0], ArrowRight: [STEP, 0], ArrowUp: [0, STEP], ArrowDown: [0, -STEP] }[event.key]
  if (!way) return
  event.preventDefault()
  stage.value?.turnBy(way[0]!, way[1]!)
}
</script>

<template>
  <div ref="place" class="place">
    <canvas
      ref="canvas"
      tabindex="0"
      role="img"
      :aria-label="`${label}. Drag or use the arrow keys to turn it.`"
      data-test="kit-stage"
      @pointerdown="held = true"
      @pointerup="held = false"
      @pointercancel="held = false"
      @keydown="keys"
    />
    <p v-if="away" role="alert">{{ away }}</p>
    <div class="tools">
      <slot />
      <button
        class="quiet turn"
        :class="{ on: look.turns }"
        :aria-pressed="look.turns"
        aria-label="Turn by itself"
        title="Turn by itself"
        data-test="turn"
        @click="look.turns = !look.turns"
      >
        <RotateCw :size="16" />
      </button>
    </div>
  </div>
</template>

<style scoped>
.place {
  position: relative;
  background: var(--stage);
  min-height: 0;
}

canvas {
  display: block;
  width: 100%;
  height: 100%;
  touch-action: none;
  cursor: grab;
}

p {
  position: absolute;
  inset: auto var(--s3) var(--s3);
}

.tools {
  position: absolute;
  left: var(--s2);
  right: var(--s2);
  bottom: var(--s2);
  display: flex;
  align-items: center;
  justify-content: space-between;
}

.turn {
  margin-left: auto;
}

.turn.on {
  color: var(--act);
  background: var(--sheet);
}
</style>

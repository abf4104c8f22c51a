<script setup lang="ts">
import { House } from 'lucide-vue-next'
import type { Clip } from '@idle-tinker/core'
import { Stage, type LookFrom } from '../../stage/Stage'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

const props = defineProps<{
  tabs?: boolean
  clip?: Clip | null
  playing?: boolean
  bones?: boolean
  weightsOf?: string | null
}>()
const emit = defineEmits<{ frame: [time: number] }>()

const figure = useFigure()
const project = useProject()
const view = useView()
const canvas = ref<HTMLCanvasElement>()
const place = ref<HTMLElement>()
const stage = shallowRef<Stage | null>(null)
const frame = ref(0)
const LOOKS: { id: LookFrom; name: string }[] = [
  { id: 'front', name: 'Front' },
  { id: 'side', name: 'Side' },
  { id: 'back', name: 'Back' },
  { id: 'face', name: 'Face' },
]
const small = ref<Record<string, HTMLCanvasElement>>({})
let observer: ResizeObserver | null = null
let stale = true
let pictureTimer: ReturnType<typeof setTimeout> | null = null
let pressed: { x: number; y: number } | null = null

function colors(): void {
  const style = getComputedStyle(document.documentElement)
  stage.value?.setColors(style.getPropertyValue('--stage').trim(), style.getPropertyValue('--plate').trim())
}

function selection(): void {
  const piece = figure.view?.pieces.filter((p) => p.slot === view.slot) ?? []
  stage.value?.setOutline(view.slot && piece.length ? piece : null)
}

function takePicture(): void {
  if (!figure.view || !figure.id || view.reduced) return
  void project.takePicture(figure.id, figure.view)
}

onMounted(() => {
  const s = new Stage(canvas.value!)
  stage.value = s
  s.onFrame = () => {
    frame.value++
    emit('frame', s.clipTime)
  }
  s.onRest = () => {
    if (!stale) return
    stale = false
    s.drawTurnaround(small.value as Partial<Record<LookFrom, HTMLCanvasElement>>)
  }
  observer = new ResizeObserver(([entry]) => s.resize(entry!.contentRect.width, entry!.contentRect.height))
  observer.observe(place.value!)
  colors()
  if (figure.view) show()
})

function show(): void {
  if (!figure.view || !stage.value) return
  stale = true
  stage.value.show(figure.view)
  stage.value.setClip(props.clip ?? null)
  stage.value.showBones(props.bones ?? false)
  stage.value.showWeights(props.weightsOf ?? null)
  selection()
  if (pictureTimer) clearTimeout(pictureTimer)
  pictureTimer = setTimeout(takePicture, 1500)
}

watch(() => figure.view, show)
watch(
  () => figure.id,
  () => stage.value?.reframe(),
)
watch(() => view.slot, selection)
watch(
  () => view.lamp,
  () => nextTick(colors),
)
watch(
  () => props.clip,
  (clip) => {
    stage.value?.setClip(clip ?? null)
    if (props.playing) stage.value?.play(true)
    if (!clip) selection()
  },
)
watch(
  () => props.playing,
  (on) => stage.value?.play(on ?? false),
)
watch(
  () => props.bones,
  (on) => stage.value?.showBones(on ?? false),
)
watch(
  () => props.weightsOf,
  (bone) => stage.value?.showWeights(bone ?? null),
)

onBeforeUnmount(() => {
  observer?.disconnect()
  if (pictureTimer) clearTimeout(pictureTimer)
  stage.value?.dispose()
})

function onDown(event: PointerEvent): void {
  pressed = event.button === 0 ? { x: event.clientX, y: event.clientY } : null
}

// a press that did not become a drag selects what is under it
function onUp(event: PointerEvent): void {
  if (!pressed || Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 4) return
  pressed = null
  const piece = stage.value?.pieceAt(event.clientX, event.clientY)
  view.select(piece && piece.slot !== 'body' ? piece.slot : null)
}

function onDouble(event: MouseEvent): void {
  const piece = stage.value?.pieceAt(event.clientX, event.clientY)
  if (piece) stage.value?.closeUp(piece.start, piece.count)
}

function onKey(event: KeyboardEvent): void {
  if (event.key === ' ' && event.target === canvas.value) {
    event.preventDefault()
    stage.value?.slide(true)
  }
  if (event.key === 'Home') stage.value?.home()
  if (event.key === 'Escape') view.select(null)
}

defineExpose({ scrub: (time: number) => stage.value?.scrub(time) })
</script>

<template>
  <div class="stage" @keydown="onKey" @keyup.space="stage?.slide(false)">
    <div ref="place" class="place">
      <canvas
        ref="canvas"
        tabindex="0"
        aria-label="The figure on the stage"
        data-test="stage"
        @pointerdown="onDown"
        @pointerup="onUp"
        @dblclick="onDouble"
      />
      <PullTabs v-if="tabs && stage" :stage="stage" :frame="frame" />
      <button
        class="quiet home"
        aria-label="The whole figure"
        title="The whole figure (Home)"
        data-test="home"
        @click="stage?.home()"
      >
        <House :size="18" />
      </button>
    </div>
    <div class="strip" aria-label="Turnaround">
      <button v-for="l in LOOKS" :key="l.id" :aria-label="`Look from: ${l.name}`" @click="stage?.lookFrom(l.id)">
        <canvas
          :ref="
            (el) => {
              if (el) small[l.id] = el as HTMLCanvasElement
            }
          "
          width="200"
          height="220"
        />
        <span>{{ l.name }}</span>
      </button>
    </div>
  </div>
</template>

<style scoped>
.stage {
  display: grid;
  grid-template-rows: minmax(0, 1fr) 126px;
  height: 100%;
  min-width: 0;
  background: var(--stage);
}

.place {
  position: relative;
  min-height: 0;
  overflow: hidden;
}

.place > canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  outline-offset: -3px;
}

.home {
  position: absolute;
  right: 10px;
  top: 10px;
}

.strip {
  display: flex;
  justify-content: center;
  gap: var(--s2);
  border-top: 1px solid var(--rule);
  background: color-mix(in srgb, var(--stage) 82%, var(--sheet));
}

.strip button {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink-soft);
  font: 11px var(--text);
  cursor: pointer;
  padding: 4px 2px 3px;
  display: grid;
  justify-items: center;
}

.strip button:hover {
  color: var(--act);
}

.strip canvas {
  width: 94px;
  height: 102px;
}
</style>

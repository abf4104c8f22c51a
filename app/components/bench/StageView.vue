<script setup lang="ts">
import { House } from 'lucide-vue-next'
import type { Clip, HelperPoint } from '@idle-tinker/core'
import { onKeyStroke, tryOnScopeDispose, useResizeObserver, useTimeoutFn } from '@vueuse/core'
import { Stage } from '../../stage/Stage'
import type { DrawPiece, Moves } from '../../workers/protocol'
import type { LookFrom } from '../../stage/turnaround'
import { theViewport } from '../../stage/Viewport'
import type { StageHand } from '../../composables/hands/hand'
import { useLookHand } from '../../composables/hands/useLookHand'
import { brushAt, useNudgeHand } from '../../composables/hands/useNudgeHand'
import { usePlaceHand } from '../../composables/hands/usePlaceHand'
import { useKit } from '../../composables/useKit'
import { useBlinking } from '../../composables/useBlinking'
import { stageHere } from '../../composables/stageHere'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

const props = defineProps<{
  tabs?: boolean
  clip?: Clip | null
  playing?: boolean
  bones?: boolean
  points?: readonly HelperPoint[]
  /** The point that is pointed at, by its id. */
  litPoint?: string | null
  weightsOf?: string | null
  /** How it moves to other faces, for clips that ask for them. */
  faces?: Readonly<Record<string, Moves>>
}>()
const emit = defineEmits<{ frame: [time: number] }>()

/** What lies over the stage, and is told when a handle of it is in hand. */
const slots = defineSlots<{
  over?: (of: { stage: Stage; frame: number; hold: (inHand: boolean) => void }) => unknown
  /** In the place of the small views. */
  under?: () => unknown
}>()

const figure = useFigure()
const project = useProject()
const view = useView()
const { body } = useKit()
const canvas = ref<HTMLCanvasElement>()
const place = ref<HTMLElement>()
const stage = shallowRef<Stage | null>(null)
/** Why nothing can be drawn. */
const away = ref('')
const frame = ref(0)
const LOOKS: { id: LookFrom; name: string }[] = [
  { id: 'front', name: 'Front' },
  { id: 'side', name: 'Side' },
  { id: 'back', name: 'Back' },
  { id: 'face', name: 'Face' },
]
const small = ref<Record<string, HTMLCanvasElement>>({})
let stale = true
let pressed: { x: number; y: number } | null = null

function colors(): void {
  const style = getComputedStyle(document.documentElement)
  stage.value?.setColors(style.getPropertyValue('--stage').trim(), style.getPropertyValue('--plate').trim())
}

function selection(): void {
  const chosen = (p: DrawPiece) => (view.instance ? p.instance === view.instance : p.slot === view.slot)
  stage.value?.setOutline(view.slot ? (figure.view?.pieces.filter(chosen) ?? []) : [])
}

// a picture for the lists, once the figure has stood still for a while: of what was built, for the figure it was built of
const { start: takePictureSoon } = useTimeoutFn(
  () => {
    if (figure.view && figure.viewOf && !view.reduced) void project.takePicture(figure.viewOf, figure.view)
  },
  1500,
  { immediate: false },
)

onMounted(() => {
  try {
    stage.value = new Stage(canvas.value!)
  } catch {
    away.value = 'This browser gives no WebGL: figures cannot be drawn here. All else works.'
    return
  }
  const s = stage.value
  if (props.tabs) stageHere.value = s
  s.onFrame = () => {
    canvas.value!.dataset.frames = String(s.frames)
    if (props.tabs || slots.over) frame.value++
    if (props.clip) emit('frame', s.clipTime)
  }
  s.onRest = () => {
    if (!stale) return
    stale = false
    s.drawTurnaround(small.value as Partial<Record<LookFrom, HTMLCanvasElement>>)
  }
  colors()
  if (figure.view) show()
  tryOnScopeDispose(
    theViewport().onLost((lost) => {
      stale = true
      away.value = lost ? 'The graphics of this browser are away; the picture stands until they are back.' : ''
    }),
  )
})

useBlinking(stage)
useResizeObserver(place, ([entry]) => stage.value?.resize(entry!.contentRect.width, entry!.contentRect.height))

function show(): void {
  if (!figure.view || !stage.value) return
  stale = true
  stage.value.show(figure.view)
  stage.value.setFaces(props.faces ?? {})
  stage.value.setClip(props.clip ?? null)
  stage.value.showBones(props.bones ?? false)
  showPoints()
  stage.value.showWeights(props.weightsOf ?? null)
  selection()
  takePictureSoon()
}

function showPoints(): void {
  stage.value?.showPoints(props.points ?? [], props.litPoint ?? null)
}
watch([() => props.points, () => props.litPoint], showPoints)
watch(() => figure.view, show)
watch(
  () => figure.viewOf,
  () => stage.value?.reframe(),
  // before the figure itself is shown
  { flush: 'sync' },
)
watch([() => view.slot, () => view.instance], selection)
// who works on the face wants to see it large
watch(
  () => view.tray,
  (tray) => tray === 'face' && props.tabs && stage.value?.lookFrom('face', 0.2, 1.7),
)
watch(
  () => view.lamp,
  () => nextTick(colors),
)
watch(
  () => props.clip,
  (clip) => {
    stage.value?.setClip(clip ?? null)
    // small views stand as the figure does
    if (props.playing) stage.value?.play(true)
    else stale = true
  },
)
watch(
  () => props.faces,
  (faces) => stage.value?.setFaces(faces ?? {}),
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
  if (stageHere.value === stage.value) stageHere.value = null
  stage.value?.dispose()
})

/** What the pointer may do instead of turning the figure; the first that wants a press has it. */
const hands: StageHand[] = props.tabs ? [useLookHand(), useNudgeHand(), usePlaceHand()] : []
const held = shallowRef<StageHand | null>(null)
/** Whether one of the handles on the figure is in hand. */
const pulling = ref(false)
/** While one finger has something in hand, the others do nothing: neither go on with it nor turn the stage. */
function isAnotherFinger(event: PointerEvent): boolean {
  if ((!held.value && !pulling.value) || event.isPrimary) return false
  event.stopPropagation()
  return true
}
function takeUp(event: PointerEvent): void {
  const s = stage.value
  if (!s || event.button !== 0 || event.target !== canvas.value) return
  if (isAnotherFinger(event)) return
  held.value = hands.find((hand) => hand.down(s, event)) ?? null
  if (!held.value) return
  // the stage is not turned meanwhile
  event.stopPropagation()
  canvas.value!.setPointerCapture(event.pointerId)
}
function goAlong(event: PointerEvent): void {
  if (!stage.value || isAnotherFinger(event)) return
  if (held.value) held.value.move(stage.value, event)
  else if (event.pointerType !== 'touch') for (const hand of hands) hand.hover?.(stage.value, event)
}
function leave(): void {
  if (stage.value && !held.value) for (const hand of hands) hand.hover?.(stage.value, null)
}
function letGo(event: PointerEvent): void {
  if (!held.value || !stage.value || isAnotherFinger(event)) return
  event.stopPropagation()
  held.value.up(stage.value, event)
  held.value = null
}
/** What of the figure is left off or left out: it would be looked for in vain. */
const told = computed(() =>
  figure.problems.filter((p) => p.severity !== 'info' && p.where.startsWith('recipe/')).slice(0, 3),
)

function onDown(event: PointerEvent): void {
  pressed = event.button === 0 ? { x: event.clientX, y: event.clientY } : null
}

// a press that did not become a drag selects what is under it
function onUp(event: PointerEvent): void {
  if (!pressed || Math.hypot(event.clientX - pressed.x, event.clientY - pressed.y) > 4) return
  pressed = null
  const piece = stage.value?.pieceAt(event.clientX, event.clientY)
  const worn = piece && piece.slot !== 'body'
  view.select(worn ? piece.slot : null)
  if (piece && !worn) showRegion(event)
}

/** Opens the sliders of what lies nearest on the body. */
function showRegion(event: PointerEvent): void {
  if (!props.tabs) return
  const { left, top } = place.value!.getBoundingClientRect()
  let best: { group: string; far: number } | null = null
  const isMoving = (group: string) => body.value?.sliderGroups.some((g) => g.id === group && g.moves)
  for (const { pull, group } of body.value?.sliders ?? []) {
    // on the face itself, what one works on decides what is meant
    if (Boolean(isMoving(group)) !== (view.tray === 'face')) continue
    const at = pull && stage.value?.project(pull.landmark, pull.direction)
    if (!at || at.behind) continue
    const far = Math.hypot(at.x - (event.clientX - left), at.y - (event.clientY - top))
    if (!best || far < best.far) best = { group, far }
  }
  if (best) view.showGroup(best.group)
}

function onDouble(event: MouseEvent): void {
  const piece = stage.value?.pieceAt(event.clientX, event.clientY)
  if (piece) stage.value?.closeUp(piece)
}

/** What one press of a key turns, radians, and slides, as a share of what is seen. */
const TURN = Math.PI / 18
const SLIDE = 0.06
const NEARER = 1.15

/** The view by keys, while the stage has the focus: the figure goes where a hand would drag it. */
function onStageKey(event: KeyboardEvent): void {
  const s = stage.value
  if (!s || event.ctrlKey || event.metaKey || event.altKey) return
  const [right, up] = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key] ?? [
    0, 0,
  ]
  if (right || up) {
    if (event.shiftKey) s.slideBy(-right! * SLIDE, -up! * SLIDE)
    else s.turnBy(-right! * TURN, -up! * TURN)
  } else if (event.key === '+' || event.key === '=') s.nearer(NEARER)
  else if (event.key === '-') s.nearer(1 / NEARER)
  else if (event.key === ' ') s.slide(true)
  else return
  event.preventDefault()
}

// wherever the focus is, as long as nothing is being written and nothing lies over the page
onKeyStroke(['Home', 'Escape'], (event) => {
  if (event.defaultPrevented || typing(event.target) || covered()) return
  // a slider has a Home of its own
  if (event.key === 'Home' && (event.target as HTMLElement).getAttribute('role') === 'slider') return
  if (event.key === 'Home') stage.value?.home()
  else view.select(null)
})

defineExpose({ scrub: (time: number) => stage.value?.scrub(time) })
</script>

<template>
  <div class="stage">
    <div
      ref="place"
      class="place"
      :class="{ pointing: hands.some((hand) => hand.ready()) }"
      @pointerdown.capture="takeUp"
      @pointermove.capture="goAlong"
      @pointerup.capture="letGo"
      @pointercancel.capture="letGo"
      @pointerleave="leave"
    >
      <canvas
        ref="canvas"
        tabindex="0"
        role="img"
        aria-label="The figure on the stage; arrow keys turn it"
        data-test="stage"
        @keydown="onStageKey"
        @keyup.space="stage?.slide(false)"
        @pointerdown="onDown"
        @pointerup="onUp"
        @dblclick="onDouble"
      />
      <i
        v-if="brushAt && tabs"
        class="brush"
        :style="{
          width: `${2 * brushAt.size}px`,
          height: `${2 * brushAt.size}px`,
          translate: `${brushAt.x - brushAt.size}px ${brushAt.y - brushAt.size}px`,
        }"
      />
      <PullTabs v-if="tabs && stage && view.tray !== 'nudge'" :stage="stage" :frame="frame" @hold="pulling = $event" />
      <slot v-if="stage" name="over" :stage="stage" :frame="frame" :hold="(inHand: boolean) => (pulling = inHand)" />
      <StageLooks v-if="tabs && stage" :stage="stage" />
      <ul v-if="tabs && told.length" class="told" role="status" data-test="told">
        <li v-for="p in told" :key="p.where + p.code">{{ p.message }} {{ p.remedy }}</li>
      </ul>
      <p v-if="away" class="away" role="status" data-test="away">{{ away }}</p>
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
    <slot name="under"
      ><div class="strip" aria-label="Turnaround">
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
      </div></slot
    >
  </div>
</template>

<style scoped>
.stage {
  container-type: size;
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  height: 100%;
  min-width: 0;
  background: var(--stage);
}

.place {
  position: relative;
  min-height: 0;
  overflow: hidden;
}

.place.pointing > canvas {
  cursor: crosshair;
}

.place > canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  touch-action: none;
  outline-offset: -3px;
}

.brush {
  position: absolute;
  left: 0;
  top: 0;
  border: 1.5px solid var(--act);
  border-radius: 50%;
  background: color-mix(in srgb, var(--act) 8%, transparent);
  pointer-events: none;
}

.told {
  position: absolute;
  left: 10px;
  top: 10px;
  max-width: min(380px, calc(100% - 70px));
  margin: 0;
  padding: var(--s1) var(--s3) var(--s1) var(--s4);
  border: 1px solid var(--rule);
  border-left: 3px solid var(--care-mark);
  border-radius: 4px;
  background: var(--sheet);
  font-size: 13px;
}

.away {
  position: absolute;
  left: 50%;
  bottom: var(--s3);
  translate: -50% 0;
  margin: 0;
  max-width: 90%;
  padding: var(--s2) var(--s3);
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
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
  height: 126px;
  overflow: hidden;
  border-top: 1px solid var(--rule);
  background: color-mix(in srgb, var(--stage) 82%, var(--sheet));
}

/* where there is little room, all of it is for the figure */
@container (max-height: 420px) {
  .strip {
    display: none;
  }
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

<script setup lang="ts">
import { mirroredLandmark, movementsOf, type SliderDef } from '@idle-tinker/core'
import { useEventListener } from '@vueuse/core'
import { useKit } from '../../composables/useKit'
import type { Stage } from '../../stage/Stage'
import type { Projected } from '../../stage/StageCamera'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'
import { pullBy, type PullDirection } from '../../stage/pull'

/** Handles on the figure: what lies at one place is pulled together, in as many directions as it has. */
const props = defineProps<{ stage: Stage; frame: number }>()
/** Whether a handle is in hand. */
const emit = defineEmits<{ hold: [inHand: boolean] }>()
const figure = useFigure()
const view = useView()
const { body, sliderValue: value, slide } = useKit()
const place = ref<HTMLElement>()

/** How far a full slider moves its tab, metres: what the hand expects of the pull. */
const REACH = 0.16
/** A direction that points at the eye cannot be pulled: pixels a metre. */
const FORESHORTENED = 40
/** Handles nearer to each other than this would hide each other, pixels. */
const APART = 22
/** Around the pointer every handle shows, pixels. */
const NEAR = 110

interface Arrow {
  slider: SliderDef
  direction: PullDirection
  angle: number
  /** From the place itself, pixels. */
  x: number
  y: number
}
interface Handle {
  landmark: string
  x: number
  y: number
  arrows: Arrow[]
}

/** Whether it is the face that is worked on, and not a part or the shape. */
const onFace = computed(() => view.tray === 'face' && view.slot === null)

const pointer = ref({ x: -1e4, y: -1e4 })
useEventListener(
  () => place.value?.parentElement,
  'pointermove',
  (event: PointerEvent) => {
    const { left, top } = place.value!.getBoundingClientRect()
    pointer.value = { x: event.clientX - left, y: event.clientY - top }
  },
)

/** All that could be pulled, where it is seen now. */
const handles = computed((): Handle[] => {
  void props.frame
  void figure.view
  const found = new Map<string, Handle>()
  /** A place whose way out leads away from the eye is on the other side of the figure. */
  const away = new Set<string>()
  const moving = new Set(body.value ? movementsOf(body.value) : [])
  for (const slider of body.value?.sliders ?? []) {
    if (!slider.pull || moving.has(slider) !== onFace.value) continue
    const at = projected(slider.pull)
    if (at?.behind) away.add(slider.pull.landmark)
    if (!at || at.behind) continue
    const length = Math.hypot(at.dx, at.dy)
    if (length < FORESHORTENED) continue
    const { landmark } = slider.pull
    if (!found.has(landmark)) found.set(landmark, { landmark, x: at.x, y: at.y, arrows: [] })
    const [ux, uy] = [at.dx / length, at.dy / length]
    found.get(landmark)!.arrows.push({
      slider,
      direction: { x: at.dx * REACH, y: at.dy * REACH },
      angle: (Math.atan2(uy, ux) * 180) / Math.PI,
      x: ux * 20,
      y: uy * 20,
    })
  }
  return [...found.values()].filter((h) => !away.has(h.landmark))
})

/** Those in hand, of groups that stand open, or near the pointer; none over another. */
const shown = computed(() => {
  const rank = (h: Handle) => {
    if (held.value?.landmark === h.landmark) return 0
    const far = Math.hypot(h.x - pointer.value.x, h.y - pointer.value.y)
    if (far < NEAR) return 1 + far / NEAR
    // on a face all that moves is shown at once
    const open = onFace.value || h.arrows.some((a) => view.openGroups.includes(a.slider.group))
    return open ? 3 : Infinity
  }
  const ranked = handles.value.map((h) => ({ h, rank: rank(h) })).filter((e) => e.rank < Infinity)
  const taken: Handle[] = []
  for (const { h } of ranked.sort((a, b) => a.rank - b.rank))
    if (taken.every((o) => Math.hypot(o.x - h.x, o.y - h.y) >= APART)) taken.push(h)
  return taken
})

/** Where a tab is: on the figure's right when that is worked on, at the body's own point there if it has one. */
function projected({ landmark, direction: [x, y, z] }: NonNullable<SliderDef['pull']>): Projected | null {
  if (view.side !== 'right' || !body.value) return props.stage.project(landmark, [x, y, z])
  const other = mirroredLandmark(body.value, landmark)
  // what lies in the middle has no other side
  if (other === landmark) return props.stage.project(landmark, [x, y, z])
  return props.stage.project(other ?? landmark, [-x, y, z], other === undefined)
}

interface Grip {
  landmark: string
  /** Whose grip it is: there may be several fingers. */
  pointer: number
  /** The arrow that was grasped: it alone moves where the pull is straight along it. */
  arrows: { slider: SliderDef; direction: PullDirection; value: number }[]
  from: { x: number; y: number }
  /** Where the pointer is, in the place's pixels. */
  at: { x: number; y: number }
}
const held = shallowRef<Grip | null>(null)

function grab(event: PointerEvent, handle: Handle, arrow: Arrow): void {
  // one thing at a time: a second finger waits
  if (held.value) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  const own = [arrow, ...handle.arrows.filter((a) => a !== arrow)]
  held.value = {
    landmark: handle.landmark,
    pointer: event.pointerId,
    arrows: own.map(({ slider, direction }) => ({ slider, direction, value: value(slider) })),
    from: { x: event.clientX, y: event.clientY },
    at: pointer.value,
  }
}

function pull(event: PointerEvent): void {
  const grip = held.value
  if (grip?.pointer !== event.pointerId) return
  const { left, top } = place.value!.getBoundingClientRect()
  held.value = { ...grip, at: { x: event.clientX - left, y: event.clientY - top } }
  const moves = pullBy(
    { x: event.clientX - grip.from.x, y: event.clientY - grip.from.y },
    grip.arrows.map((a) => a.direction),
  )
  grip.arrows.forEach(({ slider, value: start }, i) => {
    const to = Math.min(slider.max, Math.max(slider.min, start + moves[i]!))
    if (to !== value(slider)) slide(slider, to, `pull ${grip.landmark}`)
  })
}

function release(event: PointerEvent): void {
  if (held.value?.pointer !== event.pointerId) return
  held.value = null
  figure.settle()
}

// wherever the pointer is by then: a handle that is turned out of sight goes away under it
useEventListener('pointermove', pull)
useEventListener(['pointerup', 'pointercancel'], release)
watch(
  () => held.value !== null,
  (inHand) => emit('hold', inHand),
)
onBeforeUnmount(() => emit('hold', false))

function step(event: KeyboardEvent, slider: SliderDef): void {
  const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key]
  if (!by) return
  event.preventDefault()
  slide(slider, value(slider) + by * (event.shiftKey ? 0.01 : 0.05), `pull ${slider.id}`)
}

/** What a value means, in the kit's own words. */
function word(slider: SliderDef): string {
  const v = value(slider)
  return v === slider.default ? 'at rest' : slider.ends[v > slider.default ? 1 : 0]
}
const said = computed(() => {
  const grip = held.value
  if (!grip) return null
  return {
    ...grip.at,
    lines: grip.arrows.filter((a, i) => i === 0 || value(a.slider) !== a.value).map((a) => a.slider),
  }
})
</script>

<template>
  <div ref="place" class="tabs">
    <template v-for="h in shown" :key="h.landmark">
      <button
        v-for="a in h.arrows"
        :key="a.slider.id"
        class="tab"
        :class="{ held: held?.landmark === h.landmark }"
        :style="{ transform: `translate(${h.x + a.x}px, ${h.y + a.y}px) translate(-50%, -50%)` }"
        :data-test="`pull-${a.slider.id}`"
        role="slider"
        :aria-label="`Pull: ${a.slider.name}`"
        :aria-valuemin="a.slider.min"
        :aria-valuemax="a.slider.max"
        :aria-valuenow="value(a.slider)"
        :aria-valuetext="`${value(a.slider).toFixed(2)}, ${word(a.slider)}`"
        @pointerdown.stop="grab($event, h, a)"
        @keydown="step($event, a.slider)"
        @keyup="figure.settle()"
      >
        <svg width="26" height="14" viewBox="-13 -7 26 14" :style="{ transform: `rotate(${a.angle}deg)` }">
          <path d="M-11 0 -5 -5V5zM11 0 5 -5V5z" />
          <circle r="2.4" />
        </svg>
        <span class="what"
          >{{ a.slider.name }} <b class="number">{{ value(a.slider).toFixed(2) }}</b></span
        >
      </button>
    </template>
    <p v-if="said" class="said" :style="{ translate: `${said.x + 18}px ${said.y + 12}px` }" data-test="pulling">
      <span v-for="s in said.lines" :key="s.id"
        >{{ s.name }}: {{ word(s) }} <b class="number">{{ value(s).toFixed(2) }}</b></span
      >
    </p>
  </div>
</template>

<style scoped>
.tabs {
  position: absolute;
  inset: 0;
  pointer-events: none;
  overflow: hidden;
}

.tab {
  position: absolute;
  left: 0;
  top: 0;
  appearance: none;
  border: 0;
  background: none;
  padding: 6px;
  pointer-events: auto;
  cursor: grab;
  touch-action: none;
  opacity: 0.62;
}

.tab:hover,
.tab:focus-visible,
.tab.held {
  opacity: 1;
}

.tab.held {
  cursor: grabbing;
}

svg {
  display: block;
  fill: var(--act);
  stroke: var(--sheet);
  stroke-width: 1;
  overflow: visible;
}

.what,
.said {
  white-space: nowrap;
  font: 12px var(--text);
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 2px 7px;
}

.what {
  display: none;
  position: absolute;
  left: 50%;
  top: 100%;
  translate: -50% 2px;
}

.tab:hover .what,
.tab:focus-visible .what {
  display: block;
}

.tab.held .what {
  display: none;
}

.said {
  position: absolute;
  left: 0;
  top: 0;
  margin: 0;
  display: grid;
}
</style>

<script setup lang="ts">
import { mirroredLandmark, type SliderDef } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import type { Stage } from '../../stage/Stage'
import type { Projected } from '../../stage/StageCamera'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'

/** Handles on the figure: pulling one moves the slider it stands for. */
const props = defineProps<{ stage: Stage; frame: number }>()
const figure = useFigure()
const view = useView()
const { body, sliderValue: value, slide } = useKit()
const held = ref<string | null>(null)
let start = { x: 0, y: 0, value: 0 }

/** How far a full slider moves its tab, metres: what the hand expects of the pull. */
const REACH = 0.16

const tabs = computed(() => {
  void props.frame
  void figure.view
  return (body.value?.sliders ?? []).flatMap((slider) => {
    if (!slider.pull) return []
    const at = place(slider.pull)
    if (!at || at.behind) return []
    const length = Math.hypot(at.dx, at.dy)
    if (length < 40) return []
    const [ux, uy] = [at.dx / length, at.dy / length]
    return [{ slider, at, x: at.x + ux * 20, y: at.y + uy * 20, angle: (Math.atan2(uy, ux) * 180) / Math.PI }]
  })
})

/** Where a tab is: on the figure's right when that is worked on, at the body's own point there if it has one. */
function place({ landmark, direction: [x, y, z] }: NonNullable<SliderDef['pull']>): Projected | null {
  if (view.side !== 'right' || !body.value) return props.stage.project(landmark, [x, y, z])
  const other = mirroredLandmark(body.value, landmark)
  // what lies in the middle has no other side
  if (other === landmark) return props.stage.project(landmark, [x, y, z])
  return props.stage.project(other ?? landmark, [-x, y, z], other === undefined)
}

function grab(event: PointerEvent, slider: SliderDef): void {
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = slider.id
  start = { x: event.clientX, y: event.clientY, value: value(slider) }
}

function pull(event: PointerEvent, slider: SliderDef, dx: number, dy: number): void {
  if (held.value !== slider.id) return
  const length2 = dx * dx + dy * dy
  const along = ((event.clientX - start.x) * dx + (event.clientY - start.y) * dy) / length2
  slide(slider, start.value + along / REACH, `pull ${slider.id}`)
}

function release(): void {
  held.value = null
  figure.settle()
}

function step(event: KeyboardEvent, slider: SliderDef): void {
  const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key]
  if (!by) return
  event.preventDefault()
  slide(slider, value(slider) + by * (event.shiftKey ? 0.01 : 0.05), `pull ${slider.id}`)
}
</script>

<template>
  <div class="tabs">
    <button
      v-for="t in tabs"
      :key="t.slider.id"
      class="tab"
      :class="{ held: held === t.slider.id }"
      :style="{ transform: `translate(${t.x}px, ${t.y}px) translate(-50%, -50%)` }"
      :data-test="`pull-${t.slider.id}`"
      role="slider"
      :aria-label="`Pull: ${t.slider.name}`"
      :aria-valuemin="t.slider.min"
      :aria-valuemax="t.slider.max"
      :aria-valuenow="value(t.slider)"
      @pointerdown.stop="grab($event, t.slider)"
      @pointermove="pull($event, t.slider, t.at.dx, t.at.dy)"
      @pointerup="release"
      @pointercancel="release"
      @keydown="step($event, t.slider)"
      @keyup="figure.settle()"
    >
      <svg width="26" height="14" viewBox="-13 -7 26 14" :style="{ transform: `rotate(${t.angle}deg)` }">
        <path d="M-11 0 -5 -5V5zM11 0 5 -5V5z" />
        <circle r="2.4" />
      </svg>
      <span class="what"
        >{{ t.slider.name }} <b class="number">{{ value(t.slider).toFixed(2) }}</b></span
      >
    </button>
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

.what {
  display: none;
  position: absolute;
  left: 50%;
  top: 100%;
  translate: -50% 2px;
  white-space: nowrap;
  font: 12px var(--text);
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 2px 7px;
}

.tab:hover .what,
.tab:focus-visible .what,
.tab.held .what {
  display: block;
}
</style>

<script setup lang="ts">
import type { ExpressionDef } from '@idle-tinker/core'
import { placeAt, pointOf, type DialPlace } from '../../stage/moodDial'

/** A dial of moods: between two neighbours some of both, towards the middle less of them. */
const props = defineProps<{
  moods: readonly ExpressionDef[]
  picture: (id: string) => string | undefined
  /** Where it stands; null where what there is has no place on it. */
  place: DialPlace | null
  /** The same in words. */
  words: string
  /** The mood that is there by name. */
  on: string | null
}>()
const emit = defineEmits<{
  /** Begins with a press, or with the first key. */ grab: []
  turn: [place: DialPlace]
  choose: [id: string]
  settle: []
}>()

/** Half the dial's width, and where its pictures stand, pixels. */
const HALF = 138
const RING = 114
/** How far out the hand reaches full strength, pixels. */
const REACH = 82

const knob = computed(() => {
  const at = props.place && pointOf(props.place)
  return at && { x: HALF + at.x * REACH, y: HALF + at.y * REACH }
})

/** The pointer that has the dial in hand. */
const held = ref<number | null>(null)
function follow(event: PointerEvent): void {
  const { left, top } = (event.currentTarget as HTMLElement).getBoundingClientRect()
  emit('turn', placeAt((event.clientX - left - HALF) / REACH, (event.clientY - top - HALF) / REACH))
}
function grab(event: PointerEvent): void {
  if (held.value !== null || (event.target as HTMLElement).closest('.mood')) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = event.pointerId
  emit('grab')
  follow(event)
}
function release(event: PointerEvent): void {
  if (held.value !== event.pointerId) return
  held.value = null
  emit('settle')
}

function onKey(event: KeyboardEvent): void {
  const n = props.moods.length
  const now = props.place ?? { turn: 0, strength: 0 }
  const step = event.shiftKey ? 0.25 : 1
  if (event.key === 'ArrowRight' || event.key === 'ArrowLeft') {
    const by = (event.key === 'ArrowRight' ? step : -step) / n
    emit('turn', { turn: (now.turn + by + 1) % 1, strength: now.strength || 1 })
  } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    const strength = now.strength + (event.key === 'ArrowUp' ? 0.1 : -0.1)
    emit('turn', { turn: now.turn, strength: Math.min(1, Math.max(0, Math.round(strength * 100) / 100)) })
  } else return
  event.preventDefault()
  event.stopPropagation()
}

const spot = (i: number) => pointOf({ turn: i / props.moods.length, strength: 1 })
</script>

<template>
  <div
    class="dial"
    :class="{ held: held !== null }"
    @pointerdown="grab"
    @pointermove="held === $event.pointerId && follow($event)"
    @pointerup="release"
    @pointercancel="release"
  >
    <svg :viewBox="`0 0 ${2 * HALF} ${2 * HALF}`" aria-hidden="true">
      <circle :cx="HALF" :cy="HALF" :r="REACH" class="field" />
      <circle :cx="HALF" :cy="HALF" :r="REACH / 2" class="half" />
      <line v-if="knob && place?.strength" :x1="HALF" :y1="HALF" :x2="knob.x" :y2="knob.y" class="way" />
      <circle :cx="HALF" :cy="HALF" r="3" class="middle" />
    </svg>
    <button
      v-for="(m, i) in moods"
      :key="m.id"
      class="mood"
      :class="{ on: on === m.id }"
      :style="{ translate: `${HALF + spot(i).x * RING - 21}px ${HALF + spot(i).y * RING - 21}px` }"
      :title="m.name"
      :aria-label="m.name"
      :aria-pressed="on === m.id"
      :data-test="`mood-${m.id}`"
      @click="emit('choose', m.id)"
    >
      <img v-if="picture(m.id)" :src="picture(m.id)" alt="" width="42" height="42" />
    </button>
    <span
      class="knob"
      :class="{ lost: !knob }"
      role="slider"
      tabindex="0"
      aria-label="Mood: left and right for another, up and down for more or less of it"
      aria-valuemin="0"
      aria-valuemax="1"
      :aria-valuenow="place?.strength ?? 0"
      :aria-valuetext="words"
      :style="{ translate: `${(knob?.x ?? HALF) - 9}px ${(knob?.y ?? HALF) - 9}px` }"
      data-test="mood-knob"
      @keydown="onKey"
      @keyup="emit('settle')"
    />
  </div>
</template>

<style scoped>
.dial {
  position: relative;
  width: 276px;
  height: 276px;
  margin: 0 auto;
  cursor: crosshair;
  touch-action: none;
}

svg {
  position: absolute;
  inset: 0;
}

.field {
  fill: color-mix(in srgb, var(--stage) 70%, var(--sheet));
  stroke: var(--rule);
}

.half {
  fill: none;
  stroke: var(--rule);
  stroke-dasharray: 2 5;
}

.way {
  stroke: var(--act);
  stroke-width: 2;
}

.middle {
  fill: var(--ink-soft);
}

.mood {
  position: absolute;
  left: 0;
  top: 0;
  width: 42px;
  height: 42px;
  padding: 0;
  border: 1px solid transparent;
  border-radius: 50%;
  overflow: hidden;
  background: var(--stage);
  cursor: pointer;
}

.mood:hover {
  border-color: var(--act);
}

.mood.on {
  border: 2px solid var(--care-mark);
}

.mood img {
  display: block;
}

.knob {
  position: absolute;
  left: 0;
  top: 0;
  width: 18px;
  height: 18px;
  border-radius: 50%;
  border: 3px solid var(--act);
  background: var(--sheet);
  cursor: grab;
}

.knob.lost {
  border-style: dotted;
}

.held,
.held .knob {
  cursor: grabbing;
}
</style>

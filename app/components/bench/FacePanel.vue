<script setup lang="ts">
import { canLook, expressionOf, isFaceAtRest, movementsOf, setFace } from '@idle-tinker/core'
import { watchDebounced } from '@vueuse/core'
import { useKit } from '../../composables/useKit'
import { useMoods } from '../../composables/useMoods'
import { placeAt, pointOf, sharesAt, type DialPlace } from '../../stage/moodDial'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'

/** The mood of the face, found by hand between those that have a name. */
const figure = useFigure()
const { body } = useKit()
const { moodPicture, show, forget } = useMoods()
const view = useView()
onUnmounted(() => (view.pointing = false))
watch(() => figure.id, forget)

const moods = computed(() => body.value?.expressions?.filter((e) => e.mood) ?? [])
const others = computed(() => body.value?.expressions?.filter((e) => !e.mood) ?? [])
const named = computed(() => (figure.recipe && body.value ? expressionOf(figure.recipe, body.value) : null))
const atRest = computed(() => !figure.recipe || !body.value || isFaceAtRest(figure.recipe, body.value))
watchDebounced(
  () => figure.recipe,
  (recipe) => recipe && body.value && show(recipe, body.value, moods.value),
  { debounce: 900, immediate: true },
)

/** Half the dial's width, and where its pictures stand, pixels. */
const HALF = 138
const RING = 114
/** How far out the hand reaches full strength, pixels. */
const REACH = 82

/** Where the hand last was, and the face that came of it: once that is another, the place says nothing. */
const last = shallowRef<{ place: DialPlace; face: string } | null>(null)
const faceNow = () =>
  JSON.stringify(
    body.value && figure.recipe && movementsOf(body.value).map((s) => figure.recipe!.sliders[s.id] ?? null),
  )
const place = computed((): DialPlace | null => {
  if (atRest.value) return { turn: 0, strength: 0 }
  if (last.value?.face === faceNow()) return last.value.place
  const index = moods.value.findIndex((m) => m.id === named.value?.expression.id)
  return index < 0 ? null : { turn: index / moods.value.length, strength: named.value!.strength }
})
const knob = computed(() => {
  const at = place.value && pointOf(place.value)
  return at && { x: HALF + at.x * REACH, y: HALF + at.y * REACH }
})
const words = computed(() => {
  if (atRest.value) return 'At rest'
  const shares = place.value ? sharesAt(place.value, moods.value.length) : []
  if (shares.length === 2 && last.value?.face === faceNow())
    return shares.map((s) => `${moods.value[s.index]!.name} ${s.share.toFixed(2)}`).join(' · ')
  return named.value ? `${named.value.expression.name} ${named.value.strength.toFixed(2)}` : 'By hand'
})

function setPlace(to: DialPlace, mark: string | null): void {
  if (!figure.recipe || !body.value) return
  const shares = sharesAt(to, moods.value.length).map(({ index, share }) => ({
    expression: moods.value[index]!,
    share,
  }))
  figure.edit(setFace(figure.recipe, body.value, shares), mark)
  last.value = { place: to, face: faceNow() }
}

/** The pointer that has the dial in hand. */
const held = ref<number | null>(null)
function follow(event: PointerEvent): void {
  const { left, top } = (event.currentTarget as HTMLElement).getBoundingClientRect()
  setPlace(placeAt((event.clientX - left - HALF) / REACH, (event.clientY - top - HALF) / REACH), 'mood')
}
function grab(event: PointerEvent): void {
  if (held.value !== null || (event.target as HTMLElement).closest('.mood')) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = event.pointerId
  follow(event)
}
function release(event: PointerEvent): void {
  if (held.value !== event.pointerId) return
  held.value = null
  figure.settle()
}

function onKey(event: KeyboardEvent): void {
  const n = moods.value.length
  const now = place.value ?? { turn: 0, strength: 0 }
  const step = event.shiftKey ? 0.25 : 1
  if (event.key === 'ArrowRight' || event.key === 'ArrowLeft') {
    const by = (event.key === 'ArrowRight' ? step : -step) / n
    setPlace({ turn: (now.turn + by + 1) % 1, strength: now.strength || 1 }, 'mood')
  } else if (event.key === 'ArrowUp' || event.key === 'ArrowDown') {
    const strength = now.strength + (event.key === 'ArrowUp' ? 0.1 : -0.1)
    setPlace({ turn: now.turn, strength: Math.min(1, Math.max(0, Math.round(strength * 100) / 100)) }, 'mood')
  } else return
  event.preventDefault()
  event.stopPropagation()
}

const spot = (i: number) => pointOf({ turn: i / moods.value.length, strength: 1 })
function rest(): void {
  setPlace({ turn: 0, strength: 0 }, null)
}
function choose(id: string): void {
  const expression = body.value?.expressions?.find((e) => e.id === id)
  if (figure.recipe && body.value && expression)
    figure.edit(setFace(figure.recipe, body.value, [{ expression, share: 1 }]))
}
</script>

<template>
  <section v-if="moods.length" class="face" data-test="face-panel">
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
        <line v-if="knob && !atRest" :x1="HALF" :y1="HALF" :x2="knob.x" :y2="knob.y" class="way" />
        <circle :cx="HALF" :cy="HALF" r="3" class="middle" />
      </svg>
      <button
        v-for="(m, i) in moods"
        :key="m.id"
        class="mood"
        :class="{ on: named?.expression.id === m.id }"
        :style="{ translate: `${HALF + spot(i).x * RING - 21}px ${HALF + spot(i).y * RING - 21}px` }"
        :title="m.name"
        :aria-label="m.name"
        :aria-pressed="named?.expression.id === m.id"
        :data-test="`mood-${m.id}`"
        @click="choose(m.id)"
      >
        <img v-if="moodPicture(m.id)" :src="moodPicture(m.id)" alt="" width="42" height="42" />
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
        @keyup="figure.settle()"
      />
    </div>
    <p class="words">
      <span data-test="mood-words">{{ words }}</span>
      <button class="link" :disabled="atRest" data-test="face-rest" @click="rest">Face at rest</button>
    </p>
    <ToggleButton
      v-if="body && canLook(body)"
      v-model="view.pointing"
      size="small"
      on-label="Pull on the stage to where they look"
      off-label="Show where they look"
      class="look"
      data-test="point-gaze"
    />
    <div class="others">
      <button
        v-for="e in others"
        :key="e.id"
        class="other"
        :class="{ on: named?.expression.id === e.id }"
        :aria-pressed="named?.expression.id === e.id"
        @click="choose(e.id)"
      >
        {{ e.name }}
      </button>
    </div>
  </section>
  <p v-else class="soft">This body has no expressions.</p>
</template>

<style scoped>
.face {
  margin-top: var(--s2);
}

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

.words {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin: var(--s1) 0 var(--s2);
  font-weight: 600;
}

.link {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  color: var(--act);
  font: 13px var(--text);
  cursor: pointer;
}

.link:disabled {
  color: var(--ink-soft);
  opacity: 0.6;
  cursor: default;
}

.look {
  margin-bottom: var(--s2);
}

.others {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}

.other {
  appearance: none;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: none;
  color: var(--ink);
  font: 12px var(--text);
  padding: 2px 7px;
  cursor: pointer;
}

.other:hover {
  border-color: var(--act);
}

.other.on {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
}
</style>

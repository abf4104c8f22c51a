<script setup lang="ts">
import { Box3, Vector3 } from 'three'
import {
  DOUBTFUL,
  imagesOf,
  LANDMARKS,
  legsBy,
  type DrawnChain,
  type Landmark,
  type LandmarkId,
  type Point,
} from '@idle-tinker/core'
import { framedHalf, theBooth } from '../../stage/Booth'
import type { FigureView } from '../../workers/protocol'

/** A figure without bones from one side, with its landmarks on it: they are moved by pointer or by keys. */
const props = defineProps<{
  from: 'front' | 'side'
  view: FigureView
  box: { min: Point; max: Point }
  /** Where its left and right meet, along x. */
  plane: number
  landmarks: readonly Landmark[]
  chosen: LandmarkId | null
  chains: readonly DrawnChain[]
  /** The chain that is being drawn: what is clicked is its next place. */
  drawing: DrawnChain | null
}>()
const emit = defineEmits<{
  choose: [id: LandmarkId]
  begin: []
  move: [id: LandmarkId, at: Point]
  end: [id: LandmarkId]
  place: [at: Point]
}>()

const [WIDTH, HEIGHT] = [380, 430]
/** Pixels of the picture for one here: what is seen closely stays sharp. */
const FINE = 3
const turn = props.from === 'front' ? 0 : -Math.PI / 2
/** The axis that runs across the picture, to the right. */
const across = props.from === 'front' ? 0 : 2

const middle = computed(() => props.box.min.map((v, k) => (v + props.box.max[k]!) / 2) as Point)
/** As wide as deep, so that it is as large from either side, and what is level stays level. */
const framed = computed(() => {
  const [x, y, z] = props.box.max.map((v, k) => v - props.box.min[k]!) as Point
  return new Vector3(Math.max(x, z), y, Math.max(x, z))
})
const scale = computed(() => HEIGHT / 2 / framedHalf(framed.value, turn, WIDTH / HEIGHT))
const picture = computed(() => {
  const box = new Box3().setFromCenterAndSize(new Vector3(...middle.value), framed.value)
  return (
    theBooth()
      .take(props.view, WIDTH * FINE, HEIGHT * FINE, { turn, box, level: true })
      ?.toDataURL() ?? ''
  )
})
const xOf = (at: Point) => WIDTH / 2 + (at[across] - middle.value[across]) * scale.value
const yOf = (at: Point) => HEIGHT / 2 - (at[1] - middle.value[1]) * scale.value

const byId = computed(() => new Map(props.landmarks.map((l) => [l.id, l])))
const lines = computed(() =>
  LANDMARKS[legsBy(props.landmarks)].lines.map((ids) =>
    ids
      .flatMap((id) => byId.value.get(id) ?? [])
      .map(({ at }) => `${xOf(at)},${yOf(at)}`)
      .join(' '),
  ),
)
/** Chains as lines, those on both sides twice. */
const drawnLines = computed(() =>
  [...props.chains, ...(props.drawing ? [props.drawing] : [])].flatMap((chain) =>
    imagesOf(chain, props.plane).map((points) => points.map((at): [number, number] => [xOf(at), yOf(at)])),
  ),
)
/** Where the next place of a chain would be set by keys. */
const cross = ref<Point | null>(null)
watch(
  () => props.drawing !== null,
  (on) => (cross.value = on ? [...middle.value] : null),
)
/** A place on the picture, as deep as what was set last. */
function placeAt(x: number, y: number): Point {
  const at = [...(props.drawing?.points.at(-1) ?? middle.value)] as Point
  at[across] = middle.value[across] + (x - WIDTH / 2) / scale.value
  at[1] = middle.value[1] - (y - HEIGHT / 2) / scale.value
  return at
}
function set(event: PointerEvent): void {
  if (!props.drawing) return
  event.preventDefault()
  emit('place', placeAt(...pointed(event)))
}
function keyCross(event: KeyboardEvent): void {
  const at = cross.value
  if (!at) return
  const to = stepped(event, at)
  if (to) cross.value = to
  else if (event.key === 'Enter' || event.key === ' ') emit('place', placeAt(xOf(at), yOf(at)))
  else return
  event.preventDefault()
}

/** From the side both sides lie on each other: the one that is chosen lies on top. */
const drawn = computed(() => [...props.landmarks].sort((a, b) => rank(a) - rank(b)))
const rank = ({ id, sure }: Landmark) => (id === props.chosen ? 2 : sure < DOUBTFUL ? 1 : 0)

const svg = ref<SVGSVGElement>()
/** The landmark that is held, and how far from its middle. */
const held = ref<{ id: LandmarkId; dx: number; dy: number; moved: boolean } | null>(null)
function pointed(event: PointerEvent): [number, number] {
  const { left, top, width } = svg.value!.getBoundingClientRect()
  const k = WIDTH / width
  return [(event.clientX - left) * k, (event.clientY - top) * k]
}
function take(event: PointerEvent, { id, at }: Landmark): void {
  const [x, y] = pointed(event)
  emit('choose', id)
  held.value = { id, dx: x - xOf(at), dy: y - yOf(at), moved: false }
  svg.value!.setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent): void {
  const hold = held.value
  if (!hold) return
  const [x, y] = pointed(event)
  if (!hold.moved) emit('begin')
  hold.moved = true
  const at = [...byId.value.get(hold.id)!.at] as Point
  at[across] = middle.value[across] + (x - hold.dx - WIDTH / 2) / scale.value
  at[1] = middle.value[1] - (y - hold.dy - HEIGHT / 2) / scale.value
  emit('move', hold.id, at)
}
function drop(): void {
  if (held.value?.moved) emit('end', held.value.id)
  held.value = null
}

/** A step of a key, metres; with Shift a small one. */
const STEP = { usual: 0.01, small: 0.002 }
const WAYS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, 1],
  ArrowDown: [0, -1],
}
/** A place a step of a key farther; null of other keys. */
function stepped(event: KeyboardEvent, at: Point): Point | null {
  const way = WAYS[event.key]
  if (!way) return null
  const step = event.shiftKey ? STEP.small : STEP.usual
  const to = [...at] as Point
  to[across] += way[0] * step
  to[1] += way[1] * step
  return to
}
function key(event: KeyboardEvent, { id, at }: Landmark): void {
  const to = stepped(event, at)
  if (!to) return
  event.preventDefault()
  emit('begin')
  emit('move', id, to)
  emit('end', id)
}

/** While one is held it is seen closely, three times as large, in the corner that is farthest from it. */
const close = computed(() => {
  const one = held.value && byId.value.get(held.value.id)
  if (!one) return null
  const [x, y] = [xOf(one.at), yOf(one.at)]
  return {
    side: x > WIDTH / 2 ? 'left' : 'right',
    image: `url(${picture.value})`,
    place: `${-(x * FINE - 62)}px ${-(y * FINE - 62)}px`,
  }
})
</script>

<template>
  <div class="side">
    <svg
      ref="svg"
      :viewBox="`0 0 ${WIDTH} ${HEIGHT}`"
      role="group"
      :aria-label="from === 'front' ? 'The figure from the front' : 'The figure from its side'"
      :data-test="`landmarks-${from}`"
      :class="{ drawing }"
      @pointerdown="set"
      @pointermove="drag"
      @pointerup="drop"
      @pointercancel="drop"
    >
      <image v-if="picture" :href="picture" :width="WIDTH" :height="HEIGHT" />
      <template v-for="kind in ['halo', 'line']" :key="kind">
        <polyline v-for="(points, i) in lines" :key="i" :points="points" :class="kind" />
      </template>
      <circle
        v-for="l in drawn"
        :key="l.id"
        :cx="xOf(l.at)"
        :cy="yOf(l.at)"
        :r="l.id === chosen ? 7 : 5"
        :class="{ on: l.id === chosen, doubtful: l.sure < DOUBTFUL }"
        role="button"
        tabindex="0"
        :aria-label="`${boneWords(l.id)}, moved with the arrow keys`"
        :aria-pressed="l.id === chosen"
        :data-test="`landmark-${from}-${l.id}`"
        @pointerdown.prevent="take($event, l)"
        @focus="emit('choose', l.id)"
        @keydown="key($event, l)"
      >
        <title>{{ boneWords(l.id) }}</title>
      </circle>
      <g v-for="(line, i) in drawnLines" :key="`chain-${i}`" class="chain">
        <polyline
          v-for="kind in ['halo', 'line']"
          :key="kind"
          :class="kind"
          :points="line.map((p) => p.join()).join(' ')"
        />
        <rect v-for="([x, y], k) in line" :key="k" :x="x - 4" :y="y - 4" width="8" height="8" />
      </g>
      <circle
        v-if="cross"
        class="cross"
        :cx="xOf(cross)"
        :cy="yOf(cross)"
        r="6"
        role="button"
        tabindex="0"
        aria-label="The next place of the chain: moved with the arrow keys, set with Enter"
        :data-test="`cross-${from}`"
        @keydown="keyCross"
      />
    </svg>
    <div
      v-if="close"
      class="close"
      :class="close.side"
      aria-hidden="true"
      :style="{
        backgroundImage: close.image,
        backgroundPosition: close.place,
        backgroundSize: `${WIDTH * FINE}px ${HEIGHT * FINE}px`,
      }"
    />
  </div>
</template>

<style scoped>
.side {
  position: relative;
}

svg {
  width: 100%;
  display: block;
  background: var(--stage, var(--rule));
  border-radius: 6px;
  touch-action: none;
}

polyline {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.5;
  pointer-events: none;
}

/* seen on dark and on light cloth */
polyline.halo {
  stroke: var(--sheet);
  stroke-width: 4;
  opacity: 0.7;
}

circle {
  fill: var(--act);
  stroke: var(--sheet);
  stroke-width: 1.5;
  cursor: grab;
}

svg.drawing {
  cursor: crosshair;
}

svg.drawing circle:not(.cross) {
  pointer-events: none;
  opacity: 0.35;
}

.chain rect {
  fill: var(--care-mark);
  stroke: var(--ink);
  pointer-events: none;
}

circle.cross {
  fill: none;
  stroke: var(--care-mark);
  stroke-width: 2;
  cursor: crosshair;
}

circle.doubtful {
  fill: var(--over);
}

circle.on {
  fill: var(--care-mark);
  stroke: var(--ink);
}

circle:focus-visible {
  outline: 2px solid var(--care-mark);
}

.close {
  position: absolute;
  top: 8px;
  width: 124px;
  height: 124px;
  border-radius: 50%;
  border: 2px solid var(--rule-strong, var(--ink-soft));
  background-color: var(--sheet);
  background-repeat: no-repeat;
  pointer-events: none;
}

.close.left {
  left: 8px;
}

.close.right {
  right: 8px;
}

/* where it will stand */
.close::after {
  content: '';
  position: absolute;
  inset: 50% auto auto 50%;
  width: 9px;
  height: 9px;
  margin: -5.5px;
  border: 1.5px solid var(--care-mark);
  border-radius: 50%;
}
</style>

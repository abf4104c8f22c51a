<script setup lang="ts">
import { CLIP_SPAN, eased, EASES, type Ease, type KeyTrack } from '@idle-tinker/core'
import { Circle, ClipboardPaste, Copy, Pause, Play, Repeat, Square, Trash2 } from 'lucide-vue-next'
import type { KeyPlace, Keys } from '../../composables/useKeys'

/** A clip of one's own over time: its keys on two threads, poses above and faces below, and where it stands. */
const { keys, playing } = defineProps<{ keys: Keys; playing: boolean }>()
const emit = defineEmits<{ play: [on: boolean]; scrub: [time: number] }>()
const { kept, time, selected, recording, copied } = keys

const TRACKS: readonly { id: KeyTrack; name: string; one: string }[] = [
  { id: 'poses', name: 'Poses', one: 'Pose' },
  { id: 'faces', name: 'Faces', one: 'Face' },
]
const EASE_NAMES: Record<Ease, string> = {
  ...{ even: 'evenly', soft: 'softly', start: 'slow to start', end: 'slow to end' },
  ...{ flow: 'flowing through', hold: 'held, then at once' },
}
const EASE_OPTIONS = EASES.map((id) => ({ id, name: EASE_NAMES[id] }))
/** Points a hill between two keys is drawn with, and how high the thread is, pixels. */
const POINTS = 16
const HIGH = 22

/** Whether keys go along when the clip becomes longer or shorter. */
const stretched = ref(true)

const duration = computed(() => kept.value?.duration ?? 1)
const percent = (at: number) => (100 * at) / duration.value
const rows = computed(() =>
  TRACKS.map((track) => {
    const all = kept.value?.[track.id] ?? []
    const hill = (from: number, to: number, ease: Ease) => {
      const points = Array.from({ length: POINTS + 1 }, (_, n) => {
        const share = n / POINTS
        return `${percent(from + (to - from) * share)},${HIGH - 2 - (HIGH - 6) * eased(ease, share)}`
      })
      return `M${percent(from)},${HIGH} L${points.join(' L')} L${percent(to)},${HIGH} Z`
    }
    const hills = all.slice(0, -1).map(({ at, ease }, i) => hill(at, all[i + 1]!.at, ease))
    const [first, last] = [all[0], all.at(-1)]
    // what goes round goes on over the end
    if (kept.value?.loop && first && last && first !== last) {
      hills.push(hill(last.at, duration.value + first.at, last.ease))
      if (first.at > 0) hills.push(hill(last.at - duration.value, first.at, last.ease))
    }
    return { ...track, all, hills }
  }),
)
/** So that there are about ten of them. */
const ticks = computed(() => {
  const step = [0.1, 0.2, 0.5, 1, 2, 5, 10].find((s) => duration.value / s <= 12) ?? 10
  return Array.from({ length: Math.floor(duration.value / step + 1e-9) + 1 }, (_, i) => i * step)
})
const chosenKey = computed(() => {
  const { value: place } = selected
  return place && kept.value?.[place.track].find((k) => Math.abs(k.at - place.at) < 0.004)
})
const isOn = (track: KeyTrack, at: number) =>
  selected.value?.track === track && Math.abs(selected.value.at - at) < 0.004

const line = ref<HTMLElement>()
function timeAt(event: PointerEvent): number {
  const { left, width } = line.value!.getBoundingClientRect()
  const t = ((event.clientX - left) / width) * duration.value
  return Math.round(Math.min(duration.value, Math.max(0, t)) * 100) / 100
}

/** What the pointer has in hand: a key, or where the clip stands. */
const held = shallowRef<{ pointer: number; key: KeyPlace | null; x: number; moved: boolean } | null>(null)
function take(event: PointerEvent, key: KeyPlace | null): void {
  if (held.value || event.button !== 0 || recording.value) return
  line.value!.setPointerCapture(event.pointerId)
  emit('play', false)
  held.value = { pointer: event.pointerId, key, x: event.clientX, moved: false }
  if (!key) return emit('scrub', timeAt(event))
  keys.takeKey()
  keys.select(key.track, key.at)
  emit('scrub', key.at)
}
function move(event: PointerEvent): void {
  const grip = held.value
  if (grip?.pointer !== event.pointerId) return
  if (!grip.key) return emit('scrub', timeAt(event))
  // a press that trembles moves nothing
  if (!grip.moved && Math.abs(event.clientX - grip.x) < 3) return
  held.value = { ...grip, moved: true }
  keys.moveKey(grip.key, timeAt(event))
  emit('scrub', timeAt(event))
}
function drop(event: PointerEvent): void {
  if (held.value?.pointer !== event.pointerId) return
  held.value = null
  keys.dropKey()
}

/** What one press of a key moves, seconds; with Shift less. */
const STEP = 0.05
const FINE = 0.01
function onKey(event: KeyboardEvent, key: KeyPlace): void {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  if (by) {
    const to = Math.round((key.at + by * (event.shiftKey ? FINE : STEP)) * 1000) / 1000
    const free = !kept.value?.[key.track].some((k) => k.at !== key.at && Math.abs(k.at - to) < 0.004)
    if (free) {
      keys.moveKey(key, to)
      if (selected.value) emit('scrub', selected.value.at)
    }
  } else if (event.key === 'Delete' || event.key === 'Backspace') keys.removeKey(key)
  else return
  event.preventDefault()
  event.stopPropagation()
}
function onLineKey(event: KeyboardEvent): void {
  const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key]
  const to = event.key === 'Home' ? 0 : event.key === 'End' ? duration.value : null
  if (by === undefined && to === null) return
  emit('scrub', Math.min(duration.value, Math.max(0, to ?? time.value + by! * (event.shiftKey ? FINE : STEP))))
  event.preventDefault()
}
</script>

<template>
  <section class="timeline" aria-label="Keys of the clip" data-test="timeline">
    <div class="bar">
      <Button
        size="small"
        :severity="recording ? 'danger' : undefined"
        :outlined="!recording"
        :label="recording ? 'Stop' : 'Record'"
        :title="recording ? 'Stop, and keep what was done' : 'What you do to figure and face meanwhile becomes keys'"
        data-test="record"
        @click="(emit('play', false), keys.record())"
        ><template #icon><component :is="recording ? Square : Circle" :size="13" class="icon" /></template
      ></Button>
      <button
        class="quiet"
        :disabled="recording"
        :aria-label="playing ? 'Pause' : 'Play'"
        :title="playing ? 'Pause' : 'Play'"
        data-test="play-keys"
        @click="emit('play', !playing)"
      >
        <component :is="playing ? Pause : Play" :size="17" />
      </button>
      <span class="number now" data-test="key-time">{{ (time % (duration + 1e-6)).toFixed(2) }} s</span>
      <label class="length"
        >of
        <InputNumber
          :model-value="duration"
          :min="CLIP_SPAN[0]"
          :max="CLIP_SPAN[1]"
          :max-fraction-digits="2"
          :step="0.1"
          suffix=" s"
          size="small"
          input-class="seconds"
          aria-label="How long the clip is"
          data-test="clip-length"
          @update:model-value="$event && keys.setDuration($event, stretched)"
      /></label>
      <label class="check" title="Keys stay where they are in the clip"
        ><Checkbox v-model="stretched" binary input-id="stretched" size="small" /> with its keys</label
      >
      <button
        class="quiet"
        :class="{ lit: kept?.loop }"
        :aria-pressed="kept?.loop ?? false"
        aria-label="Goes round"
        title="Goes round"
        data-test="clip-loop"
        @click="keys.setLoop(!kept?.loop)"
      >
        <Repeat :size="17" />
      </button>
      <span class="gap" />
      <template v-if="chosenKey && selected">
        <Select
          :model-value="chosenKey.ease"
          :options="EASE_OPTIONS"
          option-label="name"
          option-value="id"
          size="small"
          aria-label="How it goes over into the next key"
          title="How it goes over into the next key"
          data-test="key-ease"
          @update:model-value="keys.ease(selected, $event as Ease)"
        />
        <button
          class="quiet"
          aria-label="Copy the key"
          title="Copy the key"
          data-test="copy-key"
          @click="keys.copyKey(selected)"
        >
          <Copy :size="16" />
        </button>
        <button
          class="quiet"
          aria-label="Remove the key"
          title="Remove the key (Delete)"
          data-test="remove-key"
          @click="keys.removeKey(selected)"
        >
          <Trash2 :size="16" />
        </button>
      </template>
      <button
        v-if="copied"
        class="quiet"
        aria-label="Put the copied key here"
        title="Put the copied key here"
        data-test="paste-key"
        @click="keys.pasteKey()"
      >
        <ClipboardPaste :size="16" />
      </button>
    </div>
    <div class="threads">
      <div class="names" aria-hidden="true">
        <span v-for="r in rows" :key="r.id">{{ r.name }}</span>
      </div>
      <div
        ref="line"
        class="line"
        tabindex="0"
        role="slider"
        aria-label="Where the clip stands"
        aria-valuemin="0"
        :aria-valuemax="duration"
        :aria-valuenow="Math.round(time * 100) / 100"
        :aria-valuetext="`${time.toFixed(2)} seconds`"
        data-test="key-line"
        @pointerdown="take($event, null)"
        @pointermove="move"
        @pointerup="drop"
        @pointercancel="drop"
        @keydown="onLineKey"
      >
        <div class="ruler">
          <i v-for="t in ticks" :key="t" :style="{ left: `${percent(t)}%` }"
            ><b>{{ Number(t.toFixed(1)) }}</b></i
          >
        </div>
        <div v-for="r in rows" :key="r.id" class="thread" :class="r.id">
          <svg :viewBox="`0 0 100 ${HIGH}`" preserveAspectRatio="none" aria-hidden="true">
            <path v-for="(d, i) in r.hills" :key="i" :d="d" />
          </svg>
        </div>
        <i class="stands" :class="{ recording }" :style="{ left: `${percent(Math.min(time, duration))}%` }" />
      </div>
      <div class="beads">
        <template v-for="(r, n) in rows" :key="r.id">
          <button
            v-for="(k, i) in r.all"
            :key="`${r.id} ${i}`"
            class="bead"
            :class="[r.id, { on: isOn(r.id, k.at) }]"
            :style="{ left: `${percent(k.at)}%`, top: `${16 + n * (HIGH + 4) + HIGH / 2}px` }"
            :aria-label="`${r.one} at ${k.at.toFixed(2)} s, goes on ${EASE_NAMES[k.ease]}: arrow keys move it`"
            :aria-pressed="isOn(r.id, k.at)"
            :data-test="`key-${r.id}-${i}`"
            @pointerdown.stop="take($event, { track: r.id, at: k.at })"
            @click="(keys.select(r.id, k.at), emit('scrub', k.at))"
            @keydown="onKey($event, { track: r.id, at: k.at })"
            @keyup="keys.dropKey()"
          />
        </template>
      </div>
    </div>
  </section>
</template>

<style scoped>
.timeline {
  border-top: 1px solid var(--rule);
  background: color-mix(in srgb, var(--stage) 60%, var(--sheet));
  padding: var(--s2) var(--s4) var(--s3);
  min-width: 0;
}

.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s1) var(--s2);
  min-height: 36px;
}

.icon {
  fill: currentcolor;
}

.now {
  min-width: 54px;
  text-align: right;
  font-weight: 600;
}

.length,
.check {
  display: flex;
  align-items: center;
  gap: var(--s1);
  font-size: 13px;
  color: var(--ink-soft);
}

.length :deep(.seconds) {
  width: 74px;
}

.lit {
  color: var(--act);
}

.gap {
  flex: 1;
}

.threads {
  position: relative;
  display: grid;
  grid-template-columns: 46px minmax(0, 1fr);
  margin-top: var(--s1);
}

.names {
  display: grid;
  grid-template-rows: 22px 22px;
  gap: 4px;
  padding-top: 16px;
  font-size: 12px;
  color: var(--ink-soft);
  align-items: center;
}

.line {
  position: relative;
  margin: 0 10px;
  cursor: text;
  touch-action: none;
  outline-offset: 4px;
}

.ruler {
  position: relative;
  height: 16px;
  font-size: 10px;
  color: var(--ink-soft);
}

.ruler i {
  position: absolute;
  top: 10px;
  height: 6px;
  border-left: 1px solid var(--rule);
}

.ruler b {
  position: absolute;
  bottom: 4px;
  translate: -50% 0;
  font: 10px var(--mono);
}

.thread {
  height: 22px;
  margin-bottom: 4px;
  border-bottom: 1px solid var(--rule);
}

.thread svg {
  display: block;
  width: 100%;
  height: 22px;
  overflow: hidden;
}

.thread path {
  fill: color-mix(in srgb, var(--act) 22%, transparent);
}

.thread.faces path {
  fill: color-mix(in srgb, var(--care-mark) 30%, transparent);
}

.stands {
  position: absolute;
  top: 8px;
  bottom: 2px;
  width: 0;
  border-left: 2px solid var(--ink);
  translate: -1px 0;
  pointer-events: none;
}

.stands.recording {
  border-color: var(--over);
}

.beads {
  position: absolute;
  inset: 0 10px 0 56px;
  pointer-events: none;
}

.bead {
  position: absolute;
  appearance: none;
  width: 15px;
  height: 15px;
  padding: 0;
  border: 3px solid var(--act);
  border-radius: 50%;
  background: var(--sheet);
  translate: -50% -50%;
  pointer-events: auto;
  cursor: ew-resize;
  touch-action: none;
}

.bead.faces {
  border-color: var(--care-mark);
}

.bead.on {
  background: var(--ink);
  border-color: var(--ink);
  scale: 1.15;
}
</style>

<script setup lang="ts">
import type { Clip } from '@idle-tinker/core'
import { workshop } from '../workers'
import { plain } from '../workers/plain'
import { useFigure } from '../stores/figure'
import { useView } from '../stores/view'

const figure = useFigure()
const view = useView()
const clips = shallowRef<Clip[]>([])
/** The clip that was chosen, null for the pose of rest; until then the first that goes anywhere. */
const chosen = ref<string | null>()
const clipId = computed({
  get: () => {
    const id = chosen.value
    if (id === null || clips.value.some((c) => c.id === id)) return id ?? null
    return (clips.value.find((c) => c.travel > 0) ?? clips.value[0])?.id ?? null
  },
  set: (id) => (chosen.value = id),
})
const playing = ref(false)
const bones = ref(true)
const weightsOf = ref<string | null>(null)
const time = ref(0)
const stage = ref<{ scrub(t: number): void }>()
const clip = computed(() => clips.value.find((c) => c.id === clipId.value) ?? null)

// clips are fitted to this figure's own proportions, so they follow every change of it
watch(
  () => figure.view,
  async (built) => {
    if (!figure.recipe || !built) return
    const fitted = await workshop('bench').clips(plain(figure.recipe), plain(view.target))
    clips.value = fitted.filter((c) => c.rotations.length === built.bones.length)
  },
  { immediate: true },
)

function scrub(value: number): void {
  playing.value = false
  time.value = value
  stage.value?.scrub(value)
}
</script>

<template>
  <StationLayout left="Skeleton" right="Clips" right-width="270px">
    <template #left><MotionSheet v-model:bones="bones" v-model:weights-of="weightsOf" /></template>
    <StageView
      ref="stage"
      :clip="clip"
      :playing="playing"
      :bones="bones"
      :weights-of="weightsOf"
      @frame="time = $event"
    />
    <template #right
      ><aside class="clips scroll" aria-label="Clips">
        <h2>Clips</h2>
        <p class="soft">Fitted to this figure: standing feet stay where they are.</p>
        <div class="list" role="radiogroup" aria-label="Clip" @keydown="radioKeys">
          <button
            v-for="c in clips"
            :key="c.id"
            role="radio"
            :aria-checked="c.id === clipId"
            :tabindex="c.id === clipId ? 0 : -1"
            class="clip"
            :class="{ on: c.id === clipId }"
            :data-test="`clip-${c.id}`"
            @click="clipId = c.id"
          >
            <b>{{ c.name }}</b>
            <span class="number soft"
              >{{ c.duration.toFixed(1) }} s{{
                c.travel > 0 ? `, ${(c.travel / c.duration).toFixed(2)} m/s` : ', on the spot'
              }}</span
            >
          </button>
          <button
            role="radio"
            :aria-checked="clipId === null"
            :tabindex="clipId === null ? 0 : -1"
            class="clip"
            :class="{ on: clipId === null }"
            data-test="clip-rest"
            @click="((clipId = null), (playing = false))"
          >
            <b>Rest pose</b>
          </button>
        </div>
        <template v-if="clip">
          <div class="play">
            <Button size="small" :label="playing ? 'Pause' : 'Play'" data-test="play" @click="playing = !playing" />
            <span class="number" data-test="clip-time"
              >{{ (Math.floor((time % clip.duration) * 100) / 100).toFixed(2) }} s</span
            >
          </div>
          <div class="track">
            <Slider
              :model-value="time % clip.duration"
              :min="0"
              :max="clip.duration"
              :step="0.01"
              aria-label="Time in the clip"
              @update:model-value="scrub($event as number)"
            />
          </div>
        </template></aside
    ></template>
  </StationLayout>
</template>

<style scoped>
.clips {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: var(--s3);
}

.list {
  display: grid;
  gap: 2px;
  margin: var(--s3) 0;
}

.clip {
  appearance: none;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 14px var(--text);
  text-align: left;
  padding: 7px 10px;
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  cursor: pointer;
}

.clip:hover {
  background: var(--act-soft);
}

.clip.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.play {
  display: flex;
  justify-content: space-between;
  align-items: center;
}

.track {
  padding: var(--s4) 7px;
}
</style>

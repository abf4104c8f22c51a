<script setup lang="ts">
import {
  DIAL_RANGES,
  dialsOf,
  LEAST_TRIM,
  setDials,
  type Dials,
  type ListedClip,
  type NumberDial,
} from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'

/** How this figure plays a clip of its kit. */
const props = defineProps<{ clip: ListedClip }>()
const figure = useFigure()

const NAMES: Record<NumberDial, string> = {
  ...{ pace: 'Pace', stride: 'Stride', energy: 'Energy', clearance: 'Arms out', lean: 'Lean', turn: 'Turning' },
}
const STEPS: Record<NumberDial, number> = { pace: 0.05, stride: 0.05, energy: 0.05, clearance: 1, lean: 1, turn: 1 }
const wordsOf = (dial: NumberDial, v: number) => {
  if (dial === 'turn') return v === 0 ? 'ahead' : `${Math.abs(v)}° ${v > 0 ? 'left' : 'right'}`
  return dial === 'clearance' || dial === 'lean' ? `${v > 0 ? '+' : ''}${v}°` : `${Math.round(v * 100)} %`
}

const dials = computed<Dials>(() => (figure.recipe ? dialsOf(figure.recipe, props.clip.id) : {}))
const changed = computed(() => Object.keys(dials.value).length > 0)
const valueOf = (dial: NumberDial) => dials.value[dial] ?? DIAL_RANGES[dial][1]

/** What belongs to one stroke is one step of undo; what is as it was made is not written down. */
function set(change: Partial<Dials>, mark: string | null): void {
  if (!figure.recipe) return
  const next = Object.fromEntries(
    Object.entries({ ...dials.value, ...change }).filter(
      ([dial, v]) =>
        v !== undefined && v !== false && (DIAL_RANGES as Record<string, readonly number[]>)[dial]?.[1] !== v,
    ),
  )
  figure.edit(setDials(figure.recipe, props.clip.id, next), mark)
}
const setNumber = (dial: NumberDial, v: number) =>
  set({ [dial]: Number(v.toFixed(2)) }, `dial ${props.clip.id} ${dial}`)
function setTrim(value: number[]): void {
  const [a, b] = value.map((v) => v / 100) as [number, number]
  const [from, to] = [Math.min(a, b), Math.max(a, b)]
  if (to - from < LEAST_TRIM) return
  set({ trim: from === 0 && to === 1 ? undefined : [from, to] }, `dial ${props.clip.id} trim`)
}
const trim = computed(() => (dials.value.trim ?? [0, 1]).map((v) => Math.round(v * 100)))
</script>

<template>
  <details class="dials" data-test="dials">
    <summary>How {{ figure.recipe?.name }} plays “{{ clip.name }}”<i v-if="changed" title="Not as made"> •</i></summary>
    <DialRow
      v-for="dial in clip.dials"
      :key="dial"
      :name="NAMES[dial]"
      :label="NAMES[dial]"
      :value="valueOf(dial)"
      :words="wordsOf(dial, valueOf(dial))"
      :min="DIAL_RANGES[dial][0]"
      :max="DIAL_RANGES[dial][2]"
      :step="STEPS[dial]"
      :test="`dial-${dial}`"
      @change="setNumber(dial, $event)"
    />
    <DialRow
      name="From, to"
      label="From, to"
      :value="trim"
      :words="`${trim[0]}–${trim[1]} %`"
      :min="0"
      :max="100"
      :step="1"
      test="dial-trim"
      @change="setTrim"
    />
    <label class="exchanged"
      ><ToggleSwitch
        :model-value="dials.mirrored ?? false"
        input-id="dial-mirrored"
        data-test="dial-mirrored"
        @update:model-value="set({ mirrored: $event }, null)"
      />
      Left and right exchanged</label
    >
    <Button
      v-if="changed"
      size="small"
      text
      label="As made"
      data-test="dials-reset"
      @click="figure.recipe && figure.edit(setDials(figure.recipe, clip.id, {}))"
    />
  </details>
</template>

<style scoped>
.dials {
  margin-top: var(--s3);
  border-top: 1px solid var(--rule);
  padding-top: var(--s2);
}

summary {
  cursor: pointer;
  font-weight: 600;
}

summary i {
  color: var(--care-mark);
  font-style: normal;
}

.exchanged {
  display: flex;
  align-items: center;
  gap: var(--s2);
  margin-top: var(--s3);
}
</style>

<script setup lang="ts">
import { Undo2 } from 'lucide-vue-next'
import { BRUSHES, nudgeOn, partOf, type BrushKind } from '@idle-tinker/core'
import { computedAsync } from '@vueuse/core'
import { useNudgeKeys } from '../../composables/hands/useNudgeHand'
import { radioKeys } from '../../composables/radioKeys'
import { useKit } from '../../composables/useKit'
import { useNudging } from '../../composables/useNudging'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'
import { workshop } from '../../workers'
import { plain } from '../../workers/plain'

/** The brush for what no slider reaches, and what it has moved so far. */
const figure = useFigure()
const project = useProject()
const view = useView()
const { body } = useKit()
const { bringBack, bringPartBack } = useNudging()
const onKey = useNudgeKeys()

const WORDS: Record<BrushKind, [name: string, what: string]> = {
  pull: ['Pull', 'Goes along with the hand'],
  swell: ['Swell', 'Out of the surface'],
  sink: ['Sink', 'Into the surface'],
  smooth: ['Smooth', 'Evens out bumps'],
  flatten: ['Flatten', 'Presses flat'],
  restore: ['Restore', 'Back to what sliders make of it'],
}
const DIALS = [
  { key: 'radius', name: 'Size', min: 0.01, max: 0.4, step: 0.005, words: (v: number) => `${Math.round(v * 100)} cm` },
  { key: 'softness', name: 'Softness', min: 0, max: 1, step: 0.05, words: (v: number) => v.toFixed(2) },
  { key: 'strength', name: 'Strength', min: 0.05, max: 1, step: 0.05, words: (v: number) => v.toFixed(2) },
] as const

const nudge = computed(() => figure.recipe && nudgeOn(figure.recipe, undefined))
const regions = computedAsync(
  async () => {
    if (!figure.recipe || !nudge.value) return []
    const { regions: ids } = await workshop('bench').nudged(plain(figure.recipe))
    return body.value?.regions.filter((r) => ids.includes(r.id)) ?? []
  },
  [],
  // the last answer stands until it comes anew
  { onError: () => undefined },
)
const parts = computed(() =>
  (figure.recipe?.nudges ?? []).flatMap(({ on }) => {
    const part = figure.recipe?.parts.find((p) => p.id === on)?.part
    return on !== undefined && part ? [{ on, name: partOf(project.library, part)?.def.name ?? part.id }] : []
  }),
)
</script>

<template>
  <div data-test="nudge-panel">
    <div class="kinds" role="radiogroup" aria-label="What the brush does" @keydown="radioKeys">
      <button
        v-for="kind in BRUSHES"
        :key="kind"
        class="kind"
        role="radio"
        :class="{ on: view.brush.kind === kind }"
        :aria-checked="view.brush.kind === kind"
        :tabindex="view.brush.kind === kind ? 0 : -1"
        :title="WORDS[kind][1]"
        :data-test="`brush-${kind}`"
        @click="view.brush.kind = kind"
      >
        {{ WORDS[kind][0] }}
      </button>
    </div>
    <p class="soft what">{{ WORDS[view.brush.kind][1] }}. Beside the figure, a drag turns it as ever.</p>
    <DialRow
      v-for="d in DIALS"
      :key="d.key"
      :name="d.name"
      :value="view.brush[d.key]"
      :min="d.min"
      :max="d.max"
      :step="d.step"
      :words="d.words(view.brush[d.key])"
      :label="`${d.name} of the brush`"
      :test="`brush-${d.key}`"
      @change="view.brush[d.key] = $event"
    />
    <label class="both"
      ><Checkbox v-model="view.brush.mirrored" binary input-id="brush-mirrored" data-test="brush-mirrored" /> On both
      sides alike</label
    >
    <button class="keys" data-test="brush-keys" @keydown="onKey">
      By keys: arrows move the brush, with Shift they pull, Enter strokes
    </button>
    <section v-if="regions.length || parts.length" data-test="nudged">
      <h3>Nudged so far</h3>
      <p v-for="r in regions" :key="r.id" class="one">
        <span>{{ r.name }}</span>
        <button
          class="quiet"
          title="Bring back"
          :aria-label="`Bring back ${r.name}`"
          :data-test="`unnudge-${r.id}`"
          @click="bringBack(r.id)"
        >
          <Undo2 :size="14" />
        </button>
      </p>
      <p v-for="p in parts" :key="p.on" class="one">
        <span>{{ p.name }}</span>
        <button class="quiet" title="Bring back" :aria-label="`Bring back ${p.name}`" @click="bringPartBack(p.on)">
          <Undo2 :size="14" />
        </button>
      </p>
      <Button
        v-if="regions.length > 1"
        size="small"
        outlined
        label="Bring the whole body back"
        data-test="unnudge-all"
        @click="bringBack(null)"
      />
    </section>
  </div>
</template>

<style scoped>
.kinds {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: 4px;
  margin-top: var(--s3);
}

.kind {
  appearance: none;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: none;
  color: var(--ink);
  font: 13px var(--text);
  padding: 5px 0;
  cursor: pointer;
}

.kind:hover {
  border-color: var(--act);
}

.kind.on {
  border-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
  font-weight: 600;
}

.what {
  margin: var(--s2) 0;
  font-size: 12px;
}

.both {
  display: flex;
  align-items: center;
  gap: var(--s2);
  padding: 5px 0;
  font-size: 13px;
}

.keys {
  appearance: none;
  width: 100%;
  border: 1px dashed var(--rule);
  border-radius: 4px;
  background: none;
  color: var(--ink-soft);
  font: 12px var(--text);
  text-align: left;
  padding: 4px 8px;
}

.keys:focus-visible {
  border: 1px solid var(--act);
  color: var(--ink);
}

section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s1);
}

.one {
  display: flex;
  justify-content: space-between;
  align-items: center;
  margin: 0;
}
</style>

<script setup lang="ts">
import { X } from 'lucide-vue-next'
import {
  bodyOf,
  changePickBody,
  clipsFor,
  colorRegionsOf,
  newPickColor,
  shapeSlidersOf,
  type PickBody,
} from '@idle-tinker/core'
import { usePicks } from '../../stores/picks'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** What is offered of a body as a whole: sliders and how far they go, colors, moods, clips, rules. */
const props = defineProps<{ body: PickBody }>()
const picks = usePicks()
const project = useProject()
const def = computed(() => bodyOf(project.library, props.body.body))
const sliders = computed(() => (def.value ? shapeSlidersOf(def.value) : []))
const free = computed(() => sliders.value.filter((s) => !props.body.sliders.some((o) => o.slider === s.id)))
const sliderName = (id: string) => def.value?.sliders.find((s) => s.id === id)?.name ?? id
const rangeOf = (id: string) => def.value?.sliders.find((s) => s.id === id) ?? { min: -2, max: 2 }
const regions = computed(() => colorRegionsOf(project.library, props.body.body.kit))
const uncolored = computed(() => [...regions.value.values()].filter((r) => !Object.hasOwn(props.body.colors, r.id)))
const clips = computed(() => clipsFor(project.library, props.body.body))

const change = (next: Partial<PickBody>, mark: string | null = null) =>
  picks.change(changePickBody(plain(picks.now!), props.body.id, next), mark)
const own = () => plain(props.body)

function addSlider(slider: string): void {
  const { min, max, default: start } = def.value!.sliders.find((s) => s.id === slider)!
  change({ sliders: [...own().sliders, { slider, min, max, start }] })
}
/** Keeps least, start and most in order: what is pushed pushes on. */
function limit(slider: string, key: 'min' | 'max' | 'start', given: number | null): void {
  if (given === null) return
  change(
    {
      sliders: own().sliders.map((s) => {
        if (s.slider !== slider) return s
        const next = { ...s, [key]: given }
        if (key === 'start') return { ...next, min: Math.min(next.min, given), max: Math.max(next.max, given) }
        return { ...next, start: Math.min(Math.max(next.start, next.min), next.max) }
      }),
    },
    `limit ${slider} ${key}`,
  )
}
const removeSlider = (slider: string) => change({ sliders: own().sliders.filter((s) => s.slider !== slider) })
function addColor(region: string): void {
  change({ colors: { ...own().colors, [region]: newPickColor(project.library, props.body.body, region) } })
}
function removeColor(region: string): void {
  const { [region]: _, ...colors } = own().colors
  change({ colors })
}
function startColor(region: string, start: string): void {
  change({ colors: { ...own().colors, [region]: { ...own().colors[region]!, start } } })
}
</script>

<template>
  <aside class="whole scroll" aria-label="What is offered of the whole body">
    <h2>{{ body.name }}</h2>
    <p v-if="!def" class="over">Its kit is not here any more.</p>
    <template v-else>
      <h3>Sliders <span class="soft">least, start, most</span></h3>
      <div v-for="s in body.sliders" :key="s.slider" class="limits" :data-test="`picks-slider-${s.slider}`">
        <span class="name">{{ s.name ?? sliderName(s.slider) }}</span>
        <InputNumber
          v-for="key in ['min', 'start', 'max'] as const"
          :key="key"
          :model-value="s[key]"
          :min="rangeOf(s.slider).min"
          :max="rangeOf(s.slider).max"
          :step="0.1"
          :max-fraction-digits="2"
          size="small"
          :aria-label="`${sliderName(s.slider)}: ${{ min: 'least', start: 'start', max: 'most' }[key]}`"
          @update:model-value="limit(s.slider, key, $event as number | null)"
        />
        <button class="quiet" :aria-label="`Do not offer ${sliderName(s.slider)}`" @click="removeSlider(s.slider)">
          <X :size="14" />
        </button>
      </div>
      <OfferMore :options="free" label="Offer a slider" data-test="add-picks-slider" @take="addSlider($event.id)" />
      <h3>Colors</h3>
      <div v-for="(c, region) in body.colors" :key="region" class="color">
        <span class="name">{{ regions.get(String(region))?.name ?? region }}</span>
        <span class="dots" role="radiogroup" :aria-label="`${region}: what it begins with`">
          <button
            v-for="s in c.swatches"
            :key="s"
            type="button"
            role="radio"
            class="dot"
            :style="{ background: s }"
            :aria-checked="s === c.start"
            :aria-label="s"
            :title="s === c.start ? 'It begins with this' : 'Begin with this'"
            @click="startColor(String(region), s)"
          />
        </span>
        <button class="quiet" :aria-label="`Do not offer ${region}`" @click="removeColor(String(region))">
          <X :size="14" />
        </button>
      </div>
      <OfferMore :options="uncolored" label="Offer a color" @take="addColor($event.id)" />
      <h3>Moods</h3>
      <MultiSelect
        :model-value="body.expressions"
        :options="def.expressions ?? []"
        option-label="name"
        option-value="id"
        placeholder="None"
        size="small"
        fluid
        aria-label="Moods a player may choose"
        data-test="picks-moods"
        @update:model-value="change({ expressions: $event as string[] })"
      />
      <h3>Clips</h3>
      <MultiSelect
        :model-value="Array.isArray(body.clips) ? body.clips : []"
        :options="clips"
        option-label="name"
        option-value="id"
        :placeholder="body.clips === 'all' ? 'All there are' : 'Those that kits do not hold back'"
        size="small"
        fluid
        aria-label="Clips that go along"
        @update:model-value="change({ clips: ($event as string[]).length ? ($event as string[]) : undefined })"
      />
      <h3>Ready looks</h3>
      <ReadyLooks :body="body" />
      <h3>Swinging <span class="soft">in the game</span></h3>
      <PickSprings :body="body" />
      <h3>Never bare</h3>
      <MultiSelect
        :model-value="body.covered"
        :options="def.regions.map((r) => ({ id: r.id, name: r.id }))"
        option-label="name"
        option-value="id"
        placeholder="Anything may be"
        size="small"
        fluid
        aria-label="Regions that nothing may leave bare"
        data-test="picks-covered"
        @update:model-value="change({ covered: $event as string[] })"
      />
      <h3>Rules <span class="soft">beside those of the kits</span></h3>
      <PickRules :body="body" @change="change({ rules: $event })" />
    </template>
  </aside>
</template>

<style scoped>
.whole {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: var(--s3);
}

h3 {
  margin: var(--s4) 0 var(--s1);
}

h3 .soft {
  font: 12px var(--text);
}

.limits {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 52px 52px 52px 24px;
  gap: 4px;
  align-items: center;
  font-size: 13px;
  padding: 1px 0;
}

.limits :deep(input) {
  width: 100%;
  font: 12px var(--mono);
  padding: 2px 4px;
}

.name {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.color {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr) 24px;
  align-items: center;
  gap: 4px;
  font-size: 13px;
  padding: 2px 0;
  border-bottom: 1px solid var(--rule);
}

.dots {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}

.dot {
  width: 16px;
  height: 16px;
  padding: 0;
  border: 1px solid var(--rule);
  border-radius: 50%;
  cursor: pointer;
}

.dot[aria-checked='true'] {
  outline: 2px solid var(--act);
  outline-offset: 1px;
}

.over {
  color: var(--over);
}
</style>

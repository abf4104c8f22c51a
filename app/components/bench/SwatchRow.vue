<script setup lang="ts">
import { Lock, LockOpen } from 'lucide-vue-next'
import { isHeld, setColor, setHeld } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'

const props = defineProps<{ region: string }>()
const figure = useFigure()
const { colorRegions, palettes, colorOf } = useKit()
const name = computed(() => colorRegions.value.get(props.region)?.name ?? props.region)
const swatches = computed(() => {
  const own = colorRegions.value.get(props.region)?.color
  const all = palettes.value.flatMap((p) => p.swatches[props.region] ?? [])
  return [...new Set([...(own ? [own] : []), ...all])].slice(0, 18)
})

const held = computed(() => figure.recipe !== null && isHeld(figure.recipe, 'colors', props.region))
function hold(): void {
  if (figure.recipe) figure.edit(setHeld(figure.recipe, 'colors', props.region, !held.value))
}

function set(color: string, mark: string | null = null): void {
  if (figure.recipe && /^#[0-9a-f]{6}$/.test(color)) figure.edit(setColor(figure.recipe, props.region, color), mark)
}
</script>

<template>
  <div class="region" :data-test="`color-${region}`">
    <span class="name"
      >{{ name }}
      <button
        class="quiet lock"
        :class="{ on: held }"
        :aria-label="`${held ? 'Unlock' : 'Lock'} the color of ${name}`"
        :title="held ? 'Unlock' : 'Lock: shuffling leaves this color'"
        :data-test="`hold-color-${region}`"
        @click="hold"
      >
        <component :is="held ? Lock : LockOpen" :size="12" /></button
    ></span>
    <label class="now" :style="{ background: colorOf(region) }" :title="`Mix a color for ${name}`"
      ><input
        type="color"
        :value="colorOf(region)"
        :aria-label="`${name}: own color`"
        @input="set(($event.target as HTMLInputElement).value.toLowerCase(), `color ${region}`)"
        @change="figure.settle()"
    /></label>
    <span class="swatches">
      <button
        v-for="c in swatches"
        :key="c"
        class="swatch"
        :class="{ on: c === colorOf(region) }"
        :aria-pressed="c === colorOf(region)"
        :style="{ background: c }"
        :aria-label="`${name} ${c}`"
        :title="c"
        @click="set(c)"
      />
    </span>
  </div>
</template>

<style scoped>
.region {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 3px var(--s2);
  align-items: center;
  padding: 4px 0;
}

.name {
  display: flex;
  align-items: center;
  gap: 2px;
  font-size: 13px;
}

.lock {
  opacity: 0.55;
}

.lock.on,
.lock:hover,
.lock:focus-visible {
  opacity: 1;
}

.lock.on {
  color: var(--act);
}

.now {
  width: 34px;
  height: 18px;
  border-radius: 4px;
  border: 1px solid var(--rule);
  overflow: hidden;
  cursor: pointer;
}

.now input {
  opacity: 0;
  width: 100%;
  height: 100%;
  cursor: pointer;
}

.now:focus-within {
  outline: 2px solid var(--care-mark);
}

.swatches {
  grid-column: 1 / -1;
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}

.swatch {
  appearance: none;
  width: 18px;
  height: 18px;
  border-radius: 50%;
  border: 1px solid color-mix(in srgb, var(--ink) 22%, transparent);
  cursor: pointer;
  padding: 0;
}

.swatch.on {
  box-shadow:
    0 0 0 2px var(--sheet),
    0 0 0 4px var(--care-mark);
}
</style>

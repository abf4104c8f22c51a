<script setup lang="ts">
import { RotateCcw } from 'lucide-vue-next'
import { setSlider, type SliderDef } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'

const props = defineProps<{ slider: SliderDef }>()
const figure = useFigure()
const { sliderValue } = useKit()
const value = computed(() => sliderValue(props.slider))

/** What belongs to one stroke, of the hand or of a key that is held, is one step of undo. */
const STROKE = `slide ${props.slider.id}`

function set(v: number, mark: string | null = STROKE): void {
  if (figure.recipe) figure.edit(setSlider(figure.recipe, props.slider.id, v, props.slider), mark)
}

function onKey(event: KeyboardEvent): void {
  const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key]
  if (!by) return
  event.preventDefault()
  event.stopPropagation()
  set(value.value + by * (event.shiftKey ? 0.01 : 0.05))
}
</script>

<template>
  <div class="slider" :data-test="`slider-${slider.id}`">
    <span class="name">{{ slider.name }}</span>
    <span class="number">{{ value.toFixed(2) }}</span>
    <button
      class="quiet"
      :disabled="value === slider.default"
      :aria-label="`${slider.name} back to rest`"
      title="Back to rest"
      @click="set(slider.default, null)"
    >
      <RotateCcw :size="13" />
    </button>
    <div class="track" @keydown.capture="onKey" @keyup="figure.settle()" @click="figure.settle()">
      <Slider
        :model-value="value"
        :min="slider.min"
        :max="slider.max"
        :step="0.01"
        :aria-label="slider.name"
        @update:model-value="set($event as number)"
        @slideend="figure.settle()"
      />
    </div>
    <span class="ends soft"
      ><i>{{ slider.ends[0] }}</i
      ><i>{{ slider.ends[1] }}</i></span
    >
  </div>
</template>

<style scoped>
.slider {
  display: grid;
  grid-template-columns: 1fr auto auto;
  align-items: center;
  column-gap: var(--s2);
  padding: 3px 0 5px;
}

.name {
  font-size: 13px;
}

.track {
  grid-column: 1 / -1;
  padding: 5px 7px;
}

.ends {
  grid-column: 1 / -1;
  display: flex;
  justify-content: space-between;
  font-size: 11px;
  line-height: 1;
}

.ends i {
  font-style: normal;
}
</style>

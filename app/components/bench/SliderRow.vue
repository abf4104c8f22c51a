<script setup lang="ts">
import { RotateCcw } from 'lucide-vue-next'
import type { SliderDef } from '@idle-tinker/core'
import { useElementVisibility, watchDebounced } from '@vueuse/core'
import { NEAR_SLIDERS, useEnds } from '../../composables/useEnds'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'

const props = defineProps<{ slider: SliderDef }>()
const figure = useFigure()
const { sliderValue, valuesOf, slide } = useKit()
const value = computed(() => sliderValue(props.slider))
const sides = computed(() => valuesOf(props.slider))
const atRest = computed(() => sides.value.every((v) => v === props.slider.default))
/** Where a value stands on the track, as a share of it. */
const share = (v: number) => `${((v - props.slider.min) / (props.slider.max - props.slider.min)) * 100}%`

/** What belongs to one stroke, of the hand or of a key that is held, is one step of undo. */
const STROKE = `slide ${props.slider.id}`
const set = (v: number, mark: string | null = STROKE) => slide(props.slider, v, mark)

function onKey(event: KeyboardEvent): void {
  const by = { ArrowRight: 1, ArrowUp: 1, ArrowLeft: -1, ArrowDown: -1 }[event.key]
  if (!by) return
  event.preventDefault()
  event.stopPropagation()
  set(value.value + by * (event.shiftKey ? 0.01 : 0.05))
}

const row = ref<HTMLElement>()
const seen = useElementVisibility(row)
const near = inject(NEAR_SLIDERS, ref(false))
const { endsOf, show } = useEnds()
const pictures = computed(() => endsOf(props.slider))
// pictures of both ends, of what is seen: soon where the hand is among the sliders, else once all is quiet
const ask = () => seen.value && show(props.slider)
watchDebounced([seen, () => figure.recipe, near], ask, {
  debounce: () => (near.value ? 500 : 3000),
  immediate: true,
})

const field = ref<{ $el: HTMLInputElement }>()
/** What is being typed; null while nothing is. */
const typed = ref<string | null>(null)
const said = ref('')

async function startTyping(): Promise<void> {
  typed.value = value.value.toFixed(2)
  said.value = ''
  await nextTick()
  field.value?.$el.focus()
  field.value?.$el.select()
}

/** Takes what was typed, with a point or a comma; what is no number, or beyond the ends, is said. */
function take(): void {
  const text = typed.value?.trim()
  typed.value = null
  if (!text) return
  const { min, max } = props.slider
  const v = Number(text.replace(',', '.'))
  if (!Number.isFinite(v)) said.value = `“${text}” is no number.`
  else {
    if (v < min || v > max) said.value = `It goes from ${min} to ${max}.`
    set(v, null)
  }
}
watch(value, () => {
  if (typed.value !== null) typed.value = null
})
</script>

<template>
  <div ref="row" class="slider" :data-test="`slider-${slider.id}`">
    <div class="head">
      <span class="name"
        >{{ slider.name }}
        <i v-if="sides[0] !== sides[1]" class="sides number" title="On the figure’s left and right"
          >{{ sides[0].toFixed(2) }} | {{ sides[1].toFixed(2) }}</i
        ></span
      >
      <InputText
        v-if="typed !== null"
        ref="field"
        v-model="typed"
        class="typed number"
        size="small"
        inputmode="decimal"
        maxlength="12"
        :aria-label="`Value of ${slider.name}`"
        :data-test="`type-${slider.id}`"
        @keydown.enter="take"
        @keydown.esc.stop="typed = null"
        @blur="take"
      />
      <button
        v-else
        class="value number"
        :title="`Type a value for ${slider.name}`"
        :data-test="`value-${slider.id}`"
        @click="startTyping"
      >
        {{ value.toFixed(2) }}
      </button>
      <button
        class="quiet"
        :disabled="atRest"
        :aria-label="`${slider.name} back to rest`"
        title="Back to rest"
        @click="set(slider.default, null)"
      >
        <RotateCcw :size="13" />
      </button>
    </div>
    <span class="end"><img v-if="pictures" :src="pictures[0]" alt="" /></span>
    <div class="middle">
      <div class="track" @keydown.capture="onKey" @keyup="figure.settle()" @click="figure.settle()">
        <i class="rest" :style="{ left: share(slider.default) }" />
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
    <span class="end"><img v-if="pictures" :src="pictures[1]" alt="" /></span>
    <span v-if="said" class="said" role="status">{{ said }}</span>
  </div>
</template>

<style scoped>
.slider {
  display: grid;
  grid-template-columns: 44px minmax(0, 1fr) 44px;
  align-items: center;
  column-gap: var(--s1);
  padding: 3px 0 5px;
}

.head {
  grid-column: 1 / -1;
  display: grid;
  grid-template-columns: 1fr auto auto;
  align-items: center;
  column-gap: var(--s2);
}

.end {
  display: block;
  height: 44px;
}

.end img {
  display: block;
  width: 44px;
  height: 44px;
}

.name {
  font-size: 13px;
}

.sides {
  margin-left: var(--s2);
  font-size: 11px;
  font-style: normal;
  color: var(--care);
}

.value {
  appearance: none;
  border: 1px solid transparent;
  border-radius: 3px;
  background: none;
  color: inherit;
  padding: 0 3px;
  cursor: text;
}

.value:hover {
  border-color: var(--rule);
}

.typed {
  width: 62px;
  padding: 0 3px;
  text-align: right;
}

.said {
  grid-column: 1 / -1;
  font-size: 11.5px;
  color: var(--over);
}

.track {
  position: relative;
  margin: 0 7px;
  padding: 5px 0;
}

/* where it rests: a mark behind the track */
.rest {
  position: absolute;
  top: 0;
  bottom: 0;
  width: 2px;
  translate: -1px;
  background: var(--ink-soft);
  opacity: 0.45;
}

.ends {
  display: flex;
  justify-content: space-between;
  font-size: 11px;
  line-height: 1;
}

.ends i {
  font-style: normal;
}
</style>

<script setup lang="ts">
import { setSoftness, softnessOf, type BendScore } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'

/** How the joints bend, the worst first; the worst bend of one is tried on the stage. */
const props = defineProps<{ scores: readonly BendScore[] }>()
const shown = defineModel<boolean>('shown', { required: true })
const tried = defineModel<string | null>('tried', { required: true })

const figure = useFigure()
const plan = usePlan()
const softness = computed(() => (tried.value && figure.recipe ? softnessOf(figure.recipe, tried.value) : 0))
/** What belongs to one stroke is one step of undo. */
function soften(value: number): void {
  const bone = tried.value
  if (bone && figure.recipe && plan.value)
    figure.edit(setSoftness(figure.recipe, plan.value, bone, value), `soften ${bone}`)
}

const FEW = 8
const all = ref(false)
/** While one is worked on, none changes its place. */
const order = ref<string[]>([])
watch([() => props.scores, tried], ([scores, held]) => {
  if (!held || order.value.length !== scores.length) order.value = scores.map((s) => s.name)
})
const sorted = computed(() => {
  const place = new Map(order.value.map((name, i) => [name, i]))
  return [...props.scores].sort((a, b) => (place.get(a.name) ?? 0) - (place.get(b.name) ?? 0))
})
const listed = computed(() => (all.value ? sorted.value : sorted.value.slice(0, FEW)))
const WAYS = { x: 'bent forward or back', y: 'turned', z: 'bent sideways' } as const
const percent = (share: number) => `${Math.round(share * 100)} %`
const wordsOf = ({ worst }: BendScore) =>
  `${WAYS[worst.axis]} by ${Math.abs(worst.degrees)}°: ${percent(worst.volume)} of the volume is left, nine edges in ten change by less than ${percent(worst.stretch)}`
</script>

<template>
  <section aria-label="How joints bend">
    <label class="line"><ToggleSwitch v-model="shown" input-id="bends" data-test="bends" /> How joints bend</label>
    <template v-if="shown">
      <p class="soft">
        Of 100: how much volume and shape each joint keeps when it is bent and twisted. Press one to see its worst bend.
      </p>
      <ul data-test="bend-list">
        <li v-for="s in listed" :key="s.name">
          <button
            :aria-pressed="s.name === tried"
            :class="{ on: s.name === tried }"
            :data-test="`bend-${s.name}`"
            @click="tried = s.name === tried ? null : s.name"
          >
            <span>{{ boneWords(s.name) }}</span> <span class="number">{{ Math.round(s.score) }}</span>
            <small v-if="s.name === tried" class="soft" data-test="bend-words">At worst {{ wordsOf(s) }}.</small>
          </button>
          <div v-if="s.name === tried" class="softness">
            <DialRow
              name="stiffer"
              words="softer"
              :value="softness"
              :min="-1"
              :max="1"
              :step="0.05"
              :label="`How soft the joint is: ${boneWords(s.name)}`"
              test="softness"
              @change="soften"
            />
            <Button v-if="softness" size="small" text label="As made" data-test="softness-reset" @click="soften(0)" />
          </div>
        </li>
      </ul>
      <button v-if="scores.length > FEW" class="more" data-test="all-bends" @click="all = !all">
        {{ all ? 'The worst alone' : `All ${scores.length} joints` }}
      </button>
    </template>
  </section>
</template>

<style scoped src="./sheetList.css"></style>
<style scoped>
.softness {
  padding: 0 6px;
}
</style>

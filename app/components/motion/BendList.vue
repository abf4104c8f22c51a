<script setup lang="ts">
import type { BendScore } from '@idle-tinker/core'

/** How the joints bend, the worst first; the worst bend of one is tried on the stage. */
const props = defineProps<{ scores: readonly BendScore[] }>()
const shown = defineModel<boolean>('shown', { required: true })
const tried = defineModel<string | null>('tried', { required: true })

const FEW = 8
const all = ref(false)
const listed = computed(() => (all.value ? props.scores : props.scores.slice(0, FEW)))
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
        </li>
      </ul>
      <button v-if="scores.length > FEW" class="more" data-test="all-bends" @click="all = !all">
        {{ all ? 'The worst alone' : `All ${scores.length} joints` }}
      </button>
    </template>
  </section>
</template>

<style scoped src="./sheetList.css"></style>

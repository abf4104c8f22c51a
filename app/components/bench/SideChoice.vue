<script setup lang="ts">
import { nudgeOn, shapeSlidersOf, unevenSliders, type Side } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'
import { useNudging } from '../../composables/useNudging'
import { useView } from '../../stores/view'
import { workshop } from '../../workers'
import { plain } from '../../workers/plain'

/** Which side of the figure shaping works on, and what makes it even again. */
const view = useView()
const figure = useFigure()
const { body } = useKit()
const SIDES: { id: Side; name: string }[] = [
  { id: 'both', name: 'Both sides' },
  { id: 'left', name: 'Left' },
  { id: 'right', name: 'Right' },
]
const { even } = useNudging()
const sliders = computed(() => (body.value ? shapeSlidersOf(body.value) : []))
const nudge = computed(() => figure.recipe && nudgeOn(figure.recipe, undefined))
const nudgedUnevenly = ref(false)
// asked only when what was nudged has changed: a slider leaves it as it is
watch(
  nudge,
  async (now) => {
    try {
      const uneven = now !== null && (await workshop('bench').nudged(plain(figure.recipe!))).uneven
      if (nudge.value === now) nudgedUnevenly.value = uneven
    } catch (error) {
      figure.tellUndone(error)
    }
  },
  { immediate: true },
)
const uneven = computed(() => [
  ...(figure.recipe ? unevenSliders(figure.recipe, sliders.value).map((s) => s.name) : []),
  ...(nudgedUnevenly.value ? ['what was nudged'] : []),
])
</script>

<template>
  <div class="sides">
    <SelectButton
      v-model="view.side"
      :options="SIDES"
      option-label="name"
      option-value="id"
      :allow-empty="false"
      size="small"
      aria-label="Shape on"
      data-test="side"
    />
    <p v-if="uneven.length" class="uneven" data-test="uneven">
      <b>Uneven:</b> {{ uneven.join(', ') }}
      <span class="ways">
        <Button size="small" text label="Even out" data-test="even-out" @click="even(sliders, 'both')" />
        <Button size="small" text label="Both like the left" @click="even(sliders, 'left')" />
        <Button size="small" text label="Both like the right" data-test="like-right" @click="even(sliders, 'right')" />
      </span>
    </p>
  </div>
</template>

<style scoped>
.sides {
  margin-top: var(--s2);
}

.uneven {
  margin: var(--s2) 0 0;
  padding: var(--s1) var(--s2);
  border-left: 3px solid var(--care-mark);
  font-size: 12px;
}

.ways {
  display: flex;
  flex-wrap: wrap;
}
</style>

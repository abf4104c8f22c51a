<script setup lang="ts">
import type { KitPart, KitRef } from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { useFigure } from '../../stores/figure'

/** Parts to choose from, in pictures. */
const props = defineProps<{
  parts: readonly KitPart[]
  /** Whether it is the one that is worn; where several can be, none is. */
  isOn?: (part: KitPart) => boolean
  /** Why it cannot be chosen. */
  whyNot?: (part: KitPart) => string | null
  /** On which body each is shown; on that of the figure if not said. */
  on?: (part: KitPart) => KitRef
}>()
const emit = defineEmits<{ choose: [part: KitPart] }>()
const figure = useFigure()
const { pictureOf } = usePictures()
const picture = (part: KitPart) =>
  pictureOf(props.on?.(part) ?? figure.recipe!.body, { kit: part.kit, id: part.def.id })
</script>

<template>
  <div class="choices" data-test="choices">
    <button
      v-for="p in parts"
      :key="`${p.kit}/${p.def.id}`"
      class="choice"
      :class="{ on: isOn?.(p) }"
      :aria-pressed="isOn ? isOn(p) : undefined"
      :disabled="Boolean(whyNot?.(p))"
      :title="whyNot?.(p) ?? undefined"
      :data-test="`choice-${p.def.id}`"
      @click="emit('choose', p)"
    >
      <img v-if="picture(p)" :src="picture(p)" width="84" height="84" alt="" />
      <span v-else class="coming" />
      {{ p.def.name }}
    </button>
    <slot />
  </div>
</template>

<style scoped>
.choices {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: var(--s1);
  margin-top: var(--s2);
}

.choice {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 11.5px/1.2 var(--text);
  cursor: pointer;
  border-radius: 6px;
  padding: 4px 2px 6px;
  display: grid;
  justify-items: center;
  align-content: start;
}

.choice:hover:enabled {
  background: color-mix(in srgb, var(--act) 10%, transparent);
}

.choice.on {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
  font-weight: 600;
}

.choice:disabled {
  opacity: 0.5;
  cursor: default;
}

.coming {
  width: 84px;
  height: 84px;
}

.choices :slotted(p) {
  grid-column: 1 / -1;
}
</style>

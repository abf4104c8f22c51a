<script setup lang="ts">
import { Dices, ExternalLink, Pin, PinOff } from 'lucide-vue-next'
import type { VariantCard } from '../../stores/crowd'

/** One figure of the sheet. A component of its own, so that what changes on one leaves the others as they are. */
defineProps<{ card: VariantCard; index: number; twin: boolean; width: number; height: number; busy: boolean }>()
const emit = defineEmits<{ look: []; bench: []; pin: []; reroll: [] }>()
</script>

<template>
  <figure :class="{ twin, pinned: card.pinned }" :data-test="`variant-${index}`">
    <button
      class="look"
      :aria-label="`Look closely at figure ${index + 1}`"
      :data-test="`look-${index}`"
      @click="emit('look')"
    >
      <img v-if="card.picture" :src="card.picture" :width="width" :height="height" :alt="card.recipe.name" />
      <span v-else :style="{ display: 'block', width: `${width}px`, height: `${height}px` }" />
    </button>
    <figcaption>
      <span class="number">{{ index + 1 }}</span>
      <span class="number triangles">{{ card.costs?.triangles ?? '' }}</span>
    </figcaption>
    <div class="acts">
      <button
        class="quiet"
        :class="{ on: card.pinned }"
        :aria-label="`${card.pinned ? 'Let go of' : 'Pin'} figure ${index + 1}`"
        :title="card.pinned ? 'Let go' : 'Pin: it stays when the crowd is made again'"
        :data-test="`pin-${index}`"
        @click="emit('pin')"
      >
        <component :is="card.pinned ? PinOff : Pin" :size="14" />
      </button>
      <button
        class="quiet"
        :disabled="busy || card.pinned"
        :aria-label="`Another figure for ${index + 1}`"
        title="Another one here"
        :data-test="`reroll-${index}`"
        @click="emit('reroll')"
      >
        <Dices :size="14" />
      </button>
      <button
        class="quiet"
        :aria-label="`Figure ${index + 1} to the Bench`"
        title="To the Bench"
        @click="emit('bench')"
      >
        <ExternalLink :size="14" />
      </button>
    </div>
    <small v-if="twin" class="alike">alike</small>
  </figure>
</template>

<style scoped>
figure {
  margin: 0;
  position: relative;
  display: grid;
  justify-items: center;
  border-radius: 6px;
  padding: 2px;
}

figure:hover,
figure:focus-within {
  background: color-mix(in srgb, var(--sheet) 55%, transparent);
}

figure.pinned {
  background: color-mix(in srgb, var(--care-mark) 20%, transparent);
}

.look {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  cursor: zoom-in;
  line-height: 0;
  border-radius: 6px;
}

figcaption {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 0 4px;
}

.acts {
  position: absolute;
  top: 2px;
  right: 2px;
  display: grid;
  opacity: 0;
}

figure:hover .acts,
figure:focus-within .acts,
.pinned .acts {
  opacity: 1;
}

.alike {
  position: absolute;
  left: 6px;
  top: 4px;
  color: var(--care);
  font-weight: 600;
}
</style>

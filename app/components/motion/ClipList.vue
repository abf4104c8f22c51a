<script setup lang="ts">
import type { Clip, Motion } from '@idle-tinker/core'
import { X } from 'lucide-vue-next'
import type { Entry } from '../../documents/Keeper'

/** The clips a figure can play: its kit's, those brought in from elsewhere, and none. */
defineProps<{ clips: readonly Clip[]; motions: readonly Entry<Motion>[] }>()
const emit = defineEmits<{ remove: [motion: Entry<Motion>] }>()
/** The id of a clip or of a motion; null for the pose of rest. */
const chosen = defineModel<string | null>({ required: true })

const paceOf = (c: Clip) => (c.travel > 0 ? `${(c.travel / c.duration).toFixed(2)} m/s` : 'on the spot')
const secondsOf = ({ frames, step }: Motion) => `${((frames - 1) * step).toFixed(1)} s`
</script>

<template>
  <div class="list" role="radiogroup" aria-label="Clip" @keydown="radioKeys">
    <button
      v-for="c in clips"
      :key="c.id"
      role="radio"
      :aria-checked="c.id === chosen"
      :tabindex="c.id === chosen ? 0 : -1"
      class="clip"
      :class="{ on: c.id === chosen }"
      :data-test="`clip-${c.id}`"
      @click="chosen = c.id"
    >
      <b>{{ c.name }}</b>
      <span class="number soft">{{ c.duration.toFixed(1) }} s, {{ paceOf(c) }}</span>
    </button>
    <button
      role="radio"
      :aria-checked="chosen === null"
      :tabindex="chosen === null ? 0 : -1"
      class="clip"
      :class="{ on: chosen === null }"
      data-test="clip-rest"
      @click="chosen = null"
    >
      <b>Rest pose</b>
    </button>
    <h3 v-if="motions.length">Brought in</h3>
    <div v-for="m in motions" :key="m.id" class="row">
      <button
        role="radio"
        :aria-checked="m.id === chosen"
        :tabindex="m.id === chosen ? 0 : -1"
        class="clip"
        :class="{ on: m.id === chosen }"
        :data-test="`motion-${m.name}`"
        @click="chosen = m.id"
      >
        <b>{{ m.name }}</b>
        <span class="number soft">{{ secondsOf(m.content) }}</span>
      </button>
      <button
        class="bare"
        :aria-label="`Remove ${m.name}`"
        title="Remove it"
        :data-test="`remove-motion-${m.name}`"
        @click="emit('remove', m)"
      >
        <X :size="14" />
      </button>
    </div>
  </div>
</template>

<style scoped>
.list {
  display: grid;
  gap: 2px;
  margin: var(--s3) 0;
}

h3 {
  margin: var(--s2) 0 0 10px;
}

.row {
  display: flex;
}

.clip {
  appearance: none;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 14px var(--text);
  text-align: left;
  padding: 7px 10px;
  display: flex;
  flex: 1;
  gap: var(--s2);
  justify-content: space-between;
  align-items: baseline;
  cursor: pointer;
  min-width: 0;
}

.clip b {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.clip span {
  white-space: nowrap;
}

.clip:hover {
  background: var(--act-soft);
}

.clip.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.bare {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink-soft);
  padding: 0 6px;
  cursor: pointer;
}

.bare:hover {
  color: var(--over);
}
</style>

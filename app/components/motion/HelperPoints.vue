<script setup lang="ts">
import type { HelperPoint } from '@idle-tinker/core'

/** Places on the figure that games ask for, by name; the one that is pointed at is seen on the stage. */
defineProps<{ points: readonly HelperPoint[] }>()
const shown = defineModel<boolean>('shown', { required: true })
const lit = defineModel<string | null>('lit', { required: true })

const height = ({ at }: HelperPoint) => `${at[1].toFixed(2)} m`
</script>

<template>
  <section class="points" aria-label="Helper points">
    <label class="line"><ToggleSwitch v-model="shown" input-id="points" data-test="points" /> Show helper points</label>
    <template v-if="shown">
      <p class="soft">Places that games ask for. They ship as nodes named like “headTopPoint”.</p>
      <ul data-test="point-list" @mouseleave="lit = null">
        <li v-for="p in points" :key="p.id">
          <button
            :class="{ on: p.id === lit }"
            :data-test="`point-${p.id}`"
            @mouseenter="lit = p.id"
            @focus="lit = p.id"
            @blur="lit = null"
          >
            <span>{{ p.name }}</span> <span class="number">{{ height(p) }}</span>
          </button>
        </li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.points {
  margin-top: var(--s4);
}

.line {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.soft {
  margin: var(--s2) 0;
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

button {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px var(--text);
  width: 100%;
  display: flex;
  justify-content: space-between;
  padding: 3px 6px;
  text-align: left;
}

button.on {
  background: var(--act-soft);
}
</style>

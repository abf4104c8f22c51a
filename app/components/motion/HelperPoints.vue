<script setup lang="ts">
import type { HelperPoint } from '@idle-tinker/core'

/** Places on the figure that games ask for, by name; the one that is pointed at is seen on the stage. */
defineProps<{ points: readonly HelperPoint[] }>()
const shown = defineModel<boolean>('shown', { required: true })
const lit = defineModel<string | null>('lit', { required: true })

const height = ({ at }: HelperPoint) => `${at[1].toFixed(2)} m`
</script>

<template>
  <section aria-label="Helper points">
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

<style scoped src="./sheetList.css"></style>

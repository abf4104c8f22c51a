<script setup lang="ts">
import type { ClipNumbers } from '@idle-tinker/core'

/** What is measured of a clip on this figure; the worst moment of each can be looked at. */
const { numbers } = defineProps<{ numbers: ClipNumbers }>()
const emit = defineEmits<{ look: [at: number] }>()

const cm = (metres: number) => (metres * 100).toFixed(1)
const percent = (share: number) => (share * 100).toFixed(1)
const rows = computed(() => {
  const { depth, slide, inBody, bend, strain } = numbers
  return [
    {
      id: 'depth',
      name: 'In the ground',
      value: `${cm(depth.most)} cm`,
      bad: depth.most > 0.005,
      at: depth.at,
    },
    {
      id: 'slide',
      name: 'Feet over the ground',
      value: `${cm(slide.mean)} cm/s`,
      bad: slide.mean > 0.04,
      at: slide.at,
    },
    {
      id: 'body',
      name: 'Arms in the body',
      value: `${percent(inBody.mean)} %`,
      bad: inBody.mean > 0.02,
      at: inBody.at,
    },
    {
      id: 'bend',
      name: 'Knees back',
      value: `${Math.round((bend.most * 180) / Math.PI)}°`,
      bad: bend.most > 0.1,
      at: bend.at,
    },
    {
      id: 'strain',
      name:
        strain.bone && strain.most > 0.01
          ? `Beyond its joint: ${boneWords(strain.bone).toLowerCase()}`
          : 'Beyond joints',
      value: `${Math.round((strain.most * 180) / Math.PI)}°`,
      // our own clips go up to 16
      bad: strain.most > 0.35,
      at: strain.at,
    },
  ].map((row) => ({ ...row, any: parseFloat(row.value) > 0 }))
})
</script>

<template>
  <dl>
    <template v-for="r in rows" :key="r.id">
      <dt>{{ r.name }}</dt>
      <dd class="number" :class="{ bad: r.bad }" :data-test="`number-${r.id}`">
        {{ r.value }}
        <button
          v-if="r.any"
          class="worst"
          :title="`Look at its worst, ${r.at.toFixed(2)} s`"
          @click="emit('look', r.at)"
        >
          worst
        </button>
      </dd>
    </template>
  </dl>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 4px var(--s2);
  margin: var(--s2) 0 var(--s3);
  font-size: 13px;
}

dd {
  margin: 0;
  text-align: right;
}

.bad {
  color: var(--over);
}

.worst {
  appearance: none;
  border: 0;
  background: none;
  color: var(--act);
  font: 12px var(--text);
  text-decoration: underline;
  padding: 0 0 0 4px;
  cursor: pointer;
}
</style>

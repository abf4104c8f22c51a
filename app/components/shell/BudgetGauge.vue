<script setup lang="ts">
import { TriangleAlert } from 'lucide-vue-next'

/** One cost beside its limit. */
const props = defineProps<{ id: string; name: string; now: number; limit: number; text: (n: number) => string }>()
const over = computed(() => props.now > props.limit)
</script>

<template>
  <span class="gauge" :class="{ over }" :data-test="`gauge-${id}`">
    <span class="label"
      ><TriangleAlert v-if="over" :size="12" role="img" aria-label="Over the limit:" />{{ name }}</span
    >
    <span class="number"
      >{{ text(now) }} <i>/ {{ text(limit) }}</i></span
    >
    <span class="bar"><span :style="{ width: `${Math.min(100, (now / limit) * 100)}%` }" /></span>
  </span>
</template>

<style scoped>
.gauge {
  display: grid;
  gap: 1px;
  flex: 1;
  min-width: max-content;
}

.label {
  font-size: 11px;
  color: var(--ink-soft);
  line-height: 1.1;
  white-space: nowrap;
}

.number {
  white-space: nowrap;
  font-size: 11.5px;
}

.number i {
  font-style: normal;
  color: var(--ink-soft);
}

.bar {
  height: 3px;
  background: var(--rule);
  border-radius: 2px;
  overflow: hidden;
}

.bar span {
  display: block;
  height: 100%;
  background: var(--act);
  transition: width 140ms;
}

.over .bar span {
  background: var(--over);
}

.over .number {
  color: var(--over);
}
</style>

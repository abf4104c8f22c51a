<script setup lang="ts">
import type { Problem } from '@idle-tinker/core'

/** What was found in a file before it left, or in one that was learned from. */
defineProps<{ title: string; passed: readonly string[]; problems: readonly Problem[] }>()
</script>

<template>
  <section data-test="checks">
    <h3>{{ title }}</h3>
    <ul>
      <li v-for="p in problems" :key="p.where + p.code + p.message" :class="p.severity">
        <b>{{ p.message }}</b> {{ p.remedy }}
      </li>
      <li v-for="p in passed" :key="p" class="good">{{ p }}</li>
    </ul>
  </section>
</template>

<style scoped>
ul {
  columns: 2;
  column-gap: var(--s4);
  list-style: none;
  padding: 0;
}

li {
  break-inside: avoid;
  padding: 4px 0 4px 22px;
  position: relative;
  border-bottom: 1px solid var(--rule);
}

li::before {
  position: absolute;
  left: 2px;
}

li.good::before {
  content: '✓';
  color: var(--act);
}

li.error,
li.warning {
  column-span: all;
}

li.error::before,
li.warning::before {
  content: '!';
  font-weight: 700;
}

li.error {
  color: var(--over);
}

li.warning {
  color: var(--care);
}
</style>

<script setup lang="ts">
import { useView } from '../../stores/view'

const view = useView()
const KEYS: [string, string][] = [
  ['Drag on the stage', 'Turn the view'],
  ['Wheel', 'Nearer and farther, towards the pointer'],
  ['Right drag, Space drag', 'Slide the view'],
  ['Double-click a part', 'Bring it close'],
  ['Arrows on the stage', 'Turn the view; with Shift slide it'],
  ['+ and − on the stage', 'Nearer, farther'],
  ['Home', 'The whole figure again'],
  ['Arrows on a slider', 'Move it; with Shift in fine steps'],
  ['Arrows on a key of a clip', 'Earlier, later; with Shift finely'],
  ['Delete on a key of a clip', 'Remove it'],
  ['Ctrl Z, Ctrl Shift Z', 'Undo, redo'],
  ['Esc', 'Select nothing'],
  ['?', 'This sheet'],
]
</script>

<template>
  <Dialog v-model:visible="view.sheet" modal header="Keys and hands" :style="{ width: '420px' }">
    <dl>
      <template v-for="[key, what] in KEYS" :key="key">
        <dt>{{ key }}</dt>
        <dd>{{ what }}</dd>
      </template>
    </dl>
  </Dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: var(--s2) var(--s4);
  margin: 0;
}

dt {
  font-weight: 600;
}

dd {
  margin: 0;
  color: var(--ink-soft);
}
</style>

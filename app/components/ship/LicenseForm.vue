<script setup lang="ts">
import type { License } from '@idle-tinker/core'

/** Who made a figure and what others may do with it, as files of the VRM standard must say. */
const license = defineModel<License>({ required: true })

const CHOICES = [
  {
    key: 'usedBy',
    name: 'May be used by',
    options: [
      { id: 'authors', name: 'Makers alone' },
      { id: 'those-asked', name: 'Who asks' },
      { id: 'everyone', name: 'Everyone' },
    ],
  },
  {
    key: 'gain',
    name: 'To earn with it',
    options: [
      { id: 'none', name: 'Nobody' },
      { id: 'personal', name: 'People' },
      { id: 'companies', name: 'Anyone' },
    ],
  },
  {
    key: 'credit',
    name: 'Its makers',
    options: [
      { id: 'needed', name: 'Are named' },
      { id: 'not-needed', name: 'Need not be' },
    ],
  },
  {
    key: 'changed',
    name: 'May be changed',
    options: [
      { id: 'no', name: 'No' },
      { id: 'for-oneself', name: 'For oneself' },
      { id: 'and-passed-on', name: 'And shared' },
    ],
  },
] as const
const ALLOWED = [
  { key: 'passedOn', name: 'The file may be passed on' },
  { key: 'violence', name: 'It may be shown in extreme violence' },
  { key: 'sexual', name: 'in sexual matter' },
  { key: 'politics', name: 'for a party or a faith' },
  { key: 'hate', name: 'against people' },
] as const

function set(change: Partial<License>): void {
  license.value = { ...license.value, ...change }
}
const authorsOf = (text: string): string[] =>
  text
    .split(',')
    .map((name) => name.trim().slice(0, 80))
    .filter(Boolean)
    .slice(0, 20)
</script>

<template>
  <div class="license" data-test="license">
    <label class="wide"
      >Made by, with commas between
      <InputText
        :model-value="license.authors.join(', ')"
        size="small"
        fluid
        maxlength="400"
        data-test="license-authors"
        @change="set({ authors: authorsOf(($event.target as HTMLInputElement).value) })"
    /></label>
    <FieldSelect
      v-for="c in CHOICES"
      :key="c.key"
      :name="c.name"
      :options="c.options as readonly { id: string; name: string }[]"
      :model-value="license[c.key] ?? c.options[0].id"
      :data-test="`license-${c.key}`"
      @update:model-value="set({ [c.key]: $event })"
    />
    <span class="wide toggles" role="group" aria-label="What else is allowed">
      <label v-for="a in ALLOWED" :key="a.key" class="line"
        ><Checkbox
          :model-value="license[a.key] ?? false"
          binary
          size="small"
          :input-id="`license-${a.key}`"
          @update:model-value="set({ [a.key]: $event })"
        />
        {{ a.name }}</label
      >
    </span>
  </div>
</template>

<style scoped>
.license {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(136px, 1fr));
  gap: var(--s2) var(--s3);
  padding-block: var(--s2);
}

label {
  min-width: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 2px;
  font-size: 12px;
  color: var(--ink-soft);
}

.wide {
  grid-column: 1 / -1;
}

.line {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.toggles {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2) var(--s4);
}
</style>

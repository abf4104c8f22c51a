<script setup lang="ts">
import { FolderOpen } from 'lucide-vue-next'

/** A button that asks for a file of the person's own, or for several. */
defineProps<{ label: string; accept: string; hint: string; test: string; several?: boolean }>()
const emit = defineEmits<{ file: [file: File]; files: [files: File[]] }>()

function onChange(event: Event): void {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  // the same file can be chosen again
  input.value = ''
  if (!files.length) return
  emit('file', files[0]!)
  emit('files', files)
}
</script>

<template>
  <label class="file-pick" :title="hint">
    <FolderOpen :size="15" /> {{ label }}
    <input type="file" :accept="accept" :multiple="several" :aria-label="hint" :data-test="test" @change="onChange" />
  </label>
</template>

<style scoped>
.file-pick {
  position: relative;
  display: inline-flex;
  align-items: center;
  gap: var(--s2);
  padding: 5px 10px;
  border: 1px solid var(--act);
  border-radius: 4px;
  color: var(--act);
  font: 500 13px var(--text);
  cursor: pointer;
}

.file-pick:hover {
  background: var(--act-soft);
}

.file-pick:focus-within {
  outline: 2px solid var(--care-mark);
}

input {
  position: absolute;
  inset: 0;
  width: 100%;
  opacity: 0;
  cursor: pointer;
}
</style>

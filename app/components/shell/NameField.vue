<script setup lang="ts">
import { Pencil } from 'lucide-vue-next'

/** What bears a name, as it is shown, and a pen beside it that opens the name to be written. */
const props = defineProps<{
  name: string | null
  /** What it is called in a sentence. */
  noun: string
  test: string
}>()
const emit = defineEmits<{ rename: [name: string] }>()

const field = ref<{ $el: HTMLInputElement }>()
const editing = ref(false)
const draft = ref('')

async function start(): Promise<void> {
  draft.value = props.name ?? ''
  editing.value = true
  await nextTick()
  field.value?.$el.focus()
  field.value?.$el.select()
}

function finish(): void {
  if (editing.value && draft.value.trim() && draft.value !== props.name) emit('rename', draft.value.trim())
  editing.value = false
}
</script>

<template>
  <InputText
    v-if="editing"
    ref="field"
    v-model="draft"
    size="small"
    maxlength="80"
    :aria-label="`Name of the ${noun}`"
    :data-test="`${test}-field`"
    @keydown.enter="finish"
    @keydown.esc.stop="editing = false"
    @blur="finish"
  />
  <template v-else>
    <slot />
    <button
      class="quiet"
      :disabled="name === null"
      :aria-label="`Rename the ${noun}`"
      title="Rename"
      :data-test="test"
      @click="start"
    >
      <Pencil :size="14" />
    </button>
  </template>
</template>

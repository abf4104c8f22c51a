<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { useKitDraft } from '../../stores/kitDraft'

/** A kit's whole description as text; what is wrong with it is told while it is written. */
const props = defineProps<{ kit: string }>()
const draft = useKitDraft()
const text = ref('')
let mine = ''
const write = useDebounceFn((id: string, value: string) => {
  // the changes have been dropped meanwhile, or another kit is looked at
  if (id !== props.kit || value !== text.value) return
  mine = value
  draft.write(id, value)
}, 300)
// what was changed elsewhere is shown, what is being written stays under the hand
watch(
  () => [props.kit, draft.jsonOf(props.kit)] as const,
  ([, now]) => {
    if (now !== mine) text.value = now
  },
  { immediate: true },
)
function typed(value: string | undefined): void {
  text.value = value ?? ''
  void write(props.kit, text.value)
}
</script>

<template>
  <Textarea
    :model-value="text"
    class="text"
    spellcheck="false"
    autocapitalize="off"
    autocomplete="off"
    aria-label="kit.json"
    data-test="kit-text"
    @update:model-value="typed"
  />
</template>

<style scoped>
.text {
  width: 100%;
  height: 100%;
  resize: none;
  font: 12.5px/1.5 var(--mono);
  tab-size: 2;
  white-space: pre;
}
</style>

<script setup lang="ts">
import type { KitPart, KitRef } from '@idle-tinker/core'

/** Parts that are made for other bodies, folded away until somebody wants to try one on. */
const props = defineProps<{ name: string; parts: readonly (KitPart & { home: KitRef })[] }>()
const emit = defineEmits<{ choose: [part: KitRef] }>()
/** Their pictures are taken when they are looked at. */
const unfolded = ref(false)
const homeOf = (part: KitPart) => props.parts.find((p) => p.kit === part.kit && p.def.id === part.def.id)!.home
</script>

<template>
  <details
    v-if="parts.length"
    class="others"
    data-test="other-bodies"
    @toggle="unfolded = ($event.target as HTMLDetailsElement).open"
  >
    <summary>
      {{ name }} <span class="number soft">{{ parts.length }}</span>
    </summary>
    <PartChoices
      v-if="unfolded"
      :parts="parts"
      :on="homeOf"
      @choose="({ kit, def }) => emit('choose', { kit, id: def.id })"
    />
  </details>
</template>

<style scoped>
.others {
  margin-top: var(--s4);
}

summary {
  cursor: pointer;
  font-weight: 600;
  font-size: 13px;
}
</style>

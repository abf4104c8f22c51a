<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'

/**
 * A station with a wide middle and a sheet on either side. Where there is no room for both, they
 * share one side and are turned over with a switch.
 */
const props = defineProps<{
  /** What each sheet is called on the switch. */
  left: string
  right: string
  /** Widths of the sheets where there is room for both, CSS. */
  leftWidth?: string
  rightWidth?: string
}>()
/** Must agree with the narrowest at which a middle beside two sheets is of use. */
const narrow = useMediaQuery('(max-width: 959px)')
const turned = defineModel<'left' | 'right'>('turned', { default: 'left' })
const columns = computed(() =>
  narrow.value
    ? 'minmax(0, 1fr) min(310px, 52vw)'
    : `${props.leftWidth ?? '310px'} minmax(0, 1fr) ${props.rightWidth ?? '312px'}`,
)
</script>

<template>
  <div class="station" :class="{ narrow }" :style="{ gridTemplateColumns: columns }">
    <div v-if="narrow" class="switch">
      <SelectButton
        v-model="turned"
        :options="[
          { id: 'left', name: left },
          { id: 'right', name: right },
        ]"
        option-label="name"
        option-value="id"
        :allow-empty="false"
        size="small"
        fluid
        aria-label="Sheet"
        data-test="turn-sheet"
      />
    </div>
    <div v-show="!narrow || turned === 'left'" class="side"><slot name="left" /></div>
    <div class="middle"><slot /></div>
    <div v-show="!narrow || turned === 'right'" class="side"><slot name="right" /></div>
  </div>
</template>

<style scoped>
.station {
  display: grid;
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
}

.side,
.middle {
  min-width: 0;
  min-height: 0;
}

.side > :deep(*) {
  height: 100%;
}

.narrow {
  grid-template-rows: auto minmax(0, 1fr);
}

.narrow .middle {
  grid-column: 1;
  grid-row: 1 / -1;
}

.narrow .side {
  grid-column: 2;
  grid-row: 2;
}

.switch {
  grid-column: 2;
  grid-row: 1;
  padding: 4px;
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  border-bottom: 1px solid var(--rule);
}
</style>

<script setup lang="ts">
import type { Keys } from '../../composables/useKeys'
import type { Stage } from '../../stage/Stage'

/** Over the stage: where the pointer is drawn to, there the figure looks. */
const { stage, keys } = defineProps<{ stage: Stage; keys: Keys }>()
const held = ref<number | null>(null)

function look(event: PointerEvent): void {
  const to = stage.lookAngles(event.clientX, event.clientY)
  if (to) keys.lookAt(to.toLeft, to.up)
}
function take(event: PointerEvent): void {
  if (held.value !== null || event.button !== 0) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  held.value = event.pointerId
  keys.grabFace()
  look(event)
}
function drop(event: PointerEvent): void {
  if (held.value !== event.pointerId) return
  held.value = null
  keys.releaseFace()
}
onBeforeUnmount(() => held.value !== null && keys.releaseFace())
</script>

<template>
  <div
    class="look"
    data-test="look-here"
    @pointerdown.stop="take"
    @pointermove="held === $event.pointerId && look($event)"
    @pointerup="drop"
    @pointercancel="drop"
  />
</template>

<style scoped>
.look {
  position: absolute;
  inset: 0;
  cursor: crosshair;
  touch-action: none;
}
</style>

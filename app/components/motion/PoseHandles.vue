<script setup lang="ts">
import type { PoseHandle } from '@idle-tinker/core'
import { Eye, Pin } from 'lucide-vue-next'
import { useEventListener } from '@vueuse/core'
import type { Grasped } from '../../composables/useGrasp'
import type { Stage } from '../../stage/Stage'

/** What of a posed figure can be taken hold of: it goes where the hand goes, in the plane that faces the eye. */
const props = defineProps<{ posing: Grasped; stage: Stage; frame: number }>()
/** Whether a handle is in hand. */
const emit = defineEmits<{ hold: [inHand: boolean] }>()

type Place = [number, number, number]
const shown = computed(() => {
  void props.frame
  return props.posing.handles.value.map(({ handle, at }) => {
    const { x, y } = props.stage.projectPlace(at, [0, 1, 0])
    const bone = props.posing.rig.value!.bones[handle.bone]!.name
    const limb = props.posing.rig.value!.limbs[handle.limb]
    const pinned = handle.kind === 'end' && limb !== undefined && props.posing.wishes.pinned.has(limb.id)
    return { handle, at, x, y, bone, pinned, right: limb?.side === 'right' }
  })
})

interface Grip {
  handle: PoseHandle
  pointer: number
  /** Where it was, and from there to where the pointer took hold of it. */
  from: Place
  off: Place
  moved: boolean
}
const held = shallowRef<Grip | null>(null)
watch(
  () => held.value !== null,
  (inHand) => emit('hold', inHand),
)
onBeforeUnmount(() => {
  emit('hold', false)
  if (held.value?.moved) void props.posing.release()
})

const minus = (a: Place, b: Place): Place => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]

function grab(event: PointerEvent, handle: PoseHandle, bone: string): void {
  // one thing at a time: a second finger waits
  const from = props.posing.placeOf(handle)
  const at = from && props.stage.placeFacing(from, event.clientX, event.clientY)
  if (held.value || event.button !== 0 || !at) return
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
  props.posing.grab()
  props.posing.lookAt(bone)
  held.value = { handle, pointer: event.pointerId, from, off: minus(at, from), moved: false }
}

useEventListener('pointermove', (event: PointerEvent) => {
  const grip = held.value
  if (grip?.pointer !== event.pointerId) return
  const at = props.stage.placeFacing(grip.from, event.clientX, event.clientY)
  if (!at) return
  const to = minus(at, grip.off)
  // a press that trembles is none
  if (!grip.moved && props.stage.pixelsOf(Math.hypot(...minus(to, grip.from)), grip.from) < 3) return
  held.value = { ...grip, moved: true }
  props.posing.drag({ handle: grip.handle.id, to })
})
useEventListener(['pointerup', 'pointercancel'], (event: PointerEvent) => {
  const grip = held.value
  if (grip?.pointer !== event.pointerId) return
  held.value = null
  if (grip.moved) void props.posing.release()
})

/** What one press of a key moves, metres; with Shift a fifth of it. */
const STEP = 0.02
function onKey(event: KeyboardEvent, { handle, at }: { handle: PoseHandle; at: Place }): void {
  const way = {
    ArrowRight: [1, 0],
    ArrowLeft: [-1, 0],
    ArrowUp: [0, 1],
    ArrowDown: [0, -1],
    PageUp: null,
    PageDown: null,
  }
  if (!(event.key in way)) return
  event.preventDefault()
  const by = STEP * (event.shiftKey ? 0.2 : 1)
  const { right, up, towards } = props.stage.sides()
  const [x, y] = way[event.key as keyof typeof way] ?? [0, 0]
  const z = event.key === 'PageUp' ? 1 : event.key === 'PageDown' ? -1 : 0
  const to = at.map((v, k) => v + by * (x! * right[k]! + y! * up[k]! + z * towards[k]!)) as Place
  props.posing.act({ handle: handle.id, to }, `key ${handle.id}`)
}
</script>

<template>
  <div class="handles">
    <button
      v-for="h in shown"
      :key="h.handle.id"
      class="handle"
      :class="[
        h.handle.kind,
        { hollow: h.right, on: h.bone === posing.joint.value, held: h.handle.id === held?.handle.id },
      ]"
      :style="{ transform: `translate(${h.x}px, ${h.y}px) translate(-50%, -50%)` }"
      :aria-label="`${h.handle.name}${h.pinned ? ', stays' : ''}: drag it, or move it by arrow keys`"
      :aria-pressed="h.bone === posing.joint.value"
      :data-test="`handle-${h.handle.id}`"
      @pointerdown.stop="grab($event, h.handle, h.bone)"
      @focus="posing.lookAt(h.bone)"
      @keydown="onKey($event, h)"
      @keyup="posing.settle()"
    >
      <Eye v-if="h.handle.kind === 'look'" :size="14" aria-hidden="true" />
      <i v-else />
      <Pin v-if="h.pinned" :size="13" class="pin" aria-hidden="true" />
      <span class="what">{{ h.handle.name }}</span>
    </button>
  </div>
</template>

<style scoped>
.handles {
  position: absolute;
  inset: 0;
  pointer-events: none;
  overflow: hidden;
}

.handle {
  position: absolute;
  left: 0;
  top: 0;
  appearance: none;
  border: 0;
  background: none;
  padding: 6px;
  pointer-events: auto;
  cursor: grab;
  touch-action: none;
  color: var(--act);
  line-height: 0;
}

.handle i {
  display: block;
  width: 13px;
  height: 13px;
  border: 3px solid var(--act);
  border-radius: 50%;
  background: var(--act);
  box-shadow: 0 0 0 1.5px var(--sheet);
}

/* left solid, right hollow, as bones are */
.handle.hollow i,
.handle.root i {
  background: var(--sheet);
}

.handle.middle i {
  width: 8px;
  height: 8px;
  border-width: 2px;
  rotate: 45deg;
  border-radius: 1px;
}

.handle.root i {
  width: 18px;
  height: 18px;
}

.handle.look > svg {
  background: var(--sheet);
  border-radius: 50%;
  box-shadow: 0 0 0 3px var(--sheet);
}

.handle.on i,
.handle:hover i,
.handle:focus-visible i {
  border-color: var(--care-mark);
}

.handle.held {
  cursor: grabbing;
}

.pin {
  position: absolute;
  right: -5px;
  top: -4px;
  padding: 1px;
  color: var(--ink);
  background: var(--sheet);
  border-radius: 50%;
}

.what {
  display: none;
  position: absolute;
  left: 50%;
  top: 100%;
  translate: -50% 0;
  white-space: nowrap;
  font: 12px/1.4 var(--text);
  color: var(--ink);
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 4px;
  padding: 1px 7px;
  pointer-events: none;
}

.handle:hover .what,
.handle:focus-visible .what {
  display: block;
}
</style>

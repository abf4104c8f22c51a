<script setup lang="ts">
import '@idle-tinker/example/room.css'
import { DressingRoom } from '@idle-tinker/example'
import type { Look } from '@idle-tinker/runtime'

/** The player's screen: the example game's dressing room over a package, and nothing else of ours. */
const props = defineProps<{
  /** Where the package's files are. */
  address: string
  /** A look to begin with, as a text. */
  look?: string
  /** Whether all that has to be earned is. */
  earned?: boolean
}>()
const emit = defineEmits<{ look: [text: string, look: Look] }>()
const place = ref<HTMLElement>()
const message = ref('')
let room: DressingRoom | null = null
let asked = 0

/** Where looks are hung; a window that keeps nothing has no hooks. */
function hooks(): Storage | null {
  try {
    return localStorage
  } catch {
    return null
  }
}

async function open(): Promise<void> {
  const own = ++asked
  room?.dispose()
  room = null
  message.value = ''
  // what is worn outlives the package it was worn in
  const opened = await DressingRoom.open(place.value!, new URL(props.address, location.href).href, {
    ...(hooks() && { keep: hooks()! }),
    earned: () => Boolean(props.earned),
    ...(props.look !== undefined && { look: props.look }),
    onLook: (text, look) => emit('look', text, look),
  })
  if (own !== asked) return opened.room?.dispose()
  room = opened.room
  if (!room) message.value = opened.told.map((t) => t.message).join(' ')
}
onMounted(open)
watch(() => props.address, open)
watch(
  () => props.earned,
  (earned) => room?.setEarned(() => Boolean(earned)),
)
onBeforeUnmount(() => {
  asked++
  room?.dispose()
})
</script>

<template>
  <div class="player">
    <div ref="place" class="place" data-test="player" />
    <p v-if="message" class="wrong" role="alert" data-test="player-message">
      The package cannot be opened: {{ message }}
    </p>
  </div>
</template>

<style scoped>
.player,
.place {
  height: 100%;
  min-height: 0;
}

.wrong {
  position: absolute;
  inset: 0;
  display: grid;
  place-content: center;
  margin: 0;
  color: var(--over);
}
</style>

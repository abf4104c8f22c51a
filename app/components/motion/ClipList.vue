<script setup lang="ts">
import type { KeptClip, ListedClip, Motion } from '@idle-tinker/core'
import { X } from 'lucide-vue-next'
import type { Entry } from '../../documents/Keeper'

/** The clips a figure can play: its kit's, one's own, those brought in from elsewhere, and none. */
const props = defineProps<{
  clips: readonly ListedClip[]
  motions: readonly Entry<Motion>[]
  made: readonly Entry<KeptClip>[]
}>()
const emit = defineEmits<{
  remove: [motion: Entry<Motion>]
  /** Of one's own. */ drop: [clip: Entry<KeptClip>]
  /** One was pressed, be it the one that is chosen. */ picked: []
}>()
/** The id of a clip or of a motion; null for the pose of rest. */
const chosen = defineModel<string | null>({ required: true })

const list = ref<HTMLElement>()
// what was just made is seen
watch(
  chosen,
  async () => {
    await nextTick()
    list.value?.querySelector('.clip.on')?.scrollIntoView({ block: 'nearest' })
  },
  { flush: 'post' },
)

function pick(id: string | null): void {
  chosen.value = id
  emit('picked')
}

interface Row {
  id: string | null
  name: string
  note: string
  test: string
  remove?: () => void
}
const noteOf = ({ duration, travel }: ListedClip) =>
  `${duration.toFixed(1)} s${travel > 0 ? `, ${(travel / duration).toFixed(2)} m/s` : ''}`
const own = computed((): Row[] => [
  ...props.clips.map((c) => ({ id: c.id, name: c.name, note: noteOf(c), test: `clip-${c.id}` })),
  { id: null, name: 'Rest pose', note: '', test: 'clip-rest' },
])
const made = computed((): Row[] =>
  props.made.map((clip) => {
    const { id, name, content } = clip
    return {
      id,
      name,
      note: `${content.duration.toFixed(1)} s`,
      test: `own-clip-${name}`,
      remove: () => emit('drop', clip),
    }
  }),
)
const brought = computed((): Row[] =>
  props.motions.map((motion) => {
    const { id, name, content } = motion
    return {
      id,
      name,
      note: `${((content.frames - 1) * content.step).toFixed(1)} s`,
      test: `motion-${name}`,
      remove: () => emit('remove', motion),
    }
  }),
)
</script>

<template>
  <div ref="list" class="list" role="radiogroup" aria-label="Clip" @keydown="radioKeys">
    <template v-for="(rows, g) in [own, made, brought]" :key="g">
      <h3 v-if="g && rows.length">{{ g === 1 ? 'Yours' : 'Brought in' }}</h3>
      <div v-for="r in rows" :key="r.id ?? ''" class="row">
        <button
          role="radio"
          :aria-checked="r.id === chosen"
          :tabindex="r.id === chosen ? 0 : -1"
          class="clip"
          :class="{ on: r.id === chosen }"
          :data-test="r.test"
          @click="pick(r.id)"
        >
          <b :title="r.name">{{ r.name }}</b>
          <span class="number soft">{{ r.note }}</span>
        </button>
        <button
          v-if="r.remove"
          class="bare"
          :aria-label="`Remove ${r.name}`"
          title="Remove it"
          :data-test="`remove-${r.test}`"
          @click="r.remove()"
        >
          <X :size="14" />
        </button>
      </div>
    </template>
  </div>
</template>

<style scoped>
.list {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 2px;
  margin: var(--s3) 0;
  /* what plays them stays in sight below */
  max-height: var(--list-height, 52vh);
  overflow: hidden auto;
}

h3 {
  margin: var(--s2) 0 0 10px;
}

.row {
  display: flex;
}

.clip {
  appearance: none;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 14px var(--text);
  text-align: left;
  padding: 7px 10px;
  display: flex;
  flex: 1;
  gap: var(--s2);
  justify-content: space-between;
  align-items: baseline;
  cursor: pointer;
  min-width: 0;
}

.clip b {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.clip span {
  white-space: nowrap;
}

.clip:hover {
  background: var(--act-soft);
}

.clip.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.bare {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink-soft);
  padding: 0 6px;
  cursor: pointer;
}

.bare:hover {
  color: var(--over);
}
</style>

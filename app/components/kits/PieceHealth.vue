<script setup lang="ts">
import { Download } from 'lucide-vue-next'
import { isMendable, type Mendable } from '@idle-tinker/core'
import { download } from '../../composables/download'
import { idOf } from '../../stores/project'
import { theBooth } from '../../stage/Booth'
import { workshop } from '../../workers'
import type { PackedPiece } from '../../workers/protocol'

/** What is wrong with one piece that was brought in: as it was found, and as it is mended. */
const props = defineProps<{ piece: PackedPiece; mend: ReadonlySet<Mendable> }>()
const emit = defineEmits<{ mend: [code: Mendable, on: boolean] }>()

const PICTURE = 150
const pictures = ref<{ found: string; mended: string } | null>(null)
const fault = ref('')
/** As it came, with nothing mended, turned or scaled. */
async function save(): Promise<void> {
  try {
    const bytes = await workshop('pack').pieceFile(props.piece.id)
    if (bytes)
      download(
        new Blob([bytes as BlobPart], { type: 'model/gltf-binary' }),
        `${idOf(props.piece.names[0] ?? 'piece')}.glb`,
      )
    fault.value = bytes ? '' : 'Its pack does not lie open any more.'
  } catch (error) {
    fault.value = error instanceof Error ? error.message : String(error)
  }
}
let asked = 0
watch(
  () => [props.piece.id, [...props.mend]] as const,
  async ([id, codes]) => {
    const ask = ++asked
    try {
      const seen = await workshop('pack').pieceHealth(id, codes)
      if (ask !== asked || !seen) return
      const take = (view: typeof seen.found) =>
        theBooth().take(view, PICTURE, PICTURE, { turn: 0.5 })?.toDataURL() ?? ''
      pictures.value = { found: take(seen.found), mended: take(seen.mended) }
      fault.value = ''
    } catch (error) {
      if (ask === asked) fault.value = error instanceof Error ? error.message : String(error)
    }
  },
  { immediate: true },
)
</script>

<template>
  <div class="health" data-test="piece-health">
    <figure v-for="(caption, key) in { found: 'As found, faults in red', mended: 'As it is taken' }" :key="key">
      <img v-if="pictures?.[key]" :src="pictures[key]" :width="PICTURE" :height="PICTURE" :alt="caption" />
      <span v-else class="blank" />
      <figcaption>{{ caption }}</figcaption>
    </figure>
    <div>
      <p v-if="fault" role="alert">{{ fault }}</p>
      <p v-if="piece.findings.length === 0" class="soft">Nothing is wrong with it.</p>
      <ul>
        <li v-for="f in piece.findings" :key="f.code" :class="f.severity">
          {{ f.message }}
          <label v-if="isMendable(f.code)" class="mend"
            ><Checkbox
              :model-value="mend.has(f.code)"
              binary
              size="small"
              :data-test="`mend-${f.code}`"
              @update:model-value="emit('mend', f.code as Mendable, $event)"
            />
            Mend it</label
          >
          <span v-else class="soft">{{ f.remedy }}</span>
        </li>
      </ul>
      <Button size="small" text label="Download it as found" data-test="download-piece" @click="save"
        ><template #icon><Download :size="14" /></template
      ></Button>
    </div>
  </div>
</template>

<style scoped>
.health {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s4);
  padding: var(--s2) 0 var(--s3);
}

figure {
  margin: 0;
}

img,
.blank {
  display: block;
  width: 150px;
  height: 150px;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--stage);
}

figcaption {
  font-size: 12px;
  color: var(--ink-soft);
}

ul {
  margin: 0;
  padding: 0;
  list-style: none;
}

li {
  padding: 3px 0 3px var(--s3);
  border-left: 3px solid var(--rule);
  margin-bottom: var(--s2);
}

li.warning,
li.error {
  border-left-color: var(--care-mark);
}

.mend {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  margin-left: var(--s2);
  cursor: pointer;
}
</style>

<script setup lang="ts">
import type { KeptPose } from '@idle-tinker/core'
import { useTimeoutFn } from '@vueuse/core'
import { usePosePictures } from '../../composables/usePosePictures'
import type { ListedPose, Posing } from '../../composables/usePosing'
import { fileStem } from '../../composables/fileStem'

/** The poses a figure can take, with pictures, and all that is done with the one it has. */
const { posing } = defineProps<{ posing: Posing }>()
const { pictures, width, height } = usePosePictures(posing)

const { listed, current, chosen, pose, limbs, lowest, said, others, removed, unkept } = posing
const GROUPS: { from: ListedPose['from']; name: string }[] = [
  { from: 'rest', name: 'At rest' },
  { from: 'kit', name: 'Ready' },
  { from: 'own', name: 'Yours' },
]
const groups = computed(() =>
  GROUPS.map((g) => ({ ...g, poses: listed.value.filter((p) => p.from === g.from) })).filter((g) => g.poses.length),
)

const blendWith = ref<string | null>(null)
const share = ref(0)
const blendable = computed(() => listed.value.filter((p) => p.id !== current.value?.id))
function blend(value: number): void {
  const other = listed.value.find((p) => p.id === blendWith.value)
  share.value = value
  if (!other) return
  posing.blend(other, value / 100)
  endSoon()
}
/** A hand that lets go has made up its mind; keys have when they have been still for a while. */
const { start: endSoon, stop: notYet, isPending } = useTimeoutFn(() => endBlend(), 900, { immediate: false })
onBeforeUnmount(() => isPending.value && endBlend())
function endBlend(): void {
  notYet()
  share.value = 0
  void posing.release()
}
const centimetres = computed(() => Math.round(lowest.value * 1000) / 10 || 0)
function save(kept: KeptPose): void {
  download(
    new Blob([JSON.stringify(kept, null, 2)], { type: 'application/json' }),
    `${fileStem(kept.name, 'pose')}.pose.json`,
  )
}
</script>

<template>
  <section aria-label="Poses" class="panel">
    <div class="gallery" role="radiogroup" aria-label="Pose" data-test="poses" @keydown="radioKeys">
      <template v-for="g in groups" :key="g.from">
        <h3>{{ g.name }}</h3>
        <div class="tiles">
          <button
            v-for="p in g.poses"
            :key="p.id"
            role="radio"
            :aria-checked="p.id === current?.id"
            :tabindex="p.id === current?.id ? 0 : -1"
            class="tile"
            :class="{ on: p.id === current?.id }"
            :data-test="`pose-${p.id}`"
            @click="chosen = p.id"
          >
            <img v-if="pictures[p.id]" :src="pictures[p.id]" :width="width" :height="height" alt="" />
            <span v-else class="coming" :style="{ width: `${width}px`, height: `${height}px` }" />
            <small>{{ p.name }}</small>
          </button>
        </div>
      </template>
    </div>
    <p v-if="others" class="soft">{{ others }} more for figures of another kind.</p>
    <p v-if="removed" class="soft">
      “{{ removed.name }}” was removed.
      <Button size="small" text label="Bring it back" data-test="bring-back-pose" @click="posing.bringBack()" />
    </p>
    <p v-for="(line, i) in said" :key="i" role="alert" class="said" data-test="pose-said">{{ line }}</p>
    <p v-if="unkept" class="soft">
      The pose you see is not kept yet.
      <Button size="small" text label="Keep it now" data-test="keep-pose" @click="posing.retry()" />
    </p>
    <div v-if="current?.entry" class="row">
      <NameField :name="current.name" noun="pose" test="pose-name" @rename="posing.rename($event)"
        ><b data-test="own-pose">{{ current.name }}</b></NameField
      >
      <Button size="small" text label="Copy" data-test="copy-pose" @click="posing.copy()" />
      <Button size="small" text label="Save as a file" data-test="save-pose" @click="save(current.entry.content)" />
      <Button size="small" text label="Remove" data-test="remove-pose" @click="posing.remove()" />
    </div>
    <p v-else class="soft">Drag what you want to change: it is kept as a pose of yours.</p>

    <JointPanel :posing="posing" :pose="pose" :limbs="limbs" />

    <h3>The whole pose</h3>
    <div class="chips">
      <Button size="small" outlined label="Mirror" data-test="mirror-pose" @click="posing.mirror()" />
      <Button size="small" outlined label="Both like the left" data-test="even-left" @click="posing.even('left')" />
      <Button size="small" outlined label="Both like the right" data-test="even-right" @click="posing.even('right')" />
      <Button size="small" outlined label="Set down" data-test="set-down" @click="posing.putDown()" />
      <Button size="small" outlined label="As at rest" data-test="pose-rest" @click="posing.toRest()" />
    </div>
    <p class="soft" data-test="lowest">
      Its lowest point is
      {{
        centimetres === 0
          ? 'on the ground'
          : `${Math.abs(centimetres)} cm ${centimetres > 0 ? 'above' : 'in'} the ground`
      }}.
    </p>
    <Select
      v-model="blendWith"
      :options="blendable"
      option-label="name"
      option-value="id"
      placeholder="Some of another pose"
      show-clear
      size="small"
      fluid
      aria-label="Blend with"
      data-test="blend-with"
    />
    <DialRow
      v-if="blendWith"
      name="How much"
      label="How much of the other pose"
      :value="share"
      :words="`${share} %`"
      :min="0"
      :max="100"
      :step="1"
      test="blend-share"
      @change="blend"
      @settle="endBlend"
    />
    <div class="row">
      <FilePick
        label="Bring in poses …"
        accept=".json"
        hint="Pose files that were saved here"
        test="add-pose"
        several
        @files="posing.bring"
      />
    </div>
  </section>
</template>

<style scoped>
.gallery {
  max-height: 52vh;
  overflow: hidden auto;
  margin: var(--s2) 0;
}

.tiles {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(64px, 1fr));
  gap: 4px;
}

h3 {
  margin: var(--s3) 0 var(--s1);
}

.tile {
  appearance: none;
  border: 0;
  border-bottom: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 12px var(--text);
  padding: 2px;
  cursor: pointer;
  display: grid;
  justify-items: center;
  align-content: start;
  min-width: 0;
}

.tile img,
.coming {
  max-width: 100%;
  height: auto;
}

.tile small {
  text-align: center;
  overflow-wrap: anywhere;
}

.tile:hover {
  background: var(--act-soft);
}

.tile.on {
  border-bottom-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s1) var(--s2);
  margin-top: var(--s2);
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s1);
}

.said {
  font-size: 13px;
  color: var(--over);
}
</style>

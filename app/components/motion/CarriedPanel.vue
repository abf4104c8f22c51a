<script setup lang="ts">
import { reachOf, type Clip, type ClipNumbers, type Motion } from '@idle-tinker/core'
import type { DrawBone } from '../../workers/protocol'

/** What is measured of a motion that was carried onto the figure, and how it is carried. */
const props = defineProps<{
  motion: Motion
  clip: Clip
  numbers: ClipNumbers
  doubtful: readonly { bone: string; why: string }[]
  bones: readonly DrawBone[]
  busy: boolean
}>()
const emit = defineEmits<{
  look: [at: number]
  amend: [change: Partial<Motion>]
  match: []
  download: []
}>()

const LOOPS: { value: Motion['loop']; label: string }[] = [
  { value: 'ends', label: 'If it ends as it begins' },
  { value: 'round', label: 'Round and round' },
  { value: 'once', label: 'Once' },
]
const matched = computed(() => props.bones.filter(({ name }) => props.motion.match?.bones[name] !== undefined).length)
/** Metres it takes the figure along; of what goes round the stage is a belt. */
const goes = computed(() => (props.clip.loop ? 0 : reachOf(props.clip)))
</script>

<template>
  <section class="carried" data-test="carried">
    <h3>On this figure</h3>
    <ClipNumbersList :numbers="numbers" @look="emit('look', $event)" />
    <label class="goes"
      ><span>It goes</span>
      <Select
        :model-value="motion.loop"
        :options="LOOPS"
        option-value="value"
        option-label="label"
        size="small"
        :pt="{ root: { 'data-test': 'loop' } }"
        :disabled="busy"
        aria-label="Whether it goes round"
        @update:model-value="emit('amend', { loop: $event as Motion['loop'] })"
      />
    </label>
    <p class="soft">{{ clip.loop ? 'It goes round.' : 'It is played once.' }} {{ matched }} bones follow it.</p>
    <label v-if="goes > 0.3" class="travels">
      <ToggleSwitch
        :model-value="motion.travels"
        :disabled="busy"
        :pt="{ input: { 'data-test': 'travels' } }"
        @update:model-value="emit('amend', { travels: $event })"
      />
      <span>Goes along in the file, {{ goes.toFixed(1) }} m</span>
    </label>
    <ul v-if="doubtful.length" class="doubts">
      <li v-for="d in doubtful.slice(0, 4)" :key="d.bone + d.why">{{ boneWords(d.bone) }}: {{ d.why }}</li>
    </ul>
    <div class="acts">
      <Button size="small" outlined label="Which bone is which …" data-test="open-match" @click="emit('match')" />
      <Button
        size="small"
        outlined
        label="Download with the figure"
        data-test="download-motion"
        :disabled="busy"
        @click="emit('download')"
      />
    </div>
  </section>
</template>

<style scoped>
.carried {
  border-top: 1px solid var(--rule);
  padding-top: var(--s3);
}

.goes {
  display: grid;
  gap: 4px;
  font-size: 13px;
}

.travels {
  display: flex;
  align-items: center;
  gap: var(--s2);
  font-size: 13px;
  margin-bottom: var(--s3);
}

.doubts {
  margin: 0 0 var(--s3);
  padding-left: var(--s4);
  font-size: 13px;
  color: var(--care);
}

.acts {
  display: grid;
  gap: var(--s2);
  justify-items: start;
}
</style>

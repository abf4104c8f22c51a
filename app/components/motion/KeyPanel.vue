<script setup lang="ts">
import type { KeptClip } from '@idle-tinker/core'
import { watchDebounced } from '@vueuse/core'
import { fileStem } from '../../composables/fileStem'
import type { Keys } from '../../composables/useKeys'
import { useKit } from '../../composables/useKit'
import { useMoods } from '../../composables/useMoods'
import type { Posing } from '../../composables/usePosing'
import { placeOf, sharesAt, type DialPlace } from '../../stage/moodDial'
import { useFigure } from '../../stores/figure'

/** What a clip of one's own is, and what can be done where it stands: the face, a pose of the gallery, a joint. */
const { keys, posing } = defineProps<{ keys: Keys; posing: Posing }>()
/** Whether the hand on the stage says where they look. */
const pointing = defineModel<boolean>('pointing', { required: true })
const emit = defineEmits<{ look: [at: number]; copy: [] }>()
const { kept, played, shares, moods, looks, limbs, pose, told, recording } = keys
const figure = useFigure()
const { body } = useKit()
const { moodPicture, show } = useMoods()
onBeforeUnmount(() => (pointing.value = false))

watchDebounced(
  () => figure.recipe,
  (recipe) => recipe && body.value && show(recipe, body.value, moods.value),
  { debounce: 900, immediate: true },
)

const ofMoods = computed(() =>
  moods.value.flatMap(({ id, name }) => (shares.value[id] ? [{ id, name, v: shares.value[id] }] : [])),
)
const place = computed(() => placeOf(moods.value.map(({ id }) => shares.value[id] ?? 0)))
const words = computed(() => ofMoods.value.map(({ name, v }) => `${name} ${v.toFixed(2)}`).join(' · ') || 'Own face')
function turn(to: DialPlace): void {
  const next = sharesAt(to, moods.value.length).map(({ index, share }) => [
    moods.value[index]!.id,
    Math.round(share * 1000) / 1000,
  ])
  keys.setFace(moods.value, Object.fromEntries(next) as Record<string, number>, 'mood')
}
function choose(id: string): void {
  keys.setFace(moods.value, { [id]: 1 }, `mood ${id}`)
  keys.releaseFace()
}
function ownFace(): void {
  keys.setFace([...moods.value, ...others.value, ...looks.value], {}, 'own face')
  keys.releaseFace()
}
const others = computed(
  () => body.value?.expressions?.filter((e) => !e.mood && !looks.value.some((l) => l.id === e.id)) ?? [],
)
function toggle(id: string): void {
  keys.setFace([{ id }], shares.value[id] ? {} : { [id]: 1 }, `face ${id}`)
  keys.releaseFace()
}

const ready = computed(() => posing.listed.value.map(({ id, name }) => ({ id, name })))
function put(id: string | null): void {
  const one = posing.listed.value.find((p) => p.id === id)
  if (one) keys.put(one.pose)
}
function save(clip: KeptClip): void {
  download(new Blob([JSON.stringify(clip)], { type: 'application/json' }), `${fileStem(clip.name, 'clip')}.clip.json`)
}
</script>

<template>
  <section v-if="kept" aria-label="Clip of yours" data-test="key-panel">
    <div class="row">
      <NameField :name="kept.name" noun="clip" test="rename-clip" @rename="keys.rename($event)"
        ><b data-test="own-clip">{{ kept.name }}</b></NameField
      >
    </div>
    <p class="soft">
      {{
        recording
          ? 'Move a handle or the face: it is taken up as the clip goes on.'
          : 'What you move becomes a key where the clip stands.'
      }}
    </p>
    <p v-for="(line, i) in told" :key="i" role="alert" class="said" data-test="keys-told">{{ line }}</p>

    <template v-if="moods.length">
      <h3>Face</h3>
      <MoodDial
        :moods="moods"
        :picture="moodPicture"
        :place="place"
        :words="words"
        :on="ofMoods.length === 1 && ofMoods[0]!.v > 0.99 ? ofMoods[0]!.id : null"
        @grab="keys.grabFace()"
        @turn="turn"
        @choose="choose"
        @settle="keys.releaseFace()"
      />
      <div class="row">
        <span data-test="key-face">{{ words }}</span>
        <Button size="small" text label="Own face" data-test="own-face" @click="ownFace" />
      </div>
      <div class="chips">
        <ToggleButton
          v-if="looks.length"
          v-model="pointing"
          size="small"
          on-label="Pull on the stage to where they look"
          off-label="Show where they look"
          data-test="key-gaze"
        />
        <ToggleButton
          v-for="e in others"
          :key="e.id"
          :model-value="(shares[e.id] ?? 0) > 0"
          size="small"
          :on-label="e.name"
          :off-label="e.name"
          :data-test="`key-face-${e.id}`"
          @update:model-value="toggle(e.id)"
        />
      </div>
    </template>

    <h3>Pose</h3>
    <Select
      :model-value="null"
      :options="ready"
      option-label="name"
      option-value="id"
      placeholder="Put one here …"
      filter
      size="small"
      fluid
      aria-label="Put a pose here"
      data-test="put-pose"
      @update:model-value="put"
    />
    <JointPanel :posing="keys.hands" :pose="pose" :limbs="limbs" />

    <h3>The whole clip</h3>
    <div class="chips">
      <Button size="small" outlined label="Mirror" data-test="mirror-clip" @click="keys.mirror()" />
      <Button size="small" outlined label="Copy" data-test="copy-clip" @click="emit('copy')" />
      <Button size="small" outlined label="Save as a file" data-test="save-clip" @click="save(kept)" />
    </div>
    <template v-if="played?.numbers && kept.poses.length">
      <h3>On this figure</h3>
      <ClipNumbersList :numbers="played.numbers" @look="emit('look', $event)" />
    </template>
  </section>
</template>

<style scoped>
.row {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: var(--s1) var(--s2);
}

.chips {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s1);
}

h3 {
  margin: var(--s3) 0 var(--s1);
}

.said {
  font-size: 13px;
  color: var(--over);
}
</style>

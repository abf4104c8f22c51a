<script setup lang="ts">
import { anglesOfTurn, turnOfAngles, type Angles, type Pose, type Skeleton } from '@idle-tinker/core'
import { Pin } from 'lucide-vue-next'
import { Quaternion } from 'three'
import type { Grasped } from '../../composables/useGrasp'

/** One joint of a pose by its angles, and what hands wish for while they pose. */
const { posing, pose, limbs } = defineProps<{
  posing: Grasped
  pose: Pose | null
  limbs: Skeleton['limbs']
}>()
const { joint, rig, wishes } = posing

const bones = computed(() =>
  (rig.value?.bones ?? []).flatMap((b) => (b.twist ? [] : [{ value: b.name, label: boneWords(b.name) }])),
)
const bone = computed(() => rig.value?.bones.findIndex((b) => b.name === joint.value) ?? -1)
/** Turns nearer to each other are the same, radians. */
const SAME = 2e-3
const TURNS = [
  { k: 0, name: 'Nod' },
  { k: 1, name: 'Turn' },
  { k: 2, name: 'Tilt' },
] as const
/** What was asked of a joint last: one turn can be said by several angles, and what is in hand does not jump between them. */
const asked = shallowRef<{ bone: number; angles: Angles } | null>(null)
const angles = computed((): Angles => {
  if (bone.value < 0 || !pose) return [0, 0, 0]
  const turned = new Quaternion().fromArray(pose.turns, bone.value * 4)
  const { value: last } = asked
  if (last?.bone === bone.value && turnOfAngles(last.angles).angleTo(turned) < SAME) return last.angles
  return anglesOfTurn(turned)
})
/** What belongs to one stroke is one step of undo. */
function turn(k: number, degrees: number): void {
  const next = angles.value.map((v, i) => (i === k ? degrees : v)) as Angles
  asked.value = { bone: bone.value, angles: next }
  posing.act({ bone: bone.value, turn: turnOfAngles(next).toArray() }, `turn ${joint.value} ${k}`)
}
const straighten = () => posing.act({ bone: bone.value, turn: [0, 0, 0, 1] }, null)

const limbWords = (id: string) => boneWords(id)
function pin(id: string, on: boolean): void {
  if (on) wishes.pinned.add(id)
  else wishes.pinned.delete(id)
}
</script>

<template>
  <div>
    <h3>Joint</h3>
    <Select
      v-model="joint"
      :options="bones"
      option-label="label"
      option-value="value"
      placeholder="Choose one, here or on the figure"
      filter
      show-clear
      size="small"
      fluid
      aria-label="Joint"
      data-test="joint"
    />
    <template v-if="bone >= 0">
      <DialRow
        v-for="t in TURNS"
        :key="t.k"
        :name="t.name"
        :label="`${t.name}: ${boneWords(joint!)}`"
        :value="Math.round(angles[t.k]) || 0"
        :words="`${Math.round(angles[t.k]) || 0}°`"
        :min="-180"
        :max="180"
        :step="1"
        :test="`turn-${t.k}`"
        @change="turn(t.k, $event)"
        @settle="posing.settle()"
      />
      <Button size="small" text label="This joint as at rest" data-test="joint-rest" @click="straighten" />
    </template>

    <h3>Stay where they are</h3>
    <div class="chips">
      <ToggleButton
        v-for="l in limbs"
        :key="l.id"
        :model-value="wishes.pinned.has(l.id)"
        size="small"
        :on-label="limbWords(l.id)"
        :off-label="limbWords(l.id)"
        :data-test="`pin-${l.id}`"
        @update:model-value="pin(l.id, $event)"
        ><template #icon><Pin v-if="wishes.pinned.has(l.id)" :size="12" aria-hidden="true" /></template
      ></ToggleButton>
    </div>
    <label class="row"
      ><ToggleSwitch v-model="wishes.mirrored" input-id="pose-both" data-test="pose-both" /> Both sides alike</label
    >
    <label class="row"
      ><ToggleSwitch v-model="wishes.free" input-id="pose-free" data-test="pose-free" /> Beyond what joints can
      do</label
    >
  </div>
</template>

<style scoped>
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

h3 {
  margin: var(--s3) 0 var(--s1);
}
</style>

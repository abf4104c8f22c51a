<script setup lang="ts">
import { Quaternion, Vector3 } from 'three'
import {
  describeProblem,
  matchSureness,
  readMatch,
  skeletonHash,
  turnToOurs,
  UNSURE_BONE,
  type BodyPlan,
  type Motion,
  type MotionMatch,
} from '@idle-tinker/core'
import { idOf } from '../../stores/project'
import type { DrawBone } from '../../workers/protocol'
import type { MapJoint } from './SkeletonMap.vue'

/** Which joint of a motion's skeleton each bone of the figure follows, corrected by pointing at both. */
const props = withDefaults(
  defineProps<{
    motion: Pick<Motion, 'name' | 'joints' | 'match'>
    plan: BodyPlan
    bones: readonly DrawBone[]
    /** What it is of: a motion, or a game’s file. */
    of?: string
    /** What an answer holds for. */
    holds?: string
  }>(),
  { of: 'The motion', holds: 'It holds for every motion of this skeleton.' },
)
const emit = defineEmits<{ keep: [match: MotionMatch] }>()
const visible = defineModel<boolean>('visible', { required: true })

const edited = ref<MotionMatch>(start())
const bone = ref<string | null>(null)
watch(visible, (open) => {
  if (!open) return
  edited.value = start()
  said.value = ''
  bone.value = props.plan.bones[0]?.name ?? null
})

// pointed at on the figure, its row comes into sight
watch(bone, (name) => {
  const row = name && document.querySelector(`[data-bone="${CSS.escape(name)}"]`)
  if (row) row.scrollIntoView({ block: 'nearest' })
})

function start(): MotionMatch {
  const { match, joints } = props.motion
  if (match?.plan === props.plan.id) return { ...match, bones: { ...match.bones } }
  return {
    format: 'idle-tinker-match',
    version: 1,
    skeleton: skeletonHash({ joints }),
    plan: props.plan.id,
    up: '+y',
    front: '+z',
    bones: {},
  }
}

const AXES = (['+x', '-x', '+y', '-y', '+z', '-z'] as const).map((value) => ({
  value,
  label: `${value[0] === '-' ? '−' : '+'}${value[1]!.toUpperCase()}`,
}))
const fronts = computed(() => AXES.filter(({ value }) => value[1] !== edited.value.up[1]))
function setUp(up: MotionMatch['up']): void {
  const { front } = edited.value
  edited.value = { ...edited.value, up, front: front[1] === up[1] ? (up[1] === 'z' ? '-y' : '+z') : front }
}

/** Joints that can be followed: what only marks an end cannot. */
const joints = computed(() => props.motion.joints.filter((j) => !j.end).map((j) => j.name))
const follows = (name: string) => edited.value.bones[name] ?? null
function follow(name: string, joint: string | null): void {
  const { [name]: _, ...others } = edited.value.bones
  edited.value = { ...edited.value, bones: joint === null ? others : { ...others, [name]: joint } }
}

/** How sure each is, anew for every one that is changed. */
const sure = computed(() => matchSureness(props.motion, edited.value, props.plan))
const percent = (share: number) => `${Math.round(share * 100)} %`
const doubtful = computed(() => [...sure.value].filter(([, share]) => share < UNSURE_BONE).length)

/** The bones in groups: trunk and head, each arm and leg, fingers. */
const groups = computed(() => {
  const here = new Set(props.bones.map((b) => b.name))
  const limbs = props.plan.limbs.filter((l) => l.kind === 'arm' || l.kind === 'leg')
  const parentOf = new Map(props.plan.bones.map((b) => [b.name, b.parent]))
  const hands = limbs.flatMap((l) => (l.kind === 'arm' ? [l.bones.at(-1)!] : []))
  const isFinger = (name: string): boolean => {
    const parent = parentOf.get(name)
    return parent ? hands.includes(parent) || isFinger(parent) : false
  }
  const names = props.plan.bones.map((b) => b.name)
  const fingers = names.filter(isFinger)
  const taken = new Set([...limbs.flatMap((l) => l.bones), ...fingers])
  const trunk = names.filter((n) => !taken.has(n))
  return [
    { name: 'Trunk and head', bones: trunk },
    ...limbs.map((l) => ({ name: boneWords(l.id), bones: l.bones })),
    { name: 'Fingers', bones: fingers },
  ]
    .map((g) => ({ ...g, bones: g.bones.filter((n) => here.has(n)) }))
    .filter((g) => g.bones.length)
})

const theirs = computed((): MapJoint[] => {
  const turn: Quaternion = turnToOurs(edited.value)
  const used = new Set(Object.values(edited.value.bones))
  return props.motion.joints.map(({ name, parent, at }) => ({
    id: name,
    label: name,
    parent,
    at: new Vector3(...(at as [number, number, number])).applyQuaternion(turn).toArray(),
    used: used.has(name),
  }))
})
const ours = computed((): MapJoint[] =>
  props.bones.map(({ name, parent, at }) => ({
    id: name,
    label: boneWords(name),
    parent,
    at,
    used: follows(name) !== null,
  })),
)
function point(joint: string): void {
  if (bone.value && joints.value.includes(joint)) follow(bone.value, joint)
}
const said = ref('')
/** Takes what a file says, of this skeleton and this kind of figure. */
async function take(file: File): Promise<void> {
  const { value, problems } = readMatch(await file.text(), file.name)
  const mine = start()
  if (!value) said.value = problems.map((p) => describeProblem(p)).join(' ')
  else if (value.skeleton !== mine.skeleton || value.plan !== mine.plan)
    said.value = `“${file.name}” is for another skeleton.`
  else {
    said.value = ''
    edited.value = value
  }
}
const write = () => download(new Blob([JSON.stringify(edited.value, null, 2)]), `${idOf(props.motion.name)}.match.json`)
function keep(): void {
  emit('keep', edited.value)
  visible.value = false
}
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    :header="`Which bone is which in “${motion.name}”`"
    :style="{ width: 'min(1080px, 96vw)' }"
    data-test="match-dialog"
  >
    <p class="soft">
      Choose a bone, then the joint it follows: in the list, or by pointing at it on the left. {{ holds
      }}<template v-if="doubtful"> {{ doubtful }} to look at.</template>
    </p>
    <div class="sides">
      <figure>
        <figcaption>{{ of }}</figcaption>
        <SkeletonMap
          :joints="theirs"
          :chosen="bone && follows(bone)"
          :label="`${of}: joints`"
          test="theirs"
          @choose="point"
        />
        <div class="axes">
          <label
            ><span>Up</span>
            <Select
              :model-value="edited.up"
              :options="AXES"
              option-value="value"
              option-label="label"
              size="small"
              aria-label="Which of its axes is up"
              @update:model-value="setUp($event as MotionMatch['up'])"
          /></label>
          <label
            ><span>Front</span>
            <Select
              v-model="edited.front"
              :options="fronts"
              option-value="value"
              option-label="label"
              size="small"
              aria-label="Which of its axes is to the front"
          /></label>
        </div>
      </figure>
      <div class="bones scroll" tabindex="0" aria-label="Bones">
        <section v-for="g in groups" :key="g.name">
          <h3>{{ g.name }}</h3>
          <div
            v-for="b in g.bones"
            :key="b"
            class="bone"
            :data-bone="b"
            :class="{ on: b === bone }"
            @click="bone = b"
            @focusin="bone = b"
          >
            <span>{{ boneWords(b) }}</span>
            <Select
              :model-value="follows(b)"
              :options="joints"
              filter
              show-clear
              size="small"
              placeholder="Nothing"
              :aria-label="`What ${boneWords(b)} follows`"
              :pt="{ root: { 'data-test': `follows-${b}` } }"
              @update:model-value="follow(b, ($event as string | null) ?? null)"
            />
            <i
              v-if="sure.has(b)"
              class="number"
              :class="{ care: sure.get(b)! < UNSURE_BONE }"
              :data-test="`sure-${b}`"
              title="How sure it is, by names, places and lengths"
              >{{ percent(sure.get(b)!) }}</i
            >
          </div>
        </section>
      </div>
      <figure>
        <figcaption>This figure</figcaption>
        <SkeletonMap :joints="ours" :chosen="bone" label="Bones of the figure" test="ours" @choose="bone = $event" />
      </figure>
    </div>
    <p v-if="said" role="alert" class="said" data-test="match-said">{{ said }}</p>
    <template #footer>
      <FilePick
        label="From a file …"
        accept=".json"
        hint="A file in which it was written which bone is which"
        test="match-file"
        @file="take"
      />
      <Button text label="Write it to a file" data-test="match-download" @click="write" />
      <span class="gap" />
      <Button text label="Leave it as it was" @click="visible = false" />
      <Button label="Keep it" data-test="keep-match" @click="keep" />
    </template>
  </Dialog>
</template>

<style scoped>
.sides {
  display: grid;
  grid-template-columns: minmax(180px, 250px) 1fr minmax(180px, 250px);
  gap: var(--s4);
  margin-top: var(--s3);
}

figure {
  margin: 0;
}

figcaption {
  font-weight: 600;
  margin-bottom: var(--s2);
}

.axes {
  display: flex;
  gap: var(--s3);
  margin-top: var(--s2);
  font-size: 13px;
}

.axes label {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.bones {
  height: min(460px, 56vh);
}

.bone {
  display: grid;
  grid-template-columns: 1fr 1.3fr 42px;
  align-items: center;
  gap: var(--s2);
  padding: 2px 6px;
  border-left: 3px solid transparent;
  font-size: 13px;
  cursor: pointer;
}

.bone.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

i.number {
  font-style: normal;
  text-align: right;
  color: var(--ink-soft);
}

i.care {
  color: var(--care);
}

h3 {
  margin: var(--s3) 0 var(--s2);
}

.said {
  color: var(--over);
}

.gap {
  flex: 1;
}

@media (max-width: 900px) {
  .sides {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import {
  describeProblem,
  DOUBTFUL,
  DRAWN_KINDS,
  landmarkFile,
  pointsOf,
  readLandmarkFile,
  type DrawnChain,
  type DrawnKind,
  type LandmarkId,
  type Legs,
} from '@idle-tinker/core'
import { X } from 'lucide-vue-next'
import { useRig } from '../../composables/useRig'
import { idOf } from '../../stores/project'

/** A mesh that was brought in without bones: how it lies, where its joints are, and what becomes of it. */
const props = defineProps<{ files: File[]; taking: boolean; said: string }>()
const emit = defineEmits<{ made: [kit: File, name: string]; close: [] }>()

const rig = useRig()
const { mesh, landmarks, mirrored, problems, busy, before, chains, drawing, isDrawn } = rig
const name = ref('')
const chosen = ref<LandmarkId | null>(null)
/** Why a file of landmarks was not taken. */
const unread = ref('')
watch(
  () => props.files,
  (files) => {
    name.value = fileStem(files[0]?.name ?? '', 'My figure')
    rig.open(files)
  },
  { immediate: true },
)
const LEGS: { label: string; value: Legs | 0 }[] = [
  { label: 'two legs', value: 2 },
  { label: 'four legs', value: 4 },
  { label: 'neither: I draw its chains', value: 0 },
]
const KINDS = computed(() =>
  DRAWN_KINDS.filter((k) => (k === 'trunk' ? bare.value && !chains.value.some((c) => c.kind === 'trunk') : true)).map(
    (value) => ({ value, label: boneWords(value) }),
  ),
)
/** No landmarks are known of what it is: all its chains are drawn. */
const bare = computed(() => landmarks.value.length === 0)
const kind = ref<DrawnKind>('tail')
// the trunk comes first; what was chosen stays for the next of its kind
watch(
  KINDS,
  (list) => {
    if (list.some((k) => k.value === 'trunk')) kind.value = 'trunk'
    else if (kind.value === 'trunk') kind.value = bare.value ? 'leg' : 'tail'
  },
  { immediate: true },
)
/** What mostly comes in pairs. */
const PAIRED = new Set<DrawnKind>(['leg', 'ear', 'wing', 'fin'])
const both = ref(false)
watch(kind, (k) => (both.value = PAIRED.has(k)))
const chainWords = ({ kind: k, points, mirrored: two }: DrawnChain) =>
  `${boneWords(k)}, ${points.length - 1} bone${points.length > 2 ? 's' : ''}${two ? ', on both sides' : ''}`
const hint = computed(() => {
  if (!drawing.value) return ''
  const { least, most } = pointsOf(drawing.value.kind)
  const set = drawing.value.points.length
  if (set === 0) return `Click where it grows, then along it to its tip: ${least} to ${most} places.`
  return set < least ? `${set} of at least ${least} places.` : `${set} places: enough, or go on.`
})
const ready = computed(() => (bare.value ? chains.value.some((c) => c.kind === 'trunk') : true) && !drawing.value)

const legs = computed(() => {
  const build = mesh.value?.build
  return build ? (build === 'other' ? 0 : build === 'quadruped' ? 4 : 2) : null
})
const percent = (v: number): string => `${Math.round(v * 100)} %`
/** What should be looked at first stands first. */
const rows = computed(() => [...landmarks.value].sort((a, b) => order(a.sure) - order(b.sure)))
const order = (sure: number) => (sure < DOUBTFUL ? sure : 1)
const doubtful = computed(() => landmarks.value.filter((l) => l.sure < DOUBTFUL).length)

async function make(): Promise<void> {
  const title = name.value.trim() || 'My figure'
  const zip = await rig.make(idOf(title), title)
  if (zip) emit('made', new File([new Uint8Array(zip)], `${idOf(title)}.zip`), title)
}
const write = () =>
  download(
    new Blob([
      JSON.stringify(
        landmarkFile({ placing: mesh.value!.placing, landmarks: landmarks.value, chains: chains.value }),
        null,
        2,
      ),
    ]),
    `${idOf(name.value || 'figure')}.landmarks.json`,
  )
async function takeFile(file: File): Promise<void> {
  const { value, problems: faults } = readLandmarkFile(await file.text(), file.name)
  unread.value = faults.map((p) => describeProblem(p)).join(' ')
  if (value) await rig.take(value)
}
</script>

<template>
  <Dialog
    :visible="true"
    modal
    header="Bones for a mesh"
    :style="{ width: 'min(1180px, 97vw)' }"
    :closable="!taking"
    data-test="rig-dialog"
    @update:visible="emit('close')"
  >
    <div class="rig">
      <div class="words">
        <p v-if="busy" role="status" data-test="rig-busy">
          {{ busy }} <Button size="small" text label="Stop" data-test="rig-stop" @click="rig.stop()" />
        </p>
        <template v-if="mesh">
          <p class="soft">
            It stands {{ mesh.placing.height.toFixed(2) }} m tall{{
              mesh.build === 'robed' ? ', in something long' : ''
            }}. Is that its front, and is it upright?
          </p>
          <LyingFields :placing="mesh.placing" test="rig" @give="rig.give" />
          <label class="both"
            >Stands on
            <Select
              :model-value="legs"
              :options="LEGS"
              option-label="label"
              option-value="value"
              size="small"
              data-test="rig-legs"
              @update:model-value="rig.give({ legs: $event })"
            />
          </label>
        </template>
        <p v-for="(p, i) in problems" :key="i" :class="p.severity" :role="p.severity === 'error' ? 'alert' : undefined">
          {{ p.message }} <span class="soft">{{ p.remedy }}</span>
        </p>
        <template v-if="landmarks.length">
          <h3>
            Where its joints are<span v-if="doubtful" class="soft">, {{ doubtful }} to look at</span>
          </h3>
          <label class="both"><Checkbox v-model="mirrored" binary input-id="rig-both" /> Both sides together</label>
          <div class="list scroll" tabindex="0" aria-label="Landmarks">
            <button
              v-for="l in rows"
              :key="l.id"
              type="button"
              :class="{ on: l.id === chosen }"
              :aria-pressed="l.id === chosen"
              :data-test="`landmark-${l.id}`"
              @click="chosen = l.id"
            >
              <span>{{ boneWords(l.id) }}</span>
              <i class="number" :class="{ care: l.sure < DOUBTFUL }">{{ l.sure === 1 ? 'set' : percent(l.sure) }}</i>
            </button>
          </div>
        </template>
        <template v-if="mesh">
          <h3>{{ bare ? 'Its chains' : 'More chains' }}</h3>
          <p v-if="drawing" role="status" class="soft" data-test="chain-hint">{{ hint }}</p>
          <ul v-if="chains.length" class="chains">
            <li v-for="(c, i) in chains" :key="i">
              <span>{{ chainWords(c) }}</span>
              <Button
                text
                rounded
                size="small"
                :aria-label="`Take ${chainWords(c)} away`"
                :data-test="`chain-away-${i}`"
                @click="rig.removeChain(i)"
                ><template #icon><X :size="14" class="icon" /></template
              ></Button>
            </li>
          </ul>
          <div v-if="drawing" class="draw">
            <Button
              size="small"
              label="That is it"
              :disabled="!isDrawn"
              data-test="chain-done"
              @click="rig.endDrawing()"
            />
            <Button size="small" text label="Take it back" data-test="chain-back" @click="rig.undo()" />
          </div>
          <div v-else class="draw">
            <Select
              v-model="kind"
              :options="KINDS"
              option-label="label"
              option-value="value"
              size="small"
              aria-label="What the chain is"
              data-test="chain-kind"
            />
            <label v-if="kind !== 'trunk'"
              ><Checkbox v-model="both" binary input-id="chain-both" /> on both sides</label
            >
            <Button
              size="small"
              outlined
              label="Draw it"
              data-test="chain-draw"
              :disabled="busy !== ''"
              @click="rig.draw(kind, both)"
            />
          </div>
        </template>
        <p v-for="line in [said, unread].filter(Boolean)" :key="line" role="alert" class="error">{{ line }}</p>
      </div>
      <template v-if="mesh">
        <figure v-for="from in ['front', 'side'] as const" :key="from">
          <figcaption>{{ from === 'front' ? 'From the front' : 'From the side' }}</figcaption>
          <LandmarkView
            :key="mesh.view.topology"
            :from="from"
            :view="mesh.view"
            :box="mesh.box"
            :plane="mesh.plane"
            :landmarks="landmarks"
            :chains="chains"
            :drawing="drawing"
            :chosen="chosen"
            @choose="chosen = $event"
            @begin="rig.keep()"
            @move="rig.put"
            @place="(at) => rig.drawTo(at, from === 'front' ? 2 : 0)"
            @end="(id) => rig.settle(id, from === 'front' ? 2 : 0)"
          />
        </figure>
      </template>
    </div>
    <template #footer>
      <template v-if="mesh">
        <FilePick
          label="Landmarks from a file …"
          accept=".json"
          hint="A file in which it was written where the joints are"
          test="rig-file"
          @file="takeFile"
        />
        <Button text label="Write them to a file" data-test="rig-write" @click="write" />
        <Button
          text
          label="Take the last move back"
          :disabled="before.length === 0"
          data-test="rig-undo"
          @click="rig.undo()"
        />
      </template>
      <span class="gap" />
      <label class="name">Name <InputText v-model="name" size="small" maxlength="60" data-test="rig-name" /></label>
      <Button text label="Leave it" :disabled="taking" @click="emit('close')" />
      <Button
        label="Give it bones"
        :disabled="!mesh || !ready || busy !== '' || taking"
        data-test="rig-make"
        @click="make"
      />
    </template>
  </Dialog>
</template>

<style scoped>
.rig {
  display: grid;
  grid-template-columns: minmax(220px, 1fr) 1.25fr 1.25fr;
  gap: var(--s4);
  min-height: 300px;
}

.words p {
  margin: 0 0 var(--s2);
  font-size: 13px;
}

figure {
  margin: 0;
}

figcaption {
  font-weight: 600;
  margin-bottom: var(--s2);
}

.list i {
  font-style: normal;
  color: var(--ink-soft);
}

i.care {
  color: var(--care);
}

.error {
  color: var(--over);
}

h3 {
  margin: var(--s3) 0 var(--s2);
}

h3 .soft {
  font-weight: 400;
}

.both {
  display: flex;
  align-items: center;
  gap: var(--s2);
  font-size: 13px;
  margin-block: var(--s2);
}

.list {
  max-height: min(190px, 25vh);
}

.list button {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 3px 8px;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: inherit;
  font: 13px var(--text);
  text-align: left;
  cursor: pointer;
}

.list button.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.chains {
  list-style: none;
  margin: 0 0 var(--s2);
  padding: 0;
  font-size: 13px;
}

.chains li {
  display: flex;
  justify-content: space-between;
  align-items: center;
}

.draw {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s2);
  font-size: 13px;
}

.draw label {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.gap {
  flex: 1;
}

.name {
  display: flex;
  align-items: center;
  gap: var(--s2);
  font-size: 13px;
}

@media (max-width: 900px) {
  .rig {
    grid-template-columns: 1fr;
  }
}
</style>

<script setup lang="ts">
import { firstFigure, onTheSpot, poseAt, type Clip, type ListedClip } from '@idle-tinker/core'
import { unlessEnded, workshop } from '../workers'
import { plain } from '../workers/plain'
import { Refused } from '../stores/api'
import { useFigure } from '../stores/figure'
import { idOf, useProject } from '../stores/project'
import { useView } from '../stores/view'

const figure = useFigure()
const view = useView()
const project = useProject()
const motions = useMotions()
const clips = shallowRef<ListedClip[]>([])
/** The one that is chosen, fitted to the figure. */
const fitted = shallowRef<Clip | null>(null)
/** The clip or the motion that was chosen, null for the pose of rest; until then the first that goes anywhere. */
const chosen = ref<string | null>()
const kept = computed(() => project.documents.motion)
const clipId = computed({
  get: () => {
    const id = chosen.value
    const here = [...clips.value, ...kept.value, ...keys.own.value]
    if (id === null || here.some((c) => c.id === id)) return id ?? null
    return (clips.value.find((c) => c.travel > 0) ?? clips.value[0])?.id ?? null
  },
  set: (id) => {
    chosen.value = id
    if (id === null) playing.value = false
  },
})
const motion = computed(() => kept.value.find((m) => m.id === clipId.value) ?? null)
const playing = ref(false)
const bones = ref(true)
const weightsOf = ref<string | null>(null)
const { points, shown: pointsShown, lit: litPoint } = useHelperPoints()
const { scores: bends, shown: bendsShown, tried: bendTried, clip: bent } = useBends()
const time = ref(0)
const stage = ref<{ scrub(t: number): void }>()
const matching = ref(false)
const posing = usePosing()
const keys = useKeys((to) => stage.value?.scrub(to))
const { chosen: keyed, time: keyTime } = keys
/** Whether the hand on the stage says where the figure looks. */
const pointing = ref(false)
/** Clips of kits leave the face to the figure. */
const NO_FACES = {}
const SHEETS = [
  { id: false, name: 'Clips' },
  { id: true, name: 'Poses' },
]
/** Whether poses are worked on, and not clips. */
const isPosing = posing.shown
watch(isPosing, (on) => {
  playing.value = false
  if (on) bendTried.value = null
})
// one's own is worked on as long as it is what is seen
watch(
  [clipId, isPosing, keys.own],
  ([id, posed]) => (keyed.value = !posed && keys.own.value.some((c) => c.id === id) ? id : null),
  { immediate: true },
)
watch(keys.recording, (on) => on && (playing.value = false))
const carried = computed(() =>
  motion.value && motions.carried.value?.id === motion.value.id ? motions.carried.value : null,
)
const ownClip = computed(() => {
  const { value } = fitted
  return value?.id === clipId.value && value.rotations.length === figure.view?.bones.length ? value : null
})
const clip = computed(
  // the stage is a belt: whoever goes along stays in sight
  () =>
    bent.value ??
    (isPosing.value
      ? posing.clip.value
      : keyed.value
        ? keys.clip.value
        : carried.value
          ? onTheSpot(carried.value.clip)
          : ownClip.value),
)
const listed = computed(() => (bent.value ? null : (clips.value.find((c) => c.id === clipId.value) ?? null)))
const plan = usePlan()

// a bend is tried by playing it; whoever chooses a clip has seen enough of it
watch(bendTried, (joint) => (playing.value = joint !== null))
watch(clipId, () => (bendTried.value = null))
onMounted(() => void motions.load())
const asked = () => [plain(figure.recipe!), plain(view.target)] as const
watch(
  () => figure.view,
  async (built) => {
    if (!figure.recipe || !built) return
    const listed = await unlessEnded(workshop('bench').clips(...asked()))
    if (listed) clips.value = listed
  },
  { immediate: true },
)
// a clip is fitted to this figure's own proportions, so it follows every change of it
watch(
  [clipId, () => figure.view],
  async ([id, built]) => {
    if (!figure.recipe || !built || !clips.value.some((c) => c.id === id)) return
    const clip = await unlessEnded(workshop('bench').clip(...asked(), id!))
    // meanwhile another may have been chosen, or the figure have become another
    if (clip && id === clipId.value && clip.rotations.length === figure.view?.bones.length) fitted.value = clip
  },
  { immediate: true },
)
// and so is what came from elsewhere; a change of it alone is carried anew as well
watch([motion, () => figure.view], ([entry, built]) => void (built && motions.carry(entry)), { immediate: true })

async function bring(files: File[]): Promise<void> {
  const made = files.filter((f) => /\.json$/i.test(f.name))
  const others = files.filter((f) => !made.includes(f))
  const firsts = [made.length ? await keys.bring(made) : null, others.length ? await motions.bring(others) : null]
  const first = firsts.find((id) => id !== null)
  if (first) clipId.value = first
}
/** A clip of one's own: empty, or with the keys of what is seen. */
async function makeClip(from: Clip | null): Promise<void> {
  playing.value = false
  const id = await keys.make(from && { ...from, name: listed.value?.name ?? motion.value?.name ?? from.name })
  if (id) clipId.value = id
}
/** A mesh that lies open to be given bones. */
const mesh = shallowRef<File[] | null>(null)
const taking = ref(false)
const meshSaid = ref('')
function openMesh(files: File[]): void {
  meshSaid.value = ''
  mesh.value = files
}
/** Keeps the kit that was made of a mesh, and opens a figure with its body: it moves at once. */
async function takeRigged(kit: File, name: string): Promise<void> {
  taking.value = true
  meshSaid.value = ''
  try {
    const { id } = await project.addKit(kit)
    figure.open(await project.add('figure', firstFigure(project.library, id, name)))
    mesh.value = null
  } catch (error) {
    meshSaid.value = error instanceof Error ? error.message : String(error)
    if (error instanceof Refused && error.status === 409) meshSaid.value += ' Give it another name.'
  } finally {
    taking.value = false
  }
}
async function downloadMotion(): Promise<void> {
  const entry = motion.value
  const bytes = entry && (await motions.fileOf(entry))
  if (bytes) download(new Blob([bytes as BlobPart]), `${idOf(`${figure.recipe!.name} ${entry.name}`)}.glb`)
}
/** Keeps the moment that is seen as a pose, and goes on with it. */
async function takePose(): Promise<void> {
  const [now, seen] = [clip.value, listed.value?.name ?? motion.value?.name ?? keys.kept.value?.name]
  if (!now || !seen) return
  await posing.take(poseAt({ ...now, loop: false }, time.value % now.duration), seen)
  if (posing.said.value.length === 0) isPosing.value = true
}
async function copyClip(): Promise<void> {
  const id = await keys.copy()
  if (id) clipId.value = id
}
function scrub(value: number): void {
  playing.value = false
  time.value = value
  keyTime.value = value
  stage.value?.scrub(value)
}
function onFrame(at: number): void {
  time.value = at
  if (playing.value) keyTime.value = at
}
</script>

<template>
  <StationLayout left="Skeleton" right="Clips" right-width="304px">
    <template #left
      ><MotionSheet v-model:bones="bones" v-model:weights-of="weightsOf"
        ><BendList v-model:shown="bendsShown" v-model:tried="bendTried" :scores="bends" /><HelperPoints
          v-model:shown="pointsShown"
          v-model:lit="litPoint"
          :points="points" /></MotionSheet
    ></template>
    <StageView
      ref="stage"
      :clip="clip"
      :playing="playing"
      :bones="bones"
      :points="pointsShown ? points : []"
      :lit-point="litPoint"
      :weights-of="weightsOf"
      :faces="keyed ? keys.faces.value : NO_FACES"
      @frame="onFrame"
      ><template v-if="(isPosing || (keyed && !playing)) && !bent" #over="{ stage: on, frame, hold }"
        ><LookHere v-if="keyed && pointing" :stage="on" :keys="keys" /><PoseHandles
          v-else
          :key="isPosing ? 'pose' : 'keys'"
          :posing="isPosing ? posing : keys.hands"
          :stage="on"
          :frame="frame"
          @hold="hold" /></template
      ><template v-if="keyed && !bent" #under
        ><KeyTimeline :keys="keys" :playing="playing" @play="playing = $event" @scrub="scrub" /></template
    ></StageView>
    <template #right
      ><aside class="clips scroll" :aria-label="isPosing ? 'Poses' : 'Clips'">
        <SelectButton
          v-model="isPosing"
          :options="SHEETS"
          option-label="name"
          option-value="id"
          :allow-empty="false"
          size="small"
          aria-label="Clips or poses"
          data-test="clips-or-poses"
        />
        <PosePanel v-if="isPosing" :posing="posing" />
        <template v-else>
          <div class="picks">
            <Button size="small" outlined label="Make a clip" data-test="make-clip" @click="makeClip(null)" />
            <FilePick
              label="Bring in motions …"
              accept=".bvh,.glb,.gltf,.bin,.json,.dae"
              hint="BVH, GLB, glTF or COLLADA files with motions of figures on two or four legs, or clips that were saved here"
              test="add-motion"
              several
              @files="bring"
            />
            <FilePick
              label="Give a mesh bones …"
              accept=".glb,.gltf,.bin,.obj,.mtl,.dae,.zip"
              hint="A GLB, glTF, OBJ or COLLADA file with the mesh of an upright figure"
              test="add-mesh"
              several
              @files="openMesh"
            />
          </div>
          <p v-if="bent" class="soft" data-test="trying">Trying a bend: {{ boneWords(bendTried!) }}. A clip ends it.</p>
          <p v-else-if="!keyed" class="soft">Fitted to this figure: standing feet stay where they are.</p>
          <ClipList
            v-model="clipId"
            :style="{ '--list-height': keyed ? '24vh' : '46vh' }"
            :clips="clips"
            :motions="kept"
            :made="keys.own.value"
            @remove="motions.remove"
            @drop="keys.remove"
            @picked="bendTried = null" />
          <div v-if="motions.bringing.value" class="bringing" role="status" data-test="bringing">
            <span
              >{{ motions.bringing.value.done + 1 }} of {{ motions.bringing.value.of }}:
              {{ motions.bringing.value.name }}</span
            >
            <ProgressBar
              :value="Math.round((motions.bringing.value.done / motions.bringing.value.of) * 100)"
              :show-value="false"
              aria-label="How many files are read"
            />
            <Button size="small" text label="Stop" data-test="stop-bringing" @click="motions.stop()" />
          </div>
          <RigDialog
            v-if="mesh"
            :files="mesh"
            :taking="taking"
            :said="meshSaid"
            @made="takeRigged"
            @close="mesh = null" />
          <p v-if="motions.removed.value" class="soft">
            “{{ motions.removed.value.name }}” was removed.
            <Button
              size="small"
              text
              label="Bring it back"
              data-test="bring-back-motion"
              @click="motions.bringBack()"
            />
          </p>
          <p v-if="keys.others.value" class="soft">
            {{ keys.others.value }} more of yours for figures of another kind.
          </p>
          <p v-if="keys.removed.value" class="soft">
            “{{ keys.removed.value.name }}” was removed.
            <Button size="small" text label="Bring it back" data-test="bring-back-clip" @click="keys.bringBack()" />
          </p>
          <p
            v-for="(line, i) in [...keys.said.value, ...motions.said.value, ...motions.told.value]"
            :key="i"
            role="alert"
            class="said"
            data-test="motion-said"
          >
            {{ line }}
          </p>
          <KeyPanel
            v-if="keyed"
            v-model:pointing="pointing"
            :keys="keys"
            :posing="posing"
            @look="scrub"
            @copy="copyClip" />
          <template v-else-if="clip">
            <div class="play">
              <Button size="small" :label="playing ? 'Pause' : 'Play'" data-test="play" @click="playing = !playing" />
              <span class="number" data-test="clip-time"
                >{{ (Math.floor((time % clip.duration) * 100) / 100).toFixed(2) }} s</span
              >
            </div>
            <div class="track">
              <Slider
                :model-value="time % clip.duration"
                :min="0"
                :max="clip.duration"
                :step="0.01"
                aria-label="Time in the clip"
                @update:model-value="scrub($event as number)"
              />
            </div>
          </template>
          <Button
            v-if="clip && !bent"
            size="small"
            text
            label="Keep this moment as a pose"
            data-test="take-pose"
            @click="takePose" />
          <Button
            v-if="clip && !bent && !keyed"
            size="small"
            text
            label="Make a clip of yours of it"
            data-test="copy-as-keys"
            @click="makeClip(clip)" />
          <DialSheet v-if="listed" :key="listed.id" :clip="listed" />
          <CarriedPanel
            v-if="motion && carried"
            :motion="motion.content"
            :clip="carried.clip"
            :numbers="carried.numbers"
            :doubtful="carried.doubtful"
            :bones="figure.view?.bones ?? []"
            :busy="motions.busy.value"
            @look="scrub"
            @amend="motions.amend(motion, $event)"
            @match="matching = true"
            @download="downloadMotion" />
          <Button
            v-else-if="motion && plan && !motions.busy.value"
            size="small"
            outlined
            label="Which bone is which …"
            data-test="open-match"
            @click="matching = true" />
          <MatchDialog
            v-if="motion && plan && figure.view"
            v-model:visible="matching"
            :motion="motion.content"
            :plan="plan"
            :bones="figure.view.bones"
            @keep="motions.rematch"
        /></template></aside
    ></template>
  </StationLayout>
</template>

<style scoped>
.clips {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: var(--s3);
}

.picks {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2);
  margin-top: var(--s3);
}

.bringing {
  display: grid;
  gap: var(--s1);
  justify-items: start;
  font-size: 13px;
}

.bringing > * {
  max-width: 100%;
}

.said {
  font-size: 13px;
  color: var(--over);
  margin: var(--s2) 0 0;
}

.play {
  margin-top: var(--s3);
  display: flex;
  justify-content: space-between;
  align-items: center;
}

.track {
  padding: var(--s4) 7px;
}
</style>

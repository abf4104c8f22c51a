<script setup lang="ts">
import { fileName, filePattern, type License, type Problem, type Target } from '@idle-tinker/core'
import type { Entry } from '../documents/Keeper'
import { useLocalStorage } from '@vueuse/core'
import { useCrowd } from '../stores/crowd'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useShip } from '../stores/ship'
import { useTarget } from '../stores/target'
import { useView } from '../stores/view'
import { workshop } from '../workers'
import { plain } from '../workers/plain'

const project = useProject()
const figure = useFigure()
const crowd = useCrowd()
const ship = useShip()
const limits = useTarget()
const view = useView()
const ownPattern = ref('')
const lods = ref(false)
const preparing = ref(false)
const message = ref('')
const passed = ref<string[]>([])
const problems = ref<Problem[]>([])
/** What was found at fault in what was about to leave: it goes only if one insists. */
const withheld = ref(false)
/** What the open VRM standard asks of a file; the same for all that this browser ships. */
const license = useLocalStorage<License>('tinker.license', { authors: [] })

/** A target with what is said here of who made what ships; where nobody is named, as it says itself. */
const licensed = (of: Target): Target =>
  plain(license.value.authors.length > 0 ? { ...of, license: license.value } : of)

const busy = computed(() => preparing.value || ship.busy)
const what = computed(() => ship.what)
const target = computed<Target>(() => (what.value === 'crowd' ? crowd.target : view.target))
const editing = computed(() => limits.id !== null)
const crowdName = computed(() => crowd.mix?.name ?? project.mixes[0]?.name ?? 'Crowd')
/** As it is said here, else as the target says. */
const pattern = computed(() => ownPattern.value.trim() || filePattern(target.value))
const example = computed(() => {
  const name =
    what.value === 'crowd' ? (crowd.cards[0]?.recipe.name ?? crowdName.value) : (figure.recipe?.name ?? 'figure')
  const stem = fileName(pattern.value, { name, number: 1, target: target.value.id, date: today() })
  if (what.value === 'crowd') return `${stem}.${ship.formats[0] ?? 'glb'}`
  const [only, more] = ship.formats
  return `${stem}.${!only || more || only === 'glb' ? (more ? 'zip' : 'glb') : only}`
})
const today = () => new Date().toISOString().slice(0, 10)
/** Clips that were made here and motions that were brought in, and those of them that the figure takes along. */
const motions = computed(() => project.documents.motion)
const clips = computed(() => project.documents.clip)
const along = <T extends object>(all: readonly Entry<T>[]): T[] =>
  plain(all.filter((m) => ship.motions.includes(m.id)).map((m) => m.content))

/** What the figure or the last job of the crowd came to, in plain words. */
const result = computed(() => {
  const { job } = ship
  if (what.value === 'figure' || !job?.result)
    return {
      message: message.value,
      passed: passed.value,
      problems: [...problems.value, ...((what.value === 'crowd' && job?.error) || [])],
    }
  return {
    message: `${job.result.length} files, at most ${Math.max(...job.result.map((r) => r.triangles))} triangles each, every one read again and checked.`,
    // what holds for every one of them
    passed: (job.result[0]?.passed ?? []).filter((line) => job.result!.every((r) => r.passed.includes(line))),
    problems: problems.value,
  }
})

onMounted(async () => {
  if (crowd.cards.length) ship.what = 'crowd'
  await ship.resume()
  if (ship.busy) ship.what = 'crowd'
  try {
    await project.loadMotions()
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  }
})
onBeforeUnmount(() => limits.close())

function choose(id: string): void {
  if (what.value === 'crowd') void crowd.setTarget(id)
  else view.setTarget(id)
}

function openLimits(): void {
  // from now on it is this one that is shipped to, whatever its limits become
  choose(target.value.id)
  limits.open(target.value.id)
}

// the limits on screen are those of the target that is shipped to
watch(
  () => target.value.id,
  (id) => {
    if (editing.value && id !== limits.id) limits.open(id)
  },
)

watch(what, () => {
  message.value = ''
  passed.value = []
  problems.value = []
})

const said = useTemplateRef<HTMLElement>('said')
// what came of it may stand below what is on screen
watch(
  () => result.value.message,
  async (message) => {
    if (!message) return
    await nextTick()
    said.value?.scrollIntoView({ block: 'nearest' })
  },
)

/** One piece of work at a time; what goes wrong is said where the result would stand. */
async function attempt(work: () => Promise<void>): Promise<void> {
  preparing.value = true
  message.value = ''
  passed.value = []
  problems.value = []
  withheld.value = false
  learning.value = false
  try {
    await work()
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  } finally {
    preparing.value = false
  }
}

const shipOne = (insist = false) =>
  attempt(async () => {
    if (!figure.recipe) return
    const { name } = figure.recipe
    const answer = await workshop('bench').ship({
      recipe: plain(figure.recipe),
      target: licensed(target.value),
      formats: [...ship.formats],
      lods: lods.value,
      stem: fileName(pattern.value, { name, number: 1, target: target.value.id, date: today() }),
      ...{ motions: along(motions.value), keyed: along(clips.value), insist },
    })
    const told = shippedWords(answer.shipped)
    problems.value = told.problems
    passed.value = told.passed
    withheld.value = told.withheld
    if (!answer.file) return
    download(new Blob([answer.file.bytes as BlobPart]), answer.file.name)
    message.value = fileWords(answer)
  })

/** Whether what is told is of a file that was learned from. */
const learning = ref(false)
const picker = useTemplateRef<HTMLInputElement>('picker')
/** Learns from a file of a game what its figures are like, as a target of its own. */
const learnFrom = (file: File) =>
  attempt(async () => {
    learning.value = true
    const bytes = new Uint8Array(await file.arrayBuffer())
    const base = { ...plain(target.value), name: (file.name.replace(/\.[^.]*$/, '') || 'Game').slice(0, 72) }
    const { value, problems: told } = await workshop('bench').learn(bytes, file.name, base)
    problems.value = told
    if (!value) throw new Error(`Nothing could be learned from ${file.name}.`)
    const { id, name } = await project.addNamed('target', value.target)
    choose(id)
    limits.open(id)
    passed.value = learnedWords(value)
    message.value = `“${name}” is a target now.`
  })

function picked(): void {
  const file = picker.value?.files?.[0]
  if (file) void learnFrom(file)
  if (picker.value) picker.value.value = ''
}

let canceled = false

const shipCrowd = (insist = false) =>
  attempt(async () => {
    canceled = false
    if (!crowd.mix && project.mixes[0]) crowd.open(project.mixes[0].id)
    if (crowd.cards.length === 0) await crowd.make()
    // it was canceled, or could not be made: there is nothing to ship
    if (canceled || crowd.cards.length === 0) throw new Error(crowd.message || 'Canceled; nothing was shipped.')
    await ship.start({
      name: crowdName.value,
      recipes: crowd.cards.map((c) => plain(c.recipe)),
      mix: plain(crowd.madeFrom),
      target: licensed(crowd.target),
      formats: [...ship.formats],
      insist,
      pattern: pattern.value,
      lods: lods.value,
      motions: along(motions.value),
      keyed: along(clips.value),
    })
  })

/** Stops whatever is under way: the crowd being made here, or its files on the server. */
function cancel(): void {
  canceled = true
  crowd.cancel()
  void ship.cancel().catch((error: unknown) => {
    message.value = error instanceof Error ? error.message : String(error)
  })
}
</script>

<template>
  <div class="ship scroll">
    <ShipPictures :what="what" :target="target" />
    <div class="column">
      <h2 class="title">What leaves</h2>
      <div class="form">
        <span>What</span>
        <SelectButton
          v-model="ship.what"
          :options="[
            { id: 'figure', name: figure.recipe?.name ?? 'Figure' },
            {
              id: 'crowd',
              name: `${crowdName}${crowd.cards.length ? ` (${crowd.cards.length})` : ''}`,
            },
          ]"
          option-label="name"
          option-value="id"
          :allow-empty="false"
          data-test="what"
        />
        <span>Target</span>
        <span class="line"
          ><Select
            :model-value="target.id"
            :options="[...project.targets]"
            option-label="name"
            option-value="id"
            aria-label="Target"
            class="grow"
            data-test="ship-target"
            @update:model-value="choose($event as string)" />
          <Button
            outlined
            label="Learn …"
            data-test="learn"
            aria-label="Learn a target from a file of your game"
            :disabled="busy"
            @click="picker?.click()" />
          <input
            ref="picker"
            type="file"
            hidden
            accept=".glb,.gltf,.vrm,.dae,.bvh"
            data-test="learn-file"
            @change="picked" />
          <Button
            outlined
            :label="editing ? 'Close it' : 'Change it'"
            :aria-expanded="editing"
            data-test="edit-target"
            @click="editing ? limits.close() : openLimits()"
        /></span>
        <template v-if="editing">
          <span />
          <TargetEditor v-if="limits.now" :target="limits.now" @chosen="choose" />
        </template>
        <span />
        <span class="soft"
          >{{ target.limits.triangles.toLocaleString('en') }} triangles, {{ target.limits.bones }} bones,
          {{ target.influences }} {{ target.influences === 1 ? 'influence' : 'influences' }} a vertex, one material.
          {{ axesWords(target.convention) }}; glTF and VRM are always metres, +Y up.</span
        >
        <span>Formats</span>
        <span class="formats" role="group" aria-label="Formats">
          <label v-for="f in FORMATS" :key="f.id" class="line" :title="f.words"
            ><Checkbox
              v-model="ship.formats"
              :value="f.id"
              :input-id="`format-${f.id}`"
              :data-test="`format-${f.id}`"
            />
            {{ f.name }}</label
          >
        </span>
        <template v-if="ship.formats.includes('vrm')">
          <span class="top">License, for VRM</span>
          <LicenseForm v-model="license" />
        </template>
        <span>File names</span>
        <span class="pattern"
          ><InputText
            v-model="ownPattern"
            :placeholder="filePattern(target)"
            maxlength="80"
            aria-label="File name pattern"
            data-test="pattern"
          />
          <span class="soft"
            >{figure}, {target}, {number}, {date} are filled in:
            <b class="number" data-test="example">{{ example }}</b></span
          ></span
        >
        <span>Coarser levels</span>
        <label class="line"
          ><ToggleSwitch v-model="lods" input-id="lods" />
          <span class="soft">{{
            target.lods.length
              ? `also ${target.lods.map((l) => l.triangles).join(' and ')} triangles, in the same file`
              : 'this target has none'
          }}</span></label
        >
        <template v-if="motions.length + clips.length">
          <span>Of yours</span>
          <span class="motions" role="group" aria-label="Clips and motions that go along" data-test="ship-motions">
            <label v-for="m in [...clips, ...motions]" :key="m.id" class="line"
              ><Checkbox v-model="ship.motions" :value="m.id" :input-id="`along-${m.id}`" /> {{ m.name }}</label
            >
            <span class="soft">{{
              what === 'figure'
                ? 'Beside the clips of its kit, fitted to it.'
                : 'Beside the clips of their kits, on each that can play them.'
            }}</span>
          </span>
        </template>
        <span />
        <span class="soft">Rest pose: {{ restWords(target.convention) }}; {{ bonesWords(target.convention) }}.</span>
        <span />
        <span>
          <Button
            v-if="what === 'figure'"
            :disabled="busy || !figure.recipe || ship.formats.length === 0"
            :label="
              ship.formats.length > 1
                ? 'Download all as a zip'
                : `Download the ${FORMATS.find((f) => f.id === ship.formats[0])?.name ?? 'file'}`
            "
            data-test="ship-figure"
            @click="shipOne()"
          />
          <Button
            v-else-if="!busy"
            label="Make the zip"
            :disabled="(!crowd.mix && !project.mixes.length) || ship.formats.length === 0"
            data-test="ship-crowd"
            @click="shipCrowd()"
          />
          <Button v-else outlined label="Cancel" data-test="cancel-ship" @click="cancel" />
        </span>
      </div>
      <Message v-if="ship.away" severity="warn" class="progress"
        >The server is away; how far it is will be told as soon as it is back.</Message
      >
      <CrowdProgress v-if="preparing && crowd.phase !== 'idle'" class="progress" />
      <div v-if="ship.job && ship.busy" class="progress" role="status">
        <span>Building, writing and checking: {{ ship.job.done }} of {{ ship.job.total }}</span>
        <ProgressBar
          :value="Math.round((ship.job.done / ship.job.total) * 100)"
          :show-value="false"
          aria-label="How far the files are"
        />
      </div>
      <p v-if="result.message" ref="said" class="message" data-test="ship-message">
        {{ result.message }}
        <a
          v-if="what === 'crowd' && ship.job?.state === 'done'"
          :href="`/api/jobs/${ship.job.id}/file`"
          download
          data-test="download-zip"
          >Download crowd.zip</a
        >
      </p>
      <p v-if="withheld || (what === 'crowd' && ship.job?.error?.some((p) => p.code === 'withheld'))" class="message">
        What is at fault stayed here.
        <Button
          text
          size="small"
          label="Ship it all the same"
          data-test="insist"
          :disabled="busy"
          @click="what === 'figure' ? shipOne(true) : shipCrowd(true)"
        />
      </p>
      <ShipChecks
        v-if="result.passed.length || result.problems.length"
        :title="learning ? 'What was learned' : 'Checks before leaving'"
        :passed="result.passed"
        :problems="result.problems"
      />
    </div>
  </div>
</template>

<style scoped>
.ship {
  height: 100%;
  display: grid;
  grid-template-columns: minmax(200px, 1fr) minmax(520px, 760px);
  max-width: 1560px;
  margin: 0 auto;
  column-gap: var(--s5);
  justify-content: center;
  padding: var(--s5);
}

.column {
  min-width: 0;
}

.form {
  display: grid;
  grid-template-columns: 130px 1fr;
  gap: var(--s3) var(--s4);
  align-items: center;
  margin-top: var(--s5);
}

.pattern,
.line {
  display: flex;
  align-items: center;
  gap: var(--s3);
}

.top {
  align-self: start;
}

.formats {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2) var(--s4);
}

.motions {
  display: grid;
  gap: var(--s2);
}

.grow {
  flex: 1;
}

.progress {
  margin-top: var(--s5);
  display: grid;
  gap: 4px;
}

.message {
  margin-top: var(--s5);
  font-weight: 600;
}

.message a {
  color: var(--act);
}

@media (max-width: 959px) {
  .ship {
    grid-template-columns: minmax(0, 1fr);
    padding: var(--s4);
  }
}
</style>

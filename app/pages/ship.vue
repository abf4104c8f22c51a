<script setup lang="ts">
import { filePattern, USUAL_FOLDERS } from '@idle-tinker/core'
import { useCrowd } from '../stores/crowd'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { useShip } from '../stores/ship'
import { useTarget } from '../stores/target'
import { useView } from '../stores/view'

const project = useProject()
const figure = useFigure()
const crowd = useCrowd()
const ship = useShip()
const limits = useTarget()
const view = useView()
const shipping = useShipping()
const { what, target, ownPattern, ownFolders, lods, license, example, busy, learning, motions, clips } = shipping
const { choices, several, severalTargets, result } = shipping
const { shipOne, shipCrowd, shipSeveral, insist, cancel, forget } = shipping
const { asked, learnFrom, answer } = shipping
const matching = ref(false)

const editing = computed(() => limits.id !== null)
const crowdName = computed(() => crowd.mix?.name ?? project.mixes[0]?.name ?? 'Crowd')
const problem = ref('')

onMounted(async () => {
  if (crowd.cards.length) ship.what = 'crowd'
  await ship.resume()
  // what is under way is shown where it was ordered
  const parcels = ship.job?.about?.parcels ?? []
  if (ship.busy && ship.what === 'figure')
    ship.what = parcels.length === 1 && parcels[0]!.kind === 'crowd' ? 'crowd' : 'several'
  try {
    await project.loadMotions()
  } catch (error) {
    problem.value = error instanceof Error ? error.message : String(error)
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

watch(
  what,
  (now) => {
    forget()
    const [mix] = project.mixes
    if (now === 'crowd' && !crowd.mix && mix) crowd.open(mix.id)
    if (now === 'several') {
      // it begins with what is on the Bench, for the target it is looked at for
      if (ship.several.length === 0 && figure.id) ship.several = [`figure:${figure.id}`]
      if (ship.targets.length === 0) ship.targets = [view.target.id]
      limits.close()
    }
  },
  { immediate: true },
)

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

const picker = useTemplateRef<HTMLInputElement>('picker')
function picked(): void {
  const file = picker.value?.files?.[0]
  if (file) void learnFrom(file, choose)
  if (picker.value) picker.value.value = ''
}
</script>

<template>
  <div class="ship scroll">
    <ShipPictures :what="what" :target="target" :chosen="ship.several" />
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
            { id: 'several', name: 'Several' },
          ]"
          option-label="name"
          option-value="id"
          :allow-empty="false"
          data-test="what"
        />
        <template v-if="what === 'several'">
          <span class="top">Which</span>
          <MultiSelect
            v-model="ship.several"
            :options="choices"
            option-group-label="name"
            option-group-children="items"
            option-label="name"
            option-value="id"
            filter
            display="chip"
            :show-toggle-all="false"
            placeholder="Figures, crowds, picks"
            aria-label="What leaves"
            fluid
            data-test="several"
          />
          <span class="top">Targets</span>
          <MultiSelect
            v-model="ship.targets"
            :options="[...project.targets]"
            option-label="name"
            option-value="id"
            display="chip"
            placeholder="For which targets"
            aria-label="Targets"
            fluid
            data-test="several-targets"
          />
        </template>
        <template v-else>
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
          <template v-if="asked">
            <span />
            <span class="line soft"
              ><span class="grow"
                >{{ asked.learned ? 'Learned' : 'Nothing was learned yet' }} from {{ asked.name }}.</span
              >
              <Button
                text
                size="small"
                label="Which bone is which …"
                data-test="ask-bones"
                :disabled="busy"
                @click="matching = true"
              />
              <MatchDialog
                v-model:visible="matching"
                :motion="asked"
                :plan="asked.plan"
                :bones="asked.bones"
                of="The file"
                holds="The target goes by it."
                @keep="(match) => answer(match, choose)"
              />
            </span>
          </template>
          <template v-if="editing">
            <span />
            <TargetEditor v-if="limits.now" :target="limits.now" @chosen="choose" />
          </template>
          <span />
          <span class="soft"
            >{{ target.limits.triangles.toLocaleString('en') }} triangles, {{ target.limits.bones }} bones,
            {{ target.influences }} {{ target.influences === 1 ? 'influence' : 'influences' }} a vertex, one material.
            {{ axesWords(target.convention) }};
            {{
              target.gltf?.counted === 'unit'
                ? 'glTF counts alike, and VRM in metres, both'
                : 'glTF and VRM are always metres,'
            }}
            +Y up.</span
          >
        </template>
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
        <template v-if="what === 'several'">
          <span>Folders</span>
          <span class="pattern"
            ><InputText
              v-model="ownFolders"
              :placeholder="USUAL_FOLDERS"
              maxlength="80"
              aria-label="Folder pattern"
              data-test="folders"
            />
            <span class="soft">{target}, {crowd} and what files have; a / between each.</span></span
          >
        </template>
        <span>File names</span>
        <span class="pattern"
          ><InputText
            v-model="ownPattern"
            :placeholder="what === 'several' ? 'As each target says' : filePattern(target)"
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
              ? `also ${target.lods.map((l) => l.triangles).join(' and ')} triangles, ${target.gltf?.levels === 'files' ? 'a file for each' : 'in the same file'}`
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
        <span class="line">
          <Button
            v-if="what === 'figure'"
            :disabled="busy || !figure.recipe || ship.formats.length === 0"
            :label="
              example.endsWith('.zip')
                ? 'Download all as a zip'
                : `Download the ${FORMATS.find((f) => f.id === ship.formats[0])?.name ?? 'file'}`
            "
            data-test="ship-figure"
            @click="shipOne()"
          />
          <Button
            v-else-if="what === 'crowd'"
            label="Make the zip"
            :disabled="!crowd.mix || ship.formats.length === 0"
            data-test="ship-crowd"
            @click="shipCrowd()"
          />
          <Button
            v-else
            :label="ship.underWay ? 'Make the zip after the others' : 'Make the zip'"
            :disabled="several.length === 0 || severalTargets.length === 0 || ship.formats.length === 0"
            data-test="ship-several"
            @click="shipSeveral()"
          />
          <Button
            v-if="what !== 'figure' && ship.busy"
            outlined
            label="Cancel"
            data-test="cancel-ship"
            @click="cancel"
          />
        </span>
      </div>
      <Message v-if="ship.away" severity="warn" class="progress"
        >The server is away; how far it is will be told as soon as it is back.</Message
      >
      <p v-if="problem" class="message" role="alert">{{ problem }}</p>
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
          v-if="what !== 'figure' && !learning && ship.job?.state === 'done'"
          :href="`/api/jobs/${ship.job.id}/file`"
          download
          data-test="download-zip"
          >Download {{ ship.job.about?.file ?? 'crowd.zip' }}</a
        >
      </p>
      <p v-if="result.withheld" class="message">
        What is at fault stayed here.
        <Button text size="small" label="Ship it all the same" data-test="insist" :disabled="busy" @click="insist" />
      </p>
      <ShipChecks
        v-if="result.passed.length || result.problems.length"
        :title="learning ? 'What was learned' : 'Checks before leaving'"
        :passed="result.passed"
        :problems="result.problems"
      />
      <ShipHistory class="history" />
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
  grid-template-columns: 130px minmax(0, 1fr);
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

.form :deep(.p-multiselect-label) {
  flex-wrap: wrap;
  white-space: normal;
  /* of very many, some rows are shown at a time */
  max-height: 124px;
  overflow-y: auto;
}

.history {
  margin-top: calc(2 * var(--s5));
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

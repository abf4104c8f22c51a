<script setup lang="ts">
import { fileName, type Problem, type Recipe, type Target } from '@idle-tinker/core'
import { ask } from '../stores/api'
import { useCrowd } from '../stores/crowd'
import { useFigure } from '../stores/figure'
import { useProject } from '../stores/project'
import { workshop } from '../workers'
import { plain } from '../workers/plain'

interface Job {
  id: string
  state: 'waiting' | 'running' | 'done' | 'failed' | 'canceled'
  done: number
  total: number
  result: { file: string; name: string; triangles: number; bones: number; bytes: number; passed: string[] }[] | null
  error: Problem[] | null
}

const project = useProject()
const figure = useFigure()
const crowd = useCrowd()
const what = ref<'figure' | 'crowd'>(crowd.cards.length ? 'crowd' : 'figure')
const targetId = ref(crowd.cards.length ? 'crowd' : 'near')
const pattern = ref('{name}')
const lods = ref(false)
const busy = ref(false)
const message = ref('')
const passed = ref<string[]>([])
const problems = ref<Problem[]>([])
const job = ref<Job | null>(null)
let events: EventSource | null = null

const target = computed<Target>(() => project.targets.find((t) => t.id === targetId.value)!)
const crowdTarget = computed<Target>(() => ({ ...target.value, limits: { ...target.value.limits, triangles: Math.min(target.value.limits.triangles, crowd.mix?.triangles ?? Infinity) } }))
const example = computed(() => `${fileName(pattern.value, { name: what.value === 'crowd' ? (crowd.cards[0]?.recipe.name ?? crowd.mix?.name ?? 'crowd') : (figure.recipe?.name ?? 'figure'), number: 1, target: targetId.value })}.glb`)

watch(what, (w) => (targetId.value = w === 'crowd' ? 'crowd' : 'near'))

function download(blob: Blob, name: string): void {
  const link = document.createElement('a')
  link.href = URL.createObjectURL(blob)
  link.download = name
  link.click()
  setTimeout(() => URL.revokeObjectURL(link.href), 10_000)
}

async function shipOne(): Promise<void> {
  if (!figure.recipe) return
  busy.value = true
  message.value = ''
  passed.value = []
  problems.value = []
  try {
    const shipped = await workshop('bench').ship(plain(figure.recipe), plain(target.value), lods.value)
    problems.value = shipped.problems
    passed.value = shipped.check?.passed ?? []
    if (shipped.bytes) {
      download(new Blob([shipped.bytes as BlobPart], { type: 'model/gltf-binary' }), example.value)
      message.value = `${example.value}: ${shipped.costs!.triangles.toLocaleString('en')} triangles, ${shipped.costs!.bones} bones, ${Math.ceil(shipped.bytes.length / 1024)} KB.`
    }
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  } finally {
    busy.value = false
  }
}

async function shipCrowd(): Promise<void> {
  busy.value = true
  message.value = ''
  job.value = null
  passed.value = []
  problems.value = []
  try {
    if (crowd.cards.length === 0) await crowd.make()
    const recipes: Recipe[] = crowd.cards.map((c) => plain(c.recipe))
    const { id } = await ask<{ id: string }>('/api/jobs', 'POST', { name: crowd.mix!.name, recipes, target: plain(crowdTarget.value), pattern: pattern.value, lods: lods.value })
    events = new EventSource(`/api/jobs/${id}/events`)
    events.onmessage = ({ data }) => {
      job.value = JSON.parse(data as string) as Job
      if (job.value.state === 'waiting' || job.value.state === 'running') return
      events?.close()
      busy.value = false
      problems.value = job.value.error ?? []
      if (job.value.result) {
        passed.value = [...new Set(job.value.result.flatMap((r) => r.passed).filter((p) => !/tall/.test(p)))]
        message.value = `${job.value.result.length} files, at most ${Math.max(...job.value.result.map((r) => r.triangles))} triangles each, every one read again and checked.`
      }
    }
  } catch (error) {
    busy.value = false
    message.value = error instanceof Error ? error.message : String(error)
  }
}

async function cancel(): Promise<void> {
  if (job.value) job.value = await ask<Job>(`/api/jobs/${job.value.id}/cancel`, 'POST')
  busy.value = false
  events?.close()
}

onBeforeUnmount(() => events?.close())
</script>

<template>
  <div class="ship scroll">
    <div class="column">
      <h1>Ship</h1>
      <div class="form">
        <span>What</span>
        <SelectButton v-model="what" :options="[{ id: 'figure', name: figure.recipe?.name ?? 'Figure' }, { id: 'crowd', name: `${crowd.mix?.name ?? project.mixes[0]?.mix.name ?? 'Crowd'}${crowd.cards.length ? ` (${crowd.cards.length})` : ''}` }]" option-label="name" option-value="id" :allow-empty="false" data-test="what" />
        <span>Target</span>
        <Select v-model="targetId" :options="[...project.targets]" option-label="name" option-value="id" aria-label="Target" data-test="ship-target" />
        <span />
        <span class="soft">{{ (what === 'crowd' ? crowdTarget : target).limits.triangles.toLocaleString('en') }} triangles, {{ target.limits.bones }} bones, {{ target.influences }} {{ target.influences === 1 ? 'influence' : 'influences' }} a vertex, one material. Metres, +Y up, facing +Z.</span>
        <span>File names</span>
        <span class="pattern"><InputText v-model="pattern" maxlength="80" aria-label="File name pattern" data-test="pattern" /> <span class="soft">{name}, {number} and {target} are filled in: <b class="number" data-test="example">{{ example }}</b></span></span>
        <span>Coarser levels</span>
        <label class="line"><ToggleSwitch v-model="lods" input-id="lods" /> <span class="soft">{{ target.lods.length ? `also ${target.lods.join(' and ')} triangles, in the same file` : 'this target has none' }}</span></label>
        <span />
        <span>
          <Button v-if="what === 'figure'" :disabled="busy || !figure.recipe" label="Download the GLB" data-test="ship-figure" @click="shipOne" />
          <Button v-else-if="!busy" label="Make the zip" :disabled="!crowd.mix && !project.mixes.length" data-test="ship-crowd" @click="crowd.mix || crowd.open(project.mixes[0]!.id), shipCrowd()" />
          <Button v-else outlined label="Cancel" @click="cancel" />
        </span>
      </div>
      <div v-if="job && busy" class="progress" role="status">
        <span>Building, writing and checking: {{ job.done }} of {{ job.total }}</span>
        <ProgressBar :value="Math.round((job.done / job.total) * 100)" :show-value="false" />
      </div>
      <p v-if="message" class="message" data-test="ship-message">{{ message }} <a v-if="job?.state === 'done'" :href="`/api/jobs/${job.id}/file`" download data-test="download-zip">Download crowd.zip</a></p>
      <section v-if="passed.length || problems.length" data-test="checks">
        <h2>Checks before leaving</h2>
        <ul>
          <li v-for="p in problems" :key="p.where + p.code" :class="p.severity"><b>{{ p.message }}</b> {{ p.remedy }}</li>
          <li v-for="p in passed" :key="p" class="good">{{ p }}</li>
        </ul>
      </section>
    </div>
  </div>
</template>

<style scoped>
.ship {
  height: 100%;
  padding: var(--s5);
}

.column {
  max-width: 760px;
  margin: 0 auto;
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

ul {
  list-style: none;
  padding: 0;
}

li {
  padding: 4px 0 4px 22px;
  position: relative;
  border-bottom: 1px solid var(--rule);
}

li::before {
  position: absolute;
  left: 2px;
}

li.good::before {
  content: '✓';
  color: var(--act);
}

li.error::before,
li.warning::before {
  content: '!';
  font-weight: 700;
}

li.error {
  color: var(--over);
}

li.warning {
  color: var(--care);
}
</style>

<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { fromEvent } from 'file-selector'
import { useProject } from '../stores/project'
import { usePictures } from '../composables/usePictures'
import { ask, Refused } from '../stores/api'
import {
  bodyOf,
  fullName,
  partsFor,
  refOf,
  shapeSlidersOf,
  slidersByGroup,
  slotsFor,
  type BodyDef,
  type Problem,
} from '@idle-tinker/core'

const project = useProject()
const { pictureOf } = usePictures()
const chosen = ref(project.kits[0]?.manifest.id ?? '')
const kit = computed(() => project.kits.find((k) => k.manifest.id === chosen.value))
/** The kit's parts by the bodies they are for, its own and those of other kits, and by their slots. */
const shelves = computed(() => {
  const manifest = kit.value?.manifest
  if (!manifest) return []
  const names = [...manifest.bodies.map((b) => b.id), ...manifest.parts.flatMap((p) => p.bodies)]
  const refs = new Map(names.map((name) => refOf(name, manifest.id)).map((ref) => [fullName(ref), ref]))
  return [...refs.values()].flatMap((ref) => {
    const def = bodyOf(project.library, ref)
    const slots = slotsFor(project.library, ref).flatMap((slot) => {
      const parts = partsFor(project.library, ref, slot.id).filter((p) => p.kit === manifest.id)
      return parts.length ? [{ slot, parts: parts.map((p) => p.def) }] : []
    })
    return def ? [{ ref, def, slots }] : []
  })
})
const message = ref('')
const problems = ref<Problem[]>([])
const failed = ref(false)
const confirm = useConfirm()
/** Loose models that are being sorted. */
const pack = ref<File[] | null>(null)

const page = ref<HTMLElement>()
// what is dropped may be folders: the files in them come with their paths
const { isOverDropZone } = useDropZone(page, { onDrop: (_files, event) => void take(event) })
async function take(event: DragEvent): Promise<void> {
  const files = (await fromEvent(event)).filter((file) => file instanceof File)
  if (files.length) leavePack(() => (pack.value = files))
}

/** Goes on to something else; where models lie open, once the person has said so: what was chosen for them is lost. */
function leavePack(then: () => void): void {
  const leave = () => {
    pack.value = null
    then()
  }
  if (!pack.value) {
    leave()
    return
  }
  confirm.require({
    header: 'Leave the models?',
    message: 'They have not been made a kit, and what you chose for them is not kept.',
    acceptProps: { label: 'Leave them', 'data-test': 'leave-pack' },
    rejectProps: { label: 'Stay', text: true },
    accept: leave,
  })
}

async function takeMade(file: File): Promise<void> {
  // it stays open where it was not taken, so that nothing that was chosen is lost
  if (await add(file)) pack.value = null
}

/** @returns whether it was taken; what stands in the way is told, or asked */
async function add(file: File, replace = false): Promise<boolean> {
  message.value = ''
  problems.value = []
  failed.value = false
  try {
    const answer = await ask<{ id: string; problems: Problem[] }>(
      `/api/kits${replace ? '?replace=true' : ''}`,
      'POST',
      file,
    )
    problems.value = answer.problems
    message.value = replace ? 'The kit has taken its place.' : 'The kit was added.'
    await project.load()
    chosen.value = answer.id
    return true
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
    problems.value = (error as { problems?: Problem[] }).problems ?? []
    // only once the person has said so
    if (error instanceof Refused && error.status === 409) askToReplace(file, message.value)
    else failed.value = true
    return false
  }
}

/** How much of the project is made from a kit. */
const madeFrom = (id: string) => ({
  figures: project.figures.filter((f) => f.content.body.kit === id || f.content.parts.some((p) => p.part.kit === id))
    .length,
  mixes: project.mixes.filter((m) => m.content.kinds.some((k) => k.body.kit === id)).length,
})

function askToReplace(file: File, why: string): void {
  confirm.require({
    header: 'Put it in its place?',
    message: why,
    acceptProps: { label: 'Put it in its place', 'data-test': 'replace-kit' },
    rejectProps: { label: 'Leave it', text: true },
    accept: () => void add(file, true).then((taken) => taken && (pack.value = null)),
  })
}

function askToRemove(id: string, name: string): void {
  const { figures, mixes } = madeFrom(id)
  confirm.require({
    header: `Remove “${name}”?`,
    message: `${figures} figures and ${mixes} mixes are made from it. They stay, but cannot be built without it.`,
    acceptProps: { label: 'Remove it', severity: 'danger', 'data-test': 'remove-kit-sure' },
    rejectProps: { label: 'Keep it', text: true },
    accept: () => void remove(id),
  })
}

async function remove(id: string): Promise<void> {
  problems.value = []
  failed.value = false
  try {
    await ask(`/api/kits/${id}`, 'DELETE')
    message.value = 'The kit was removed. What was made from it stays, and is whole again when the kit comes back.'
    await project.load()
    if (!project.kits.some((k) => k.manifest.id === chosen.value)) chosen.value = project.kits[0]?.manifest.id ?? ''
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
    failed.value = true
  }
}
/** How much of a body can be shaped, region by region, and what its face can do. */
function holds(body: BodyDef): string {
  const shape = shapeSlidersOf(body)
  const regions = slidersByGroup(body, shape).map((g) => `${g.name.toLowerCase()} ${g.sliders.length}`)
  const faces = body.expressions?.length ?? 0
  if (shape.length === 0) return 'No sliders: its shape is as it came.'
  return `${shape.length} sliders: ${regions.join(', ')}.${faces ? ` ${faces} expressions.` : ''}`
}
</script>

<template>
  <div ref="page" class="kits" :class="{ over: isOverDropZone }">
    <aside class="list">
      <h2>Kits</h2>
      <button
        v-for="k in project.kits"
        :key="k.manifest.id"
        class="kit"
        :class="{ on: k.manifest.id === chosen }"
        :aria-current="k.manifest.id === chosen"
        :data-test="`kit-${k.manifest.id}`"
        @click="leavePack(() => (chosen = k.manifest.id))"
      >
        <b>{{ k.manifest.name }}</b>
        <span class="soft"
          >{{ k.manifest.bodies.length }} {{ k.manifest.bodies.length === 1 ? 'body' : 'bodies' }},
          {{ k.manifest.parts.length }} parts, {{ k.manifest.palettes.length }} palettes</span
        >
        <span class="number soft">{{ k.manifest.kitVersion }}</span>
      </button>
      <div v-for="{ id, problems: faults } in project.broken" :key="id" class="kit broken" :data-test="`broken-${id}`">
        <b>{{ id }}</b>
        <span class="over">It cannot be read. {{ faults.map((p) => `${p.message} ${p.remedy}`).join(' ') }}</span>
        <Button size="small" text label="Remove it" @click="remove(id)" />
      </div>
      <div class="add">
        <FilePick
          label="Add a kit …"
          accept=".zip"
          hint="A kit as a zip: kit.json and its GLB files"
          test="add-kit"
          @file="(file) => add(file)"
        />
        <FilePick
          label="Bring in models …"
          accept=".glb,.gltf,.bin,.obj,.mtl,.png,.jpg,.jpeg,.webp,.zip"
          hint="Loose models of your own, as files or in a zip, here or dropped on the page: they are sorted, and made a kit"
          test="add-pack"
          several
          @files="(files: File[]) => leavePack(() => (pack = files))"
        />
      </div>
      <Message v-if="message" :severity="failed ? 'error' : 'info'" size="small" data-test="kit-message">{{
        message
      }}</Message>
      <ul v-if="problems.length">
        <li v-for="p in problems" :key="p.where + p.code">
          <b>{{ p.where }}</b> {{ p.message }} {{ p.remedy }}
        </li>
      </ul>
    </aside>
    <PackSorting v-if="pack" :files="pack" @made="takeMade" @close="pack = null" />
    <div v-else-if="kit" class="parts scroll">
      <div class="out">
        <Button
          size="small"
          outlined
          label="Remove this kit"
          data-test="remove-kit"
          @click="askToRemove(kit.manifest.id, kit.manifest.name)"
        />
      </div>
      <div v-for="{ ref: body, def, slots } in shelves" :key="fullName(body)">
        <h2 class="title">{{ def.name }}</h2>
        <p v-if="body.kit === kit.manifest.id" class="soft">
          {{ holds(def) }}
        </p>
        <p v-else class="soft">A body of the kit “{{ project.manifest(body.kit)?.name }}”.</p>
        <section v-for="{ slot, parts } in slots" :key="slot.id">
          <h3>{{ slot.name }}</h3>
          <div class="grid">
            <figure v-for="p in parts" :key="p.id">
              <img
                v-if="pictureOf(body, { kit: kit.manifest.id, id: p.id })"
                :src="pictureOf(body, { kit: kit.manifest.id, id: p.id })"
                width="92"
                height="92"
                alt=""
              />
              <span v-else class="coming" />
              <figcaption>{{ p.name }}</figcaption>
            </figure>
          </div>
        </section>
      </div>
    </div>
  </div>
</template>

<style scoped>
.kits {
  display: grid;
  grid-template-columns: min(290px, 40vw) minmax(0, 1fr);
  height: 100%;
}

.kits.over {
  outline: 3px dashed var(--act);
  outline-offset: -6px;
}

.list {
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  padding: var(--s3);
  overflow: auto;
}

.kit {
  appearance: none;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 14px/1.35 var(--text);
  display: grid;
  width: 100%;
  text-align: left;
  padding: var(--s2) var(--s3);
  cursor: pointer;
  margin-top: var(--s2);
}

.out {
  float: right;
}

.broken {
  cursor: default;
  justify-items: start;
}

.broken .over {
  color: var(--over);
}

.kit:not(.broken):hover {
  background: var(--act-soft);
}

.kit.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.add {
  display: grid;
  justify-items: start;
  gap: var(--s2);
  padding: var(--s4) 0;
}

.parts {
  padding: var(--s4) var(--s5);
  height: 100%;
}

section {
  display: grid;
  grid-template-columns: 110px 1fr;
  border-top: 1px solid var(--rule);
  padding: var(--s2) 0;
}

.grid {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s1) var(--s3);
}

figure {
  margin: 0;
  width: 96px;
  display: grid;
  justify-items: center;
  text-align: center;
}

figcaption {
  font-size: 12px;
  line-height: 1.2;
}

.coming {
  width: 92px;
  height: 92px;
}
</style>

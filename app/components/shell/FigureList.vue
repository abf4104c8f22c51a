<script setup lang="ts">
import { ChevronDown, Copy, Pencil, Plus, RotateCcw, Trash2 } from 'lucide-vue-next'
import { newRecipe, rename } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'
import { useProject, type FigureEntry } from '../../stores/project'

const project = useProject()
const figure = useFigure()
const panel = ref<{ toggle(e: Event): void; hide(): void }>()
const editing = ref(false)
const name = ref('')
const message = ref('')

async function attempt(work: () => Promise<void>): Promise<void> {
  try {
    message.value = ''
    await work()
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  }
}

function open(entry: FigureEntry): void {
  figure.open(entry)
  panel.value?.hide()
}

const fresh = (kit: string, body: string) =>
  attempt(async () => {
    const manifest = project.manifest(kit)!
    const { name } = manifest.bodies.find((b) => b.id === body)!
    open(await project.add(newRecipe({ manifest }, body, `New ${name.toLowerCase()}`)))
  })

const duplicate = () =>
  attempt(async () => {
    if (figure.recipe) open(await project.add({ ...figure.recipe, name: `${figure.recipe.name} again`.slice(0, 80) }))
  })

const openFile = (file: File) => attempt(async () => open(await project.openFile(file)))

const remove = (entry: FigureEntry) =>
  attempt(async () => {
    await project.remove(entry.id)
    await project.loadDeleted()
    if (figure.id === entry.id && project.figures[0]) figure.open(project.figures[0])
  })

function startRename(): void {
  name.value = figure.recipe?.name ?? ''
  editing.value = true
}

function finishRename(): void {
  if (editing.value && figure.recipe) figure.edit(rename(figure.recipe, name.value))
  editing.value = false
}

function toggle(event: Event): void {
  panel.value?.toggle(event)
  void attempt(() => project.loadDeleted())
  void project.takeMissingPictures()
}

const bodies = computed(() =>
  project.kits.flatMap((k) => k.manifest.bodies.map((b) => ({ kit: k.manifest.id, id: b.id, name: b.name }))),
)
</script>

<template>
  <div class="figure">
    <InputText
      v-if="editing"
      v-model="name"
      size="small"
      maxlength="80"
      autofocus
      aria-label="Name of the figure"
      data-test="rename-field"
      @keydown.enter="finishRename"
      @keydown.esc="editing = false"
      @blur="finishRename"
    />
    <button
      v-else
      class="open"
      aria-haspopup="dialog"
      data-test="figure-name"
      :disabled="project.state !== 'ready'"
      @click="toggle"
    >
      {{ figure.recipe?.name ?? '…' }} <ChevronDown :size="15" />
    </button>
    <button class="quiet" aria-label="Rename" title="Rename" data-test="rename" @click="startRename">
      <Pencil :size="15" />
    </button>
    <Popover ref="panel">
      <div class="list scroll" data-test="figure-list">
        <div class="make">
          <Button
            v-for="b in bodies"
            :key="b.id"
            size="small"
            outlined
            :label="`New ${b.name.toLowerCase()}`"
            :data-test="`new-${b.id}`"
            @click="fresh(b.kit, b.id)"
            ><template #icon><Plus :size="15" /></template
          ></Button>
          <Button size="small" outlined label="Duplicate" data-test="duplicate" @click="duplicate"
            ><template #icon><Copy :size="15" /></template
          ></Button>
          <FilePick
            label="Open a file …"
            accept=".glb,.json"
            hint="A GLB shipped from here, or a recipe"
            test="open-file"
            @file="openFile"
          />
        </div>
        <p v-if="message" class="over" role="alert" data-test="figure-message">{{ message }}</p>
        <div v-for="f in project.figures" :key="f.id" class="row" :class="{ on: f.id === figure.id }">
          <button class="pick" @click="open(f)">
            <img
              v-if="f.hasPicture"
              :src="`/api/figures/${f.id}/picture?${f.savedAt}${project.pictureVersion}`"
              width="44"
              height="60"
              alt=""
            />
            <span v-else class="blank" />
            {{ f.recipe.name }}
          </button>
          <button
            class="quiet"
            :aria-label="`Delete ${f.recipe.name}`"
            title="Delete"
            data-test="delete"
            @click="remove(f)"
          >
            <Trash2 :size="15" />
          </button>
        </div>
        <template v-if="project.deleted.length">
          <h3>Deleted</h3>
          <div v-for="f in project.deleted" :key="f.id" class="row soft">
            <span class="pick">{{ f.recipe.name }}</span>
            <button
              class="quiet"
              :aria-label="`Bring back ${f.recipe.name}`"
              title="Bring back"
              data-test="restore"
              @click="attempt(() => project.restore(f.id))"
            >
              <RotateCcw :size="15" />
            </button>
          </div>
        </template>
      </div>
    </Popover>
  </div>
</template>

<style scoped>
.figure {
  display: flex;
  align-items: center;
  gap: 2px;
}

.open {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 600 15px var(--text);
  display: flex;
  align-items: center;
  gap: 4px;
  cursor: pointer;
  padding: 6px 8px;
  border-radius: 4px;
  max-width: 240px;
  white-space: nowrap;
  overflow: hidden;
}

.open:hover {
  background: var(--act-soft);
}

.list {
  width: 330px;
  max-height: 70vh;
}

.make {
  display: flex;
  gap: var(--s2);
  flex-wrap: wrap;
  margin-bottom: var(--s3);
}

.row {
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--rule);
}

.row.on .pick {
  font-weight: 650;
}

.pick {
  appearance: none;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  flex: 1;
  display: flex;
  align-items: center;
  gap: var(--s3);
  padding: 4px;
  cursor: pointer;
}

.blank {
  width: 44px;
  height: 60px;
}

h3 {
  margin: var(--s4) 0 var(--s1);
}

.over {
  color: var(--over);
}
</style>

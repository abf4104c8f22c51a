<script setup lang="ts">
import { Camera, Columns2, History, X } from 'lucide-vue-next'
import { describeChange, newSnapshot, type Recipe } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'
import { stepsIn } from '../../stores/history'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'
import { useSnapshotPictures } from '../../composables/useSnapshotPictures'

/** The steps that led to the figure, the newest first; any of them can be gone to. */
const figure = useFigure()
const project = useProject()
const panel = ref<{ toggle(e: Event): void }>()
const shown = ref(false)
const steps = computed(() => {
  if (!shown.value || !figure.history) return []
  const describe = (before: Recipe, after: Recipe) => describeChange(before, after, project.library)
  return stepsIn(figure.history, describe)
    .map(({ at, name }, place) => ({ at, place, name: name ?? 'As it was opened', recipe: recipeAt(place) }))
    .reverse()
})

/** The recipe a step made. */
function recipeAt(place: number): Recipe | undefined {
  const { past, now, future } = figure.history!
  return [...past, now, ...future][place]
}

/** What is looked at beside the figure. */
const beside = shallowRef<{ recipe: Recipe; name: string; returns: boolean } | null>(null)
function showBeside(recipe: Recipe | undefined, name: string, returns = true): void {
  if (recipe) beside.value = { recipe: plain(recipe), name, returns }
}

const snapshots = computed(() => (shown.value ? project.snapshotsOf(figure.id) : []))
const others = computed(() => (shown.value ? project.figures.filter((f) => f.id !== figure.id) : []))
const { pictureOf } = useSnapshotPictures()
const said = ref('')

/** What stands in its way is said. */
async function attempt(work: () => Promise<unknown>): Promise<void> {
  said.value = ''
  try {
    await work()
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
  }
}

/** The figure as it is now, kept to come back to. */
async function snap(): Promise<void> {
  if (!figure.recipe || !figure.id) return
  const taken = new Set(snapshots.value.map((s) => s.name))
  let count = snapshots.value.length + 1
  while (taken.has(`Snapshot ${count}`)) count++
  const { id } = figure
  const recipe = plain(figure.recipe)
  await attempt(() => project.add('kept', newSnapshot(id, `Snapshot ${count}`, recipe)))
}
</script>

<template>
  <button
    class="quiet"
    aria-haspopup="dialog"
    aria-label="Steps"
    title="Steps"
    data-test="steps"
    :disabled="!figure.history"
    @click="panel?.toggle($event)"
  >
    <History :size="18" />
  </button>
  <Popover ref="panel" aria-label="Steps" @show="shown = true" @hide="shown = false">
    <div class="snaps">
      <div class="head">
        <b>Snapshots</b>
        <Button size="small" outlined label="Take one" data-test="snap" @click="snap"
          ><template #icon><Camera :size="14" /></template
        ></Button>
      </div>
      <p v-if="said" role="alert">{{ said }}</p>
      <div class="row" data-test="snapshots">
        <div v-for="s in snapshots" :key="s.id" class="snap">
          <button
            class="picture"
            :title="`Look at ${s.name} beside the figure`"
            :aria-label="`Look at ${s.name} beside the figure`"
            @click="showBeside(s.content.recipe, s.name)"
          >
            <img v-if="pictureOf(s)" :src="pictureOf(s)" alt="" />
          </button>
          <NameField
            :name="s.name"
            :noun="`snapshot ${s.name}`"
            test="rename-snapshot"
            @rename="(name) => attempt(() => project.amendKept('kept', s, { name }))"
          >
            <span>{{ s.name }}</span>
          </NameField>
          <button
            class="quiet"
            :aria-label="`Drop ${s.name}`"
            title="Drop"
            @click="attempt(() => project.remove('kept', s.id))"
          >
            <X :size="14" />
          </button>
        </div>
      </div>
      <Select
        v-if="others.length"
        :model-value="null"
        :options="others"
        option-label="name"
        size="small"
        fluid
        placeholder="Another figure beside it …"
        aria-label="Another figure beside it"
        data-test="beside-figure"
        @update:model-value="showBeside($event.content, $event.name, false)"
      />
    </div>
    <ol class="steps scroll" data-test="step-list">
      <li v-for="s in steps" :key="s.place">
        <button
          :class="s.at"
          :aria-current="s.at === 'now' ? 'step' : undefined"
          :disabled="s.at === 'now'"
          @click="figure.jump(s.place)"
        >
          {{ s.name }}
        </button>
        <button
          v-if="s.at !== 'now'"
          class="quiet side"
          :aria-label="`Look at the figure as of “${s.name}” beside it`"
          title="Beside the figure"
          @click="showBeside(s.recipe, s.name)"
        >
          <Columns2 :size="13" />
        </button>
      </li>
    </ol>
  </Popover>
  <BesideDialog v-if="beside" v-bind="beside" @close="beside = null" />
</template>

<style scoped>
.steps {
  width: 300px;
  max-height: 60vh;
  margin: 0;
  padding: 0;
  list-style: none;
}

.snaps {
  width: 300px;
  padding-bottom: var(--s2);
  border-bottom: 1px solid var(--rule);
}

.head {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding: 0 0 var(--s2);
}

.row {
  display: flex;
  gap: var(--s2);
  overflow-x: auto;
}

.snap {
  position: relative;
  flex: none;
  width: 92px;
  font-size: 11px;
  margin-bottom: var(--s2);
}

.picture {
  appearance: none;
  grid-column: 1 / -1;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--stage);
  width: 90px;
  height: 82px;
  padding: 0;
  cursor: pointer;
}

.picture:hover {
  border-color: var(--act);
}

.snap span {
  display: block;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.snap :deep(input) {
  width: 100%;
  font-size: 11px;
  padding: 2px 4px;
}

/* the pen and the cross lie in the corners of the picture */
.snap :deep(.quiet) {
  position: absolute;
  top: 1px;
  left: 1px;
  padding: 4px;
}

.snap .quiet:last-child {
  left: auto;
  right: 3px;
}

.side {
  flex: none;
}

li {
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--rule);
}

li button {
  appearance: none;
  width: 100%;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px var(--text);
  text-align: left;
  padding: 6px var(--s2);
  cursor: pointer;
}

li button:hover:enabled {
  background: var(--act-soft);
}

li .now {
  border-left: 3px solid var(--act);
  font-weight: 650;
  cursor: default;
}

li .future {
  color: var(--ink-soft);
  font-style: italic;
}
</style>

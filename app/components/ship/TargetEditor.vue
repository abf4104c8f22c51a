<script setup lang="ts">
import { describeProblem, type Target } from '@idle-tinker/core'
import { Refused } from '../../stores/api'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** The limits of one target, to change, to copy and to take away. */
const props = defineProps<{ target: Target }>()
const emit = defineEmits<{ chosen: [id: string] }>()

const project = useProject()
const draft = ref<Target>(plain(props.target))
const saving = ref(false)
const message = ref('')
function start(): void {
  draft.value = plain(props.target)
  message.value = ''
}
// a newer version of the same target leaves what is being typed
watch(() => props.target.id, start)

const ATLASES = [64, 128, 256, 512, 1024, 2048] as const
const INFLUENCES = [1, 2, 4] as const
const LEVELS = DETAILS.map(({ id, name, words }) => ({ id, name: `${name}: ${words}` }))
const COUNTS = [
  { key: 'triangles', name: 'Triangles', most: 200_000 },
  { key: 'vertices', name: 'Vertices', most: 400_000 },
  { key: 'bones', name: 'Bones', most: 256 },
  { key: 'drawCalls', name: 'Draw calls', most: 64 },
] as const
/** Bytes of the limits are shown in KB. */
const SIZES = [
  { key: 'textureBytes', name: 'Texture, KB', most: 65_536 },
  { key: 'fileBytes', name: 'File, KB', most: 65_536 },
] as const

const changed = computed(() => JSON.stringify(draft.value) !== JSON.stringify(props.target))

function setLevel(i: number, triangles: number): void {
  draft.value.lods = draft.value.lods.map((l, k) => (k === i ? { ...l, triangles } : l))
}

function addLevel(): void {
  const { lods, limits } = draft.value
  draft.value.lods = [...lods, { triangles: Math.max(1, Math.round((lods.at(-1)?.triangles ?? limits.triangles) / 2)) }]
}

/** One request at a time; what the server refuses is said here, and the draft stays. */
async function attempt(work: () => Promise<string>): Promise<void> {
  saving.value = true
  message.value = ''
  try {
    emit('chosen', await work())
  } catch (error) {
    message.value =
      error instanceof Refused && error.problems.length
        ? error.problems.map(describeProblem).join(' ')
        : error instanceof Error
          ? error.message
          : String(error)
  } finally {
    saving.value = false
  }
}

const save = () =>
  attempt(async () => {
    try {
      await project.saveTarget(plain(draft.value))
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 409) throw error
      await project.reload('target')
      throw new Error(`${error.message} Save again to put yours in its place, or undo these changes to take theirs.`, {
        cause: error,
      })
    }
    return draft.value.id
  })

const copy = () =>
  attempt(async () => {
    const { id } = await project.addNamed('target', plain(draft.value))
    return id
  })

const remove = () =>
  attempt(async () => {
    await project.remove('target', props.target.id)
    await project.loadDeleted('target')
    return project.targets[0]!.id
  })

const bringBack = (id: string) =>
  attempt(async () => {
    await project.restore('target', id)
    return id
  })

onMounted(() => void attempt(() => project.loadDeleted('target').then(() => props.target.id)))
</script>

<template>
  <section class="editor" aria-label="Limits of the target" data-test="target-editor">
    <label class="wide"
      >Name <InputText v-model="draft.name" maxlength="80" size="small" fluid data-test="target-name"
    /></label>
    <label v-for="c in COUNTS" :key="c.key"
      >{{ c.name }}
      <InputNumber
        v-model="draft.limits[c.key]"
        :min="1"
        :max="c.most"
        size="small"
        fluid
        :input-id="`limit-${c.key}`"
        :data-test="`limit-${c.key}`"
    /></label>
    <label v-for="c in SIZES" :key="c.key"
      >{{ c.name }}
      <InputNumber
        :model-value="Math.round(draft.limits[c.key] / 1024)"
        :min="1"
        :max="c.most"
        size="small"
        fluid
        :input-id="`limit-${c.key}`"
        @update:model-value="draft.limits[c.key] = ($event ?? 1) * 1024"
    /></label>
    <label
      >Influences a vertex
      <Select v-model="draft.influences" :options="[...INFLUENCES]" size="small" fluid aria-label="Influences a vertex"
    /></label>
    <label
      >Color atlas, pixels
      <Select v-model="draft.atlas" :options="[...ATLASES]" size="small" fluid aria-label="Color atlas, pixels"
    /></label>
    <label class="wide"
      >Skeleton
      <Select
        v-model="draft.detail"
        :options="LEVELS"
        option-label="name"
        option-value="id"
        size="small"
        fluid
        aria-label="Skeleton"
    /></label>
    <div class="wide levels">
      <span>Coarser levels, triangles</span>
      <span v-for="(l, i) in draft.lods" :key="i" class="level">
        <InputNumber
          :model-value="l.triangles"
          :min="1"
          :max="200000"
          size="small"
          :aria-label="`Triangles of level ${i + 1}`"
          @update:model-value="setLevel(i, $event ?? 1)"
        />
      </span>
      <Button v-if="draft.lods.length < 4" size="small" text label="Add a level" @click="addLevel" />
      <Button
        v-if="draft.lods.length"
        size="small"
        text
        label="Leave out the last"
        @click="draft.lods = draft.lods.slice(0, -1)"
      />
    </div>
    <Message v-if="message" severity="error" size="small" class="wide" data-test="target-message">{{
      message
    }}</Message>
    <div class="wide actions">
      <Button
        size="small"
        label="Save the limits"
        :disabled="saving || !changed || !draft.name"
        data-test="save-target"
        @click="save"
      />
      <Button
        size="small"
        outlined
        label="Keep as another target"
        :disabled="saving || !draft.name"
        data-test="copy-target"
        @click="copy"
      />
      <Button
        size="small"
        text
        severity="danger"
        label="Delete this target"
        :disabled="saving"
        data-test="delete-target"
        @click="remove"
      />
      <Button v-if="changed" size="small" text label="Undo these changes" data-test="reset-target" @click="start" />
    </div>
    <p v-if="project.deleted.target.length" class="wide soft" data-test="deleted-targets">
      Deleted:
      <Button
        v-for="t in project.deleted.target"
        :key="t.id"
        size="small"
        text
        :label="`bring back “${t.name}”`"
        @click="bringBack(t.id)"
      />
    </p>
  </section>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(130px, 1fr));
  gap: var(--s2) var(--s3);
  padding: var(--s3) 0;
  border-block: 1px solid var(--rule);
}

label {
  display: grid;
  gap: 2px;
  font-size: 12px;
  color: var(--ink-soft);
}

.wide {
  grid-column: 1 / -1;
}

.levels,
.actions {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s2);
  font-size: 12px;
  color: var(--ink-soft);
}

.level {
  width: 84px;
}

.level :deep(input) {
  width: 100%;
}
</style>

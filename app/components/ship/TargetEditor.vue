<script setup lang="ts">
import type { ChainKind, Convention, Target } from '@idle-tinker/core'
import { useProject } from '../../stores/project'
import { useTarget } from '../../stores/target'
import { plain } from '../../workers/plain'

/** The limits of one target, to change, to copy and to take away. */
const props = defineProps<{ target: Target }>()
const emit = defineEmits<{ chosen: [id: string] }>()

const project = useProject()
const open = useTarget()
const busy = ref(false)
const message = ref('')

const numbers = <N extends number>(...all: N[]) => all.map((id) => ({ id, name: String(id) }))
const ATLASES = numbers(64, 128, 256, 512, 1024, 2048)
const INFLUENCES = numbers(1, 2, 4)
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

/** How often each field was emptied: it is made anew then, as what stood in it still holds. */
const emptied = ref<Partial<Record<keyof Target['limits'], number>>>({})

const keepsFaces = computed(() => {
  const kept = props.target.keepExpressions ?? []
  return kept === 'all' || kept.length > 0
})

function set(change: Partial<Target>): void {
  open.change({ ...plain(props.target), ...change })
}

/** As it is kept in the target: what becomes of a pose afterwards changes no target. */
const rests = computed(() => [
  ...RESTS,
  ...(props.target.convention.pose ? [{ id: 'pose', name: `Pose: ${props.target.convention.pose.name}` }] : []),
  ...project.documents.pose.map(({ id, name }) => ({ id: `own ${id}`, name: `Yours: ${name}` })),
])
function setRest(id: string): void {
  const { pose: before, ...convention } = plain(props.target.convention)
  const own = project.documents.pose.find((p) => `own ${p.id}` === id)
  if (own) {
    const { format: _format, version: _version, ...pose } = plain(own.content)
    set({ convention: { ...convention, rest: 'pose', pose } })
  } else set({ convention: { ...convention, rest: id as Convention['rest'], ...(before && { pose: before }) } })
}

/** Chains whose number of bones is not that of their kit; Motion sets it. */
const chains = computed(() => Object.entries(props.target.chains ?? {}) as [ChainKind, number][])
function dropChain(kind: ChainKind): void {
  const { [kind]: _gone, ...left } = props.target.chains ?? {}
  const { chains: _before, ...rest } = plain(props.target)
  open.change(Object.keys(left).length ? { ...rest, chains: left } : rest)
}

/** How clips are written; what is not said is left out. */
function setMotion(change: NonNullable<Target['motion']>): void {
  const { motion: before, ...rest } = plain(props.target)
  const motion = Object.fromEntries(Object.entries({ ...before, ...change }).filter(([, v]) => v !== undefined))
  open.change(Object.keys(motion).length ? { ...rest, motion } : rest)
}

function rename(field: HTMLInputElement): void {
  const name = field.value.trim() || props.target.name
  set({ name })
  // what holds is what is shown: without spaces around it, and not nothing
  field.value = name
}

function setLimit(key: keyof Target['limits'], value: number | null, unit = 1): void {
  if (value === null) emptied.value[key] = (emptied.value[key] ?? 0) + 1
  else set({ limits: { ...props.target.limits, [key]: value * unit } })
}

function setLevel(i: number, triangles: number | null): void {
  if (triangles !== null) set({ lods: props.target.lods.map((l, k) => (k === i ? { ...l, triangles } : l)) })
}

function addLevel(): void {
  const { lods, limits } = props.target
  set({ lods: [...lods, { triangles: Math.max(1, Math.round((lods.at(-1)?.triangles ?? limits.triangles) / 2)) }] })
}

/** One request at a time; what the server refuses is said here. */
async function attempt(work: () => Promise<string | void>): Promise<void> {
  busy.value = true
  message.value = ''
  try {
    const id = await work()
    if (id) emit('chosen', id)
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  } finally {
    busy.value = false
  }
}

const copy = () =>
  attempt(async () => {
    const { id } = await project.addNamed('target', plain(props.target))
    return id
  })

const remove = () =>
  attempt(async () => {
    await project.remove('target', props.target.id)
    open.forget()
    await project.loadDeleted('target')
    const [first] = project.targets
    if (first) open.open(first.id)
    return first?.id
  })

const bringBack = (id: string) =>
  attempt(async () => {
    await project.restore('target', id)
    return id
  })

onMounted(() => void attempt(() => project.loadDeleted('target')))
</script>

<template>
  <section class="editor" aria-label="Limits of the target" data-test="target-editor">
    <label class="wide"
      >Name
      <InputText
        :model-value="target.name"
        maxlength="80"
        size="small"
        fluid
        data-test="target-name"
        @change="rename($event.target as HTMLInputElement)"
    /></label>
    <label v-for="c in COUNTS" :key="c.key"
      >{{ c.name }}
      <InputNumber
        :key="emptied[c.key]"
        :model-value="target.limits[c.key]"
        :min="1"
        :max="c.most"
        size="small"
        fluid
        :input-id="`limit-${c.key}`"
        :data-test="`limit-${c.key}`"
        @update:model-value="setLimit(c.key, $event)"
    /></label>
    <label v-for="c in SIZES" :key="c.key"
      >{{ c.name }}
      <InputNumber
        :key="emptied[c.key]"
        :model-value="Math.round(target.limits[c.key] / 1024)"
        :min="1"
        :max="c.most"
        size="small"
        fluid
        :input-id="`limit-${c.key}`"
        @update:model-value="setLimit(c.key, $event, 1024)"
    /></label>
    <FieldSelect
      name="Influences a vertex"
      :options="INFLUENCES"
      :model-value="target.influences"
      @update:model-value="set({ influences: $event })"
    />
    <FieldSelect
      name="Color atlas, pixels"
      :options="ATLASES"
      :model-value="target.atlas"
      @update:model-value="set({ atlas: $event })"
    />
    <label class="wide line"
      ><Checkbox
        :model-value="keepsFaces"
        binary
        size="small"
        input-id="keep-faces"
        data-test="keep-faces"
        @update:model-value="set({ keepExpressions: $event ? 'all' : [] })"
      />
      Expressions the game can play ship along</label
    >
    <label class="wide line"
      ><Checkbox
        :model-value="target.helperPoints !== false"
        binary
        size="small"
        input-id="helper-points"
        data-test="helper-points"
        @update:model-value="set({ helperPoints: $event })"
      />
      Helper points ship along: eyes, grips, soles</label
    >
    <label class="wide line"
      ><Checkbox
        :model-value="target.motion?.travels ?? false"
        binary
        size="small"
        input-id="travels"
        data-test="travels"
        @update:model-value="setMotion({ travels: $event || undefined })"
      />
      Figures go along in their clips, instead of walking on the spot</label
    >
    <label
      >Keys a second, at most
      <InputNumber
        :model-value="target.motion?.rate ?? 30"
        :min="5"
        :max="30"
        size="small"
        fluid
        aria-label="Keys a second, at most"
        data-test="key-rate"
        @update:model-value="setMotion({ rate: $event && $event < 30 ? $event : undefined })"
    /></label>
    <label
      >Keys may be off by, mm
      <InputNumber
        :model-value="target.motion?.tolerance"
        :min="0"
        :max="50"
        :max-fraction-digits="1"
        size="small"
        fluid
        placeholder="about 3"
        aria-label="Keys may be off by, mm"
        data-test="key-tolerance"
        @update:model-value="setMotion({ tolerance: $event ?? undefined })"
    /></label>
    <label class="wide">Clips that go along <ClipChoice :target="target" @change="set({ keepClips: $event })" /></label>
    <FieldSelect
      name="Skeleton"
      columns="all"
      :options="LEVELS"
      :model-value="target.detail"
      @update:model-value="set({ detail: $event })"
    />
    <FieldSelect
      name="Stands at rest"
      columns="all"
      :options="rests"
      :model-value="target.convention.rest as string"
      data-test="target-rest"
      @update:model-value="setRest"
    />
    <FieldSelect
      v-for="s in GLTF_STYLES"
      :key="s.key"
      :name="s.name"
      :columns="2"
      :options="[...s.options] as { id: string; name: string }[]"
      :model-value="(target.gltf?.[s.key] ?? s.options[0].id) as string"
      :data-test="`target-gltf-${s.key}`"
      @update:model-value="open.change(withGltfStyle(plain(target), s.key, $event))"
    />
    <ConventionEditor :target="target" @change="set({ convention: $event })" />
    <p v-for="[kind, count] in chains" :key="kind" class="wide soft" data-test="target-chain">
      Bones of {{ CHAIN_NAMES[kind] }}: {{ count }}
      <Button size="small" text label="As made" @click="dropChain(kind)" />
    </p>
    <div class="wide levels">
      <span>Coarser levels, triangles</span>
      <span v-for="(l, i) in target.lods" :key="i" class="level">
        <InputNumber
          :model-value="l.triangles"
          :min="1"
          :max="200000"
          size="small"
          :aria-label="`Triangles of level ${i + 1}`"
          @update:model-value="setLevel(i, $event)"
        />
      </span>
      <Button v-if="target.lods.length < 4" size="small" text label="Add a level" @click="addLevel" />
      <Button
        v-if="target.lods.length"
        size="small"
        text
        label="Leave out the last"
        @click="set({ lods: target.lods.slice(0, -1) })"
      />
    </div>
    <Message v-if="message" severity="error" size="small" class="wide" data-test="target-message">{{
      message
    }}</Message>
    <div class="wide actions">
      <Button size="small" outlined label="Make a copy" :disabled="busy" data-test="copy-target" @click="copy" />
      <Button
        size="small"
        text
        severity="danger"
        label="Delete this target"
        :disabled="busy"
        data-test="delete-target"
        @click="remove"
      />
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
.line {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

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

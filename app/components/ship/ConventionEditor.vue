<script setup lang="ts">
import { UNITS, type Convention, type Target } from '@idle-tinker/core'

/** How a game wants its figures to lie, stand and be called: unit, axes, bones, names. */
const props = defineProps<{ target: Target }>()
const emit = defineEmits<{ change: [convention: Convention] }>()

const convention = computed(() => props.target.convention)
const AXES = (['+x', '-x', '+y', '-y', '+z', '-z'] as const).map((id) => ({
  id,
  name: id.toUpperCase().replace('-', '−'),
}))
/** For formats that have no rule of their own for it. */
const ROWS: { id: NonNullable<Convention['rows']>; name: string }[] = [
  { id: 'below', name: 'From below' },
  { id: 'above', name: 'From above' },
]
const fronts = computed(() => AXES.filter(({ id }) => id[1] !== convention.value.up[1]))
/** What files count in; another that was learned stays among them. */
const units = computed(() => {
  const known: { id: number; name: string }[] = UNITS.map(({ metres: id, name }) => ({ id, name }))
  const { unit } = convention.value
  return known.some((u) => u.id === unit) ? known : [...known, { id: unit, name: `${unit} m` }]
})
const learned = computed(() => (convention.value.bones.joints ?? []).length > 0)
const names = computed((): { id: Convention['bones']['names']; name: string }[] => [
  { id: 'vrm', name: 'Open VRM standard' },
  { id: 'numbered', name: 'Numbered' },
  ...(Object.keys(convention.value.bones.table).length ? [{ id: 'table' as const, name: 'As the game has them' }] : []),
])
const turns = computed((): { id: NonNullable<Convention['bones']['axes']>; name: string }[] => [
  { id: 'unturned', name: 'Unturned' },
  { id: 'along', name: 'Along their bones' },
  ...(learned.value ? [{ id: 'joints' as const, name: 'As the game has them' }] : []),
])

const NAMED = [
  { key: 'file', name: 'Files', usual: '{figure}' },
  { key: 'mesh', name: 'Meshes', usual: '{figure} LOD{level}' },
  { key: 'clip', name: 'Clips', usual: '{clip}' },
] as const

function set(change: Partial<Convention>): void {
  emit('change', { ...convention.value, ...change })
}
function setUp(up: Convention['up']): void {
  const { front } = convention.value
  // up and front never lie along one axis
  const free = AXES.find(({ id }) => id[1] !== up[1])!.id
  set({ up, front: front[1] === up[1] ? free : front })
}
function setBones(change: Partial<Convention['bones']>): void {
  set({ bones: { ...convention.value.bones, ...change } })
}
function setName(key: (typeof NAMED)[number]['key'], pattern: string): void {
  const { [key]: _before, ...others } = convention.value.names ?? {}
  set({ names: { ...others, ...(pattern.trim() && { [key]: pattern.trim() }) } })
}
</script>

<template>
  <FieldSelect
    name="Counted in"
    :options="units"
    :model-value="convention.unit"
    data-test="target-unit"
    @update:model-value="set({ unit: $event })"
  />
  <FieldSelect
    name="Up"
    :options="AXES"
    :model-value="convention.up"
    data-test="target-up"
    @update:model-value="setUp($event)"
  />
  <FieldSelect
    name="Facing"
    :options="fronts"
    :model-value="convention.front"
    data-test="target-front"
    @update:model-value="set({ front: $event })"
  />
  <FieldSelect
    name="Rows of pictures"
    :options="ROWS"
    :model-value="convention.rows ?? 'below'"
    data-test="target-rows"
    @update:model-value="set({ rows: $event })"
  />
  <label
    >Times as large
    <InputNumber
      :model-value="convention.scale ?? 1"
      :min="0.01"
      :max="100"
      :max-fraction-digits="3"
      size="small"
      fluid
      aria-label="Times as large"
      data-test="target-scale"
      @update:model-value="set({ scale: $event ?? 1 })"
  /></label>
  <label
    >Bone on the ground
    <InputText
      :model-value="convention.root"
      maxlength="80"
      size="small"
      fluid
      placeholder="none"
      :disabled="learned && convention.bones.names === 'table'"
      data-test="target-root"
      @change="set({ root: ($event.target as HTMLInputElement).value.trim() })"
  /></label>
  <FieldSelect
    name="Bones are called"
    :options="names"
    :columns="2"
    :model-value="convention.bones.names"
    data-test="target-bones"
    @update:model-value="setBones({ names: $event })"
  />
  <FieldSelect
    name="Bones are turned"
    :options="turns"
    :columns="2"
    :model-value="convention.bones.axes ?? 'unturned'"
    data-test="target-axes"
    @update:model-value="setBones({ axes: $event })"
  />
  <label v-for="n in NAMED" :key="n.key"
    >{{ n.name }} are called
    <InputText
      :model-value="convention.names?.[n.key] ?? ''"
      maxlength="120"
      size="small"
      fluid
      :placeholder="n.usual"
      :data-test="`target-${n.key}`"
      @change="setName(n.key, ($event.target as HTMLInputElement).value)"
  /></label>
  <label class="wide line"
    ><Checkbox
      :model-value="convention.bones.unused === 'left-out'"
      binary
      size="small"
      input-id="unused-joints"
      data-test="unused-joints"
      @update:model-value="setBones({ unused: $event ? 'left-out' : 'kept' })"
    />
    Bones that move nothing are left out</label
  >
</template>

<style scoped>
label {
  min-width: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 2px;
  font-size: 12px;
  color: var(--ink-soft);
}

.line {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.wide {
  grid-column: 1 / -1;
}
</style>

<script setup lang="ts">
import type { Convention, Target } from '@idle-tinker/core'

/** How a game wants its figures to lie, stand and be called: unit, axes, bones, names. */
const props = defineProps<{ target: Target }>()
const emit = defineEmits<{ change: [convention: Convention] }>()

const convention = computed(() => props.target.convention)
const AXES = (['+x', '-x', '+y', '-y', '+z', '-z'] as const).map((id) => ({
  id,
  name: id.toUpperCase().replace('-', '−'),
}))
const fronts = computed(() => AXES.filter(({ id }) => id[1] !== convention.value.up[1]))
/** What files count in; another that was learned stays among them. */
const units = computed(() => {
  const known = [
    { id: 1, name: 'Metres' },
    { id: 0.01, name: 'Centimetres' },
    { id: 0.001, name: 'Millimetres' },
    { id: 0.0254, name: 'Inches' },
    { id: 0.3048, name: 'Feet' },
  ]
  const { unit } = convention.value
  return known.some((u) => u.id === unit) ? known : [...known, { id: unit, name: `${unit} m` }]
})
const learned = computed(() => (convention.value.bones.joints ?? []).length > 0)
const names = computed(() => [
  { id: 'vrm', name: 'Open VRM standard' },
  { id: 'numbered', name: 'Numbered' },
  ...(Object.keys(convention.value.bones.table).length ? [{ id: 'table', name: 'As the game has them' }] : []),
])
const turns = computed(() => [
  { id: 'unturned', name: 'Unturned' },
  { id: 'along', name: 'Along their bones' },
  ...(learned.value ? [{ id: 'joints', name: 'As the game has them' }] : []),
])

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
function setName(key: 'mesh' | 'clip', pattern: string): void {
  const { [key]: _before, ...others } = convention.value.names ?? {}
  set({ names: { ...others, ...(pattern.trim() && { [key]: pattern.trim() }) } })
}
</script>

<template>
  <label
    >Counted in
    <Select
      :model-value="convention.unit"
      :options="units"
      option-label="name"
      option-value="id"
      size="small"
      fluid
      aria-label="Counted in"
      data-test="target-unit"
      @update:model-value="set({ unit: $event as number })"
  /></label>
  <label
    >Up
    <Select
      :model-value="convention.up"
      :options="AXES"
      option-label="name"
      option-value="id"
      size="small"
      fluid
      aria-label="Up"
      data-test="target-up"
      @update:model-value="setUp($event as Convention['up'])"
  /></label>
  <label
    >Facing
    <Select
      :model-value="convention.front"
      :options="fronts"
      option-label="name"
      option-value="id"
      size="small"
      fluid
      aria-label="Facing"
      data-test="target-front"
      @update:model-value="set({ front: $event as Convention['front'] })"
  /></label>
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
  <label class="two"
    >Bones are called
    <Select
      :model-value="convention.bones.names"
      :options="names"
      option-label="name"
      option-value="id"
      size="small"
      fluid
      aria-label="Bones are called"
      data-test="target-bones"
      @update:model-value="setBones({ names: $event as Convention['bones']['names'] })"
  /></label>
  <label class="two"
    >Bones are turned
    <Select
      :model-value="convention.bones.axes ?? 'unturned'"
      :options="turns"
      option-label="name"
      option-value="id"
      size="small"
      fluid
      aria-label="Bones are turned"
      data-test="target-axes"
      @update:model-value="setBones({ axes: $event as 'unturned' | 'along' | 'joints' })"
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
  <label
    >Meshes are called
    <InputText
      :model-value="convention.names?.mesh ?? ''"
      maxlength="120"
      size="small"
      fluid
      placeholder="{figure} LOD{level}"
      data-test="target-meshes"
      @change="setName('mesh', ($event.target as HTMLInputElement).value)"
  /></label>
  <label
    >Clips are called
    <InputText
      :model-value="convention.names?.clip ?? ''"
      maxlength="120"
      size="small"
      fluid
      placeholder="{clip}"
      data-test="target-clips"
      @change="setName('clip', ($event.target as HTMLInputElement).value)"
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

.two {
  grid-column: span 2;
}

.wide {
  grid-column: 1 / -1;
}
</style>

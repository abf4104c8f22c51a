<script setup lang="ts">
import { bodyOf, fullName, refOf, slotsFor, type PartDef } from '@idle-tinker/core'
import { useKitDraft } from '../../stores/kitDraft'
import { useProject } from '../../stores/project'

/** How a part is worn, and with what: changed here, and saved with the kit. */
const props = defineProps<{ kit: string; def: PartDef }>()
const project = useProject()
const draft = useKitDraft()

/** A body of its that is here says which slots, sockets and regions there are. */
const body = computed(() => {
  const ref = props.def.bodies.map((b) => refOf(b, props.kit)).find((one) => bodyOf(project.library, one))
  const found = ref && bodyOf(project.library, ref)
  return ref && found ? { ref, def: found } : null
})
const slots = computed(() => (body.value ? slotsFor(project.library, body.value.ref) : []))
const others = computed(() => slots.value.filter((s) => s.id !== props.def.slot))
const bodies = computed(() => {
  const here = project.bodies.map((b) => ({
    id: b.kit === props.kit ? b.id : fullName(b),
    name: b.name,
  }))
  // those that are not here stay named
  const away = props.def.bodies.filter((name) => !here.some((b) => b.id === name))
  return [...here, ...away.map((name) => ({ id: name, name }))]
})
const FITS = {
  attached: [
    { id: 'rigid', name: 'As it is' },
    { id: 'shape', name: 'With the body' },
  ],
  replaces: [
    { id: 'surface', name: 'With the surface' },
    { id: 'shape', name: 'As a whole' },
  ],
}

interface Named {
  id: string
  name: string
}
/** One rule: its key in the part's description, and how it is written. */
type Rule = { key: string; name: string } & (
  | { kind: 'text'; value: string; most?: number; hint?: string; read: (text: string) => unknown }
  | { kind: 'number'; value: number; most: number; digits: number; unit: string }
  | { kind: 'one'; value: string; of: readonly Named[] }
  | { kind: 'many'; value: readonly string[]; of: readonly Named[]; needed?: boolean }
)
const wordsOf = (text: string) => text.split(/[\s,]+/).filter(Boolean)
/** Of a list that may be left out. */
const orNone = (ids: readonly string[]) => (ids.length ? ids : undefined)
const words = (key: string, name: string, ids: readonly string[] = []): Rule => ({
  ...{ key, name, kind: 'text', value: ids.join(', '), hint: 'Parts or tags', read: (t) => orNone(wordsOf(t)) },
})

const rules = computed((): Rule[] => {
  const { def } = props
  const [sockets, seams] = [body.value?.def.sockets ?? [], body.value?.def.seams ?? []]
  return [
    // without a name it keeps the one it has
    { key: 'name', name: 'Name', kind: 'text', value: def.name, most: 80, read: (t) => t.trim() || def.name },
    { key: 'bodies', name: 'For', kind: 'many', value: def.bodies, of: bodies.value, needed: true },
    { key: 'slot', name: 'Slot', kind: 'one', value: def.slot, of: slots.value },
    ...(def.how === 'worn'
      ? ([
          { key: 'layer', name: 'Layer', kind: 'number', value: def.layer, most: 9, digits: 0, unit: '' },
          {
            key: 'clearance',
            name: 'Keeps off',
            kind: 'number',
            value: def.clearance,
            most: 50,
            digits: 1,
            unit: ' mm',
          },
          { key: 'presses', name: 'Presses down', kind: 'many', value: def.presses ?? [], of: others.value },
        ] satisfies Rule[])
      : []),
    ...(def.how === 'attached'
      ? ([{ key: 'socket', name: 'Socket', kind: 'one', value: def.socket, of: sockets }] satisfies Rule[])
      : []),
    ...(def.how === 'replaces'
      ? ([{ key: 'seam', name: 'Seam', kind: 'one', value: def.seam, of: seams }] satisfies Rule[])
      : []),
    ...(def.how === 'worn'
      ? []
      : ([
          { key: 'fit', name: 'Its form', kind: 'one', value: def.fit ?? 'surface', of: FITS[def.how] },
        ] satisfies Rule[])),
    { key: 'covers', name: 'Hides', kind: 'many', value: def.covers ?? [], of: others.value },
    words('excludes', 'Never with', def.excludes),
    words('requires', 'Only with', def.requires),
    { key: 'tags', name: 'Tags', kind: 'text', value: def.tags.join(', '), read: wordsOf },
  ]
})

/** What is left empty is left out. */
function set(key: string, value: unknown): void {
  const next = Object.entries({ ...props.def, [key]: value }).filter(([, v]) => v !== undefined && v !== null)
  draft.changePart(props.kit, Object.fromEntries(next) as PartDef)
}
const setMany = ({ key, needed }: Rule & { kind: 'many' }, ids: readonly string[]) => {
  if (ids.length || !needed) set(key, orNone(ids))
}
const typed = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <section data-test="part-rules">
    <h3>Its rules</h3>
    <p v-if="!draft.isReadable(kit)" class="soft">Not while kit.json cannot be read: mend its text first.</p>
    <div v-else class="rules">
      <template v-for="rule in rules" :key="rule.key">
        <span class="name" aria-hidden="true">{{ rule.name }}</span>
        <InputText
          v-if="rule.kind === 'text'"
          size="small"
          :model-value="rule.value"
          :maxlength="rule.most"
          :placeholder="rule.hint"
          :aria-label="rule.name"
          :data-test="`rule-${rule.key}`"
          @change="set(rule.key, rule.read(typed($event)))"
        />
        <InputNumber
          v-else-if="rule.kind === 'number'"
          :model-value="rule.value"
          :min="0"
          :max="rule.most"
          :max-fraction-digits="rule.digits"
          :suffix="rule.unit"
          show-buttons
          size="small"
          :aria-label="rule.name"
          :data-test="`rule-${rule.key}`"
          @update:model-value="$event !== null && set(rule.key, $event)"
        />
        <Select
          v-else-if="rule.kind === 'one'"
          :model-value="rule.value"
          :options="[...rule.of]"
          option-label="name"
          option-value="id"
          size="small"
          :aria-label="rule.name"
          :data-test="`rule-${rule.key}`"
          @update:model-value="set(rule.key, $event)"
        />
        <MultiSelect
          v-else
          :model-value="[...rule.value]"
          :options="[...rule.of]"
          option-label="name"
          option-value="id"
          placeholder="Nothing"
          size="small"
          :aria-label="rule.name"
          :data-test="`rule-${rule.key}`"
          @update:model-value="setMany(rule, $event)"
        />
      </template>
    </div>
  </section>
</template>

<style scoped>
section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s2);
}

.rules {
  display: grid;
  grid-template-columns: 92px minmax(0, 1fr);
  align-items: center;
  gap: 5px var(--s2);
  font-size: 13px;
}

.rules > :not(.name) {
  width: 100%;
  min-width: 0;
}

.rules :deep(input) {
  width: 100%;
  min-width: 0;
}
</style>

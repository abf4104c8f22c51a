<script setup lang="ts">
import { Plus, X } from 'lucide-vue-next'
import { partOf, refOf, slotsFor, type PickBody } from '@idle-tinker/core'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** What goes together and what does not, beside what kits say. */
const props = defineProps<{ body: PickBody }>()
const emit = defineEmits<{ change: [rules: PickBody['rules']] }>()
const project = useProject()
type Rule = PickBody['rules'][number]
const KINDS: { id: Rule['kind']; name: string }[] = [
  { id: 'excludes', name: 'never with' },
  { id: 'together', name: 'only with' },
  { id: 'replaces', name: 'in place of' },
]
const names = computed(
  () =>
    new Map(
      props.body.slots.flatMap((s) =>
        s.parts.map(({ part, name }) => [
          part,
          name ?? partOf(project.library, refOf(part, props.body.body.kit))?.def.name ?? part,
        ]),
      ),
    ),
)
const slots = computed(() => {
  const named = new Map(slotsFor(project.library, props.body.body).map((s) => [s.id, s.name]))
  return props.body.slots.map((s) => ({ id: s.slot, name: s.name ?? named.get(s.slot) ?? s.slot }))
})
const parts = computed(() => [...names.value].map(([id, name]) => ({ id, name })))
const slotName = (id: string) => slots.value.find((s) => s.id === id)?.name.toLowerCase() ?? id
const nameOf = (part: string) => names.value.get(part) ?? part

const rule = ref({ kind: 'excludes' as Rule['kind'], one: '', other: '', slots: [] as string[] })
const whole = computed(() => {
  const { kind, one, other, slots: gone } = rule.value
  return one !== '' && (kind === 'replaces' ? gone.length > 0 : other !== '' && other !== one)
})
function add(): void {
  if (!whole.value) return
  const { kind, one, other, slots: gone } = rule.value
  const next: Rule = kind === 'replaces' ? { kind, part: one, slots: [...gone] } : { kind, parts: [one, other] }
  emit('change', [...plain(props.body.rules), next])
  rule.value = { kind, one: '', other: '', slots: [] }
}
const WORDS = { excludes: 'never with', together: 'and, only together,' } as const
const wordsOf = (r: Rule) =>
  r.kind === 'replaces'
    ? `${nameOf(r.part)} in place of ${r.slots.map(slotName).join(', ')}`
    : `${nameOf(r.parts[0])} ${WORDS[r.kind]} ${nameOf(r.parts[1])}`
const without = (place: number) => plain(props.body.rules).filter((_, i) => i !== place)
</script>

<template>
  <div v-for="(r, i) in body.rules" :key="i" class="line">
    <span>{{ wordsOf(r) }}</span>
    <button class="quiet" aria-label="Take the rule out" @click="emit('change', without(i))"><X :size="14" /></button>
  </div>
  <div class="new">
    <Select
      v-model="rule.one"
      :options="parts"
      option-label="name"
      option-value="id"
      filter
      size="small"
      placeholder="A part"
      aria-label="A part"
      data-test="rule-one"
    />
    <Select
      v-model="rule.kind"
      :options="KINDS"
      option-label="name"
      option-value="id"
      size="small"
      aria-label="How they go together"
      data-test="rule-kind"
    />
    <MultiSelect
      v-if="rule.kind === 'replaces'"
      v-model="rule.slots"
      :options="slots"
      option-label="name"
      option-value="id"
      size="small"
      placeholder="what is in …"
      aria-label="Slots whose parts are not worn then"
      data-test="rule-slots"
    />
    <Select
      v-else
      v-model="rule.other"
      :options="parts"
      option-label="name"
      option-value="id"
      filter
      size="small"
      placeholder="Another"
      aria-label="Another part"
      data-test="rule-other"
    />
    <Button size="small" outlined aria-label="Add the rule" data-test="add-rule" :disabled="!whole" @click="add"
      ><Plus :size="15"
    /></Button>
  </div>
</template>

<style scoped>
.line {
  display: flex;
  justify-content: space-between;
  font-size: 13px;
  border-bottom: 1px solid var(--rule);
}

.new {
  display: grid;
  grid-template-columns: 118px minmax(0, 1fr) 34px;
  gap: 4px;
  margin-top: var(--s2);
}

.new > :first-child {
  grid-column: 1 / -1;
}

.new :deep(.p-select-label),
.new :deep(.p-multiselect-label) {
  font-size: 12px;
  padding: 4px 6px;
}
</style>

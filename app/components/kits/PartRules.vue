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

/** What is left empty is left out. */
function set(more: Record<string, unknown>): void {
  const next = Object.fromEntries(
    Object.entries({ ...props.def, ...more }).filter(([, value]) => value !== undefined && value !== null),
  )
  draft.changePart(props.kit, next as PartDef)
}
const setList = (key: string, ids: readonly string[]) => set({ [key]: ids.length ? [...ids] : undefined })
const wordsOf = (text: string) => text.split(/[\s,]+/).filter(Boolean)
const typed = (event: Event) => (event.target as HTMLInputElement).value
</script>

<template>
  <section data-test="part-rules">
    <h3>Its rules</h3>
    <p v-if="!draft.isReadable(kit)" class="soft">Not while kit.json cannot be read: mend its text first.</p>
    <div v-else class="rules">
      <label for="rule-name">Name</label>
      <InputText
        id="rule-name"
        size="small"
        :model-value="def.name"
        maxlength="80"
        data-test="rule-name"
        @change="typed($event).trim() && set({ name: typed($event).trim() })"
      />
      <span class="label">For</span>
      <MultiSelect
        aria-label="For"
        :model-value="def.bodies"
        :options="bodies"
        option-label="name"
        option-value="id"
        size="small"
        data-test="rule-bodies"
        @update:model-value="$event.length && set({ bodies: $event })"
      />
      <span class="label">Slot</span>
      <Select
        aria-label="Slot"
        :model-value="def.slot"
        :options="slots"
        option-label="name"
        option-value="id"
        size="small"
        data-test="rule-slot"
        @update:model-value="set({ slot: $event })"
      />
      <template v-if="def.how === 'worn'">
        <label for="rule-layer">Layer</label>
        <InputNumber
          input-id="rule-layer"
          :model-value="def.layer"
          :min="0"
          :max="9"
          show-buttons
          size="small"
          data-test="rule-layer"
          @update:model-value="$event !== null && set({ layer: $event })"
        />
        <label for="rule-clearance">Keeps off</label>
        <InputNumber
          input-id="rule-clearance"
          :model-value="def.clearance"
          :min="0"
          :max="50"
          :max-fraction-digits="1"
          suffix=" mm"
          show-buttons
          size="small"
          data-test="rule-clearance"
          @update:model-value="$event !== null && set({ clearance: $event })"
        />
        <span class="label">Presses down</span>
        <MultiSelect
          aria-label="Presses down"
          :model-value="def.presses ?? []"
          :options="others"
          option-label="name"
          option-value="id"
          placeholder="Nothing"
          size="small"
          data-test="rule-presses"
          @update:model-value="setList('presses', $event)"
        />
      </template>
      <template v-if="def.how === 'attached'">
        <span class="label">Socket</span>
        <Select
          aria-label="Socket"
          :model-value="def.socket"
          :options="body?.def.sockets ?? []"
          option-label="name"
          option-value="id"
          size="small"
          data-test="rule-socket"
          @update:model-value="set({ socket: $event })"
        />
      </template>
      <template v-if="def.how === 'replaces'">
        <span class="label">Seam</span>
        <Select
          aria-label="Seam"
          :model-value="def.seam"
          :options="body?.def.seams ?? []"
          option-label="name"
          option-value="id"
          size="small"
          data-test="rule-seam"
          @update:model-value="set({ seam: $event })"
        />
      </template>
      <template v-if="def.how !== 'worn'">
        <span class="label">Its form</span>
        <Select
          aria-label="Its form"
          :model-value="def.fit ?? 'surface'"
          :options="FITS[def.how]"
          option-label="name"
          option-value="id"
          size="small"
          data-test="rule-fit"
          @update:model-value="set({ fit: $event })"
        />
      </template>
      <span class="label">Hides</span>
      <MultiSelect
        aria-label="Hides"
        :model-value="def.covers ?? []"
        :options="others"
        option-label="name"
        option-value="id"
        placeholder="Nothing"
        size="small"
        data-test="rule-covers"
        @update:model-value="setList('covers', $event)"
      />
      <label for="rule-excludes">Never with</label>
      <InputText
        id="rule-excludes"
        size="small"
        :model-value="(def.excludes ?? []).join(', ')"
        placeholder="Parts or tags"
        data-test="rule-excludes"
        @change="setList('excludes', wordsOf(typed($event)))"
      />
      <label for="rule-requires">Only with</label>
      <InputText
        id="rule-requires"
        size="small"
        :model-value="(def.requires ?? []).join(', ')"
        placeholder="Parts or tags"
        data-test="rule-requires"
        @change="setList('requires', wordsOf(typed($event)))"
      />
      <label for="rule-tags">Tags</label>
      <InputText
        id="rule-tags"
        size="small"
        :model-value="def.tags.join(', ')"
        data-test="rule-tags"
        @change="set({ tags: wordsOf(typed($event)) })"
      />
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

.rules > :not(label, .label) {
  width: 100%;
  min-width: 0;
}

.rules :deep(input) {
  width: 100%;
  min-width: 0;
}
</style>

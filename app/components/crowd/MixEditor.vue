<script setup lang="ts">
import { Plus, X } from 'lucide-vue-next'
import { bodyOf, kindCounts, newKind, type Mix, type MixKind } from '@idle-tinker/core'
import { useCrowd } from '../../stores/crowd'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

const crowd = useCrowd()
const project = useProject()
const mix = computed(() => crowd.mix!)
const adding = ref<{ toggle(event: Event): void }>()
/** The kind whose rules are open; another mix opens with its first. */
const openKind = ref<string | null>(null)
const kind = computed(() => mix.value.kinds.find((k) => k.id === openKind.value) ?? mix.value.kinds[0]!)
const counts = computed(() => kindCounts(mix.value))
const nameOfKind = ({ body }: MixKind) => bodyOf(project.library, body)?.name ?? body.id

/** Changes of one field, one after another, are one step of undo. */
function change(part: Partial<Mix>, field: string | null = null): void {
  // a field that is left gives its value once more
  const same = (key: keyof Mix) => JSON.stringify(part[key]) === JSON.stringify(mix.value[key])
  if ((Object.keys(part) as (keyof Mix)[]).every(same)) return
  crowd.changeRules({ ...mix.value, ...part }, field)
}

function changeKind(next: MixKind, field: string | null = null): void {
  change({ kinds: mix.value.kinds.map((k) => (k.id === next.id ? next : k)) }, field && `${next.id} ${field}`)
}

/** One more kind of figure, of everything there is for its body. */
function addKind(body: { kit: string; id: string }): void {
  const taken = new Set(mix.value.kinds.map((k) => k.id))
  let id = body.id
  for (let n = 2; taken.has(id); n++) id = `${body.id}-${n}`
  change({ kinds: [...plain(mix.value.kinds), newKind(project.library, body, id)] })
  openKind.value = id
}

function removeKind(id: string): void {
  change({ kinds: mix.value.kinds.filter((k) => k.id !== id) })
}

const menu = computed(() =>
  [...project.library].flatMap(([kit, { manifest }]) =>
    manifest.bodies.map(({ id, name }) => ({ label: name, command: () => addKind({ kit, id }) })),
  ),
)
</script>

<template>
  <aside class="mix scroll" aria-label="Mix">
    <div class="numbers">
      <label
        >Figures
        <InputNumber
          :model-value="mix.count"
          :min="1"
          :max="2000"
          size="small"
          fluid
          input-id="count"
          data-test="count"
          @update:model-value="change({ count: $event ?? 1 })"
      /></label>
      <label
        >Seed
        <InputNumber
          :model-value="mix.seed"
          :min="0"
          :max="2147483647"
          :use-grouping="false"
          size="small"
          fluid
          input-id="seed"
          @update:model-value="change({ seed: $event ?? 0 })"
      /></label>
      <label
        >Triangles each
        <InputNumber
          :model-value="mix.triangles"
          :min="50"
          :max="100000"
          size="small"
          fluid
          input-id="limit"
          @update:model-value="change({ triangles: $event ?? 900 })"
      /></label>
    </div>
    <Button
      v-if="crowd.phase === 'idle'"
      :label="`Make ${mix.count} figures`"
      fluid
      data-test="make"
      @click="crowd.make()"
    />
    <Button v-else label="Cancel" outlined fluid data-test="cancel" @click="crowd.cancel()" />
    <Message v-if="crowd.message" severity="error" size="small" class="wrong">{{ crowd.message }}</Message>
    <section class="kinds" aria-label="Kinds of figures">
      <div
        v-for="(k, i) in mix.kinds"
        v-show="mix.kinds.length > 1"
        :key="k.id"
        class="kind"
        :class="{ open: k === kind }"
      >
        <button
          type="button"
          class="pick"
          :aria-pressed="k === kind"
          :data-test="`kind-${k.id}`"
          @click="openKind = k.id"
        >
          {{ nameOfKind(k) }}
        </button>
        <InputNumber
          :model-value="k.share"
          :min="0"
          :max="1000"
          size="small"
          fluid
          :aria-label="`Share of ${nameOfKind(k)}`"
          @update:model-value="changeKind({ ...k, share: $event ?? 0 }, 'share')"
        />
        <span class="number soft" title="Figures of this crowd">{{ counts[i] }}</span>
        <Button
          text
          size="small"
          severity="secondary"
          :aria-label="`Take ${nameOfKind(k)} out`"
          title="Take out"
          :data-test="`remove-kind-${k.id}`"
          @click="removeKind(k.id)"
          ><X :size="14"
        /></Button>
      </div>
      <Button
        text
        size="small"
        class="add"
        data-test="add-kind"
        :disabled="mix.kinds.length >= 20"
        @click="adding?.toggle($event)"
        ><Plus :size="14" /> Another kind of figure …</Button
      >
      <Menu ref="adding" popup :model="menu" />
    </section>
    <KindEditor
      :key="kind.id"
      :kind="kind"
      :count="counts[mix.kinds.indexOf(kind)] ?? 0"
      @change="changeKind"
      @settle="crowd.settle()"
    />
  </aside>
</template>

<style scoped>
.mix {
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  padding: var(--s3);
  height: 100%;
}

.numbers {
  display: grid;
  grid-template-columns: 1fr 1.15fr 1.1fr;
  gap: var(--s2);
  margin: var(--s3) 0;
  font-size: 12px;
  color: var(--ink-soft);
}

.kinds {
  margin-top: var(--s3);
}

.kind {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 60px 30px 28px;
  gap: 6px;
  align-items: center;
  font-size: 13px;
  padding: 1px 0 1px 6px;
  border-left: 3px solid transparent;
}

.kind.open {
  border-left-color: var(--act);
  background: color-mix(in srgb, var(--act) 10%, transparent);
}

.pick {
  all: unset;
  cursor: pointer;
  padding: 5px 0;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.pick:focus-visible {
  outline: 2px solid var(--act);
  outline-offset: 1px;
}

.kind :deep(input) {
  font: 12px var(--mono);
  padding: 2px 5px;
}

.kind :deep(.p-button) {
  padding: 5px;
}

.add {
  font-size: 12.5px;
  gap: 4px;
}

.wrong {
  margin-top: var(--s2);
}
</style>

<script setup lang="ts">
import { useElementSize, useVirtualList } from '@vueuse/core'
import { bodyOf, fullName, namesBody, refOf, slotsFor, type KitPart, type KitRef } from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { useProject } from '../../stores/project'

/** The parts of one kit or of all, in pictures, as far as they fit, have a tag, and are called so. */
const props = defineProps<{
  /** Null for those of all kits. */
  kit: string | null
  chosen: KitRef | null
}>()
const emit = defineEmits<{ choose: [part: KitRef] }>()
const project = useProject()
const { pictureOf } = usePictures()

const words = ref('')
const ANY = 'any'
const fits = ref(ANY)
const tag = ref(ANY)

/** Above parts whose bodies are all away. */
const NOBODY = 'For bodies that are not here'
interface Shelved extends KitPart {
  /** Null where none of its bodies is here. */
  body: KitRef | null
  slot: string
  said: string
}
/** Every part with the first of its bodies that is here, and the slot it goes to. */
const all = computed(() =>
  project.kits
    .filter(({ manifest }) => props.kit === null || manifest.id === props.kit)
    .flatMap(({ manifest }) =>
      manifest.parts.map((def): Shelved => {
        const body = def.bodies.map((b) => refOf(b, manifest.id)).find((ref) => bodyOf(project.library, ref)) ?? null
        const slot = body ? (slotNames.value.get(`${fullName(body)} ${def.slot}`) ?? def.slot) : NOBODY
        const said = [def.name, def.slot, slot, manifest.name, ...def.tags].join(' ').toLowerCase()
        return { kit: manifest.id, def, body, slot, said }
      }),
    ),
)
const slotNames = computed(
  () =>
    new Map(
      project.bodies.flatMap((body) =>
        slotsFor(project.library, body).map((slot) => [`${fullName(body)} ${slot.id}`, slot.name] as const),
      ),
    ),
)
const bodies = computed(() => {
  const named = new Set(all.value.flatMap((p) => p.def.bodies.map((b) => fullName(refOf(b, p.kit)))))
  return [
    { id: ANY, name: 'Any body' },
    ...project.bodies.filter((b) => named.has(fullName(b))).map((b) => ({ id: fullName(b), name: b.name })),
  ]
})
const tags = computed(() => [
  { id: ANY, name: 'Any tag' },
  ...[...new Set(all.value.flatMap((p) => p.def.tags))].sort().map((id) => ({ id, name: id })),
])
const found = computed(() => {
  const asked = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  const body = fits.value === ANY ? null : refOf(fits.value, '')
  return all.value.filter(
    (p) =>
      asked.every((word) => p.said.includes(word)) &&
      (tag.value === ANY || p.def.tags.includes(tag.value)) &&
      (!body || namesBody(p.def.bodies, p.kit, body)),
  )
})
/** On which body a part is shown: the one that was asked for. */
const shownOn = (part: Shelved): KitRef | null => (fits.value === ANY ? part.body : refOf(fits.value, ''))

const isSame = (a: KitRef, b: KitRef | null) => b !== null && fullName(a) === fullName(b)
const pictureFor = (part: Shelved) => {
  const body = shownOn(part)
  return body ? pictureOf(body, { kit: part.kit, id: part.def.id }) : undefined
}

const CELL = { width: 108, height: 124 }
const HEADING = 40
const grid = ref<HTMLElement>()
const { width } = useElementSize(grid)
const columns = computed(() => Math.max(2, Math.floor(width.value / CELL.width)))
type Row = { heading: string; kit: string; count: number } | { parts: Shelved[] }
/** Slot by slot, kit by kit, as many beside each other as there is room for. */
const rows = computed((): Row[] => {
  const groups = new Map<string, { heading: string; kit: string; parts: Shelved[] }>()
  for (const part of found.value) {
    const heading = part.slot
    // of all kits the parts of a slot stand together, whoever they are for
    const name = props.kit === null ? '' : (project.bodies.find((b) => isSame(b, shownOn(part)))?.name ?? '')
    const key = `${name} ${heading}`
    if (!groups.has(key)) groups.set(key, { heading, kit: bodies.value.length > 2 ? name : '', parts: [] })
    groups.get(key)!.parts.push(part)
  }
  return [...groups.values()].flatMap(({ heading, kit, parts }): Row[] => {
    const lines = Array.from({ length: Math.ceil(parts.length / columns.value) }, (_, i) => ({
      parts: parts.slice(i * columns.value, (i + 1) * columns.value),
    }))
    return [{ heading, kit, count: parts.length }, ...lines]
  })
})
const { list, containerProps, wrapperProps, scrollTo } = useVirtualList(rows, {
  itemHeight: (i) => (rows.value[i] && 'heading' in rows.value[i] ? HEADING : CELL.height),
  overscan: 3,
})
watch([words, fits, tag, () => props.kit], () => scrollTo(0))
watch(
  () => props.kit,
  () => {
    words.value = ''
    fits.value = tag.value = ANY
  },
)
const isChosen = (p: KitPart) => props.chosen?.kit === p.kit && props.chosen.id === p.def.id
</script>

<template>
  <div class="shelf">
    <div class="filters">
      <InputText
        v-model="words"
        size="small"
        placeholder="Search parts"
        aria-label="Search parts"
        data-test="shelf-words"
      />
      <Select
        v-model="fits"
        :options="bodies"
        option-label="name"
        option-value="id"
        size="small"
        aria-label="For which body"
        data-test="shelf-fits"
      />
      <Select
        v-if="tags.length > 1"
        v-model="tag"
        :options="tags"
        option-label="name"
        option-value="id"
        size="small"
        aria-label="With which tag"
        data-test="shelf-tag"
      />
      <span class="soft number" role="status" data-test="shelf-count">{{ found.length }} of {{ all.length }}</span>
    </div>
    <p v-if="found.length === 0" class="soft none">
      {{ all.length ? 'No part is like that.' : 'This kit has no parts.' }}
    </p>
    <div v-bind="containerProps" class="rows scroll parts">
      <div ref="grid">
        <div v-bind="wrapperProps">
          <template v-for="{ data: row, index } in list" :key="index">
            <h3 v-if="'heading' in row" :style="{ height: `${HEADING}px` }">
              {{ row.heading }} <span v-if="row.kit" class="soft">{{ row.kit }}</span>
              <span class="number soft">{{ row.count }}</span>
            </h3>
            <div v-else class="row" :style="{ height: `${CELL.height}px` }">
              <button
                v-for="p in row.parts"
                :key="`${p.kit}/${p.def.id}`"
                class="part"
                :class="{ on: isChosen(p) }"
                :aria-pressed="isChosen(p)"
                :style="{ width: `${CELL.width}px` }"
                :data-test="`part-${p.def.id}`"
                @click="emit('choose', { kit: p.kit, id: p.def.id })"
              >
                <img v-if="pictureFor(p)" :src="pictureFor(p)" width="92" height="92" alt="" />
                <span v-else class="coming" />
                {{ p.def.name }}
              </button>
            </div>
          </template>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.shelf {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  height: 100%;
  min-height: 0;
}

.filters {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s2);
  padding-bottom: var(--s2);
}

.filters > :first-child {
  flex: 1 1 140px;
}

.rows {
  grid-row: 3;
  overflow-x: hidden;
}

.none {
  grid-row: 2;
}

h3 {
  display: flex;
  align-items: end;
  gap: var(--s2);
  border-bottom: 1px solid var(--rule);
  padding-bottom: 4px;
}

h3 .soft {
  font-weight: 400;
  font-family: var(--text);
}

.row {
  display: flex;
}

.part {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 12px/1.2 var(--text);
  cursor: pointer;
  border-radius: 6px;
  padding: 4px 2px;
  display: grid;
  justify-items: center;
  align-content: start;
}

.part:hover {
  background: color-mix(in srgb, var(--act) 10%, transparent);
}

.part.on {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
  font-weight: 600;
}

.coming {
  width: 92px;
  height: 92px;
}
</style>

<script setup lang="ts">
import { bodyOf, refOf, type KitManifest } from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { useKitDraft } from '../../stores/kitDraft'
import { useProject } from '../../stores/project'

/** The kits of the project by their covers: what is in each, and whether it is in order. */
defineProps<{ chosen: string | null }>()
const emit = defineEmits<{ choose: [kit: string | null]; remove: [kit: string] }>()
const project = useProject()
const draft = useKitDraft()
const { pictureOf, pictureOfLook } = usePictures()

/** The first of its looks, of its bodies, or of its parts. */
function cover(kit: KitManifest): string | undefined {
  const look = kit.looks?.find((l) => bodyOf(project.library, refOf(l.body, kit.id)))
  if (look) return pictureOfLook(kit.id, look)
  const [body] = kit.bodies
  if (body) return pictureOf({ kit: kit.id, id: body.id })
  for (const part of kit.parts)
    for (const name of part.bodies) {
      const ref = refOf(name, kit.id)
      if (bodyOf(project.library, ref)) return pictureOf(ref, { kit: kit.id, id: part.id })
    }
  return undefined
}
const many = (n: number, one: string, more = `${one}s`) => (n ? [`${n} ${n === 1 ? one : more}`] : [])
const holds = (kit: KitManifest): string =>
  [
    ...many(kit.bodies.length, 'body', 'bodies'),
    ...many(kit.parts.length, 'part'),
    ...many(kit.looks?.length ?? 0, 'look'),
    ...many(kit.palettes.length, 'palette'),
  ].join(', ') || 'Empty'
/** What is said of a kit that is not whole. */
const faultsOf = (id: string) =>
  project.kits.find((k) => k.manifest.id === id)?.problems.filter((p) => p.severity !== 'info') ?? []
const all = computed(() => {
  const parts = project.kits.reduce((n, { manifest }) => n + manifest.parts.length, 0)
  return [parts, ...many(project.kits.length, 'kit')].join(' in ')
})
</script>

<template>
  <div class="kits-list">
    <button
      class="kit all"
      :class="{ on: chosen === null }"
      :aria-current="chosen === null"
      data-test="all-parts"
      @click="emit('choose', null)"
    >
      <b>All parts</b>
      <span class="soft">{{ all }}</span>
    </button>
    <button
      v-for="{ manifest } in project.kits"
      :key="manifest.id"
      class="kit"
      :class="{ on: manifest.id === chosen }"
      :aria-current="manifest.id === chosen"
      :data-test="`kit-${manifest.id}`"
      @click="emit('choose', manifest.id)"
    >
      <b>{{ manifest.name }}</b>
      <span class="soft">{{ holds(manifest) }}</span>
      <span class="number soft"
        >{{ manifest.kitVersion }}<template v-if="draft.isDirty(manifest.id)">, changed</template>
        <span v-if="faultsOf(manifest.id).length" class="care"
          >, {{ faultsOf(manifest.id).length }} {{ faultsOf(manifest.id).length === 1 ? 'fault' : 'faults' }}</span
        >
      </span>
      <img v-if="cover(manifest)" :src="cover(manifest)" height="72" alt="" />
      <span v-else class="cover" />
    </button>
    <div v-for="{ id, problems: faults } in project.broken" :key="id" class="kit broken" :data-test="`broken-${id}`">
      <b>{{ id }}</b>
      <span class="over">It cannot be read. {{ faults.map((p) => `${p.message} ${p.remedy}`).join(' ') }}</span>
      <Button size="small" text label="Remove it" @click="emit('remove', id)" />
    </div>
  </div>
</template>

<style scoped>
.kit {
  appearance: none;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 13.5px/1.35 var(--text);
  display: grid;
  grid-template-columns: minmax(0, 1fr) 72px;
  align-content: center;
  width: 100%;
  text-align: left;
  padding: var(--s2) var(--s2) var(--s2) var(--s3);
  cursor: pointer;
  margin-top: var(--s1);
}

.kit > :not(img, .cover) {
  grid-column: 1;
}

.kit img,
.cover {
  grid-column: 2;
  grid-row: 1 / span 3;
  width: 72px;
  height: 72px;
  object-fit: contain;
}

.all {
  grid-template-columns: 1fr;
}

.broken {
  cursor: default;
  grid-template-columns: 1fr;
  justify-items: start;
}

.over {
  color: var(--over);
}

.care {
  color: var(--care);
}

.kit:not(.broken):hover {
  background: var(--act-soft);
}

.kit.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}
</style>

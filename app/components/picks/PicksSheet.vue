<script setup lang="ts">
import { Plus, X } from 'lucide-vue-next'
import {
  addPickBody,
  bodyOf,
  changePickBody,
  holdsSeveral,
  ICON,
  newPickBody,
  newPickSlot,
  partOf,
  refOf,
  removePickBody,
  slotsFor,
  type PickBody,
  type PickSlot,
} from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { usePicks } from '../../stores/picks'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** What players may choose: the bodies, and of the one that is open what stands in each slot. */
const picks = usePicks()
const project = useProject()
const { pictureOf } = usePictures()
const bodyId = defineModel<string | null>('body', { required: true })
const slotId = defineModel<string | null>('slot', { required: true })
const SIDES = [48, 64, 96, 128, 192, 256].map((id) => ({ id, name: `${id} pixels` }))
const adding = ref<{ toggle(event: Event): void }>()
const body = computed(() => picks.now?.bodies.find((b) => b.id === bodyId.value) ?? picks.now?.bodies[0] ?? null)
const names = computed(() =>
  body.value ? new Map(slotsFor(project.library, body.value.body).map((s) => [s.id, s.name])) : new Map(),
)
const unused = computed(() =>
  body.value
    ? slotsFor(project.library, body.value.body).filter(
        (s) =>
          !holdsSeveral(s) &&
          !body.value!.slots.some((own) => own.slot === s.id) &&
          newPickSlot(project.library, body.value!.body, s.id),
      )
    : [],
)
const picture = ({ start }: PickSlot) =>
  start === null ? undefined : pictureOf(body.value!.body, refOf(start, body.value!.body.kit))
const startName = ({ start, parts }: PickSlot) =>
  start === null
    ? 'nothing'
    : (
        parts.find((p) => p.part === start)?.name ??
        partOf(project.library, refOf(start, body.value!.body.kit))?.def.name ??
        start
      ).toLowerCase()

function openBody(b: PickBody): void {
  bodyId.value = b.id
  slotId.value = null
}
function addSlot(id: string): void {
  const slot = newPickSlot(project.library, body.value!.body, id)
  if (!slot) return
  picks.change(changePickBody(plain(picks.now!), body.value!.id, { slots: [...plain(body.value!.slots), slot] }))
  slotId.value = id
}
function removeSlot(id: string): void {
  picks.change(
    changePickBody(plain(picks.now!), body.value!.id, {
      slots: plain(body.value!.slots).filter((s) => s.slot !== id),
    }),
  )
  if (slotId.value === id) slotId.value = null
}
const menu = computed(() =>
  project.bodies.map(({ kit, id, name }) => ({
    label: name,
    command: () => {
      const next = addPickBody(plain(picks.now!), newPickBody(project.library, { kit, id }))
      picks.change(next)
      openBody(next.bodies.at(-1)!)
    },
  })),
)
function removeBody(b: PickBody): void {
  picks.change(removePickBody(plain(picks.now!), b.id))
  bodyId.value = null
}
</script>

<template>
  <aside v-if="picks.now && body" class="sheet scroll" aria-label="What players may choose">
    <div class="bodies" role="group" aria-label="Bodies">
      <div v-for="b in picks.now.bodies" :key="b.id" class="body" :class="{ open: b === body }">
        <button type="button" :aria-pressed="b === body" :data-test="`picks-body-${b.id}`" @click="openBody(b)">
          {{ b.name }}
          <span v-if="!bodyOf(project.library, b.body)" class="over">not here</span>
        </button>
        <button
          v-if="picks.now.bodies.length > 1"
          class="quiet"
          :aria-label="`Take ${b.name} out`"
          title="Take out"
          @click="removeBody(b)"
        >
          <X :size="14" />
        </button>
      </div>
      <Button
        text
        size="small"
        data-test="add-picks-body"
        :disabled="picks.now.bodies.length >= 12"
        @click="adding?.toggle($event)"
        ><Plus :size="14" /> Another body …</Button
      >
      <Menu ref="adding" popup :model="menu" />
    </div>
    <button
      type="button"
      class="row whole"
      :aria-pressed="slotId === null"
      data-test="picks-whole"
      @click="slotId = null"
    >
      <span class="words"
        ><b>The whole body</b>
        <span class="soft"
          >{{ body.sliders.length }} sliders, {{ Object.keys(body.colors).length }} colors,
          {{ body.expressions.length }} moods, {{ body.rules.length }}
          {{ body.rules.length === 1 ? 'rule' : 'rules' }}</span
        ></span
      >
    </button>
    <div v-for="s in body.slots" :key="s.slot" class="line">
      <button
        type="button"
        class="row"
        :aria-pressed="slotId === s.slot"
        :data-test="`picks-slot-${s.slot}`"
        @click="slotId = s.slot"
      >
        <img v-if="picture(s)" :src="picture(s)" width="44" height="44" alt="" />
        <span v-else class="blank" />
        <span class="words"
          ><b>{{ s.name ?? names.get(s.slot) ?? s.slot }}</b>
          <span class="soft"
            >{{ s.parts.length }} {{ s.parts.length === 1 ? 'part' : 'parts' }}, begins with {{ startName(s)
            }}{{ s.needed ? ', never empty' : '' }}</span
          ></span
        >
      </button>
      <button
        class="quiet"
        :aria-label="`Offer nothing in ${names.get(s.slot) ?? s.slot}`"
        title="Offer nothing here"
        @click="removeSlot(s.slot)"
      >
        <X :size="14" />
      </button>
    </div>
    <p v-if="unused.length" class="soft more">
      Not offered:
      <Button
        v-for="s in unused"
        :key="s.id"
        text
        size="small"
        :label="s.name"
        :data-test="`offer-slot-${s.id}`"
        @click="addSlot(s.id)"
        ><template #icon><Plus :size="13" /></template
      ></Button>
    </p>
    <label class="soft icons"
      >Pictures of parts
      <Select
        :model-value="picks.now.icons ?? ICON"
        :options="SIDES"
        option-label="name"
        option-value="id"
        size="small"
        aria-label="Size of the pictures of parts"
        data-test="icon-size"
        @update:model-value="picks.change({ ...plain(picks.now!), icons: $event as number })"
    /></label>
  </aside>
</template>

<style scoped>
.sheet {
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  padding: var(--s3);
}

.icons {
  display: flex;
  align-items: center;
  gap: var(--s2);
  margin-top: var(--s3);
  font-size: 13px;
}

.bodies {
  display: grid;
  gap: 2px;
  margin-bottom: var(--s2);
}

.body {
  display: flex;
  align-items: center;
  border-left: 3px solid transparent;
}

.body.open {
  border-left-color: var(--act);
  background: color-mix(in srgb, var(--act) 10%, transparent);
}

.body > button:first-child {
  all: unset;
  flex: 1;
  padding: 5px 8px;
  cursor: pointer;
  font-weight: 600;
}

.body > button:first-child:focus-visible,
.row:focus-visible {
  outline: 2px solid var(--act);
  outline-offset: -2px;
}

.line {
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--rule);
}

.row {
  all: unset;
  box-sizing: border-box;
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: var(--s2);
  padding: 3px 4px;
  cursor: pointer;
}

.row:hover {
  background: var(--act-soft);
}

.row[aria-pressed='true'] {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
}

.whole {
  width: 100%;
  padding: var(--s2) 4px;
  border-bottom: 1px solid var(--rule);
}

.words {
  min-width: 0;
  display: grid;
  line-height: 1.25;
}

.words .soft {
  font-size: 12px;
}

.blank {
  width: 44px;
  height: 44px;
}

.more {
  font-size: 12px;
}

.over {
  color: var(--over);
  font-weight: 400;
}
</style>

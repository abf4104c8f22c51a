<script setup lang="ts">
import { ArrowDown, ArrowUp, Ellipsis } from 'lucide-vue-next'
import {
  changePickPart,
  changePickSlot,
  fullName,
  movePart,
  movePickSlot,
  offerPart,
  partsFor,
  pickName,
  type KitPart,
  type PickBody,
  type PickPart,
  type PickSlot,
} from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { usePackage } from '../../stores/package'
import { usePicks } from '../../stores/picks'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** What is offered in one slot. */
const props = defineProps<{ body: PickBody; slotPicks: PickSlot; slotName: string }>()
/** No part is called so. */
const NOTHING = '-'
const picks = usePicks()
const built = usePackage()
const project = useProject()
const { pictureOf } = usePictures()
const nameOf = ({ kit, def }: KitPart) => pickName(props.body.body, { kit, id: def.id })
const placeOf = (part: KitPart) => props.slotPicks.parts.findIndex((p) => p.part === nameOf(part))
const offered = (part: KitPart) => props.slotPicks.parts[placeOf(part)]
/** Those that are offered in their order, then the others as kits have them. */
const parts = computed(() => {
  const all = partsFor(project.library, props.body.body, props.slotPicks.slot)
  const place = (p: KitPart) => (offered(p) ? placeOf(p) : Infinity)
  return all
    .map((p) => [place(p), p] as const)
    .sort(([a], [b]) => (a === b ? 0 : a - b))
    .map(([, p]) => p)
})
/** The one of which name, tags and place are open. */
const open = ref<string | null>(null)
/** Parts that the picks name and no kit has any more. */
const gone = computed(() => props.slotPicks.parts.filter((p) => !parts.value.some((k) => nameOf(k) === p.part)))
/** What each part costs of its own, as it was last built. */
const costs = computed(
  () => new Map(built.report?.bodies.find((b) => b.id === props.body.id)?.options.map((o) => [o.id, o.triangles])),
)
const costOf = ({ kit, def }: KitPart) => costs.value.get(fullName({ kit, id: def.id }))
const starts = computed(() => [
  ...(props.slotPicks.needed ? [] : [{ id: NOTHING, name: 'Nothing' }]),
  ...parts.value
    .filter((p) => offered(p) && offered(p)!.earned === undefined)
    .map((p) => ({ id: nameOf(p), name: offered(p)!.name ?? p.def.name })),
])
const change = (next: Partial<PickSlot>, mark: string | null = null) =>
  picks.change(changePickSlot(plain(picks.now!), props.body.id, props.slotPicks.slot, next), mark)
const offer = (part: string, on: boolean) =>
  picks.change(offerPart(plain(picks.now!), props.body.id, props.slotPicks.slot, part, on))
const say = (part: string, said: Partial<PickPart>) =>
  picks.change(
    changePickPart(plain(picks.now!), props.body.id, props.slotPicks.slot, part, said),
    `${Object.keys(said).join()} ${part}`,
  )
const move = (part: string, by: -1 | 1) =>
  picks.change(movePart(plain(picks.now!), props.body.id, props.slotPicks.slot, part, by))
const place = computed(() => props.body.slots.findIndex((s) => s.slot === props.slotPicks.slot))
const moveSlot = (by: -1 | 1) => picks.change(movePickSlot(plain(picks.now!), props.body.id, props.slotPicks.slot, by))
const tagsIn = (text: string) => [...new Set(text.split(',').map(idIn).filter(Boolean))].slice(0, 20)
function name(part: KitPart, text: string): void {
  const next = text.trim().slice(0, 80)
  say(nameOf(part), { name: next === part.def.name ? '' : next })
}
function rename(name: string): void {
  const next = name.trim().slice(0, 80)
  change({ name: next && next !== props.slotName ? next : undefined }, 'slot name')
}
</script>

<template>
  <aside class="slot scroll" :aria-label="`What is offered: ${slotName}`">
    <h2>{{ slotPicks.name ?? slotName }}</h2>
    <div class="form">
      <label for="slot-name">Called in the game</label>
      <InputText
        id="slot-name"
        :model-value="slotPicks.name ?? slotName"
        size="small"
        maxlength="80"
        data-test="slot-name"
        @change="rename(($event.target as HTMLInputElement).value)"
      />
      <label for="slot-needed">Never empty</label>
      <ToggleSwitch
        input-id="slot-needed"
        :model-value="slotPicks.needed"
        data-test="slot-needed"
        @update:model-value="change({ needed: $event })"
      />
      <span id="begins">Begins with</span>
      <Select
        :model-value="slotPicks.start ?? NOTHING"
        :options="starts"
        option-label="name"
        option-value="id"
        size="small"
        aria-labelledby="begins"
        data-test="slot-start"
        @update:model-value="change({ start: $event === NOTHING ? null : ($event as string) })"
      />
      <span>Among the slots</span>
      <span class="moves">
        <Button
          text
          size="small"
          aria-label="The slot further up"
          data-test="slot-up"
          :disabled="place <= 0"
          @click="moveSlot(-1)"
          ><ArrowUp :size="15"
        /></Button>
        <Button
          text
          size="small"
          aria-label="The slot further down"
          :disabled="place >= body.slots.length - 1"
          @click="moveSlot(1)"
          ><ArrowDown :size="15"
        /></Button>
        <span class="soft">{{ place + 1 }} of {{ body.slots.length }}</span>
      </span>
    </div>
    <h3>{{ slotPicks.parts.length }} of {{ parts.length + gone.length }} parts are offered</h3>
    <div v-for="p in parts" :key="nameOf(p)" class="part" :class="{ off: !offered(p) }">
      <label
        ><Checkbox
          :model-value="Boolean(offered(p))"
          binary
          :input-id="`offer-${p.def.id}`"
          :data-test="`offer-${p.def.id}`"
          :disabled="slotPicks.parts.length === 1 && Boolean(offered(p))"
          @update:model-value="offer(nameOf(p), $event)"
        />
        <img
          v-if="pictureOf(body.body, { kit: p.kit, id: p.def.id })"
          :src="pictureOf(body.body, { kit: p.kit, id: p.def.id })"
          width="40"
          height="40"
          alt=""
        />
        <span v-else class="blank" />
        <span class="words"
          >{{ offered(p)?.name ?? p.def.name }}
          <span v-if="costOf(p) !== undefined" class="number soft">{{ costOf(p)!.toLocaleString('en') }}</span></span
        ></label
      >
      <InputText
        v-if="offered(p)"
        :model-value="offered(p)!.earned ?? ''"
        size="small"
        maxlength="64"
        placeholder="earned by"
        :aria-label="`${p.def.name}: the flag it is earned by`"
        :title="`The game’s flag by which it is earned; nothing: it is there from the start`"
        :data-test="`earn-${p.def.id}`"
        @change="say(nameOf(p), { earned: idIn(($event.target as HTMLInputElement).value) })"
      />
      <button
        v-if="offered(p)"
        type="button"
        class="quiet"
        :aria-label="`${p.def.name}: name, tags, place`"
        :aria-expanded="open === nameOf(p)"
        :data-test="`more-${p.def.id}`"
        @click="open = open === nameOf(p) ? null : nameOf(p)"
      >
        <Ellipsis :size="15" />
      </button>
      <div v-if="offered(p) && open === nameOf(p)" class="form more">
        <label :for="`name-${p.def.id}`">Called in the game</label>
        <InputText
          :id="`name-${p.def.id}`"
          :model-value="offered(p)!.name ?? p.def.name"
          size="small"
          maxlength="80"
          @change="name(p, ($event.target as HTMLInputElement).value)"
        />
        <label :for="`tags-${p.def.id}`">Tags</label>
        <InputText
          :id="`tags-${p.def.id}`"
          :model-value="(offered(p)!.tags ?? []).join(', ')"
          size="small"
          placeholder="none, or warm, old …"
          @change="say(nameOf(p), { tags: tagsIn(($event.target as HTMLInputElement).value) })"
        />
        <span>Place</span>
        <span class="moves">
          <Button
            text
            size="small"
            aria-label="Further up"
            :data-test="`up-${p.def.id}`"
            :disabled="placeOf(p) === 0"
            @click="move(nameOf(p), -1)"
            ><ArrowUp :size="15"
          /></Button>
          <Button
            text
            size="small"
            aria-label="Further down"
            :disabled="placeOf(p) === slotPicks.parts.length - 1"
            @click="move(nameOf(p), 1)"
            ><ArrowDown :size="15"
          /></Button>
          <span class="soft">{{ placeOf(p) + 1 }} of {{ slotPicks.parts.length }}</span>
        </span>
      </div>
    </div>
    <div v-for="p in gone" :key="p.part" class="part over">
      <span>{{ p.part }} is in no kit any more.</span>
      <Button text size="small" label="Take out" @click="offer(p.part, false)" />
    </div>
  </aside>
</template>

<style scoped>
.slot {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: var(--s3);
}

.form {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: var(--s2) var(--s3);
  align-items: center;
  margin: var(--s3) 0;
  font-size: 13px;
}

.part {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 92px 24px;
  align-items: center;
  gap: var(--s2);
  border-bottom: 1px solid var(--rule);
  padding: 2px 0;
  font-size: 13px;
}

.part label {
  display: flex;
  align-items: center;
  gap: var(--s2);
  min-width: 0;
}

/* triangles beneath the name */
.words {
  display: grid;
  line-height: 1.2;
}

.part :deep(input[type='text']) {
  font-size: 12px;
  min-width: 0;
}

.part.off img {
  opacity: 0.45;
}

.more {
  grid-column: 1 / -1;
  margin: 0 0 var(--s2) 28px;
}

.moves {
  display: flex;
  align-items: center;
  gap: 2px;
}

.blank {
  width: 40px;
  height: 40px;
}

.over {
  color: var(--over);
}
</style>

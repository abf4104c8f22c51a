<script setup lang="ts">
import {
  changePickSlot,
  earnPart,
  fullName,
  offerPart,
  partsFor,
  pickName,
  type KitPart,
  type PickBody,
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
const parts = computed(() => partsFor(project.library, props.body.body, props.slotPicks.slot))
const nameOf = ({ kit, def }: KitPart) => pickName(props.body.body, { kit, id: def.id })
const offered = (part: KitPart) => props.slotPicks.parts.find((p) => p.part === nameOf(part))
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
    .map((p) => ({ id: nameOf(p), name: p.def.name })),
])
const change = (next: Partial<PickSlot>, mark: string | null = null) =>
  picks.change(changePickSlot(plain(picks.now!), props.body.id, props.slotPicks.slot, next), mark)
const offer = (part: string, on: boolean) =>
  picks.change(offerPart(plain(picks.now!), props.body.id, props.slotPicks.slot, part, on))
const earn = (part: string, flag: string) => {
  const id = flag
    .trim()
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 64)
  picks.change(earnPart(plain(picks.now!), props.body.id, props.slotPicks.slot, part, id), `earn ${part}`)
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
          >{{ p.def.name }}
          <span v-if="costOf(p) !== undefined" class="number soft">{{ costOf(p)!.toLocaleString('en') }}</span></span
        ></label
      >
      <InputText
        v-if="offered(p)"
        :model-value="offered(p)!.earned ?? ''"
        size="small"
        maxlength="64"
        placeholder="from the start"
        :aria-label="`${p.def.name}: the flag it is earned by`"
        :title="`The game’s flag by which it is earned; nothing: it is there from the start`"
        :data-test="`earn-${p.def.id}`"
        @change="earn(nameOf(p), ($event.target as HTMLInputElement).value)"
      />
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
  grid-template-columns: minmax(0, 1fr) 104px;
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

.blank {
  width: 40px;
  height: 40px;
}

.over {
  color: var(--over);
}
</style>

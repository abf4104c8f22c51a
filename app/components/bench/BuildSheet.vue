<script setup lang="ts">
import { Dices, Lock, LockOpen, Shuffle, X } from 'lucide-vue-next'
import { clearPart, holdsSeveral, partsIn, setLock, shuffleAll, shuffleSlot, type SlotDef } from '@idle-tinker/core'
import { randomSeed } from '../../composables/randomSeed'
import { useKit } from '../../composables/useKit'
import { usePictures } from '../../composables/usePictures'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

const figure = useFigure()
const view = useView()
const project = useProject()
const { manifest, body, slots, wornIn, colorOf, regionsIn } = useKit()
const { pictureOf } = usePictures()

/** The least that shuffling may change: with nothing at all the button would do nothing. */
const LEAST = 0.1
const total = computed(() => figure.view?.costs.triangles ?? 1)
const costOf = (slot: string) =>
  (figure.view?.pieceCosts ?? []).reduce((sum, p) => (p.slot === slot ? sum + p.triangles : sum), 0)
const locked = (slot: string) => figure.recipe?.locks.includes(slot) ?? false
const needed = (slot: SlotDef) => slot.id in (body.value?.defaults ?? {})

const thumb = (slot: string) => {
  const part = wornIn(slot)
  return part && figure.recipe ? pictureOf(figure.recipe.body, { kit: part.kit, id: part.def.id }) : undefined
}

/** What is in a slot, in words; where there are several, how many. */
function wordsFor(slot: SlotDef): string {
  const name = wornIn(slot.id)?.def.name
  if (!name) return `No ${slot.singular}`
  const count = partsIn(figure.recipe!, slot.id).length
  return count > 1 ? `${count} ${slot.name.toLowerCase()}` : name
}

const bodyThumb = computed(() =>
  manifest.value && body.value ? pictureOf({ kit: manifest.value.id, id: body.value.id }) : undefined,
)

function everything(): void {
  if (figure.recipe) figure.edit(shuffleAll(figure.recipe, project.library, randomSeed(), view.strength))
}

function one(slot: string): void {
  if (figure.recipe) figure.edit(shuffleSlot(figure.recipe, project.library, slot, randomSeed()))
}

function clear(slot: string): void {
  if (figure.recipe) figure.edit(clearPart(figure.recipe, slot))
}

function lock(slot: string): void {
  if (figure.recipe) figure.edit(setLock(figure.recipe, slot, !locked(slot)))
}
</script>

<template>
  <aside class="sheet" aria-label="Build sheet">
    <div class="top">
      <h2>Build sheet</h2>
      <BlendPanel />
      <Button size="small" outlined label="Shuffle all" data-test="shuffle-all" @click="everything"
        ><template #icon><Dices :size="16" /></template
      ></Button>
    </div>
    <div class="strength">
      <span class="soft">a little</span>
      <Slider
        v-model="view.strength"
        :min="LEAST"
        :max="1"
        :step="0.05"
        aria-label="How much shuffling changes"
        data-test="strength"
      />
      <span class="soft">anything</span>
    </div>
    <div class="rows scroll">
      <div class="row" :class="{ on: view.slot === null }">
        <button class="main" :aria-current="view.slot === null" @click="view.select(null)">
          <span class="thumb"><img v-if="bodyThumb" :src="bodyThumb" alt="" /></span>
          <span class="words"
            ><b>{{ body?.name }}</b
            ><small class="soft">The whole body</small></span
          >
        </button>
        <span class="cost"
          ><span class="number">{{ costOf('body') }}</span
          ><span class="bar"><i :style="{ width: `${(costOf('body') / total) * 100}%` }" /></span
        ></span>
        <span class="acts" />
      </div>
      <div
        v-for="slot in slots"
        :key="slot.id"
        class="row"
        :class="{ on: view.slot === slot.id, bare: !wornIn(slot.id) }"
        :data-test="`row-${slot.id}`"
      >
        <button class="main" :aria-current="view.slot === slot.id" @click="view.select(slot.id)">
          <span class="thumb"><img v-if="thumb(slot.id)" :src="thumb(slot.id)" alt="" /></span>
          <span class="words">
            <b :data-test="`part-${slot.id}`">{{ wordsFor(slot) }}</b>
            <small class="soft"
              >{{ slot.name }}
              <i v-for="r in regionsIn(slot.id).slice(0, 5)" :key="r" class="dot" :style="{ background: colorOf(r) }"
            /></small>
          </span>
        </button>
        <span v-if="wornIn(slot.id)" class="cost"
          ><span class="number">{{ costOf(slot.id) }}</span
          ><span class="bar"><i :style="{ width: `${(costOf(slot.id) / total) * 100}%` }" /></span
        ></span>
        <span class="acts">
          <button
            class="quiet"
            :class="{ on: locked(slot.id) }"
            :aria-label="`${locked(slot.id) ? 'Unlock' : 'Lock'} ${slot.name}`"
            :title="locked(slot.id) ? 'Unlock' : 'Lock: shuffling leaves it'"
            :data-test="`lock-${slot.id}`"
            @click="lock(slot.id)"
          >
            <component :is="locked(slot.id) ? Lock : LockOpen" :size="14" />
          </button>
          <button
            v-if="!holdsSeveral(slot)"
            class="quiet"
            :aria-label="`Shuffle ${slot.name}`"
            title="Shuffle"
            :data-test="`shuffle-${slot.id}`"
            @click="one(slot.id)"
          >
            <Shuffle :size="14" />
          </button>
          <button
            class="quiet"
            :disabled="!wornIn(slot.id) || needed(slot)"
            :aria-label="`Clear ${slot.name}`"
            title="Clear"
            :data-test="`clear-${slot.id}`"
            @click="clear(slot.id)"
          >
            <X :size="14" />
          </button>
        </span>
      </div>
    </div>
  </aside>
</template>

<style scoped>
.sheet {
  display: grid;
  grid-template-rows: auto auto minmax(0, 1fr);
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  min-height: 0;
  height: 100%;
}

h2 {
  flex: 1;
}

.strength {
  display: grid;
  grid-template-columns: auto 1fr auto;
  align-items: center;
  gap: var(--s4);
  padding: 0 var(--s3) var(--s3);
  font-size: 11px;
}

.top {
  display: flex;
  align-items: center;
  gap: var(--s2);
  padding: var(--s3) var(--s3) var(--s2);
}

.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 44px auto;
  align-items: center;
  gap: 4px;
  padding: 2px 6px 2px 10px;
  border-left: 3px solid transparent;
}

.row.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 10%, transparent);
}

.row:hover {
  background: color-mix(in srgb, var(--act) 7%, transparent);
}

.main {
  appearance: none;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  display: flex;
  gap: var(--s2);
  align-items: center;
  padding: 1px 0;
  cursor: pointer;
  min-width: 0;
  grid-column: 1;
}

.thumb {
  width: 32px;
  height: 32px;
  flex: none;
  display: grid;
  place-items: center;
}

.thumb img {
  width: 34px;
  height: 34px;
}

.words {
  display: grid;
  min-width: 0;
  line-height: 1.2;
}

.words b {
  font-weight: 550;
  font-size: 13px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}

.bare .words b {
  font-weight: 400;
  color: var(--ink-soft);
}

small {
  font-size: 11px;
  display: flex;
  gap: 3px;
  align-items: center;
  white-space: nowrap;
}

.dot {
  width: 8px;
  height: 8px;
  border-radius: 50%;
  border: 1px solid color-mix(in srgb, var(--ink) 25%, transparent);
}

.cost {
  grid-column: 2;
  display: grid;
  justify-items: end;
  gap: 2px;
}

.cost .number {
  font-size: 11px;
  color: var(--ink-soft);
}

.bar {
  width: 40px;
  height: 3px;
  background: var(--rule);
  border-radius: 2px;
  overflow: hidden;
}

.bar i {
  display: block;
  height: 100%;
  background: var(--act);
}

.acts {
  grid-column: 3;
  display: flex;
  min-width: 66px;
}
</style>

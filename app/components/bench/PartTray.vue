<script setup lang="ts">
import {
  dressInPalette,
  fullName,
  holdsSeveral,
  movementsOf,
  partOf,
  referenceTo,
  refOf,
  setPart,
  shapeSlidersOf,
  slidersByGroup,
  type KitPart,
  type KitRef,
  type PaletteDef,
  type SliderDef,
} from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { NEAR_SLIDERS, useEnds } from '../../composables/useEnds'
import { useRefit } from '../../composables/useRefit'
import { randomSeed } from '../../composables/randomSeed'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

const figure = useFigure()
const project = useProject()
const view = useView()
const { manifest, body, slots, partsOf, wornIn, colorRegions, palettes, regionsIn } = useKit()
const { fromOthers } = useRefit()
const near = ref(false)
provide(NEAR_SLIDERS, near)
const { forget } = useEnds()
watch(() => figure.id, forget)
const search = ref('')
const slot = computed(() => slots.value.find((s) => s.id === view.slot))
const choices = computed(() =>
  partsOf(view.slot ?? '').filter(({ def }) => def.name.toLowerCase().includes(search.value.trim().toLowerCase())),
)
const grouped = (sliders: readonly SliderDef[]) => (body.value ? slidersByGroup(body.value, sliders) : [])
const groups = computed(() => grouped(body.value ? shapeSlidersOf(body.value) : []))
const moving = computed(() => grouped(body.value ? movementsOf(body.value) : []))
const SIDES_OF_BODY = [
  { id: 'shape', name: 'Shape' },
  { id: 'face', name: 'Face' },
  { id: 'nudge', name: 'Nudge' },
] as const
const sidesOfBody = computed(() => SIDES_OF_BODY.filter(({ id }) => id !== 'face' || moving.value.length > 0))
/** The sliders that really move the selected part; those of the whole figure move everything. */
const nearby = computed(() => {
  const moves = new Set(figure.view?.pieces.filter((p) => p.slot === view.slot).flatMap((p) => p.morphs))
  return (body.value ? shapeSlidersOf(body.value) : []).filter(
    (s) => s.group !== 'whole' && (moves.has(s.up) || (s.down !== undefined && moves.has(s.down))),
  )
})
const bodyRegions = computed(() =>
  manifest.value && body.value ? project.regionsOf(manifest.value.id, body.value.id) : [],
)
const worn = (palette: PaletteDef) => {
  return Object.entries(palette.swatches).filter(([region]) => !colorRegions.value.get(region)?.own)
}

watch(
  () => view.slot,
  () => (search.value = ''),
)

const refTo = ({ kit, def }: KitPart) => ({ kit, id: def.id })
const isOn = (part: KitPart) => {
  const worn = wornIn(part.def.slot)
  return worn?.kit === part.kit && worn.def.id === part.def.id
}

function put(part: KitPart): void {
  if (figure.recipe && view.slot)
    figure.edit(setPart(figure.recipe, view.slot, referenceTo(project.library, refTo(part))))
}

/** While a slider is drawn the recipe changes with every step, its body does not. */
const bodyName = computed(() => figure.recipe && fullName(figure.recipe.body))
/** Parts for this slot that are made for other bodies; the one that is being tried on. */
const others = computed(() => {
  const asked = search.value.trim().toLowerCase()
  const all = bodyName.value ? fromOthers(refOf(bodyName.value, ''), slot.value?.id ?? null) : []
  return all.filter(({ def }) => def.name.toLowerCase().includes(asked))
})
const trying = ref<KitRef | null>(null)
function putKept(ref: KitRef): void {
  const kept = partOf(project.library, ref)
  if (!kept || !figure.recipe) return
  figure.edit(setPart(figure.recipe, kept.def.slot, referenceTo(project.library, ref)))
  view.select(kept.def.slot)
}

function usePalette(palette: PaletteDef): void {
  if (figure.recipe) figure.edit(dressInPalette(figure.recipe, project.library, palette, randomSeed()))
}
</script>

<template>
  <aside
    class="tray scroll"
    aria-label="Tray"
    @pointerenter="near = true"
    @pointerleave="near = false"
    @focusin="near = true"
  >
    <template v-if="slot">
      <h2>{{ slot.name }}</h2>
      <InputText
        v-model="search"
        size="small"
        :placeholder="`Search ${slot.name.toLowerCase()}`"
        :aria-label="`Search ${slot.name.toLowerCase()}`"
        fluid
      />
      <PlacedParts v-if="holdsSeveral(slot)" :into="slot" :choices="choices" />
      <PartChoices v-else :parts="choices" :is-on="isOn" @choose="put">
        <p v-if="choices.length === 0" class="soft">Nothing here has “{{ search }}” in its name.</p>
      </PartChoices>
      <OtherBodies v-if="!holdsSeveral(slot)" name="Made for other bodies" :parts="others" @choose="trying = $event" />
      <section v-if="!holdsSeveral(slot) && regionsIn(slot.id).length">
        <h3>Colors</h3>
        <SwatchRow v-for="r in regionsIn(slot.id)" :key="r" :region="r" />
      </section>
      <section v-if="nearby.length">
        <h3>Shape around it</h3>
        <SideChoice />
        <SliderGroup v-for="g in grouped(nearby)" :id="g.id" :key="g.id" :name="g.name" :sliders="g.sliders" />
      </section>
    </template>
    <template v-else>
      <div class="top">
        <h2>The whole body</h2>
        <SelectButton
          v-model="view.tray"
          :options="sidesOfBody"
          option-label="name"
          option-value="id"
          :allow-empty="false"
          size="small"
          aria-label="What of the body"
          data-test="tray-of"
        />
      </div>
      <template v-if="view.tray === 'face' && moving.length">
        <FacePanel />
        <SideChoice class="sides" />
        <SliderGroup v-for="g in moving" :id="g.id" :key="g.id" :name="g.name" :sliders="g.sliders" moves />
      </template>
      <NudgePanel v-else-if="view.tray === 'nudge'" />
      <template v-else>
        <SideChoice />
        <SliderGroup v-for="g in groups" :id="g.id" :key="g.id" :name="g.name" :sliders="g.sliders" />
        <OtherBodies name="Parts of other bodies" :parts="others" @choose="trying = $event" />
        <section>
          <h3>Palette</h3>
          <div class="palettes">
            <button
              v-for="p in palettes"
              :key="p.id"
              class="palette"
              :title="`Color the clothes in ${p.name}`"
              @click="usePalette(p)"
            >
              <span class="dots"
                ><i
                  v-for="(c, i) in worn(p)
                    .map(([, v]) => v[0])
                    .slice(0, 7)"
                  :key="i"
                  :style="{ background: c }"
              /></span>
              {{ p.name }}
            </button>
          </div>
        </section>
        <section>
          <h3>Colors of the body</h3>
          <SwatchRow v-for="r in bodyRegions" :key="r" :region="r" />
        </section>
      </template>
    </template>
    <RefitDialog
      v-if="trying && figure.recipe"
      :part="trying"
      :to="figure.recipe.body"
      @close="trying = null"
      @kept="putKept"
    />
  </aside>
</template>

<style scoped>
.tray {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: var(--s3);
  height: 100%;
  min-height: 0;
}

h2 {
  margin-bottom: var(--s2);
}

/* the Face tab's own sliders come after the dial */
.sides {
  margin-top: var(--s4);
}

.top {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  margin-bottom: var(--s2);
  justify-content: space-between;
}

section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s1);
}

.palettes {
  display: grid;
  gap: 2px;
}

.palette {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px var(--text);
  display: flex;
  align-items: center;
  gap: var(--s2);
  padding: 4px;
  border-radius: 4px;
  cursor: pointer;
}

.palette:hover {
  background: var(--act-soft);
}

.dots {
  display: flex;
}

.dots i {
  width: 15px;
  height: 15px;
  border-radius: 50%;
  margin-right: -4px;
  border: 1px solid var(--sheet);
}

.dots i:last-child {
  margin-right: 6px;
}
</style>

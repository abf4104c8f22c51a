<script setup lang="ts">
import { createRandom, drawColors, setColors, setPart, type PaletteDef } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { usePictures } from '../../composables/usePictures'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'

const figure = useFigure()
const view = useView()
const { manifest, body, slots, partsOf, partIn, regionsIn } = useKit()
const { pictureOf } = usePictures()
const search = ref('')
const slot = computed(() => slots.value.find((s) => s.id === view.slot))
const choices = computed(() => partsOf(view.slot ?? '').filter((p) => p.name.toLowerCase().includes(search.value.trim().toLowerCase())))
const GROUPS: Record<string, string> = { whole: 'Whole figure', torso: 'Trunk', hips: 'Hips', arms: 'Arms', hands: 'Hands', legs: 'Legs', feet: 'Feet', head: 'Head', tail: 'Tail' }
const groups = computed(() => {
  const sliders = body.value?.sliders ?? []
  return [...new Set(sliders.map((s) => s.group))].map((g) => ({ id: g, name: GROUPS[g] ?? g, sliders: sliders.filter((s) => s.group === g) }))
})
/** With a part selected, the sliders of its region of the body. */
const NEAR: Record<string, string[]> = { head: ['head'], neck: ['head'], torso: ['torso', 'whole'], hips: ['hips', 'torso'], hands: ['hands', 'arms'], arms: ['arms'], thighs: ['legs', 'hips'], leftShin: ['feet', 'legs'], tail: ['tail'] }
const nearby = computed(() => groups.value.filter((g) => NEAR[slot.value?.region ?? '']?.includes(g.id)).flatMap((g) => g.sliders))
const bodyRegions = computed(() => (manifest.value && body.value ? ['skin', 'fur', 'belly', 'lips', 'underlayer', 'paw'].filter((r) => manifest.value!.colorRegions.some((c) => c.id === r)) : []))

watch(() => view.slot, () => (search.value = ''))

function put(id: string): void {
  if (figure.recipe && manifest.value && view.slot) figure.edit(setPart(figure.recipe, view.slot, { kit: manifest.value.id, kitVersion: manifest.value.kitVersion, id }))
}

function usePalette(palette: PaletteDef): void {
  // skin, hair and eyes are the person's own
  const { skin: _s, hair: _h, brow: _b, iris: _i, ...cloth } = palette.swatches
  if (figure.recipe) figure.edit(setColors(figure.recipe, drawColors({ ...palette, swatches: cloth }, createRandom(crypto.getRandomValues(new Uint32Array(1))[0]! & 0x7fffffff))))
}
</script>

<template>
  <aside class="tray scroll" aria-label="Tray">
    <template v-if="slot">
      <h2>{{ slot.name }}</h2>
      <InputText v-model="search" size="small" :placeholder="`Search ${slot.name.toLowerCase()}`" :aria-label="`Search ${slot.name.toLowerCase()}`" fluid />
      <div class="choices" data-test="choices">
        <button v-for="p in choices" :key="p.id" class="choice" :class="{ on: p.id === partIn(slot.id)?.id }" :data-test="`choice-${p.id}`" @click="put(p.id)">
          <img v-if="pictureOf(manifest!.id, body!.id, p.id)" :src="pictureOf(manifest!.id, body!.id, p.id)" width="84" height="84" alt="" />
          <span v-else class="coming" />
          {{ p.name }}
        </button>
        <p v-if="choices.length === 0" class="soft">Nothing here has “{{ search }}” in its name.</p>
      </div>
      <section v-if="regionsIn(slot.id).length">
        <h3>Colors</h3>
        <SwatchRow v-for="r in regionsIn(slot.id)" :key="r" :region="r" />
      </section>
      <section v-if="nearby.length">
        <h3>Shape around it</h3>
        <SliderRow v-for="s in nearby" :key="s.id" :slider="s" />
      </section>
    </template>
    <template v-else>
      <h2>The whole body</h2>
      <section v-for="g in groups" :key="g.id">
        <h3>{{ g.name }}</h3>
        <SliderRow v-for="s in g.sliders" :key="s.id" :slider="s" />
      </section>
      <section>
        <h3>Palette</h3>
        <div class="palettes">
          <button v-for="p in manifest?.palettes" :key="p.id" class="palette" :title="`Color the clothes in ${p.name}`" @click="usePalette(p)">
            <span class="dots"><i v-for="(c, i) in Object.entries(p.swatches).filter(([r]) => !['skin', 'hair', 'brow', 'iris'].includes(r)).map(([, v]) => v[0]).slice(0, 7)" :key="i" :style="{ background: c }" /></span>
            {{ p.name }}
          </button>
        </div>
      </section>
      <section>
        <h3>Colors of the body</h3>
        <SwatchRow v-for="r in bodyRegions" :key="r" :region="r" />
      </section>
    </template>
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

section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s1);
}

.choices {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  gap: var(--s1);
  margin-top: var(--s2);
}

.choices p {
  grid-column: 1 / -1;
}

.choice {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 11.5px/1.2 var(--text);
  cursor: pointer;
  border-radius: 6px;
  padding: 4px 2px 6px;
  display: grid;
  justify-items: center;
  align-content: start;
}

.choice:hover {
  background: color-mix(in srgb, var(--act) 10%, transparent);
}

.choice.on {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
  font-weight: 600;
}

.coming {
  width: 84px;
  height: 84px;
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

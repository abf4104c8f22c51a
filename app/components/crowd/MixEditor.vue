<script setup lang="ts">
import {
  bodyOf,
  fullName,
  palettesFor,
  partsFor,
  refOf,
  shapeSlidersOf,
  slidersByGroup,
  slotsFor,
  type Mix,
  type SliderDef,
} from '@idle-tinker/core'
import { useCrowd } from '../../stores/crowd'
import { useProject } from '../../stores/project'

const crowd = useCrowd()
const project = useProject()
const open = ref<string | null>(null)
const mix = computed(() => crowd.mix!)
const slots = computed(() => slotsFor(project.library, mix.value.body))
/** Their shape by regions. */
const groups = computed(() => {
  const body = bodyOf(project.library, mix.value.body)
  return body ? slidersByGroup(body, shapeSlidersOf(body)) : []
})
const openGroup = ref<string | null>('whole')
/** How many of a region differ from figure to figure: told where they are not seen. */
const drawn = (sliders: readonly SliderDef[]) => sliders.filter((s) => range(s.id)[0] !== range(s.id)[1]).length
const palettes = computed(() => palettesFor(project.library, mix.value.body))
/** Parts of the body's own kit go by their ids alone. */
const nameOf = (kit: string, id: string) => (kit === mix.value.body.kit ? id : fullName({ kit, id }))
const ownName = (name: string) => {
  const { kit, id } = refOf(name, mix.value.body.kit)
  return nameOf(kit, id)
}

/** Changes of one field, one after another, are one step of undo. */
function change(part: Partial<Mix>, field: string | null = null): void {
  // a field that is left gives its value once more
  const same = (key: keyof Mix) => JSON.stringify(part[key]) === JSON.stringify(mix.value[key])
  if ((Object.keys(part) as (keyof Mix)[]).every(same)) return
  crowd.changeRules({ ...mix.value, ...part }, field)
}

function choices(slot: string): { part: string | null; name: string; share: number }[] {
  const set = new Map((mix.value.slots[slot] ?? []).map((c) => [c.part && ownName(c.part), c.share]))
  const parts = partsFor(project.library, mix.value.body, slot)
  return [
    { part: null, name: 'Nothing', share: set.get(null) ?? 0 },
    ...parts.map(({ kit, def }) => {
      const part = nameOf(kit, def.id)
      return { part, name: def.name, share: set.get(part) ?? 0 }
    }),
  ]
}

function setShare(slot: string, part: string | null, share: number): void {
  const next = choices(slot)
    .map((c) => ({ part: c.part, share: c.part === part ? Math.max(0, Math.min(1000, share || 0)) : c.share }))
    .filter((c) => c.share > 0)
  const { [slot]: _old, ...rest } = mix.value.slots
  change({ slots: next.length ? { ...rest, [slot]: next } : rest }, `${slot} ${part}`)
}

/** The count a share comes to. */
function heads(slot: string, share: number): number {
  const total = choices(slot).reduce((s, c) => s + c.share, 0)
  return total ? Math.round((share / total) * mix.value.count) : 0
}

function setOnce(part: string, once: boolean): void {
  change({ atMostOnce: once ? [...mix.value.atMostOnce, part] : mix.value.atMostOnce.filter((p) => p !== part) })
}

const palette = (id: string) => mix.value.palettes.find((p) => p.id === id)?.share ?? 0
function setPalette(id: string, share: number): void {
  const others = mix.value.palettes.filter((p) => p.id !== id)
  change({ palettes: share > 0 ? [...others, { id, share }] : others })
}

/** The faces they can make: at rest, and the body's expressions. */
const moods = computed((): { id: string | null; name: string }[] => {
  const all = bodyOf(project.library, mix.value.body)?.expressions ?? []
  return all.length ? [{ id: null, name: 'At rest' }, ...all.map(({ id, name }) => ({ id, name }))] : []
})
const openFaces = ref<string | null>(null)
const faceShare = (id: string | null) => mix.value.expressions?.find((e) => e.id === id)?.share ?? 0
function setFaceShare(id: string | null, share: number): void {
  const others = (mix.value.expressions ?? []).filter((e) => e.id !== id)
  const next = share > 0 ? [...others, { id, share }] : others
  const { expressions: _before, ...rest } = mix.value
  const now: Mix = next.length ? { ...rest, expressions: next } : rest
  if (JSON.stringify(now.expressions) !== JSON.stringify(mix.value.expressions)) crowd.changeRules(now, `face ${id}`)
}

const range = (id: string): [number, number] => mix.value.sliders[id] ?? [0, 0]
function setRange(id: string, value: number | number[]): void {
  if (Array.isArray(value))
    change(
      { sliders: { ...mix.value.sliders, [id]: [Math.min(value[0]!, value[1]!), Math.max(value[0]!, value[1]!)] } },
      id,
    )
}

const named = (slot: string) => choices(slot).filter((c) => c.share > 0)
const tint = (i: number) => `color-mix(in oklab, var(--act) ${90 - i * 14}%, var(--care-mark))`
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
    <h2>What they wear</h2>
    <Accordion v-model:value="open" class="wear">
      <AccordionPanel v-for="slot in slots" :key="slot.id" :value="slot.id">
        <AccordionHeader :data-test="`shares-${slot.id}`">
          <span class="head"
            ><span>{{ slot.name }}</span>
            <span class="strip"
              ><i
                v-for="(c, i) in named(slot.id)"
                :key="c.part ?? ''"
                :style="{ flex: c.share, background: c.part === null ? 'transparent' : tint(i) }"
                :title="c.name" /></span
          ></span>
        </AccordionHeader>
        <AccordionContent>
          <template v-if="open === slot.id">
            <div
              v-for="c in choices(slot.id)"
              :key="c.part ?? ''"
              class="share"
              :data-test="`share-${c.part ?? 'nothing'}`"
            >
              <span class="what">{{ c.name }}</span>
              <InputNumber
                :model-value="c.share"
                :min="0"
                :max="1000"
                size="small"
                fluid
                :aria-label="`Share of ${c.name}`"
                @update:model-value="setShare(slot.id, c.part, $event ?? 0)"
              />
              <span class="number soft" title="Figures of this crowd">{{ heads(slot.id, c.share) }}</span>
              <label v-if="c.part" class="once" title="At most once in the crowd"
                ><Checkbox
                  binary
                  size="small"
                  :model-value="mix.atMostOnce.includes(c.part)"
                  @update:model-value="setOnce(c.part, $event)"
                />
                once</label
              >
            </div>
          </template>
        </AccordionContent>
      </AccordionPanel>
    </Accordion>
    <h2>How they are built</h2>
    <Accordion v-model:value="openGroup" class="wear">
      <AccordionPanel v-for="g in groups" :key="g.id" :value="g.id">
        <AccordionHeader :data-test="`ranges-${g.id}`">
          <span class="head"
            ><span>{{ g.name }}</span>
            <span class="number soft" title="Drawn anew for each figure">{{ drawn(g.sliders) || '' }}</span></span
          >
        </AccordionHeader>
        <AccordionContent>
          <template v-if="openGroup === g.id">
            <div v-for="s in g.sliders" :key="s.id" class="range">
              <span>{{ s.name }}</span>
              <span class="number soft">{{ range(s.id)[0].toFixed(1) }} … {{ range(s.id)[1].toFixed(1) }}</span>
              <div class="track" @keyup="crowd.settle()" @click="crowd.settle()">
                <Slider
                  range
                  :model-value="range(s.id)"
                  :min="s.min"
                  :max="s.max"
                  :step="0.1"
                  :aria-label="`Range of ${s.name}`"
                  @update:model-value="setRange(s.id, $event)"
                  @slideend="crowd.settle()"
                />
              </div>
            </div>
          </template>
        </AccordionContent>
      </AccordionPanel>
    </Accordion>
    <template v-if="moods.length">
      <h2>Their faces</h2>
      <Accordion v-model:value="openFaces" class="wear">
        <AccordionPanel value="faces">
          <AccordionHeader data-test="faces">
            <span class="head"
              ><span>{{ mix.expressions?.length ? 'Drawn from a set' : 'All at rest' }}</span>
              <span class="number soft">{{ mix.expressions?.length || '' }}</span></span
            >
          </AccordionHeader>
          <AccordionContent>
            <template v-if="openFaces">
              <div v-for="m in moods" :key="m.id ?? ''" class="share" :data-test="`face-${m.id ?? 'rest'}`">
                <span class="what">{{ m.name }}</span>
                <InputNumber
                  :model-value="faceShare(m.id)"
                  :min="0"
                  :max="1000"
                  size="small"
                  fluid
                  :aria-label="`Share of the face: ${m.name}`"
                  @update:model-value="setFaceShare(m.id, $event ?? 0)"
                />
              </div>
            </template>
          </AccordionContent>
        </AccordionPanel>
      </Accordion>
    </template>
    <h2>Palettes</h2>
    <div v-for="p in palettes" :key="p.id" class="share">
      <span class="what">{{ p.name }}</span>
      <InputNumber
        :model-value="palette(p.id)"
        :min="0"
        :max="1000"
        size="small"
        fluid
        :aria-label="`Share of ${p.name}`"
        @update:model-value="setPalette(p.id, $event ?? 0)"
      />
      <span class="dots"
        ><i
          v-for="(c, i) in Object.values(p.swatches)
            .map((v) => v[0])
            .slice(4, 9)"
          :key="i"
          :style="{ background: c }"
      /></span>
    </div>
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

h2 {
  font-size: 14px;
  margin: var(--s4) 0 var(--s1);
  border-bottom: 1px solid var(--rule);
}

.head {
  flex: 1;
  display: grid;
  grid-template-columns: 100px 1fr;
  gap: var(--s2);
  align-items: center;
  font: 13px var(--text);
  text-align: left;
}

.wear :deep(.p-accordionheader) {
  padding: 4px 2px;
  gap: var(--s2);
  background: none;
}

.wear :deep(.p-accordionpanel) {
  border: 0;
}

.wear :deep(.p-accordioncontent-content) {
  padding: 0 0 var(--s2);
  background: none;
}

.share :deep(input) {
  font: 12px var(--mono);
  padding: 2px 5px;
}

.strip {
  display: flex;
  height: 10px;
  border: 1px solid var(--rule);
  border-radius: 3px;
  overflow: hidden;
}

.share {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 52px 30px 54px;
  gap: 6px;
  align-items: center;
  font-size: 12.5px;
  padding: 1px 0 1px 8px;
}

.share .what {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}

.once {
  font-size: 11px;
  color: var(--ink-soft);
  display: flex;
  align-items: center;
  gap: 2px;
}

.range {
  display: grid;
  grid-template-columns: 1fr auto;
  font-size: 12.5px;
  padding: 2px 0;
}

.track {
  grid-column: 1 / -1;
  padding: 6px 8px;
}

.dots {
  display: flex;
}

.dots i {
  width: 11px;
  height: 11px;
  border-radius: 50%;
  margin-right: -3px;
}

.wrong {
  margin-top: var(--s2);
}
</style>

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
  type MixKind,
  type SliderDef,
} from '@idle-tinker/core'
import { useProject } from '../../stores/project'

/** What the figures of one kind are drawn from. */
const { kind, count } = defineProps<{
  kind: MixKind
  /** How many of the crowd are of this kind. */
  count: number
}>()
const emit = defineEmits<{
  /** Changes of one field, one after another, are one step of undo. */
  change: [next: MixKind, field: string | null]
  settle: []
}>()
const project = useProject()
const open = ref<string | null>(null)
const slots = computed(() => slotsFor(project.library, kind.body))
/** Their shape by regions. */
const groups = computed(() => {
  const body = bodyOf(project.library, kind.body)
  return body ? slidersByGroup(body, shapeSlidersOf(body)) : []
})
const openGroup = ref<string | null>('whole')
/** How many of a region differ from figure to figure: told where they are not seen. */
const drawn = (sliders: readonly SliderDef[]) => sliders.filter((s) => range(s.id)[0] !== range(s.id)[1]).length
const palettes = computed(() => palettesFor(project.library, kind.body))
/** Parts of the body's own kit go by their ids alone. */
const nameOf = (kit: string, id: string) => (kit === kind.body.kit ? id : fullName({ kit, id }))
const ownName = (name: string) => {
  const { kit, id } = refOf(name, kind.body.kit)
  return nameOf(kit, id)
}

function change(part: Partial<MixKind>, field: string | null = null): void {
  emit('change', { ...kind, ...part }, field)
}

function choices(slot: string): { part: string | null; name: string; share: number }[] {
  const set = new Map((kind.slots[slot] ?? []).map((c) => [c.part && ownName(c.part), c.share]))
  const parts = partsFor(project.library, kind.body, slot)
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
  const { [slot]: _old, ...rest } = kind.slots
  change({ slots: next.length ? { ...rest, [slot]: next } : rest }, `${slot} ${part}`)
}

/** The count a share comes to. */
function heads(slot: string, share: number): number {
  const total = choices(slot).reduce((s, c) => s + c.share, 0)
  return total ? Math.round((share / total) * count) : 0
}

function setOnce(part: string, once: boolean): void {
  change({ atMostOnce: once ? [...kind.atMostOnce, part] : kind.atMostOnce.filter((p) => p !== part) })
}

const palette = (id: string) => kind.palettes.find((p) => p.id === id)?.share ?? 0
function setPalette(id: string, share: number): void {
  const others = kind.palettes.filter((p) => p.id !== id)
  change({ palettes: share > 0 ? [...others, { id, share }] : others })
}

/** The faces they can make: at rest, and the body's expressions. */
const moods = computed((): { id: string | null; name: string }[] => {
  const all = bodyOf(project.library, kind.body)?.expressions ?? []
  return all.length ? [{ id: null, name: 'At rest' }, ...all.map(({ id, name }) => ({ id, name }))] : []
})
const openFaces = ref<string | null>(null)
const faceShare = (id: string | null) => kind.expressions?.find((e) => e.id === id)?.share ?? 0
function setFaceShare(id: string | null, share: number): void {
  const others = (kind.expressions ?? []).filter((e) => e.id !== id)
  const next = share > 0 ? [...others, { id, share }] : others
  const { expressions: _before, ...rest } = kind
  emit('change', next.length ? { ...rest, expressions: next } : rest, `face ${id}`)
}

const range = (id: string): [number, number] => kind.sliders[id] ?? [0, 0]
function setRange(id: string, value: number | number[]): void {
  if (Array.isArray(value))
    change({ sliders: { ...kind.sliders, [id]: [Math.min(value[0]!, value[1]!), Math.max(value[0]!, value[1]!)] } }, id)
}

const named = (slot: string) => choices(slot).filter((c) => c.share > 0)
const tint = (i: number) => `color-mix(in oklab, var(--act) ${90 - i * 14}%, var(--care-mark))`
</script>

<template>
  <div>
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
                  :model-value="kind.atMostOnce.includes(c.part)"
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
              <div class="track" @keyup="emit('settle')" @click="emit('settle')">
                <Slider
                  range
                  :model-value="range(s.id)"
                  :min="s.min"
                  :max="s.max"
                  :step="0.1"
                  :aria-label="`Range of ${s.name}`"
                  @update:model-value="setRange(s.id, $event)"
                  @slideend="emit('settle')"
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
              ><span>{{ kind.expressions?.length ? 'Drawn from a set' : 'All at rest' }}</span>
              <span class="number soft">{{ kind.expressions?.length || '' }}</span></span
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
  </div>
</template>

<style scoped>
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
</style>

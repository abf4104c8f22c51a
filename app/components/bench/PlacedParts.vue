<script setup lang="ts">
import { Copy, FlipHorizontal2, Move, X } from 'lucide-vue-next'
import { fullName, partOf, partsIn, referenceTo, type KitPart, type Place, type SlotDef } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { usePlacing } from '../../composables/usePlacing'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

/** What hands have put on the figure, one thing after another. */
const props = defineProps<{ into: SlotDef; choices: KitPart[] }>()
const figure = useFigure()
const project = useProject()
const view = useView()
const { regionsIn } = useKit()
const { instanceOf, add, set, step, copy, copyAcross, remove } = usePlacing()

const placed = computed(() => (figure.recipe ? partsIn(figure.recipe, props.into.id) : []))
const nameOf = (part: { kit: string; id: string }) => partOf(project.library, part)?.def.name ?? part.id
const full = computed(() => placed.value.length >= (props.into.most ?? 1))
const countOf = (part: KitPart) =>
  placed.value.filter(
    (p) => fullName(p.part) === fullName(referenceTo(project.library, { kit: part.kit, id: part.def.id })),
  ).length
const whyNot = (part: KitPart) =>
  full.value || (part.def.how === 'attached' && countOf(part) >= (part.def.most ?? Infinity))
    ? 'The figure has as many as it can'
    : null
const chosen = computed(() => (view.instance && placed.value.find((p) => p.id === view.instance)) || null)
/** Where an instance sits, in a word. */
const onWhat = (place: Place | undefined) => {
  const at = place?.at
  if (!at || !('triangle' in at)) return 'where its kit puts it'
  const host = at.on && instanceOf(at.on.instance)
  return host ? `on ${nameOf(host.part)}` : 'on the body'
}

const scaleOf = (place: Place | undefined): [number, number, number] => {
  const scale = place?.scale ?? 1
  return typeof scale === 'number' ? [scale, scale, scale] : scale
}
/** Sizes go by halvings and doublings: from a quarter to four times. */
const REACH = Math.log2(4)
const WAYS = ['Width', 'Height', 'Depth'] as const
const even = computed(() => {
  const [x, y, z] = scaleOf(chosen.value?.place)
  return Math.cbrt(x * y * z)
})
const rounded = (v: number) => Math.round(Math.min(20, Math.max(0.05, v)) * 1000) / 1000
function setScale(scale: readonly [number, number, number]): void {
  if (!chosen.value) return
  const to = scale.map(rounded) as [number, number, number]
  set(chosen.value.id, { scale: to[0] === to[1] && to[1] === to[2] ? to[0] : to }, `scale ${chosen.value.id}`)
}
function setEven(to: number): void {
  const by = to / even.value
  setScale(scaleOf(chosen.value?.place).map((s) => s * by) as [number, number, number])
}
function setWay(way: number, to: number): void {
  const scale = scaleOf(chosen.value?.place)
  setScale(scale.map((s, i) => (i === way ? to : s)) as [number, number, number])
}
/** All of it, then each way by itself. */
const sizes = computed(() => [
  { name: 'Size', times: even.value, set: setEven },
  ...WAYS.map((name, i) => ({ name, times: scaleOf(chosen.value?.place)[i]!, set: (to: number) => setWay(i, to) })),
])
const TURNS = [
  { axis: 2, name: 'Turn' },
  { axis: 0, name: 'Nod' },
  { axis: 1, name: 'Sway' },
] as const
const turnOf = (axis: number) => chosen.value?.place?.turn?.[axis] ?? 0
function setTurn(axis: number, degrees: number): void {
  if (!chosen.value) return
  const turn = [0, 1, 2].map((a) => (a === axis ? degrees : turnOf(a))) as [number, number, number]
  set(chosen.value.id, { turn }, `turn ${chosen.value.id}`)
}

function onKey(event: KeyboardEvent): void {
  if (!chosen.value) return
  const by = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] }[event.key]
  if (!by) {
    if (event.key === 'Delete') remove(chosen.value.id)
    return
  }
  event.preventDefault()
  event.stopPropagation()
  const far = event.shiftKey ? 0.25 : 1
  step(chosen.value.id, by[0]! * far, by[1]! * far)
}
</script>

<template>
  <PartChoices :parts="choices" :why-not="whyNot" @choose="add(into.id, { kit: $event.kit, id: $event.def.id })" />
  <p v-if="view.placing" class="hint" role="status" data-test="placing">
    Click on the figure where it goes, or move it with the arrow keys.
  </p>
  <section v-if="placed.length" data-test="placed">
    <h3>
      On the figure <small class="soft number">{{ placed.length }} of {{ into.most }}</small>
    </h3>
    <div
      v-for="p in placed"
      :key="p.id"
      class="one"
      :class="{ on: view.instance === p.id }"
      :data-test="`placed-${p.id}`"
    >
      <button
        class="main"
        :aria-pressed="view.instance === p.id"
        title="Arrow keys move it"
        @click="view.instance = p.id"
        @keydown="view.instance === p.id && onKey($event)"
        @keyup="figure.settle()"
      >
        <span>{{ nameOf(p.part) }}</span>
        <small class="soft">{{ onWhat(p.place) }}</small>
      </button>
      <button
        class="quiet"
        title="Set it elsewhere: click on the figure"
        :aria-label="`Set ${nameOf(p.part)} elsewhere`"
        :class="{ on: view.placing && view.instance === p.id }"
        @click="((view.instance = p.id), (view.placing = !view.placing))"
      >
        <Move :size="14" />
      </button>
      <button
        class="quiet"
        title="One more beside it"
        :disabled="full"
        :aria-label="`Copy ${nameOf(p.part)}`"
        @click="copy(p.id)"
      >
        <Copy :size="14" />
      </button>
      <button
        class="quiet"
        title="One more on the other side"
        :disabled="full"
        :aria-label="`Copy ${nameOf(p.part)} to the other side`"
        :data-test="`across-${p.id}`"
        @click="copyAcross(p.id)"
      >
        <FlipHorizontal2 :size="14" />
      </button>
      <button
        class="quiet"
        title="Take off"
        :aria-label="`Take off ${nameOf(p.part)}`"
        :data-test="`remove-${p.id}`"
        @click="remove(p.id)"
      >
        <X :size="14" />
      </button>
    </div>
  </section>
  <section v-if="chosen" class="how" data-test="placed-how">
    <h3>{{ nameOf(chosen.part) }}</h3>
    <DialRow
      v-for="t in TURNS"
      :key="t.name"
      :name="t.name"
      :value="turnOf(t.axis)"
      :min="-180"
      :max="180"
      :step="5"
      :words="`${turnOf(t.axis)}°`"
      :label="`${t.name} of ${nameOf(chosen.part)}, degrees`"
      :test="`turn-${t.axis}`"
      @change="setTurn(t.axis, $event)"
      @settle="figure.settle()"
    />
    <DialRow
      v-for="s in sizes"
      :key="s.name"
      :name="s.name"
      :value="Math.log2(s.times)"
      :min="-REACH"
      :max="REACH"
      :step="0.05"
      :words="`${s.times.toFixed(2)}×`"
      :label="`${s.name} of ${nameOf(chosen.part)}`"
      @change="s.set(2 ** $event)"
      @settle="figure.settle()"
    />
  </section>
  <section v-if="regionsIn(into.id).length">
    <h3>Colors</h3>
    <SwatchRow v-for="r in regionsIn(into.id)" :key="r" :region="r" />
  </section>
</template>

<style scoped>
.hint {
  margin: var(--s2) 0 0;
  padding: var(--s1) var(--s2);
  background: color-mix(in srgb, var(--care-mark) 16%, transparent);
  border-left: 3px solid var(--care-mark);
}

section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s1);
}

.one {
  display: flex;
  align-items: center;
  border-left: 3px solid transparent;
}

.one.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 10%, transparent);
}

.main {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px/1.2 var(--text);
  text-align: left;
  display: grid;
  flex: 1;
  min-width: 0;
  padding: 3px 6px;
  cursor: pointer;
}
</style>

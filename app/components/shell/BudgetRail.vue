<script setup lang="ts">
import type { Costs, Target } from '@idle-tinker/core'
import { useShown, useStation } from '../../stations'
import { useCrowd } from '../../stores/crowd'
import { useFigure } from '../../stores/figure'
import { usePackage } from '../../stores/package'
import { useProject } from '../../stores/project'
import { useView } from '../../stores/view'

/** What the station shows, held against its target: the figure, or the dearest of a crowd in each respect. */
const shown = useShown()
const figure = useFigure()
const crowd = useCrowd()
const project = useProject()
const view = useView()
const built = usePackage()
const breakdown = ref<{ toggle(e: Event): void }>()

const kilo = (bytes: number) => `${Math.round(bytes / 1024)} KB`
const count = (n: number) => n.toLocaleString('en')

const ofCrowd = computed(() => shown.value === crowd)
/** What players put on: the most of any look, proved. */
const station = useStation()
const ofPicks = computed(() => station.value?.edits === 'picks')
const target = computed<Target>(() => (ofPicks.value ? view.picksTarget : ofCrowd.value ? crowd.target : view.target))
const dearest = computed<Costs | undefined>(() => {
  const [first, ...others] = crowd.measured
  if (!first) return undefined
  const most = { ...first }
  for (const costs of others)
    for (const key of Object.keys(most) as (keyof Costs)[]) most[key] = Math.max(most[key], costs[key])
  return most
})

/** What the numbers of a crowd are. */
const whole = computed(() => {
  const under = `All under ${count(crowd.target.limits.triangles)}`
  const [made, known] = [crowd.cards.length, crowd.measured.length]
  if (made === 0) return under
  return known === made
    ? `${under}; the most of any of ${count(made)}`
    : `${count(known)} of ${count(made)} built for this target`
})

function choose(id: string): void {
  if (ofPicks.value) view.picksTargetId = id
  else if (ofCrowd.value) void crowd.setTarget(id)
  else view.setTarget(id)
}

const gauges = computed<{ id: string; name: string; now: number; limit: number; text: (n: number) => string }[]>(() => {
  const { limits } = target.value
  if (ofPicks.value) return gaugesOfPicks(limits)
  const costs = ofCrowd.value ? dearest.value : figure.view?.costs
  if (!costs) return []
  return [
    { id: 'triangles', name: 'Triangles', now: costs.triangles, limit: limits.triangles, text: count },
    { id: 'vertices', name: 'Vertices', now: costs.vertices, limit: limits.vertices, text: count },
    { id: 'bones', name: 'Bones', now: costs.bones, limit: limits.bones, text: count },
    { id: 'influences', name: 'Influences', now: costs.influences, limit: target.value.influences, text: count },
    { id: 'drawCalls', name: 'Draw calls', now: costs.drawCalls, limit: limits.drawCalls, text: count },
    { id: 'texture', name: 'Texture', now: costs.textureBytes, limit: limits.textureBytes, text: kilo },
    { id: 'file', name: 'File', now: costs.fileBytes, limit: limits.fileBytes, text: kilo },
  ]
})

/** The dearest of all bodies in each respect. */
function gaugesOfPicks(limits: Target['limits']) {
  const { report } = built
  if (!report) return []
  const most = (measure: string) =>
    Math.max(...report.bodies.flatMap((b) => b.costs.filter((c) => c.measure === measure).map((c) => c.most)))
  return [
    { id: 'triangles', name: 'Triangles', now: most('triangles'), limit: limits.triangles, text: count },
    { id: 'vertices', name: 'Vertices', now: most('vertices'), limit: limits.vertices, text: count },
    { id: 'bones', name: 'Bones', now: most('bones'), limit: limits.bones, text: count },
    { id: 'file', name: 'Loaded', now: most('download'), limit: limits.fileBytes, text: kilo },
  ]
}
</script>

<template>
  <footer aria-label="Budget">
    <Select
      :model-value="target.id"
      :options="[...project.targets]"
      option-label="name"
      option-value="id"
      size="small"
      aria-label="Target"
      class="target"
      data-test="target"
      @update:model-value="choose($event as string)"
    />
    <div class="room" role="group" aria-label="Costs" :tabindex="ofCrowd || ofPicks ? 0 : -1">
      <div v-if="ofCrowd || ofPicks" class="gauges"><BudgetGauge v-for="g in gauges" :key="g.id" v-bind="g" /></div>
      <button v-else class="gauges" title="Show what costs how much" @click="breakdown?.toggle($event)">
        <BudgetGauge v-for="g in gauges" :key="g.id" v-bind="g" />
      </button>
    </div>
    <span v-if="ofPicks" class="whole soft" data-test="proved">{{
      built.report ? 'The most of any look, proved' : 'Known once the package is built'
    }}</span>
    <span v-else-if="ofCrowd" class="whole soft" data-test="measured">{{ whole }}</span>
    <label v-else class="reduce"
      ><ToggleSwitch v-model="view.reduced" input-id="reduce" data-test="reduce" />
      <span>Bring under {{ view.target.limits.triangles.toLocaleString('en') }}</span></label
    >
    <Popover ref="breakdown" aria-label="What costs how much"><BudgetBreakdown /></Popover>
  </footer>
</template>

<style scoped>
footer {
  display: flex;
  align-items: center;
  gap: var(--s3);
  min-height: 46px;
  padding: 0 var(--s3);
  border-top: 1px solid var(--rule);
  background: var(--sheet);
}

.target {
  width: 190px;
  flex: none;
}

.whole {
  width: 130px;
  flex: none;
  font-size: 12px;
  line-height: 1.25;
}

button.gauges:hover {
  background: var(--act-soft);
}

button.gauges {
  cursor: pointer;
}

.gauges {
  appearance: none;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  display: flex;
  gap: var(--s4);
  padding: 4px;
  text-align: left;
  min-width: 100%;
}

.room {
  flex: 1;
  min-width: 0;
  overflow-x: auto;
  scrollbar-width: thin;
}

.reduce {
  display: flex;
  align-items: center;
  gap: var(--s2);
  font-size: 12px;
  white-space: nowrap;
  cursor: pointer;
}

@media (max-width: 959px) {
  .target {
    width: 130px;
  }

  .reduce span {
    white-space: normal;
    line-height: 1.1;
    max-width: 72px;
  }
}
</style>

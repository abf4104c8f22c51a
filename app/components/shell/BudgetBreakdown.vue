<script setup lang="ts">
import { max, scaleLinear } from 'd3'
import { partOf, type PieceCost } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'

const figure = useFigure()
const project = useProject()
const WIDTH = 190
const WIDE = 430
const ROW = 22

const details = (p: PieceCost) =>
  `${p.vertices.toLocaleString('en')} vertices, ${p.bones} ${p.bones === 1 ? 'bone' : 'bones'}, at most ${p.influences} influences a vertex`

const rows = computed(() => {
  const costs = (figure.view?.pieceCosts ?? []).filter((p) => p.triangles > 0).sort((a, b) => b.triangles - a.triangles)
  const x = scaleLinear([0, max(costs, (c) => c.triangles) ?? 1], [0, WIDTH])
  return costs.map((c) => ({
    ...c,
    name: c.slot === 'body' ? 'Body' : (partOf(project.library, c)?.def.name ?? c.id),
    width: x(c.triangles),
  }))
})
</script>

<template>
  <div class="breakdown">
    <h3>Triangles and bytes by part</h3>
    <svg :width="WIDE" :height="rows.length * ROW" role="img" aria-label="Triangles by part">
      <g v-for="(r, i) in rows" :key="r.instance" :transform="`translate(0 ${i * ROW})`">
        <text x="0" y="15">{{ r.name }}</text>
        <rect x="140" y="5" :width="r.width" height="12" />
        <text :x="146 + r.width" y="15" class="number">{{ r.triangles.toLocaleString('en') }}</text>
        <text :x="WIDE" y="15" text-anchor="end" class="number soft">{{ Math.ceil(r.fileBytes / 1024) }} KB</text>
        <title>{{ details(r) }}</title>
      </g>
    </svg>
    <p v-if="figure.view && figure.view.reductionError > 0" class="soft">
      Reduced; the form is off by at most {{ (figure.view.reductionError * 100).toFixed(1) }} % of its size.
    </p>
    <ul v-if="figure.problems.length">
      <li v-for="p in figure.problems" :key="p.where + p.code">{{ p.message }} {{ p.remedy }}</li>
    </ul>
  </div>
</template>

<style scoped>
text {
  fill: var(--ink);
  font: 12px var(--text);
}

.soft {
  fill: var(--ink-soft);
}

rect {
  fill: var(--act);
}

ul {
  padding-left: var(--s4);
  max-width: 430px;
}
</style>

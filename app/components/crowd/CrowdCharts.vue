<script setup lang="ts">
import { bin, extent, max, mean, scaleBand, scaleLinear } from 'd3'
import { partOf, refOf } from '@idle-tinker/core'
import { useCrowd } from '../../stores/crowd'
import { useProject } from '../../stores/project'

const crowd = useCrowd()
const project = useProject()
const WIDTH = 258
const HEIGHT = 96

const triangles = computed(() => crowd.cards.flatMap((c) => (c.costs ? [c.costs.triangles] : [])))

/** How the triangle counts are spread, and where the limit is. */
const spread = computed(() => {
  const values = triangles.value
  if (values.length === 0) return null
  const [low, high] = extent(values) as [number, number]
  const limit = crowd.mix?.triangles ?? high
  const x = scaleLinear([Math.min(low, limit) - 20, Math.max(high, limit) + 20], [10, WIDTH - 12]).nice()
  const bins = bin()
    .domain(x.domain() as [number, number])
    // a bar holds its upper end: exactly at the limit is within it
    .thresholds(x.ticks(18))(values.map((v) => v - 0.5))
  const y = scaleLinear([0, max(bins, (b) => b.length) ?? 1], [0, HEIGHT - 20])
  return {
    bars: bins.map((b) => ({
      x: x(b.x0!) + 0.5,
      width: Math.max(0, x(b.x1!) - x(b.x0!) - 1),
      height: y(b.length),
      n: b.length,
      over: b.some((v) => v > limit - 0.5),
    })),
    limit: x(limit),
    ticks: x.ticks(4).map((t) => ({ t, x: x(t) })),
  }
})

const use = computed(() => {
  const rows = crowd.partUse.map((p) => ({
    ...p,
    name: partOf(project.library, refOf(p.part, ''))?.def.name ?? p.part,
  }))
  const y = scaleBand(
    rows.map((r) => r.part),
    [0, rows.length * 17],
  ).padding(0.25)
  const x = scaleLinear([0, crowd.cards.length || 1], [0, 118])
  return rows.map((r) => ({ ...r, y: y(r.part)!, h: y.bandwidth(), w: x(r.count) }))
})

const nearest = computed(() => mean(crowd.cards, (c) => c.nearest) ?? 0)
</script>

<template>
  <aside class="charts scroll" aria-label="Numbers of the crowd">
    <h2>Numbers</h2>
    <template v-if="spread">
      <dl>
        <dt>Figures</dt>
        <dd class="number">{{ crowd.cards.length }}</dd>
        <dt>Triangles, all</dt>
        <dd class="number">{{ triangles.reduce((s, t) => s + t, 0).toLocaleString('en') }}</dd>
        <dt>Pairs alike</dt>
        <dd class="number" :class="{ care: crowd.twins.length }" data-test="twins">{{ crowd.twins.length }}</dd>
        <dt>Mean distance to the nearest</dt>
        <dd class="number">{{ nearest.toFixed(2) }}</dd>
      </dl>
      <h3>Triangles a figure</h3>
      <svg :width="WIDTH" :height="HEIGHT + 4" role="img" aria-label="How triangle counts are spread">
        <rect
          v-for="b in spread.bars"
          :key="b.x"
          :x="b.x"
          :y="HEIGHT - 16 - b.height"
          :width="b.width"
          :height="b.height"
          :class="{ over: b.over && b.n }"
        />
        <line :x1="spread.limit" :x2="spread.limit" y1="0" :y2="HEIGHT - 16" class="limit" />
        <text v-for="t in spread.ticks" :key="t.t" :x="t.x" :y="HEIGHT" text-anchor="middle">{{ t.t }}</text>
      </svg>
      <h3>Parts in use</h3>
      <svg
        :width="WIDTH"
        :height="use.length * 17 + 4"
        role="img"
        aria-label="How often each part is used"
        data-test="part-use"
      >
        <g v-for="r in use" :key="r.part" :transform="`translate(0 ${r.y})`">
          <text x="112" :y="r.h - 2" text-anchor="end">{{ r.name }}</text>
          <rect x="118" :width="r.w" :height="r.h" />
          <text :x="122 + r.w" :y="r.h - 2">{{ r.count }}</text>
        </g>
      </svg>
    </template>
    <p v-else class="soft">Counts and charts appear while the crowd is being made.</p>
    <NuxtLink v-if="crowd.cards.length" to="/ship" class="ship">Ship this crowd</NuxtLink>
  </aside>
</template>

<style scoped>
.charts {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: var(--s3);
  height: 100%;
}

dl {
  display: grid;
  grid-template-columns: 1fr auto;
  gap: 3px;
  margin: var(--s2) 0;
  font-size: 13px;
}

dd {
  margin: 0;
  text-align: right;
}

.care {
  color: var(--care);
}

h3 {
  margin: var(--s3) 0 var(--s1);
}

rect {
  fill: var(--act);
}

rect.over {
  fill: var(--over);
}

.limit {
  stroke: var(--over);
  stroke-dasharray: 3 2;
}

text {
  fill: var(--ink-soft);
  font: 10.5px var(--text);
}

.ship {
  display: block;
  margin-top: var(--s4);
  color: var(--act);
  font-weight: 600;
}
</style>

<script setup lang="ts">
import { Layers, Users } from 'lucide-vue-next'
import type { Stage } from '../../stage/Stage'
import {
  changeColors,
  MOST_CHANGE,
  regionColor,
  regionColors,
  SURFACES,
  type SurfaceKind,
} from '../../stage/surfaceLook'
import { weightGradient } from '../../stage/weightRamp'
import { radioKeys } from '../../composables/radioKeys'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'
import { inPool } from '../../stores/project'
import { useView } from '../../stores/view'
import { plain } from '../../workers/plain'

/** Other ways to look at the figure: its facets, its net, its regions, what has changed; and all of the cast. */
const props = defineProps<{ stage: Stage }>()
const figure = useFigure()
const view = useView()
const { body } = useKit()
const panel = ref<{ toggle(e: Event): void }>()
const cast = ref(false)
const NAMES: Record<SurfaceKind, string> = {
  made: 'As it is made',
  facets: 'Every facet',
  smooth: 'All smooth',
  wire: 'Net of edges',
  regions: 'Regions in colors',
  changes: 'What has changed',
}
const said = ref('')

async function show(): Promise<void> {
  const kind = view.surface
  const now = figure.view
  said.value = ''
  if (kind === 'regions') props.stage.setSurface(kind, (v) => regionColors(v, body.value?.regions ?? []))
  else if (kind !== 'changes') props.stage.setSurface(kind, null)
  else if (now && figure.recipe) {
    if (view.reduced) {
      said.value = 'Not while the figure is brought under its limit.'
      props.stage.setSurface('made', null)
      return
    }
    // with all its sliders at rest and nothing nudged, vertex for vertex
    const { nudges: _nudges, ...recipe } = plain(figure.recipe)
    const answer = await inPool((worker) => worker.build({ ...recipe, sliders: {} }, plain(view.target), false))
    // the figure has changed meanwhile: its own answer follows
    if (view.surface !== kind || figure.view !== now || !answer.view) return
    const { positions } = answer.view.mesh
    props.stage.setSurface(kind, (v) => changeColors(v, positions))
  }
}
watch(
  [() => view.surface, () => figure.view],
  () => void show().catch((error: unknown) => (said.value = String(error))),
  {
    immediate: true,
  },
)
const present = computed(() => body.value?.regions ?? [])
</script>

<template>
  <button
    class="quiet looks"
    aria-haspopup="dialog"
    aria-label="Ways to look at it"
    title="Ways to look at it"
    data-test="looks"
    :class="{ on: view.surface !== 'made' }"
    @click="panel?.toggle($event)"
  >
    <Layers :size="18" />
  </button>
  <button class="quiet cast" aria-label="The whole cast" title="The whole cast" data-test="cast" @click="cast = true">
    <Users :size="18" />
  </button>
  <Popover ref="panel" aria-label="Ways to look at it">
    <div class="ways" role="radiogroup" aria-label="Surface" data-test="looks-panel" @keydown="radioKeys">
      <button
        v-for="kind in SURFACES"
        :key="kind"
        role="radio"
        :aria-checked="view.surface === kind"
        :tabindex="view.surface === kind ? 0 : -1"
        :class="{ on: view.surface === kind }"
        :data-test="`look-${kind}`"
        @click="view.surface = kind"
      >
        {{ NAMES[kind] }}
      </button>
    </div>
    <label class="blinks" data-test="blinks"><Checkbox v-model="view.blinks" binary /> Blinks by itself</label>
  </Popover>
  <div v-if="view.surface === 'regions' || view.surface === 'changes'" class="legend" data-test="legend">
    <template v-if="view.surface === 'regions'">
      <span v-for="(r, i) in present" :key="r.id"><i :style="{ background: regionColor(i) }" />{{ r.name }}</span>
    </template>
    <template v-else>
      <b v-if="said">{{ said }}</b>
      <template v-else>
        <span>As on the plain body</span>
        <i class="ramp" :style="{ background: weightGradient() }" />
        <span class="number">{{ MOST_CHANGE * 100 }} cm and more</span>
      </template>
    </template>
  </div>
  <CastDialog v-if="cast" @close="cast = false" />
</template>

<style scoped>
.looks,
.cast {
  position: absolute;
  right: 10px;
  top: 46px;
}

.cast {
  top: 82px;
}

.looks.on {
  color: var(--act);
}

.ways {
  display: grid;
  min-width: 170px;
}

.ways button {
  appearance: none;
  border: 0;
  border-radius: 4px;
  background: none;
  color: var(--ink);
  font: 13px var(--text);
  text-align: left;
  padding: 5px 10px;
  cursor: pointer;
}

.blinks {
  display: flex;
  align-items: center;
  gap: var(--s2);
  margin-top: var(--s2);
  padding: var(--s2) 10px 2px;
  border-top: 1px solid var(--rule);
  font-size: 13px;
}

.ways button:hover {
  background: var(--act-soft);
}

.ways button.on {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
  font-weight: 600;
}

.legend {
  position: absolute;
  left: 10px;
  bottom: 10px;
  max-width: calc(100% - 20px);
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 2px var(--s3);
  padding: var(--s1) var(--s2);
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--sheet);
  font-size: 12px;
}

.legend span i {
  display: inline-block;
  width: 10px;
  height: 10px;
  border-radius: 2px;
  margin-right: 4px;
}

.ramp {
  width: 120px;
  height: 10px;
  border-radius: 2px;
}
</style>

<script setup lang="ts">
import { colorRegionsOf } from '@idle-tinker/core'
import { useProject } from '../../stores/project'

/** The palettes of a kit: for each color region the swatches that go together. */
const props = defineProps<{ kit: string }>()
const project = useProject()
const regions = computed(() => colorRegionsOf(project.library, props.kit))
const palettes = computed(() =>
  (project.manifest(props.kit)?.palettes ?? []).map((p) => ({
    ...p,
    rows: Object.entries(p.swatches)
      // people's own colors are in all of them
      .filter(([id]) => !regions.value.get(id)?.own)
      .map(([id, swatches]) => ({ id, name: regions.value.get(id)?.name ?? id, swatches })),
  })),
)
</script>

<template>
  <div class="scroll palettes" tabindex="0">
    <p v-if="palettes.length === 0" class="soft">It brings no palettes: its parts have the colors they came in.</p>
    <article v-for="p in palettes" :key="p.id" :data-test="`palette-${p.id}`">
      <h3>{{ p.name }}</h3>
      <dl>
        <div v-for="r in p.rows" :key="r.id">
          <dt>{{ r.name }}</dt>
          <dd>
            <i v-for="(c, i) in r.swatches" :key="i" :style="{ background: c }" :title="c" />
          </dd>
        </div>
      </dl>
    </article>
  </div>
</template>

<style scoped>
.palettes {
  height: 100%;
}

article {
  border-top: 1px solid var(--rule);
  padding: var(--s3) 0;
}

dl {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(190px, 1fr));
  gap: 2px var(--s4);
  margin: var(--s2) 0 0;
  font-size: 13px;
}

dl div {
  display: flex;
  align-items: center;
}

dt {
  flex: 0 0 92px;
}

dd {
  margin: 0;
  display: flex;
}

i {
  width: 22px;
  height: 16px;
  border: 1px solid var(--rule);
  border-left-width: 0;
}

i:first-child {
  border-left-width: 1px;
}
</style>

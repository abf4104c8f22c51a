<script setup lang="ts">
/** A skeleton from the front, flat: its joints can be pointed at. */
export interface MapJoint {
  id: string
  label: string
  parent: number
  at: readonly [number, number, number]
  /** Whether it takes part: others are faint. */
  used: boolean
}
const props = defineProps<{ joints: readonly MapJoint[]; chosen: string | null; label: string; test: string }>()
const emit = defineEmits<{ choose: [id: string] }>()

const WIDTH = 220
const HEIGHT = 340
const EDGE = 14
const placed = computed(() => {
  const xs = props.joints.map((j) => j.at[0])
  const ys = props.joints.map((j) => j.at[1])
  const [left, right, low, high] = [Math.min(...xs), Math.max(...xs), Math.min(...ys), Math.max(...ys)]
  const scale = Math.min((WIDTH - 2 * EDGE) / (right - left || 1), (HEIGHT - 2 * EDGE) / (high - low || 1))
  // seen from the front its left is on our right
  return props.joints.map((j) => ({
    ...j,
    x: WIDTH / 2 + (j.at[0] - (left + right) / 2) * scale,
    y: HEIGHT / 2 - (j.at[1] - (low + high) / 2) * scale,
  }))
})
</script>

<template>
  <svg :viewBox="`0 0 ${WIDTH} ${HEIGHT}`" role="group" :aria-label="label" :data-test="test">
    <template v-for="(j, i) in placed" :key="`line ${i}`">
      <line
        v-if="placed[j.parent]"
        :x1="placed[j.parent]!.x"
        :y1="placed[j.parent]!.y"
        :x2="j.x"
        :y2="j.y"
        :class="{ faint: !j.used }"
      />
    </template>
    <circle
      v-for="j in placed"
      :key="j.id"
      :cx="j.x"
      :cy="j.y"
      :r="j.id === chosen ? 6.5 : 4"
      :class="{ on: j.id === chosen, faint: !j.used }"
      role="button"
      tabindex="-1"
      :aria-label="j.label"
      :data-test="`${test}-${j.id}`"
      @click="emit('choose', j.id)"
    >
      <title>{{ j.label }}</title>
    </circle>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  background: var(--stage, var(--rule));
  border-radius: 6px;
}

line {
  stroke: var(--ink);
  stroke-width: 1.5;
}

line.faint {
  opacity: 0.3;
}

circle {
  fill: var(--act);
  stroke: var(--sheet);
  stroke-width: 1.5;
  cursor: pointer;
}

circle.faint {
  fill: var(--ink-soft);
  opacity: 0.5;
}

circle.on {
  fill: var(--care-mark);
  stroke: var(--ink);
}

circle:hover {
  fill: var(--care-mark);
  opacity: 1;
}
</style>

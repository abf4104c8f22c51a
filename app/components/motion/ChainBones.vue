<script setup lang="ts">
import { CHAIN_KINDS, MOST_IN_CHAIN, type ChainKind } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'

/** How many bones the figure's chains have. */
const figure = useFigure()
const view = useView()

/** Kinds of chains on the figure, and how many bones the longest of each has. */
const chains = computed(() =>
  CHAIN_KINDS.flatMap((kind) => {
    const counts = (figure.view?.limbs ?? []).filter((l) => l.kind === kind).map((l) => l.bones.length)
    return counts.length ? [{ kind, count: Math.max(...counts), said: view.target.chains?.[kind] }] : []
  }),
)
function setCount(kind: ChainKind, count: number | null): void {
  const { [kind]: _old, ...others } = view.target.chains ?? {}
  view.trySkeleton({ chains: count ? { ...others, [kind]: count } : others })
}
</script>

<template>
  <section v-if="chains.length" aria-label="Chains">
    <label v-for="c in chains" :key="c.kind" class="count">
      Bones of {{ CHAIN_NAMES[c.kind] }}
      <InputNumber
        :model-value="c.count"
        :min="1"
        :max="MOST_IN_CHAIN"
        size="small"
        fluid
        show-buttons
        :aria-label="`Bones of ${CHAIN_NAMES[c.kind]}`"
        :data-test="`chain-${c.kind}`"
        @update:model-value="setCount(c.kind, $event)"
      />
      <Button
        v-if="c.said"
        size="small"
        text
        label="As made"
        :data-test="`chain-${c.kind}-reset`"
        @click="setCount(c.kind, null)"
      />
    </label>
  </section>
</template>

<style scoped>
section {
  margin-bottom: var(--s3);
}

.count {
  display: grid;
  grid-template-columns: 1fr 76px auto;
  align-items: center;
  gap: var(--s2);
  margin-bottom: var(--s2);
}
</style>

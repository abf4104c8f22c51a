<script setup lang="ts">
import { CHAIN_KINDS, MOST_IN_CHAIN, type ChainKind } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { useTarget } from '../../stores/target'
import { useView } from '../../stores/view'
import { plain } from '../../workers/plain'

/** How many bones the figure's chains have; and what is tried, to be kept in its target. */
const figure = useFigure()
const view = useView()
const project = useProject()
const target = useTarget()

const NAMES: Record<ChainKind, string> = {
  ...{ neck: 'a neck', tail: 'a tail', ear: 'an ear', wing: 'a wing', fin: 'a fin', stalk: 'a stalk' },
}
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
const kept = computed(() => project.documents.target.some((t) => t.id === view.ownTarget.id))
function keep(): void {
  const { id } = view.ownTarget
  const tried = plain(view.skeleton)
  target.open(id)
  if (!target.target || !tried) return
  target.change({ ...target.target, ...tried })
  target.flush()
  view.skeleton = null
}
// what is tried here is not what ships
onBeforeUnmount(() => (view.skeleton = null))
</script>

<template>
  <section v-if="chains.length || view.skeleton" aria-label="Chains and what is kept">
    <label v-for="c in chains" :key="c.kind" class="count">
      Bones of {{ NAMES[c.kind] }}
      <InputNumber
        :model-value="c.count"
        :min="1"
        :max="MOST_IN_CHAIN"
        size="small"
        fluid
        show-buttons
        :aria-label="`Bones of ${NAMES[c.kind]}`"
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
    <p v-if="view.skeleton" class="soft" data-test="tried-skeleton">
      Tried here alone: “{{ view.ownTarget.name }}” ships its own skeleton.
      <Button v-if="kept" size="small" text label="Ship this one" data-test="keep-skeleton" @click="keep" />
      <Button size="small" text label="Back to its own" data-test="drop-skeleton" @click="view.skeleton = null" />
    </p>
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

<script setup lang="ts">
import { setSprings, springOf, swingingChains, type Spring } from '@idle-tinker/core'
import { useFigure } from '../../stores/figure'

/** Which of the figure's chains swing, and how. */
const figure = useFigure()
/** Both of a pair are one. */
const chains = computed(() =>
  swingingChains(figure.view?.limbs ?? []).map((chain) => ({
    ...{ ...chain, name: boneWords(chain.id) },
    spring: figure.recipe && springOf(figure.recipe, chain.limbs[0]!),
  })),
)
function set(limbs: readonly string[], spring: Spring | null, mark: string | null): void {
  if (figure.recipe) figure.edit(setSprings(figure.recipe, limbs, spring), mark)
}
</script>

<template>
  <section v-if="chains.length" aria-label="Springs" data-test="springs">
    <ChainSprings :chains="chains" @set="set" @settle="figure.settle()" />
  </section>
</template>

<style scoped>
section {
  margin-bottom: var(--s3);
}
</style>

<script setup lang="ts">
import { changePickBody, limbsOffered, setSprings, swingingChains, type PickBody, type Spring } from '@idle-tinker/core'
import { usePicks } from '../../stores/picks'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** Which chains of the body, and of what is offered on it, swing in the game. */
const props = defineProps<{ body: PickBody }>()
const picks = usePicks()
const project = useProject()
const limbs = computed(() => limbsOffered(plain(props.body), project.library))
/** By the part that brings it; where it brings several, with the word for each. */
function nameOf(id: string, first: string): string {
  const of = limbs.value.find((l) => l.id === first)?.of
  if (!of) return boneWords(id)
  const { name, limbs: own = [] } = of.part.def
  return own.length > 1 ? `${name}: ${boneWords(of.limb).toLowerCase()}` : name
}
const chains = computed(() =>
  swingingChains(limbs.value).map((c) => ({
    ...{ ...c, name: nameOf(c.id, c.limbs[0]!) },
    spring: props.body.springs?.[c.limbs[0]!] ?? null,
  })),
)
function set(limbs: readonly string[], spring: Spring | null, mark: string | null): void {
  const { springs } = setSprings(plain(props.body), limbs, spring)
  picks.change(changePickBody(plain(picks.now!), props.body.id, { springs }), mark)
}
</script>

<template>
  <p v-if="chains.length === 0" class="soft none">Nothing here can.</p>
  <ChainSprings :chains="chains" @set="set" />
</template>

<style scoped>
/* nothing beneath its heading */
.none {
  margin: 0;
  font-size: 12.5px;
}
</style>

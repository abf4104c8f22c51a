<script setup lang="ts">
import { X } from 'lucide-vue-next'
import { addReadyLook, changePickBody, lookOfFigure, type PickBody } from '@idle-tinker/core'
import { usePicks } from '../../stores/picks'
import { useProject, type FigureEntry } from '../../stores/project'
import { plain } from '../../workers/plain'

/** Looks to begin with: kept from the mirror, or figures of the project as far as they are offered. */
const props = defineProps<{ body: PickBody }>()
const picks = usePicks()
const project = useProject()
const left = ref('')
const figures = computed(() =>
  project.figures.filter((f) => f.content.body.kit === props.body.body.kit && f.content.body.id === props.body.body.id),
)
const change = (looks: PickBody['looks'], mark: string | null = null) =>
  picks.change(changePickBody(plain(picks.now!), props.body.id, { looks }), mark)
const own = () => plain(props.body.looks ?? [])

function rename(id: string, name: string): void {
  const next = name.trim().slice(0, 80)
  if (next)
    change(
      own().map((l) => (l.id === id ? { ...l, name: next } : l)),
      `look ${id}`,
    )
}
function take({ content, name }: FigureEntry): void {
  const found = lookOfFigure(plain(props.body), plain(content), project.library)
  if (!found) return
  left.value = found.left.length ? `Not offered, and left out of ${name}: ${found.left.join(', ')}.` : ''
  picks.change(addReadyLook(plain(picks.now!), props.body.id, found.look))
}
</script>

<template>
  <p v-if="!body.looks?.length" class="soft none">None yet: keep one from the mirror, or take a figure.</p>
  <div v-for="l in body.looks ?? []" :key="l.id" class="line" :data-test="`ready-${l.id}`">
    <InputText
      :model-value="l.name"
      size="small"
      fluid
      maxlength="80"
      :aria-label="`Name of ${l.name}`"
      @change="rename(l.id, ($event.target as HTMLInputElement).value)"
    />
    <button class="quiet" :aria-label="`Take ${l.name} out`" @click="change(own().filter((o) => o.id !== l.id))">
      <X :size="14" />
    </button>
  </div>
  <OfferMore
    v-if="(body.looks?.length ?? 0) < 60"
    :options="figures"
    label="Take a figure"
    class="take"
    data-test="look-of-figure"
    @take="take"
  />
  <p v-if="left" class="soft none" role="status" data-test="left-out">{{ left }}</p>
</template>

<style scoped>
.line {
  display: flex;
  border-bottom: 1px solid var(--rule);
}

/* nothing beneath its heading */
.none {
  margin: 0;
  font-size: 12.5px;
}

.take {
  margin-top: var(--s1);
}
</style>

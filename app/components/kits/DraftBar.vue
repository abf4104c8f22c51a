<script setup lang="ts">
import { describeProblem } from '@idle-tinker/core'
import { Refused } from '../../stores/api'
import { newProblems, useKitDraft } from '../../stores/kitDraft'
import { useProject } from '../../stores/project'

/** What of a kit has been changed and not been saved: what is wrong with it, and the way to save or drop it. */
const props = defineProps<{ kit: string }>()
const project = useProject()
const draft = useKitDraft()
const told = computed(() =>
  newProblems(
    draft.problems[props.kit] ?? [],
    project.kits.find((k) => k.manifest.id === props.kit)?.problems ?? [],
  ).sort((a, b) => Number(b.severity === 'error') - Number(a.severity === 'error')),
)
const wrong = computed(() => told.value.some((p) => p.severity === 'error'))
const said = ref('')
async function save(): Promise<void> {
  said.value = ''
  try {
    await draft.save(props.kit)
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
    // somebody has changed it meanwhile: what it is now is looked at
    if (error instanceof Refused && error.status === 409) await project.load()
  }
}
function rebase(): void {
  said.value = ''
  draft.rebase(props.kit)
}
</script>

<template>
  <div v-if="draft.isDirty(kit)" class="draft" role="region" aria-label="Changes" data-test="draft-bar">
    <div class="line">
      <b>Changed, and not saved yet.</b>
      <span v-if="draft.isStale(kit)" data-test="draft-stale"
        >The kit has been saved elsewhere since.
        <Button size="small" text label="Change that one" data-test="draft-rebase" @click="rebase" />
      </span>
      <span class="gap" />
      <Button size="small" text label="Drop the changes" data-test="draft-drop" @click="draft.drop(kit)" />
      <Button
        size="small"
        label="Save the kit"
        data-test="draft-save"
        :disabled="wrong || draft.saving || draft.isStale(kit)"
        :loading="draft.saving"
        @click="save"
      />
    </div>
    <p v-if="said" role="alert" class="over" data-test="draft-said">{{ said }}</p>
    <ul v-if="told.length" data-test="draft-problems">
      <li v-for="(p, i) in told.slice(0, 12)" :key="i" :class="p.severity">
        {{ describeProblem(p) }}
      </li>
    </ul>
  </div>
</template>

<style scoped>
.draft {
  border-left: 3px solid var(--care-mark);
  background: var(--sheet);
  padding: var(--s2) var(--s3);
  margin-bottom: var(--s3);
}

.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s2);
}

.gap {
  flex: 1;
}

ul {
  margin: var(--s1) 0 0;
  padding-left: var(--s4);
  font-size: 13px;
  max-height: 120px;
  overflow: auto;
}

.error,
.over {
  color: var(--over);
}
</style>

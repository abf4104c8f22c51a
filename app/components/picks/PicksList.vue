<script setup lang="ts">
import { Copy, Plus } from 'lucide-vue-next'
import { newPicks } from '@idle-tinker/core'
import type { Entry } from '../../documents/Keeper'
import { usePicks } from '../../stores/picks'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** The packages of picks: the one that is worked on, and all the others. */
const project = useProject()
const picks = usePicks()
const menu = ref<{ attempt(work: () => Promise<unknown>): Promise<void>; hide(): void }>()

function open({ id }: Pick<Entry<object>, 'id'>): void {
  picks.open(id)
  menu.value?.hide()
}
const attempt = (work: () => Promise<Entry<object>>) => menu.value?.attempt(async () => open(await work()))

const fresh = (kit: string, id: string, name: string) =>
  attempt(() =>
    project.addNamed(
      'picks',
      newPicks(project.library, { kit, id }, { id: 'picks', name: `Picks for ${name.toLowerCase()}`.slice(0, 72) }),
    ),
  )

const duplicate = () => {
  const { now } = picks
  if (now) void attempt(() => project.addNamed('picks', plain(now)))
}

function gone(): void {
  picks.forget()
  const [first] = project.documents.picks
  if (first) picks.open(first.id)
}
</script>

<template>
  <DocumentMenu
    ref="menu"
    kind="picks"
    noun="package"
    :name="picks.now?.name ?? null"
    :current="picks.id"
    @open="open"
    @rename="picks.now && picks.change({ ...picks.now, name: $event })"
    @gone="gone"
  >
    <Button
      v-for="b in project.bodies"
      :key="`${b.kit}/${b.id}`"
      size="small"
      outlined
      :label="`New package: ${b.name.toLowerCase()}`"
      :data-test="`new-picks-${b.id}`"
      @click="fresh(b.kit, b.id, b.name)"
      ><template #icon><Plus :size="15" /></template
    ></Button>
    <Button
      size="small"
      outlined
      label="Duplicate"
      data-test="duplicate-picks"
      :disabled="!picks.now"
      @click="duplicate"
      ><template #icon><Copy :size="15" /></template
    ></Button>
  </DocumentMenu>
</template>

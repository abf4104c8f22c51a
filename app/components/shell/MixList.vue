<script setup lang="ts">
import { Copy, Plus } from 'lucide-vue-next'
import { newMix } from '@idle-tinker/core'
import type { Entry } from '../../documents/Keeper'
import { useCrowd } from '../../stores/crowd'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

/** The mixes: the one whose crowd is looked at, and all the others. */
const project = useProject()
const crowd = useCrowd()
const toast = useToast()
const menu = ref<{ attempt(work: () => Promise<unknown>): Promise<void>; hide(): void }>()

function open({ id }: Pick<Entry<object>, 'id'>): void {
  crowd.open(id)
  menu.value?.hide()
}
const attempt = (work: () => Promise<Entry<object>>) => menu.value?.attempt(async () => open(await work()))

const fresh = (kit: string, id: string, name: string) =>
  attempt(() =>
    project.addNamed(
      'mix',
      newMix(project.library, { kit, id }, { id: 'mix', name: `New crowd of ${name.toLowerCase()}` }, randomSeed()),
    ),
  )

const duplicate = () => {
  const { mix } = crowd
  if (mix) void attempt(() => project.addNamed('mix', plain(mix)))
}

const openFile = (file: File) =>
  attempt(async () => {
    const { entry, problems } = await project.openCrowd(file)
    for (const { message, remedy } of problems)
      toast.add({ severity: 'warn', summary: message, detail: remedy, life: 12_000 })
    return entry
  })

const setName = (name: string) => {
  if (crowd.mix) crowd.change({ ...crowd.mix, name })
}
</script>

<template>
  <DocumentMenu
    ref="menu"
    kind="mix"
    noun="mix"
    :name="crowd.mix?.name ?? null"
    :current="crowd.id"
    @open="open"
    @rename="setName"
    @gone="crowd.close()"
  >
    <Button
      v-for="b in project.bodies"
      :key="`${b.kit}/${b.id}`"
      size="small"
      outlined
      :label="`New mix: ${b.name.toLowerCase()}`"
      :data-test="`new-mix-${b.id}`"
      @click="fresh(b.kit, b.id, b.name)"
      ><template #icon><Plus :size="15" /></template
    ></Button>
    <Button size="small" outlined label="Duplicate" data-test="duplicate-mix" :disabled="!crowd.mix" @click="duplicate"
      ><template #icon><Copy :size="15" /></template
    ></Button>
    <FilePick
      label="Open a file …"
      accept=".json,.zip"
      hint="A mix, the crowd.json of a shipped crowd, or its zip"
      test="open-crowd"
      @file="openFile"
    />
  </DocumentMenu>
</template>

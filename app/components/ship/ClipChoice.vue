<script setup lang="ts">
import { clipsNamed, wantedBy, type Target } from '@idle-tinker/core'
import { useProject } from '../../stores/project'

/** Which of all that figures can play goes along to a game; by names, as a game calls for them. */
const props = defineProps<{ target: Pick<Target, 'keepClips'> }>()
const emit = defineEmits<{ change: [ids: string[]] }>()
const project = useProject()

const clips = computed(() => [...project.library.values()].flatMap(({ manifest }) => manifest.clips))
/** Kits may have clips of one name, for figures of several kinds. */
const names = computed(() => [...new Set(clips.value.map((c) => c.name))])
const going = computed(() => {
  const wanted = new Set(clips.value.filter(wantedBy(props.target)).map((c) => c.name))
  return names.value.filter((name) => wanted.has(name))
})
</script>

<template>
  <MultiSelect
    :model-value="going"
    :options="names"
    :max-selected-labels="3"
    :selected-items-label="`${going.length} of ${names.length}`"
    placeholder="None"
    size="small"
    fluid
    filter
    aria-label="Clips that go along"
    data-test="keep-clips"
    @update:model-value="emit('change', clipsNamed(target, clips, $event))"
  />
</template>

<script setup lang="ts">
import { alwaysOn, dropPart, type KitRef } from '@idle-tinker/core'
import { nameUsers, useUsers } from '../../composables/useUsers'
import { useFigure } from '../../stores/figure'
import { useKitDraft } from '../../stores/kitDraft'
import { useProject } from '../../stores/project'

/** Who in the project has a part on; the way to take it out of its kit all the same. */
const props = defineProps<{ part: KitRef }>()
const emit = defineEmits<{ gone: [] }>()
const project = useProject()
const figure = useFigure()
const draft = useKitDraft()
const { usersOf } = useUsers()
const confirm = useConfirm()
const manifest = computed(() => draft.manifestOf(props.part.kit))
const def = computed(() => manifest.value?.parts.find((p) => p.id === props.part.id))
const users = computed(() => usersOf(props.part.kit, props.part.id))
const staysWith = computed(() => (manifest.value ? alwaysOn(manifest.value, props.part.id) : []))
const nobody = computed(() => Object.values(users.value).every((list) => list.length === 0))

async function openFigure(id: string): Promise<void> {
  const entry = project.figures.find((f) => f.id === id)
  if (!entry) return
  figure.open(entry)
  await navigateTo('/bench')
}

function takeOut(): void {
  const names = nameUsers(users.value)
  confirm.require({
    header: `Take “${def.value?.name}” out of the kit?`,
    message: names ? `${names} will be without it, and say so. Nothing else changes.` : 'Nobody has it on.',
    acceptProps: { label: 'Take it out', severity: 'danger', 'data-test': 'take-out-sure' },
    rejectProps: { label: 'Keep it', text: true },
    accept: () => {
      draft.change(props.part.kit, (kit) => dropPart(kit, props.part.id))
      emit('gone')
    },
  })
}
</script>

<template>
  <section data-test="part-users">
    <h3>Who has it on</h3>
    <p v-if="nobody" class="soft">Nobody in this project.</p>
    <p v-if="users.figures.length">
      <template v-for="(u, i) in users.figures" :key="u.id"
        >{{ i ? ', ' : 'Figures: ' }}<button class="link" @click="openFigure(u.id)">{{ u.name }}</button></template
      >
    </p>
    <p v-if="users.mixes.length">Mixes: {{ users.mixes.map((u) => u.name).join(', ') }}</p>
    <p v-if="users.looks.length">Looks: {{ users.looks.map((u) => u.name).join(', ') }}</p>
    <p v-if="staysWith.length" class="soft">{{ staysWith.join(', ') }}: always with it, so it stays in the kit.</p>
    <Button
      v-else
      size="small"
      text
      severity="danger"
      label="Take it out of the kit"
      data-test="take-out"
      @click="takeOut"
    />
  </section>
</template>

<style scoped>
section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s2);
}

p {
  margin: 2px 0 var(--s2);
}

.link {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  color: var(--act);
  font: inherit;
  cursor: pointer;
  text-decoration: underline;
}
</style>

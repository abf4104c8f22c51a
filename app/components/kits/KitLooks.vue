<script setup lang="ts">
import { bodyOf, recipeOfLook, refOf, type LookDef } from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'

/** Figures that a kit brings ready to start from. */
const props = defineProps<{ kit: string }>()
const emit = defineEmits<{ started: [] }>()
const project = useProject()
const figure = useFigure()
const { pictureOfLook } = usePictures()
const said = ref('')
const looks = computed(() =>
  (project.manifest(props.kit)?.looks ?? []).map((look) => {
    const body = bodyOf(project.library, refOf(look.body, props.kit))
    const names = new Map(body?.archetypes?.flatMap((set) => set.archetypes.map((a) => [a.id, a.name] as const)))
    return { look, here: Boolean(body), kinds: (look.archetypes ?? []).map((id) => names.get(id) ?? id) }
  }),
)

async function start(look: LookDef): Promise<void> {
  said.value = ''
  try {
    figure.open(await project.add('figure', recipeOfLook(project.library, props.kit, look)))
    emit('started')
    await navigateTo('/bench')
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <div class="scroll looks" tabindex="0">
    <p v-if="said" role="alert">{{ said }}</p>
    <p v-if="looks.length === 0" class="soft">It brings no looks. Any figure can be made one at its name, above.</p>
    <div class="grid">
      <button
        v-for="{ look, here, kinds } in looks"
        :key="look.id"
        class="look"
        :disabled="!here"
        :title="here ? `A new figure from ${look.name}` : 'Its body is not here'"
        :data-test="`look-${look.id}`"
        @click="start(look)"
      >
        <img v-if="here && pictureOfLook(kit, look)" :src="pictureOfLook(kit, look)" width="132" height="180" alt="" />
        <span v-else class="coming" />
        <b>{{ look.name }}</b>
        <span class="soft">{{ kinds.join(', ') || '\u00a0' }}</span>
      </button>
    </div>
  </div>
</template>

<style scoped>
.looks {
  height: 100%;
}

.grid {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(140px, 1fr));
  gap: var(--s3) var(--s2);
}

.look {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 13px/1.3 var(--text);
  cursor: pointer;
  border-radius: 6px;
  padding: 4px;
  display: grid;
  justify-items: center;
}

.look:hover:enabled {
  background: var(--act-soft);
}

.look:disabled {
  opacity: 0.5;
  cursor: default;
}

.coming {
  width: 132px;
  height: 180px;
}
</style>

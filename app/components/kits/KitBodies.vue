<script setup lang="ts">
import { fullName, movementsOf, newRecipe, shapeSlidersOf, slidersByGroup, type BodyDef } from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'

/** The bodies that a kit brings, and what each can do. */
const props = defineProps<{ kit: string }>()
const project = useProject()
const figure = useFigure()
const { pictureOf } = usePictures()
const bodies = computed(() => project.manifest(props.kit)?.bodies ?? [])
const said = ref('')

function facts(body: BodyDef): [string, string][] {
  const shape = shapeSlidersOf(body)
  const groups = slidersByGroup(body, shape).map((g) => `${g.name.toLowerCase()} ${g.sliders.length}`)
  const archetypes = (body.archetypes ?? []).flatMap((set) => set.archetypes.map((a) => a.name.toLowerCase()))
  const moves = movementsOf(body).length
  return [
    ['Plan', body.plan],
    ['Sliders', shape.length ? `${shape.length}: ${groups.join(', ')}` : 'None: its shape is as it came'],
    ['Face', moves ? `${moves} movements, ${body.expressions?.length ?? 0} expressions` : 'Does not move'],
    ['Regions', body.regions.map((r) => r.name.toLowerCase()).join(', ')],
    ['Sockets', body.sockets.map((s) => s.name.toLowerCase()).join(', ') || 'None'],
    ['Seams', body.seams.map((s) => s.name.toLowerCase()).join(', ') || 'None'],
    ['Archetypes', archetypes.join(', ') || 'None'],
  ]
}

async function start(body: BodyDef): Promise<void> {
  said.value = ''
  try {
    const manifest = project.manifest(props.kit)!
    figure.open(await project.add('figure', newRecipe({ manifest }, body.id, `New ${body.name.toLowerCase()}`)))
    await navigateTo('/bench')
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <div class="scroll bodies" tabindex="0">
    <p v-if="said" role="alert">{{ said }}</p>
    <p v-if="bodies.length === 0" class="soft">It brings no body: its parts are for those of other kits.</p>
    <article v-for="b in bodies" :key="b.id" :data-test="`body-${b.id}`">
      <img
        v-if="pictureOf({ kit, id: b.id })"
        :src="pictureOf({ kit, id: b.id })"
        width="132"
        height="132"
        :alt="b.name"
      />
      <span v-else class="coming" />
      <div>
        <h3>{{ b.name }}</h3>
        <dl>
          <template v-for="[what, words] in facts(b)" :key="what">
            <dt>{{ what }}</dt>
            <dd>{{ words }}</dd>
          </template>
        </dl>
        <Button
          size="small"
          outlined
          :label="`New ${b.name.toLowerCase()}`"
          :data-test="`start-${fullName({ kit, id: b.id })}`"
          @click="start(b)"
        />
      </div>
    </article>
  </div>
</template>

<style scoped>
.bodies {
  height: 100%;
}

article {
  display: grid;
  grid-template-columns: 148px minmax(0, 1fr);
  border-top: 1px solid var(--rule);
  padding: var(--s3) 0;
}

.coming {
  width: 132px;
  height: 132px;
}

dl {
  display: grid;
  grid-template-columns: 84px minmax(0, 1fr);
  gap: 2px var(--s2);
  font-size: 13px;
  margin: var(--s2) 0;
}

dt {
  color: var(--ink-soft);
}

dd {
  margin: 0;
}
</style>

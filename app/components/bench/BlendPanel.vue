<script setup lang="ts">
import { Blend } from 'lucide-vue-next'
import { blend, shapeSlidersOf, takeColors, takeFace, takeParts, takeShape, type Recipe } from '@idle-tinker/core'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'
import { useProject, type FigureEntry } from '../../stores/project'
import { plain } from '../../workers/plain'

/** Brings the figure towards another one, or takes from it what is wanted. */
const figure = useFigure()
const project = useProject()
const { body } = useKit()
const panel = ref<{ toggle(e: Event): void }>()
const others = computed(() => project.figures.filter((f) => f.id !== figure.id))
const otherId = ref<string | null>(null)
const other = computed<FigureEntry | undefined>(
  () => others.value.find((f) => f.id === otherId.value) ?? others.value[0],
)
/** What the way begins at, and how far along it the figure is. */
const start = shallowRef<Recipe | null>(null)
const share = ref(0)
// no id of a group has such a sign in it
const WHOLE = { id: '*', name: 'All of its shape' }
const group = ref(WHOLE.id)
const groups = computed(() => [WHOLE, ...(body.value?.sliderGroups.filter((g) => !g.moves) ?? [])])
const faced = computed(() => body.value !== undefined && shapeSlidersOf(body.value).length < body.value.sliders.length)

/** Whatever is done from here on begins at the figure as it is. */
function begin(): void {
  figure.settle()
  start.value = figure.recipe ? plain(figure.recipe) : null
  share.value = 0
}
watch([other, () => figure.id], begin)

function go(to: number): void {
  share.value = to
  if (!start.value || !other.value) return
  figure.edit(blend(start.value, plain(other.value.content), project.library, to / 100), 'blend')
}

function take(work: (mine: Recipe, theirs: Recipe) => Recipe): void {
  if (!figure.recipe || !other.value) return
  figure.edit(work(plain(figure.recipe), plain(other.value.content)))
  begin()
}
</script>

<template>
  <button
    class="quiet"
    aria-haspopup="dialog"
    aria-label="Blend with another figure"
    title="Blend with another figure"
    data-test="blend"
    :disabled="!figure.recipe || others.length === 0"
    @click="panel?.toggle($event)"
  >
    <Blend :size="18" />
  </button>
  <Popover ref="panel" aria-label="Blend with another figure" @show="begin" @hide="figure.settle()">
    <div v-if="other" class="panel" data-test="blend-panel">
      <Select
        :model-value="other.id"
        :options="others"
        option-label="name"
        option-value="id"
        size="small"
        fluid
        aria-label="Another figure"
        data-test="blend-with"
        @update:model-value="otherId = $event as string"
      />
      <div class="way">
        <span class="soft">{{ figure.recipe?.name }}</span>
        <Slider
          :model-value="share"
          aria-label="How far towards the other figure"
          data-test="blend-share"
          @update:model-value="go($event as number)"
          @slideend="figure.settle()"
        />
        <span class="soft">{{ other.name }}</span>
      </div>
      <div class="takes">
        <Select
          v-model="group"
          :options="groups"
          option-label="name"
          option-value="id"
          size="small"
          aria-label="Which shape"
          class="which"
        />
        <Button
          size="small"
          outlined
          label="Take"
          aria-label="Take its shape"
          data-test="take-shape"
          @click="
            take((mine, theirs) => takeShape(mine, theirs, project.library, group === WHOLE.id ? undefined : group))
          "
        />
        <Button
          size="small"
          outlined
          label="Take what it wears"
          data-test="take-parts"
          @click="take((mine, theirs) => takeParts(mine, theirs, project.library))"
        />
        <Button
          v-if="faced"
          size="small"
          outlined
          label="Take its face"
          data-test="take-face"
          @click="take((mine, theirs) => takeFace(mine, theirs, project.library))"
        />
        <Button size="small" outlined label="Take its colors" data-test="take-colors" @click="take(takeColors)" />
      </div>
      <p class="soft">What is locked stays. Each of these can be undone.</p>
    </div>
  </Popover>
</template>

<style scoped>
.panel {
  width: 330px;
  display: grid;
  gap: var(--s3);
}

.way {
  display: grid;
  grid-template-columns: minmax(0, auto) 1fr minmax(0, auto);
  align-items: center;
  gap: var(--s4);
  font-size: 12px;
}

.takes {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2);
}

.which {
  flex: 1 0 60%;
}

p {
  margin: 0;
  font-size: 12px;
}
</style>

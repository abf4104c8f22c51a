<script setup lang="ts">
import { Copy, Plus, Sparkles, X } from 'lucide-vue-next'
import { newLook, newRecipe, rename, type Kept } from '@idle-tinker/core'
import type { Entry } from '../../documents/Keeper'
import { useFigure } from '../../stores/figure'
import { useProject, type FigureEntry } from '../../stores/project'
import { plain } from '../../workers/plain'

/** The figures: the one on the Bench, and all the others. */
const project = useProject()
const figure = useFigure()
const menu = ref<{ attempt(work: () => Promise<unknown>): Promise<void>; hide(): void }>()

function open(entry: Entry<object>): void {
  figure.open(entry as FigureEntry)
  menu.value?.hide()
}
const attempt = (work: () => Promise<FigureEntry>) => menu.value?.attempt(async () => open(await work()))

const fresh = (kit: string, body: string, name: string) =>
  attempt(() => {
    const manifest = project.manifest(kit)!
    return project.add('figure', newRecipe({ manifest }, body, `New ${name.toLowerCase()}`))
  })

const duplicate = () => {
  const { recipe } = figure
  if (recipe) void attempt(() => project.add('figure', { ...plain(recipe), name: `${recipe.name} again`.slice(0, 80) }))
}

/** New figures can start from it. */
const makeLook = () => {
  const { recipe } = figure
  if (recipe) void menu.value?.attempt(() => project.add('kept', newLook(plain(recipe))))
}
const fromLook = ({ content }: Entry<Kept>) =>
  attempt(() => project.add('figure', { ...plain(content.recipe), name: `New ${content.name}`.slice(0, 80) }))

const renameLook = (look: Entry<Kept>, name: string) =>
  void menu.value?.attempt(() => project.amendKept('kept', look, { name }))

/** Kits that bring looks; whether one is being chosen. */
const withLooks = computed(() => project.kits.filter((k) => k.manifest.looks?.length))
const choosing = ref(false)

const setName = (name: string) => {
  if (figure.recipe) figure.edit(rename(figure.recipe, name))
}
</script>

<template>
  <DocumentMenu
    ref="menu"
    kind="figure"
    noun="figure"
    pictures
    :name="figure.recipe?.name ?? null"
    :current="figure.id"
    @open="open"
    @rename="setName"
    @gone="figure.close()"
  >
    <Button
      v-for="b in project.bodies"
      :key="`${b.kit}/${b.id}`"
      size="small"
      outlined
      :label="`New ${b.name.toLowerCase()}`"
      :data-test="`new-${b.id}`"
      @click="fresh(b.kit, b.id, b.name)"
      ><template #icon><Plus :size="15" /></template
    ></Button>
    <span v-for="look in project.looks" :key="look.id" class="look">
      <NameField :name="look.name" :noun="`look ${look.name}`" test="rename-look" @rename="renameLook(look, $event)">
        <Button
          size="small"
          outlined
          :label="`New from ${look.name}`"
          :data-test="`from-${look.name}`"
          @click="fromLook(look)"
          ><template #icon><Plus :size="15" /></template
        ></Button>
      </NameField>
      <button
        class="quiet"
        :aria-label="`Drop the look ${look.name}`"
        title="No starting look any more"
        @click="menu?.attempt(() => project.remove('kept', look.id))"
      >
        <X :size="13" />
      </button>
    </span>
    <Button
      v-if="withLooks.length"
      size="small"
      outlined
      label="From a ready look …"
      data-test="ready-looks"
      @click="choosing = true"
      ><template #icon><Plus :size="15" /></template
    ></Button>
    <Button
      size="small"
      outlined
      label="Make it a starting look"
      data-test="make-look"
      :disabled="!figure.recipe"
      @click="makeLook"
      ><template #icon><Sparkles :size="15" /></template
    ></Button>
    <Button size="small" outlined label="Duplicate" data-test="duplicate" :disabled="!figure.recipe" @click="duplicate"
      ><template #icon><Copy :size="15" /></template
    ></Button>
    <FilePick
      label="Open a file …"
      accept=".glb,.gltf,.vrm,.dae,.json"
      hint="A GLB, glTF, VRM or COLLADA shipped from here, or a recipe"
      test="open-file"
      @file="(file: File) => attempt(() => project.openFile(file))"
    />
  </DocumentMenu>
  <Dialog
    v-model:visible="choosing"
    modal
    header="Ready looks"
    :style="{ width: 'min(980px, 94vw)' }"
    data-test="looks-dialog"
  >
    <section v-for="k in withLooks" :key="k.manifest.id">
      <h3>{{ k.manifest.name }}</h3>
      <KitLooks :kit="k.manifest.id" @started="choosing = false" />
    </section>
  </Dialog>
</template>

<style scoped>
.look {
  display: inline-flex;
  align-items: center;
}
</style>

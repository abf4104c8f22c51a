<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { PICTURE, useCrowd } from '../../stores/crowd'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

const SMALLEST = 62
const crowd = useCrowd()
const figure = useFigure()
const project = useProject()
const twins = computed(() => new Set(crowd.twins.flatMap((t) => [t.a, t.b])))
const router = useRouter()
/** The one that is looked at closely. */
const large = ref<number | null>(null)
/** Width of a picture; kept, as screens differ and people do not change theirs every day. */
const size = useLocalStorage('tinker.pictures', 94)
const width = computed(() => Math.min(PICTURE.width, Math.max(SMALLEST, size.value || SMALLEST)))
const height = computed(() => Math.round((width.value * PICTURE.height) / PICTURE.width))

async function toBench(index: number): Promise<void> {
  const card = crowd.cards[index]
  if (!card) return
  figure.open(await project.add('figure', plain(card.recipe)))
  large.value = null
  await router.push('/bench')
}
</script>

<template>
  <section class="sheet" aria-label="Contact sheet">
    <div class="top">
      <CrowdProgress v-if="crowd.phase !== 'idle'" class="making" />
      <label v-if="crowd.cards.length" class="size"
        ><span>Pictures</span>
        <Slider
          v-model="size"
          :min="SMALLEST"
          :max="PICTURE.width"
          :step="4"
          aria-label="Size of the pictures"
          data-test="picture-size"
      /></label>
    </div>
    <div v-if="crowd.cards.length === 0 && crowd.phase === 'idle'" class="empty">
      <p>The crowd stands here once it has been made.</p>
      <Button :label="`Make ${crowd.mix?.count} figures`" @click="crowd.make()" />
    </div>
    <div
      class="grid scroll"
      :style="{ gridTemplateColumns: `repeat(auto-fill, minmax(${width + 4}px, 1fr))` }"
      data-test="contact-sheet"
    >
      <ContactCard
        v-for="(c, i) in crowd.cards"
        :key="i"
        :card="c"
        :index="i"
        :twin="twins.has(i)"
        :width="width"
        :height="height"
        :busy="crowd.phase !== 'idle'"
        @look="large = i"
        @bench="toBench(i)"
        @pin="crowd.pin(i)"
        @reroll="crowd.reroll(i)"
      />
    </div>
    <VariantDialog v-model="large" @bench="toBench" />
  </section>
</template>

<style scoped>
.sheet {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  background: var(--stage);
  height: 100%;
  position: relative;
}

.top {
  grid-row: 1;
  display: flex;
  align-items: center;
  gap: var(--s4);
  padding: 0 var(--s4);
}

.making {
  flex: 1;
  padding: var(--s2) 0;
}

.size {
  margin-left: auto;
  width: 190px;
  display: grid;
  grid-template-columns: auto 1fr;
  gap: var(--s3);
  align-items: center;
  padding: var(--s2) 0;
  font-size: 12px;
}

.empty {
  position: absolute;
  inset: 0;
  display: grid;
  place-content: center;
  justify-items: center;
}

.grid {
  grid-row: 2;
  display: grid;
  align-content: start;
  gap: 2px;
  padding: var(--s2);
}
</style>

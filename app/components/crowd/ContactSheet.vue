<script setup lang="ts">
import { Dices, ExternalLink, Pin, PinOff } from 'lucide-vue-next'
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
      <figure
        v-for="(c, i) in crowd.cards"
        :key="i"
        :class="{ twin: twins.has(i), pinned: c.pinned }"
        :data-test="`variant-${i}`"
      >
        <button
          class="look"
          :aria-label="`Look closely at figure ${i + 1}`"
          :data-test="`look-${i}`"
          @click="large = i"
        >
          <img v-if="c.picture" :src="c.picture" :width="width" :height="height" :alt="c.recipe.name" />
          <span v-else :style="{ display: 'block', width: `${width}px`, height: `${height}px` }" />
        </button>
        <figcaption>
          <span class="number">{{ i + 1 }}</span>
          <span class="number triangles">{{ c.costs?.triangles ?? '' }}</span>
        </figcaption>
        <div class="acts">
          <button
            class="quiet"
            :class="{ on: c.pinned }"
            :aria-label="`${c.pinned ? 'Let go of' : 'Pin'} figure ${i + 1}`"
            :title="c.pinned ? 'Let go' : 'Pin: it stays when the crowd is made again'"
            :data-test="`pin-${i}`"
            @click="crowd.pin(i)"
          >
            <component :is="c.pinned ? PinOff : Pin" :size="14" />
          </button>
          <button
            class="quiet"
            :disabled="crowd.phase !== 'idle' || c.pinned"
            :aria-label="`Another figure for ${i + 1}`"
            title="Another one here"
            :data-test="`reroll-${i}`"
            @click="crowd.reroll(i)"
          >
            <Dices :size="14" />
          </button>
          <button class="quiet" :aria-label="`Figure ${i + 1} to the Bench`" title="To the Bench" @click="toBench(i)">
            <ExternalLink :size="14" />
          </button>
        </div>
        <small v-if="twins.has(i)" class="alike">alike</small>
      </figure>
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

figure {
  margin: 0;
  position: relative;
  display: grid;
  justify-items: center;
  border-radius: 6px;
  padding: 2px;
}

figure:hover,
figure:focus-within {
  background: color-mix(in srgb, var(--sheet) 55%, transparent);
}

figure.pinned {
  background: color-mix(in srgb, var(--care-mark) 20%, transparent);
}

.look {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  cursor: zoom-in;
  line-height: 0;
  border-radius: 6px;
}

figcaption {
  display: flex;
  justify-content: space-between;
  width: 100%;
  padding: 0 4px;
}

.acts {
  position: absolute;
  top: 2px;
  right: 2px;
  display: grid;
  opacity: 0;
}

figure:hover .acts,
figure:focus-within .acts,
.pinned .acts {
  opacity: 1;
}

.alike {
  position: absolute;
  left: 6px;
  top: 4px;
  color: var(--care);
  font-weight: 600;
}
</style>

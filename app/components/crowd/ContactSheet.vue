<script setup lang="ts">
import { Dices, ExternalLink, Pin, PinOff } from 'lucide-vue-next'
import { useCrowd } from '../../stores/crowd'
import { useFigure } from '../../stores/figure'
import { useProject } from '../../stores/project'
import { plain } from '../../workers/plain'

const crowd = useCrowd()
const figure = useFigure()
const project = useProject()
const twins = computed(() => new Set(crowd.twins.flatMap((t) => [t.a, t.b])))
const router = useRouter()

async function toBench(index: number): Promise<void> {
  const card = crowd.cards[index]
  if (!card) return
  figure.open(await project.add('figure', plain(card.recipe)))
  await router.push('/bench')
}
</script>

<template>
  <section class="sheet" aria-label="Contact sheet">
    <CrowdProgress v-if="crowd.phase !== 'idle'" class="making" />
    <div v-if="crowd.cards.length === 0 && crowd.phase === 'idle'" class="empty soft">
      <p>The crowd stands here once it has been made.</p>
      <Button :label="`Make ${crowd.mix?.count} figures`" @click="crowd.make()" />
    </div>
    <div class="grid scroll" data-test="contact-sheet">
      <figure
        v-for="(c, i) in crowd.cards"
        :key="i"
        :class="{ twin: twins.has(i), pinned: c.pinned }"
        :data-test="`variant-${i}`"
      >
        <img v-if="c.picture" :src="c.picture" width="94" height="146" :alt="c.recipe.name" />
        <span v-else class="coming" />
        <figcaption>
          <span class="number">{{ i + 1 }}</span>
          <span class="number soft">{{ c.costs?.triangles ?? '' }}</span>
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

.making {
  grid-row: 1;
  padding: var(--s2) var(--s4);
  display: grid;
  gap: 4px;
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
  grid-template-columns: repeat(auto-fill, minmax(96px, 1fr));
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

.coming {
  width: 94px;
  height: 146px;
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

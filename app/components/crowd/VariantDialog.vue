<script setup lang="ts">
import { onKeyStroke } from '@vueuse/core'
import { ChevronLeft, ChevronRight } from 'lucide-vue-next'
import { bodyOf, colorRegionsOf, meanValue, partOf, slotsFor } from '@idle-tinker/core'
import { theBooth } from '../../stage/Booth'
import { useCrowd } from '../../stores/crowd'
import { inPool, useProject } from '../../stores/project'
import { plain } from '../../workers/plain'
import type { FigureView } from '../../workers/protocol'

/** One figure of the crowd, large: from four sides, what it is made of, what it costs. */
const index = defineModel<number | null>({ required: true })
const emit = defineEmits<{ bench: [index: number] }>()

const crowd = useCrowd()
const project = useProject()
const card = computed(() => (index.value === null ? undefined : crowd.cards[index.value]))
const view = shallowRef<FigureView | null>(null)
const pictures = ref<{ name: string; url: string }[]>([])
const message = ref('')
const SIDES = [
  { name: 'Front', turn: 0.4 },
  { name: 'Side', turn: Math.PI / 2 },
  { name: 'Back', turn: Math.PI },
] as const

// built anew: sheets keep pictures, not figures
watch(
  () => card.value?.recipe,
  async (recipe) => {
    view.value = null
    pictures.value = []
    message.value = ''
    if (!recipe) return
    try {
      const target = plain(crowd.target)
      const built = await inPool((worker) => worker.build(plain(recipe), target, true))
      if (recipe !== card.value?.recipe) return
      view.value = built.view
      if (built.view)
        pictures.value = SIDES.map(({ name, turn }) => ({
          name,
          url: theBooth().take(built.view!, 230, 400, { turn, armsDown: true })?.toDataURL() ?? '',
        }))
      else message.value = built.problems.map((p) => p.message).join(' ')
    } catch (error) {
      message.value = error instanceof Error ? error.message : String(error)
    }
  },
  { immediate: true },
)

const colors = computed(() => colorRegionsOf(project.library, card.value?.recipe.body.kit ?? ''))
const parts = computed(() => {
  const { recipe } = card.value ?? {}
  if (!recipe) return []
  const names = new Map(slotsFor(project.library, recipe.body).map((s) => [s.id, s.name]))
  return recipe.parts.map(({ id, slot, part }) => ({
    id,
    slot: names.get(slot) ?? slot,
    name: partOf(project.library, part)?.def.name ?? part.id,
    triangles: view.value?.pieceCosts.find((p) => p.instance === id)?.triangles,
    dots: project.regionsOf(part.kit, part.id).map((r) => recipe.colors[r] ?? colors.value.get(r)?.color ?? '#808080'),
  }))
})
/** What is not as the body was made. */
const sliders = computed(() => {
  const { recipe } = card.value ?? {}
  if (!recipe) return []
  return (bodyOf(project.library, recipe.body)?.sliders ?? []).flatMap((s) => {
    const value = meanValue(recipe.sliders[s.id] ?? s.default)
    return value === s.default
      ? []
      : [{ id: s.id, name: s.name, value, words: value < s.default ? s.ends[0] : s.ends[1] }]
  })
})
const costs = computed(() => {
  const { costs: now } = view.value ?? {}
  const { limits } = crowd.target
  if (!now) return []
  return [
    { name: 'Triangles', now: now.triangles, limit: limits.triangles },
    { name: 'Vertices', now: now.vertices, limit: limits.vertices },
    { name: 'Bones', now: now.bones, limit: limits.bones },
    { name: 'File, KB', now: Math.ceil(now.fileBytes / 1024), limit: Math.floor(limits.fileBytes / 1024) },
  ]
})

function go(by: number): void {
  if (index.value !== null) index.value = (index.value + by + crowd.cards.length) % crowd.cards.length
}

onKeyStroke(['ArrowLeft', 'ArrowRight'], (event) => {
  if (!card.value || typing(event.target)) return
  event.preventDefault()
  go(event.key === 'ArrowLeft' ? -1 : 1)
})
</script>

<template>
  <Dialog
    :visible="card !== undefined"
    modal
    :header="card?.recipe.name"
    :style="{ width: 'min(1040px, 96vw)' }"
    @update:visible="index = $event ? index : null"
  >
    <div v-if="card && index !== null" class="variant" data-test="variant">
      <div class="sides">
        <figure v-for="(side, i) in SIDES" :key="side.name">
          <img
            v-if="pictures[i]?.url"
            :src="pictures[i].url"
            width="230"
            height="400"
            :alt="`${card.recipe.name}, ${side.name}`"
          />
          <span v-else class="coming" />
          <figcaption class="soft">{{ side.name }}</figcaption>
        </figure>
      </div>
      <div class="facts scroll" tabindex="0" aria-label="What it is made of and what it costs">
        <Message v-if="message" severity="error" size="small">{{ message }}</Message>
        <dl class="costs" data-test="variant-costs">
          <template v-for="c in costs" :key="c.name">
            <dt>{{ c.name }}</dt>
            <dd class="number" :class="{ over: c.now > c.limit }">
              {{ c.now.toLocaleString('en') }} <span class="soft">/ {{ c.limit.toLocaleString('en') }}</span>
            </dd>
          </template>
          <dt>Most like</dt>
          <dd class="number">
            <button class="like" @click="index = card.nearestTo">figure {{ card.nearestTo + 1 }}</button>
            <span class="soft"> {{ card.nearest.toFixed(2) }} away</span>
          </dd>
        </dl>
        <h3>Parts</h3>
        <ul data-test="variant-parts">
          <li v-for="p in parts" :key="p.id">
            <span class="soft">{{ p.slot }}</span>
            <span>{{ p.name }} <i v-for="(c, i) in p.dots" :key="i" class="dot" :style="{ background: c }" /></span>
            <span class="number soft">{{ view ? (p.triangles ?? 'hidden') : '' }}</span>
          </li>
        </ul>
        <template v-if="sliders.length">
          <h3>Build</h3>
          <ul>
            <li v-for="s in sliders" :key="s.id">
              <span class="soft">{{ s.name }}</span><span>{{ s.words }}</span
              ><span class="number soft">{{ s.value.toFixed(2) }}</span>
            </li>
          </ul>
        </template>
      </div>
    </div>
    <template #footer>
      <span class="turn">
        <Button text size="small" label="Previous" @click="go(-1)"
          ><template #icon><ChevronLeft :size="16" /></template
        ></Button>
        <Button text size="small" label="Next" icon-pos="right" data-test="next-variant" @click="go(1)"
          ><template #icon><ChevronRight :size="16" /></template
        ></Button>
      </span>
      <Button
        outlined
        size="small"
        :label="card?.pinned ? 'Let go' : 'Pin'"
        :disabled="index === null"
        @click="crowd.pin(index!)"
      />
      <Button
        outlined
        size="small"
        label="Another one here"
        :disabled="crowd.phase !== 'idle' || card?.pinned"
        @click="crowd.reroll(index!)"
      />
      <Button size="small" label="To the Bench" data-test="variant-to-bench" @click="emit('bench', index!)" />
    </template>
  </Dialog>
</template>

<style scoped>
.variant {
  display: grid;
  grid-template-columns: auto minmax(220px, 1fr);
  gap: var(--s4);
}

.sides {
  display: flex;
  background: var(--stage);
  border-radius: 6px;
}

figure {
  margin: 0;
  display: grid;
  justify-items: center;
  padding-bottom: 4px;
}

figcaption {
  color: var(--ink);
  font-size: 12px;
}

.coming {
  width: 230px;
  height: 400px;
}

.facts {
  max-height: 430px;
  font-size: 13px;
}

.costs {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 3px var(--s4);
  margin: 0;
}

dd {
  margin: 0;
  text-align: right;
}

.over {
  color: var(--over);
}

.like {
  appearance: none;
  border: 0;
  background: none;
  font: inherit;
  color: var(--act);
  text-decoration: underline;
  padding: 0;
  margin-right: 1ch;
  cursor: pointer;
}

h3 {
  margin: var(--s3) 0 var(--s1);
  border-bottom: 1px solid var(--rule);
}

ul {
  list-style: none;
  margin: 0;
  padding: 0;
}

li {
  display: grid;
  grid-template-columns: 104px 1fr auto;
  gap: var(--s2);
  padding: 1px 0;
}

.dot {
  display: inline-block;
  width: 9px;
  height: 9px;
  border-radius: 50%;
  border: 1px solid color-mix(in srgb, var(--ink) 25%, transparent);
  margin-left: 2px;
}

.turn {
  margin-right: auto;
  display: flex;
}

@media (max-width: 959px) {
  .variant {
    grid-template-columns: minmax(0, 1fr);
  }

  .sides {
    overflow-x: auto;
  }

  .facts {
    max-height: none;
  }
}
</style>

<script setup lang="ts">
import { canLook, expressionOf, isFaceAtRest, movementsOf, setFace } from '@idle-tinker/core'
import { watchDebounced } from '@vueuse/core'
import { useKit } from '../../composables/useKit'
import { useMoods } from '../../composables/useMoods'
import { sharesAt, type DialPlace } from '../../stage/moodDial'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'

/** The mood of the face, found by hand between those that have a name. */
const figure = useFigure()
const { body } = useKit()
const { moodPicture, show, forget } = useMoods()
const view = useView()
onUnmounted(() => (view.pointing = false))
watch(() => figure.id, forget)

const moods = computed(() => body.value?.expressions?.filter((e) => e.mood) ?? [])
const others = computed(() => body.value?.expressions?.filter((e) => !e.mood) ?? [])
const named = computed(() => (figure.recipe && body.value ? expressionOf(figure.recipe, body.value) : null))
const atRest = computed(() => !figure.recipe || !body.value || isFaceAtRest(figure.recipe, body.value))
watchDebounced(
  () => figure.recipe,
  (recipe) => recipe && body.value && show(recipe, body.value, moods.value),
  { debounce: 900, immediate: true },
)

/** Where the hand last was, and the face that came of it: once that is another, the place says nothing. */
const last = shallowRef<{ place: DialPlace; face: string } | null>(null)
const faceNow = () =>
  JSON.stringify(
    body.value && figure.recipe && movementsOf(body.value).map((s) => figure.recipe!.sliders[s.id] ?? null),
  )
const place = computed((): DialPlace | null => {
  if (atRest.value) return { turn: 0, strength: 0 }
  if (last.value?.face === faceNow()) return last.value.place
  const index = moods.value.findIndex((m) => m.id === named.value?.expression.id)
  return index < 0 ? null : { turn: index / moods.value.length, strength: named.value!.strength }
})
const words = computed(() => {
  if (atRest.value) return 'At rest'
  const shares = place.value ? sharesAt(place.value, moods.value.length) : []
  if (shares.length === 2 && last.value?.face === faceNow())
    return shares.map((s) => `${moods.value[s.index]!.name} ${s.share.toFixed(2)}`).join(' · ')
  return named.value ? `${named.value.expression.name} ${named.value.strength.toFixed(2)}` : 'By hand'
})

function setPlace(to: DialPlace, mark: string | null): void {
  if (!figure.recipe || !body.value) return
  const shares = sharesAt(to, moods.value.length).map(({ index, share }) => ({
    expression: moods.value[index]!,
    share,
  }))
  figure.edit(setFace(figure.recipe, body.value, shares), mark)
  last.value = { place: to, face: faceNow() }
}

function rest(): void {
  setPlace({ turn: 0, strength: 0 }, null)
}
function choose(id: string): void {
  const expression = body.value?.expressions?.find((e) => e.id === id)
  if (figure.recipe && body.value && expression)
    figure.edit(setFace(figure.recipe, body.value, [{ expression, share: 1 }]))
}
</script>

<template>
  <section v-if="moods.length" class="face" data-test="face-panel">
    <MoodDial
      :moods="moods"
      :picture="moodPicture"
      :place="place"
      :words="words"
      :on="named?.expression.id ?? null"
      @turn="setPlace($event, 'mood')"
      @choose="choose"
      @settle="figure.settle()"
    />
    <p class="words">
      <span data-test="mood-words">{{ words }}</span>
      <button class="link" :disabled="atRest" data-test="face-rest" @click="rest">Face at rest</button>
    </p>
    <ToggleButton
      v-if="body && canLook(body)"
      v-model="view.pointing"
      size="small"
      on-label="Pull on the stage to where they look"
      off-label="Show where they look"
      class="look"
      data-test="point-gaze"
    />
    <div class="others">
      <button
        v-for="e in others"
        :key="e.id"
        class="other"
        :class="{ on: named?.expression.id === e.id }"
        :aria-pressed="named?.expression.id === e.id"
        @click="choose(e.id)"
      >
        {{ e.name }}
      </button>
    </div>
  </section>
  <p v-else class="soft">This body has no expressions.</p>
</template>

<style scoped>
.face {
  margin-top: var(--s2);
}

.words {
  display: flex;
  justify-content: space-between;
  align-items: baseline;
  margin: var(--s1) 0 var(--s2);
  font-weight: 600;
}

.link {
  appearance: none;
  border: 0;
  background: none;
  padding: 0;
  color: var(--act);
  font: 13px var(--text);
  cursor: pointer;
}

.link:disabled {
  color: var(--ink-soft);
  opacity: 0.6;
  cursor: default;
}

.look {
  margin-bottom: var(--s2);
}

.others {
  display: flex;
  flex-wrap: wrap;
  gap: 3px;
}

.other {
  appearance: none;
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: none;
  color: var(--ink);
  font: 12px var(--text);
  padding: 2px 6px;
  cursor: pointer;
}

.other:hover {
  border-color: var(--act);
}

.other.on {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
}
</style>

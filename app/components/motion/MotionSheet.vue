<script setup lang="ts">
import type { DetailLevel } from '@idle-tinker/core'
import { watchDebounced } from '@vueuse/core'
import { useFigure } from '../../stores/figure'
import { useView } from '../../stores/view'
import { inPool } from '../../stores/project'
import { plain } from '../../workers/plain'
import { drawSkeleton } from '../../stage/skeletonPicture'
import { weightGradient } from '../../stage/weightRamp'

const bones = defineModel<boolean>('bones', { required: true })
const weightsOf = defineModel<string | null>('weightsOf', { required: true })
const figure = useFigure()
const view = useView()
const pictures = ref<Record<string, { url: string; bones: string[] }>>({})

/** Of a level's picture, pixels. */
const [WIDTH, HEIGHT] = [63, 84]

let run = 0

/** A live picture of every level, from this figure's own joints; a newer figure's take their place. */
async function drawLevels(): Promise<void> {
  const mine = ++run
  if (!figure.recipe) return
  const recipe = plain(figure.recipe)
  for (const level of DETAILS) {
    const target = { ...plain(view.target), detail: level.id }
    const { view: built } = await inPool((worker) => worker.build(recipe, target, false))
    if (mine !== run) return
    if (built)
      pictures.value = {
        ...pictures.value,
        [level.id]: { url: drawSkeleton(built, WIDTH, HEIGHT), bones: built.bones.map((b) => b.name) },
      }
  }
}
// which level is tried makes no other pictures; a hand that drags waits for the figure, not for them
watchDebounced(
  [() => figure.view !== null, () => figure.recipe, () => view.target.chains, () => view.ownTarget.id],
  drawLevels,
  { debounce: 300, immediate: true },
)
onBeforeUnmount(() => run++)

const names = computed(() => (figure.view?.bones ?? []).map((b) => ({ value: b.name, label: boneWords(b.name) })))

/** Fingers and the like, as the body's plan knows them. */
const plan = usePlan()
const digits = computed(() => (plan.value?.limbs ?? []).filter((l) => l.kind === 'digit').map((l) => l.bones))
const wordsOf = (level: DetailLevel) => {
  const [full, own] = [pictures.value[DETAILS[0]!.id], pictures.value[level]]
  return full && own ? leftOut(full.bones, own.bones, digits.value) : '…'
}
</script>

<template>
  <aside class="sheet scroll" aria-label="Skeleton">
    <h2>Skeleton</h2>
    <div role="radiogroup" aria-label="Skeleton detail" class="levels" @keydown="radioKeys">
      <button
        v-for="l in DETAILS"
        :key="l.id"
        role="radio"
        :aria-checked="view.target.detail === l.id"
        :tabindex="view.target.detail === l.id ? 0 : -1"
        class="level"
        :class="{ on: view.target.detail === l.id }"
        :data-test="`detail-${l.id}`"
        @click="view.trySkeleton({ detail: l.id })"
      >
        <img v-if="pictures[l.id]" :src="pictures[l.id]!.url" :width="WIDTH" :height="HEIGHT" alt="" />
        <span v-else class="coming" />
        <span class="text">
          <b>{{ l.name }}</b>
          <span class="number">{{ pictures[l.id]?.bones.length ?? '…' }} bones</span>
          <small class="soft">{{ wordsOf(l.id) }}</small>
        </span>
      </button>
    </div>
    <ChainBones />
    <SpringList />
    <TriedSkeleton />
    <label class="line"><ToggleSwitch v-model="bones" input-id="bones" data-test="bones" /> Show bones</label>
    <label class="weights">
      Weights of a bone
      <Select
        v-model="weightsOf"
        :options="names"
        option-label="label"
        option-value="value"
        placeholder="None"
        show-clear
        filter
        size="small"
        aria-label="Weights of a bone"
        data-test="weights"
      />
    </label>
    <div v-if="weightsOf" class="ramp"><span>0</span><i :style="{ background: weightGradient() }" /><span>1</span></div>
    <slot />
  </aside>
</template>

<style scoped>
.sheet {
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  padding: var(--s3);
}

.levels {
  display: grid;
  gap: 2px;
  margin: var(--s2) 0 var(--s4);
}

.level {
  appearance: none;
  border: 0;
  border-left: 3px solid transparent;
  background: none;
  color: var(--ink);
  font: 14px var(--text);
  text-align: left;
  display: flex;
  gap: var(--s3);
  align-items: center;
  cursor: pointer;
  padding: 2px 8px;
}

.level:hover {
  background: var(--act-soft);
}

.level.on {
  border-left-color: var(--care-mark);
  background: color-mix(in srgb, var(--care-mark) 12%, transparent);
}

.coming {
  width: 63px;
  height: 84px;
}

.text {
  display: grid;
  gap: 2px;
}

.line {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.weights {
  display: grid;
  gap: 4px;
  margin-top: var(--s4);
}

.ramp {
  display: flex;
  gap: var(--s2);
  align-items: center;
  margin-top: var(--s2);
}

.ramp i {
  flex: 1;
  height: 10px;
  border-radius: 3px;
}
</style>

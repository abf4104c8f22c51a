<script setup lang="ts">
import { Box3, Vector3 } from 'three'
import { fullName, partOf, partsFor, setPart, type Recipe } from '@idle-tinker/core'
import { theBooth } from '../../stage/Booth'
import { useKit } from '../../composables/useKit'
import { useFigure } from '../../stores/figure'
import { inPool, useProject, type FigureEntry } from '../../stores/project'
import { plain } from '../../workers/plain'
import { PICTURES } from '../../workers/pictureTarget'

/** Everybody at one scale beside a rule; as outlines; or each with the same part on. */
const emit = defineEmits<{ close: [] }>()
const figure = useFigure()
const project = useProject()
const { holdsSeveralIn } = useKit()
const said = ref('')
const open = ref(true)
watch(open, (now) => !now && emit('close'))

/** From where they are seen, radians from the front. */
const TURN = 0.3
/** Pixels a metre, and the tallest and widest that is shown, metres. */
const SCALE = 190
const WIDE = 0.9
const outlines = ref(false)
// no part has such a name
const NOTHING = { id: '*', name: 'What they wear' }
const wornId = ref(NOTHING.id)
const worn = computed(() => [
  NOTHING,
  // of what is set by hand, one thing after another, each has its own
  ...(figure.recipe?.parts ?? []).flatMap(({ slot, part }) => {
    const found = holdsSeveralIn(slot) ? undefined : partOf(project.library, part)
    return found ? [{ id: fullName(part), name: found.def.name }] : []
  }),
])

interface Shown {
  id: string
  name: string
  tall: number
  picture: string
  /** Whether the part that all are to wear fits it. */
  fits: boolean
}
const shown = ref<Shown[]>([])
const tallest = computed(() => Math.max(0.5, ...shown.value.map((s) => s.tall)))
const rules = computed(() => Array.from({ length: Math.floor(tallest.value / 0.25) + 1 }, (_, i) => i * 0.25))
let asked = 0

function dressedFor(entry: FigureEntry): { recipe: Recipe; fits: boolean } {
  const recipe = plain(entry.content)
  const wanted = figure.recipe?.parts.find((p) => fullName(p.part) === wornId.value)
  if (!wanted) return { recipe, fits: true }
  const fits = partsFor(project.library, recipe.body, wanted.slot).some(
    ({ kit, def }) => fullName({ kit, id: def.id }) === wornId.value,
  )
  return { recipe: fits ? setPart(recipe, wanted.slot, plain(wanted.part)) : recipe, fits }
}

async function take(): Promise<void> {
  const mine = ++asked
  const all: Shown[] = []
  for (const entry of project.figures) {
    const { recipe, fits } = dressedFor(entry)
    const { view } = await inPool((worker) => worker.build(recipe, plain(PICTURES), false))
    if (mine !== asked) return
    if (!view) continue
    const { positions } = view.mesh
    let tall = 0
    for (let i = 1; i < positions.length; i += 3) tall = Math.max(tall, positions[i]!)
    // a box as large as the picture: one scale for all
    const box = new Box3(new Vector3(-WIDE / 2, 0, -WIDE / 2), new Vector3(WIDE / 2, tall, WIDE / 2))
    const wide = WIDE * (Math.cos(TURN) + Math.sin(TURN))
    const canvas = theBooth().take(view, Math.round(wide * SCALE * MARGIN), Math.round(tall * SCALE * MARGIN), {
      turn: TURN,
      box,
      armsDown: true,
      level: true,
    })
    all.push({ id: entry.id, name: recipe.name, tall, picture: canvas?.toDataURL() ?? '', fits })
    shown.value = [...all]
  }
}
/** The booth leaves so much room around a box. */
const MARGIN = 1.08
watch(
  wornId,
  () => {
    said.value = ''
    take().catch((error: unknown) => (said.value = error instanceof Error ? error.message : String(error)))
  },
  { immediate: true },
)
onUnmounted(() => asked++)

function choose(id: string): void {
  const entry = project.figures.find((f) => f.id === id)
  if (entry) figure.open(entry)
  open.value = false
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    header="The whole cast"
    :style="{ width: 'min(1180px, 94vw)' }"
    data-test="cast-dialog"
  >
    <div class="choices">
      <label
        ><Checkbox v-model="outlines" binary input-id="cast-outlines" data-test="cast-outlines" /> Outlines only</label
      >
      <label class="wear"
        ><span>All in</span>
        <Select
          v-model="wornId"
          :options="worn"
          option-label="name"
          option-value="id"
          size="small"
          aria-label="What all of them wear"
          data-test="cast-wear"
      /></label>
    </div>
    <p v-if="said" role="alert">{{ said }}</p>
    <div class="scroll room">
      <div class="line" :style="{ height: `${tallest * SCALE + 60}px` }">
        <div class="rules" aria-hidden="true">
          <i v-for="r in rules" :key="r" :style="{ bottom: `${r * SCALE + 44}px` }" :class="{ half: r % 0.5 }"
            ><span v-if="r % 0.5 === 0" class="number">{{ r.toFixed(1) }} m</span></i
          >
        </div>
        <button
          v-for="s in shown"
          :key="s.id"
          class="one"
          :class="{ on: s.id === figure.id, away: !s.fits }"
          :data-test="`cast-${s.id}`"
          :title="s.fits ? `Open ${s.name}` : `It does not fit ${s.name}`"
          @click="choose(s.id)"
        >
          <img
            v-if="s.picture"
            :src="s.picture"
            :alt="`${s.name}, ${s.tall.toFixed(2)} m`"
            :class="{ outline: outlines }"
            :style="{ marginBottom: `${-s.tall * SCALE * (MARGIN - 1) * 0.5}px` }"
          />
          <span class="who">
            <b>{{ s.name }}</b>
            <small class="number soft">{{ s.fits ? `${s.tall.toFixed(2)} m` : 'does not fit' }}</small>
          </span>
        </button>
      </div>
    </div>
  </Dialog>
</template>

<style scoped>
.choices {
  display: flex;
  align-items: center;
  gap: var(--s4);
  margin-bottom: var(--s3);
  font-size: 13px;
}

.choices label {
  display: flex;
  align-items: center;
  gap: var(--s2);
}

.room {
  overflow-x: auto;
}

.line {
  position: relative;
  display: flex;
  align-items: flex-end;
  min-width: max-content;
  padding-left: 56px;
}

.rules i {
  position: absolute;
  left: 0;
  right: 0;
  border-top: 1px solid var(--rule);
}

.rules i.half {
  border-top-style: dotted;
}

.rules span {
  position: absolute;
  top: 1px;
  font-size: 11px;
  font-style: normal;
  color: var(--ink-soft);
}

.one {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 12px/1.3 var(--text);
  display: grid;
  justify-items: center;
  width: 140px;
  padding: 0;
  cursor: pointer;
  position: relative;
}

.one img {
  margin-left: -50px;
  margin-right: -50px;
}

/* as high as the rule begins above the bottom */
.who {
  height: 44px;
  padding-top: 8px;
  display: grid;
  justify-items: center;
  align-content: start;
}

.one b {
  max-width: 134px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}

.one.on b {
  color: var(--act);
}

.one.away {
  opacity: 0.45;
}

.outline {
  filter: brightness(0) opacity(0.72);
}

.lamp .outline {
  filter: brightness(0) invert(0.85);
}
</style>

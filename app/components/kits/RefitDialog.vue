<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import {
  addToKit,
  bodyOf,
  describeProblem,
  fullName,
  namesBody,
  nextVersion,
  partOf,
  type KitManifest,
  type KitRef,
} from '@idle-tinker/core'
import { drafting, textOf, zipped } from '../../stores/kitDraft'
import { useRefit } from '../../composables/useRefit'
import { ask } from '../../stores/api'
import { useProject } from '../../stores/project'
import { PICTURES } from '../../workers/pictureTarget'
import { plain } from '../../workers/plain'
import type { RefitAnswer } from '../../workers/protocol'

/** A part made for one body tried on another: how it went, where it is doubtful, and what a hand can do about it. */
const props = defineProps<{ part: KitRef; to: KitRef }>()
const emit = defineEmits<{ close: []; kept: [part: KitRef] }>()
const project = useProject()
const { intoKit, isAkin } = useRefit()
const open = ref(true)
watch(open, (now) => !now && emit('close'))

const def = computed(() => partOf(project.library, props.part)?.def)
const body = computed(() => bodyOf(project.library, props.to))
/** The body it is made for: one with the same plan, if there is one. */
const from = computed(() => {
  const made = project.bodies.filter((b) => def.value && namesBody(def.value.bodies, props.part.kit, b))
  return made.find((b) => isAkin(b, props.to)) ?? made[0]
})
const into = computed(() => intoKit(props.part, props.to))

const DIALS = [
  { id: 'looser', name: 'Off the body', min: -10, max: 40, unit: 'mm', size: 0.001, step: 1, rest: 0 },
  { id: 'higher', name: 'Up or down', min: -150, max: 150, unit: 'mm', size: 0.001, step: 5, rest: 0 },
  { id: 'further', name: 'To the front or back', min: -150, max: 150, unit: 'mm', size: 0.001, step: 5, rest: 0 },
  { id: 'larger', name: 'Size', min: 50, max: 200, unit: '%', size: 0.01, step: 1, rest: 100 },
] as const
type Dial = (typeof DIALS)[number]['id']
const dials = reactive<Record<Dial, number>>({ looser: 0, higher: 0, further: 0, larger: 100 })
const shown = ref<'worn' | 'places'>('worn')
const SHOWN = [
  { id: 'worn', name: 'As it is worn' },
  { id: 'places', name: 'Doubtful places' },
] as const
const answer = shallowRef<RefitAnswer | null>(null)
const busy = ref(false)
const said = ref('')
let asked = 0

async function attempt(): Promise<void> {
  const mine = ++asked
  busy.value = true
  said.value = ''
  try {
    if (!from.value) throw new Error('None of the bodies that it is made for is here.')
    const worker = await drafting()
    const adjust = Object.fromEntries(DIALS.map(({ id, size }) => [id, dials[id] * size]))
    const { kit, id } = from.value
    const got = await worker.tryRefit(
      { ...into.value, part: plain(props.part), from: { kit, id }, to: { kit: props.to.kit, id: props.to.id }, adjust },
      plain(PICTURES),
    )
    if (mine === asked) answer.value = got
  } catch (error) {
    if (mine === asked) said.value = error instanceof Error ? error.message : String(error)
  } finally {
    if (mine === asked) busy.value = false
  }
}
const soon = useDebounceFn(() => void attempt(), 250)
watch([() => fullName(props.part), () => fullName(props.to)], () => void attempt(), { immediate: true })
watch(dials, () => void soon())
onUnmounted(() => asked++)

const made = computed(() => answer.value?.made ?? null)
const mm = (metres: number) => `${Math.round(metres * 1000)} mm`
const percent = (share: number) => `${(share * 100).toFixed(share > 0 && share < 0.1 ? 1 : 0)} %`
const words = computed((): [string, string][] => {
  if (!made.value) return []
  const { moved, within, doubtful, end } = made.value
  const slider = end && body.value?.sliders.find((s) => s.id === end.slider)
  return [
    ['Went', `${mm(moved.mean)} on the whole, ${mm(moved.most)} at most`],
    ['Doubtful', `${percent(doubtful)} of it: drawn out or squeezed to double, or in the body`],
    ['In the body', percent(within)],
    [
      'At slider ends',
      slider && end && end.within > 0
        ? `at worst ${percent(end.within)} more, with “${slider.name}” ${slider.ends[end.end === 'up' ? 1 : 0].toLowerCase()}`
        : 'it follows everywhere',
    ],
  ]
})

async function keep(): Promise<void> {
  if (!made.value) return
  busy.value = true
  said.value = ''
  try {
    const files = Object.fromEntries(made.value.files)
    const fresh = JSON.parse(new TextDecoder().decode(files['kit.json'])) as KitManifest
    const there = project.kits.find((k) => k.manifest.id === into.value.id)
    if (there) {
      files['kit.json'] = new TextEncoder().encode(
        textOf({ ...addToKit(plain(there.manifest), fresh), kitVersion: nextVersion(there.manifest.kitVersion) }),
      )
      const changes = await zipped(files)
      await ask(`/api/kits/${into.value.id}/changes`, 'POST', changes, { 'if-match': `"${there.hash}"` })
    } else await ask('/api/kits', 'POST', await zipped(files))
    await project.load()
    emit('kept', { kit: into.value.id, id: fresh.parts[0]!.id })
    open.value = false
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <Dialog
    v-model:visible="open"
    modal
    :header="`${def?.name} on ${body?.name.toLowerCase()}`"
    :style="{ width: 'min(940px, 94vw)' }"
    data-test="refit-dialog"
  >
    <div class="refit">
      <div class="left">
        <KitStage
          v-if="made"
          :view="shown === 'worn' ? made.worn : made.places"
          :label="`${def?.name} on ${body?.name}`"
          class="stage"
        >
          <SelectButton
            v-model="shown"
            :options="[...SHOWN]"
            option-label="name"
            option-value="id"
            :allow-empty="false"
            size="small"
            aria-label="What is shown"
            data-test="refit-shown"
          />
        </KitStage>
        <div v-else class="stage blank">{{ busy ? 'Carrying it over …' : '' }}</div>
      </div>
      <div class="right" :aria-busy="busy">
        <dl v-if="made" data-test="refit-report">
          <template v-for="[what, text] in words" :key="what">
            <dt>{{ what }}</dt>
            <dd>{{ text }}</dd>
          </template>
        </dl>
        <template v-if="made">
          <h3>How it lies</h3>
          <div v-for="d in DIALS" :key="d.id" class="dial">
            <label :for="`refit-${d.id}`">{{ d.name }}</label>
            <InputNumber
              v-model="dials[d.id]"
              :input-id="`refit-${d.id}`"
              :min="d.min"
              :max="d.max"
              :step="d.step"
              :suffix="` ${d.unit}`"
              show-buttons
              size="small"
              :data-test="`refit-${d.id}`"
            />
          </div>
        </template>
        <p v-if="said" role="alert" class="over" data-test="refit-said">{{ said }}</p>
        <ul v-if="answer?.problems.length" data-test="refit-problems">
          <li v-for="(p, i) in answer.problems.slice(0, 6)" :key="i">{{ describeProblem(p) }}</li>
        </ul>
        <p v-if="made" class="soft">
          Kept, it is a part of a kit of yours, “{{ into.name }}”; the one it came from stays as it is.
        </p>
      </div>
    </div>
    <template #footer>
      <Button label="Leave it" text @click="open = false" />
      <Button label="Keep it" data-test="refit-keep" :disabled="!made || busy" :loading="busy" @click="keep" />
    </template>
  </Dialog>
</template>

<style scoped>
.refit {
  display: grid;
  grid-template-columns: minmax(0, 1.2fr) minmax(260px, 1fr);
  gap: var(--s4);
}

.stage {
  height: min(440px, 56vh);
}

.blank {
  display: grid;
  place-items: center;
  background: var(--stage);
}

dl {
  display: grid;
  grid-template-columns: 96px minmax(0, 1fr);
  gap: var(--s1) var(--s2);
  margin: 0 0 var(--s4);
  font-size: 13px;
}

dt {
  color: var(--ink-soft);
}

dd {
  margin: 0;
}

h3 {
  border-bottom: 1px solid var(--rule);
  margin-bottom: var(--s2);
}

.dial {
  display: grid;
  grid-template-columns: 1fr 128px;
  align-items: center;
  margin-bottom: 4px;
  font-size: 13px;
}

.dial :deep(input) {
  width: 100%;
  min-width: 0;
}

.over {
  color: var(--over);
}

@media (max-width: 760px) {
  .refit {
    grid-template-columns: 1fr;
  }
}
</style>

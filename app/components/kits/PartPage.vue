<script setup lang="ts">
import { X } from 'lucide-vue-next'
import {
  addPart,
  bodyOf,
  colorRegionsOf,
  fullName,
  holdsSeveral,
  namesBody,
  newRecipe,
  referenceTo,
  setPart,
  slotsFor,
  type KitRef,
  type Recipe,
} from '@idle-tinker/core'
import { usePictures } from '../../composables/usePictures'
import { useRefit } from '../../composables/useRefit'
import { useKitDraft } from '../../stores/kitDraft'
import { inPool, useProject } from '../../stores/project'
import { PICTURES } from '../../workers/pictureTarget'
import { plain } from '../../workers/plain'
import type { FigureView } from '../../workers/protocol'

/** All about one part: how it looks, what it costs, where it fits, its rules, and who has it on. */
const props = defineProps<{ part: KitRef }>()
const emit = defineEmits<{ close: []; tryOn: [body: KitRef] }>()
const project = useProject()
const draft = useKitDraft()
const { pictureOf } = usePictures()
const { isAkin } = useRefit()

const manifest = computed(() => draft.manifestOf(props.part.kit))
const def = computed(() => manifest.value?.parts.find((p) => p.id === props.part.id))
const bodies = computed(() => project.bodies.map((b) => ({ ...b, fits: isFor(b) })))
const isFor = (body: KitRef) => Boolean(def.value && namesBody(def.value.bodies, props.part.kit, body))
const home = computed(() => bodies.value.find((b) => b.fits))
/** The body it is shown on. */
const on = ref<KitRef | null>(null)
const alone = ref(true)
const SHOWN = [
  { alone: true, name: 'By itself' },
  { alone: false, name: 'On the body' },
]
/** The color region that is pointed at. */
const region = ref<string | null>(null)
const slot = computed(() =>
  on.value ? slotsFor(project.library, on.value).find((s) => s.id === def.value?.slot) : undefined,
)
const regions = computed(() => {
  const names = draft.regions[props.part.kit]?.[props.part.id] ?? project.regionsOf(props.part.kit, props.part.id)
  const colors = colorRegionsOf(project.library, props.part.kit)
  return names.map((id) => ({ id, name: colors.get(id)?.name ?? id, color: colors.get(id)?.color ?? '#9a9a9a' }))
})
watch(
  () => fullName(props.part),
  () => {
    on.value = home.value ?? null
    region.value = null
  },
  { immediate: true },
)

/** What is pointed at, and all the rest. */
const PAINT = { shown: '#d9822b', rest: '#cfc8b4' }
const recipe = computed((): Recipe | null => {
  const body = on.value
  if (!body || !def.value || !slot.value || !isFor(body) || !bodyOf(project.library, body)) return null
  const made = newRecipe(project.library.get(body.kit)!, body.id, def.value.name)
  const worn = (holdsSeveral(slot.value) ? addPart : setPart)(
    made,
    slot.value.id,
    referenceTo(project.library, props.part),
  )
  if (!region.value) return worn
  const colors = regions.value.map(({ id }) => [id, id === region.value ? PAINT.shown : PAINT.rest])
  return { ...worn, colors: Object.fromEntries(colors) }
})

const view = shallowRef<FigureView | null>(null)
/** The body that the view is of: the view comes later than the choice. */
const shownOn = ref('')
const said = ref('')
let asked = 0
async function build(): Promise<void> {
  const mine = ++asked
  const now = recipe.value
  if (!now) {
    view.value = null
    return
  }
  try {
    const { kit } = props.part
    const dirty = draft.isDirty(kit)
    const answer = dirty
      ? await draft.look(kit, now)
      : await inPool((worker) => worker.build(plain(now), plain(PICTURES), false))
    if (mine !== asked) return
    // a draft that cannot be read shows what stands
    if (answer?.view) {
      view.value = answer.view
      shownOn.value = fullName(now.body)
    }
    said.value = answer?.view ? '' : 'It cannot be built so.'
  } catch (error) {
    if (mine === asked) said.value = error instanceof Error ? error.message : String(error)
  }
}
watch([recipe, () => draft.drafts[props.part.kit]], () => void build(), { immediate: true })

const piece = computed(() => view.value?.pieces.find((p) => p.kit === props.part.kit && p.id === props.part.id))
const cost = computed(() => view.value?.pieceCosts.find((c) => c.instance === piece.value?.instance))
const HOW = { worn: 'Worn', attached: 'Held or attached', replaces: 'Takes the place of something' }
async function replace(file: File): Promise<void> {
  draft.replaceFile(props.part.kit, props.part.id, new Uint8Array(await file.arrayBuffer()))
}
</script>

<template>
  <aside v-if="def" class="page scroll" :aria-label="def.name" data-test="part-page">
    <KitStage :view="view" :part="part" :alone="alone" :on="shownOn" :label="def.name" class="stage">
      <SelectButton
        v-model="alone"
        :options="SHOWN"
        option-label="name"
        option-value="alone"
        :allow-empty="false"
        size="small"
        aria-label="How it is shown"
      />
    </KitStage>
    <div class="top">
      <h2>{{ def.name }}</h2>
      <button class="quiet" aria-label="Close" title="Close" data-test="close-part" @click="emit('close')">
        <X :size="16" />
      </button>
    </div>
    <p class="soft">
      {{ HOW[def.how] }}, {{ slot?.name.toLowerCase() ?? def.slot
      }}<template v-if="def.how === 'worn'">, layer {{ def.layer }}</template
      >. From “{{ manifest?.name }}”.
    </p>
    <p v-if="said" role="alert">{{ said }}</p>
    <dl v-if="cost" class="cost" data-test="part-cost">
      <div>
        <dt>Triangles</dt>
        <dd class="number">{{ cost.triangles }}</dd>
      </div>
      <div>
        <dt>Vertices</dt>
        <dd class="number">{{ cost.vertices }}</dd>
      </div>
      <div>
        <dt>Bones</dt>
        <dd class="number">{{ cost.bones }}</dd>
      </div>
      <div>
        <dt>In a file</dt>
        <dd class="number">{{ Math.ceil(cost.fileBytes / 1024) }} KB</dd>
      </div>
    </dl>
    <section v-if="regions.length">
      <h3>Color regions</h3>
      <div class="regions">
        <button
          v-for="r in regions"
          :key="r.id"
          class="region"
          :class="{ on: region === r.id }"
          :aria-pressed="region === r.id"
          :data-test="`region-${r.id}`"
          @click="region = region === r.id ? null : r.id"
        >
          <i :style="{ background: r.color }" />{{ r.name }}
        </button>
      </div>
    </section>
    <section>
      <h3>Where it fits</h3>
      <div class="bodies">
        <figure v-for="b in bodies" :key="fullName(b)" :class="{ on: on && fullName(on) === fullName(b) }">
          <button
            v-if="b.fits"
            class="body"
            :aria-pressed="Boolean(on && fullName(on) === fullName(b))"
            :data-test="`fits-${b.id}`"
            @click="on = b"
          >
            <img v-if="pictureOf(b, part)" :src="pictureOf(b, part)" width="76" height="76" alt="" />
            <span v-else class="coming" />
            {{ b.name }}
          </button>
          <template v-else>
            <img v-if="pictureOf(b)" class="pale" :src="pictureOf(b)" width="76" height="76" alt="" />
            <span v-else class="coming" />
            {{ b.name }}
            <Button
              v-if="home && isAkin(home, b)"
              size="small"
              text
              label="Try it on"
              :data-test="`try-${b.id}`"
              @click="emit('tryOn', b)"
            />
            <span v-else class="soft">Other bones</span>
          </template>
        </figure>
      </div>
      <p v-if="!home" class="soft">None of the bodies that it is for is here.</p>
    </section>
    <PartRules :kit="part.kit" :def="def" />
    <section>
      <h3>Its file</h3>
      <p class="soft">{{ def.file }}. Another in its place keeps figures as they are: they know the part.</p>
      <FilePick
        label="Replace its file …"
        accept=".glb"
        hint="A GLB in metres, Y up, that faces +Z"
        test="replace-file"
        @file="replace"
      />
    </section>
    <PartUsers :part="part" @gone="emit('close')" />
  </aside>
</template>

<style scoped>
.page {
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  height: 100%;
  padding-bottom: var(--s4);
}

.page > :not(.stage) {
  margin-left: var(--s4);
  margin-right: var(--s4);
}

.stage {
  height: min(300px, 38vh);
}

.top {
  display: flex;
  align-items: center;
  justify-content: space-between;
  padding-top: var(--s3);
}

.top h2 {
  font-size: 18px;
}

p {
  margin: 2px 0 var(--s2);
}

.cost {
  display: flex;
  justify-content: space-between;
  margin-top: var(--s2);
  margin-bottom: 0;
}

.cost dt {
  font-size: 12px;
  color: var(--ink-soft);
}

.cost dd {
  margin: 0;
  font-size: 14px;
}

section {
  margin-top: var(--s4);
}

h3 {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 2px;
  margin-bottom: var(--s2);
}

.regions {
  display: flex;
  flex-wrap: wrap;
  gap: 2px;
}

.region,
.body {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 12.5px/1.2 var(--text);
  cursor: pointer;
  border-radius: 6px;
}

.region {
  display: inline-flex;
  align-items: center;
  gap: 6px;
  padding: 4px 8px;
}

.region i {
  width: 14px;
  height: 14px;
  border-radius: 50%;
  border: 1px solid var(--rule);
}

.region:hover,
.body:hover {
  background: var(--act-soft);
}

.region.on,
figure.on .body {
  background: color-mix(in srgb, var(--care-mark) 18%, transparent);
  font-weight: 600;
}

.bodies {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2);
}

figure,
.body {
  display: grid;
  justify-items: center;
  align-content: start;
  text-align: center;
  font-size: 12.5px;
  margin: 0;
  padding: 2px;
}

figure {
  width: 80px;
}

.pale {
  opacity: 0.55;
}

.coming {
  width: 76px;
  height: 76px;
}
</style>

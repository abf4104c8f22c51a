<script setup lang="ts">
import { fullName, refOf, slotsFor, THE_BODY } from '@idle-tinker/core'
import { usePack } from '../../composables/usePack'
import { theBooth } from '../../stage/Booth'
import { idOf, useProject } from '../../stores/project'

/** Loose models that were brought in: how they lie, where each goes, and the kit that is made of them. */
const props = defineProps<{ files: File[] }>()
const emit = defineEmits<{ made: [kit: File]; close: [] }>()
const project = useProject()

const bodies = computed(() =>
  project.kits.flatMap(({ manifest }) =>
    manifest.bodies.map((b) => ({
      id: fullName({ kit: manifest.id, id: b.id }),
      name: `${b.name} (${manifest.name})`,
    })),
  ),
)
const body = ref(bodies.value[0]?.id ?? '')
const pack = usePack(body)
const { sorted, problems, busy, give, own, isOwn, pictures } = pack
/** What a pack with a skeleton can become. */
const BECOMES = [
  { own: true, label: 'A body of its own, dressed' },
  { own: false, label: 'Parts for this body' },
]
/** How large pictures on pieces may be. */
const SIDES = [
  { pixels: 0, name: 'one color each' },
  ...[32, 64, 128, 256, 512].map((pixels) => ({ pixels, name: `up to ${pixels} pixels` })),
]
const name = ref('')

/** All of it beside the body, to see whether it stands upright and is as large as it should be. */
const standing = computed(() => {
  const seen = sorted.value && theBooth().take(sorted.value.beside, 300, 220, { turn: 0.35 })
  return seen?.toDataURL() ?? ''
})
const slots = computed(() => [
  { id: '', name: 'Leave it out' },
  ...(pack.isOwn.value ? [{ id: THE_BODY, name: 'The body itself' }] : []),
  ...slotsFor(project.library, refOf(body.value, '')).map(({ id, name: title }) => ({ id, name: title })),
])

async function make(): Promise<void> {
  const title = name.value.trim() || 'My models'
  const goes = (sorted.value?.pieces ?? []).map((row): [string, string] => [row.id, pack.slotOf(row)])
  const zip = await pack.make(
    idOf(title),
    title,
    goes.filter(([, slot]) => slot !== ''),
  )
  if (zip) emit('made', new File([new Uint8Array(zip)], `${idOf(title)}.zip`))
}

watch(
  () => props.files,
  (files) => {
    name.value = fileStem(files[0]?.name ?? '', 'My models')
    pack.open(files)
  },
  { immediate: true },
)
</script>

<template>
  <div class="pack scroll" data-test="pack">
    <div class="top">
      <div class="words">
        <h2>Loose models, sorted</h2>
        <label class="field"
          >{{ isOwn ? 'With the slots of' : 'For the body'
          }}<Select
            v-model="body"
            :options="bodies"
            option-label="name"
            option-value="id"
            size="small"
            data-test="pack-body"
        /></label>
        <div v-if="sorted?.figure" class="becomes">
          <span>They hang on {{ sorted.figure.bones }} bones, and become</span>
          <SelectButton
            :model-value="isOwn"
            :options="BECOMES"
            option-label="label"
            option-value="own"
            :allow-empty="false"
            size="small"
            aria-label="What they become"
            data-test="pack-own"
            @update:model-value="own = $event"
          />
        </div>
        <template v-if="sorted">
          <p class="soft">
            They stand {{ sorted.placing.height.toFixed(2) }} m tall, beside the body and a rod of one metre. Is that
            how they should lie?
          </p>
          <LyingFields :placing="sorted.placing" test="pack" @give="give" />
        </template>
      </div>
      <img
        v-if="standing"
        class="standing"
        :src="standing"
        width="300"
        height="220"
        alt="The models beside the body and a rod of one metre"
      />
    </div>
    <p v-if="busy" role="status" data-test="pack-busy">
      {{ busy }} <Button size="small" text label="Stop" data-test="pack-stop" @click="pack.stop()" />
    </p>
    <ul v-if="problems.length" class="problems" data-test="pack-problems">
      <li v-for="(p, i) in problems.slice(0, 30)" :key="i">
        <b>{{ p.where }}</b> {{ p.message }} {{ p.remedy }}
      </li>
    </ul>
    <PackTable v-if="sorted" :pack="pack" :slots="slots" />
    <div class="make">
      <label class="field"
        >Name of the kit <InputText v-model="name" size="small" maxlength="60" data-test="pack-name"
      /></label>
      <label v-if="sorted?.painted" class="field"
        >{{ sorted.painted === 1 ? 'One is painted' : `${sorted.painted} are painted` }}:
        <Select
          v-model="pictures"
          :options="SIDES"
          option-label="name"
          option-value="pixels"
          size="small"
          aria-label="Pictures on the pieces"
          data-test="pack-pictures"
      /></label>
      <Button label="Make the kit" data-test="pack-make" :disabled="!sorted || busy !== ''" @click="make" />
      <Button label="Leave it" text @click="emit('close')" />
    </div>
  </div>
</template>

<style scoped>
.pack {
  padding: var(--s4) var(--s5) 0;
  height: 100%;
}

.top {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: var(--s4);
}

.words {
  flex: 1 1 320px;
}

.standing {
  border: 1px solid var(--rule);
  border-radius: 4px;
  background: var(--stage);
}

.field {
  display: inline-flex;
  align-items: center;
  gap: var(--s2);
  margin-right: var(--s3);
  font-size: 13px;
}

.becomes {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s2);
  margin-top: var(--s2);
  font-size: 13px;
}

.care {
  color: var(--care);
}

.number {
  font-style: normal;
}

.problems {
  max-height: 120px;
  overflow: auto;
  padding-left: var(--s4);
  border-left: 3px solid var(--care-mark);
  list-style: none;
  font-size: 13px;
}

h2 {
  margin-bottom: var(--s3);
}

.make {
  position: sticky;
  bottom: 0;
  display: flex;
  align-items: center;
  gap: var(--s2);
  margin: var(--s3) calc(-1 * var(--s5)) 0;
  padding: var(--s3) var(--s5);
  border-top: 1px solid var(--rule);
  background: var(--sheet);
}
</style>

<script setup lang="ts">
import {
  AXIS_NAMES,
  fullName,
  isMendable,
  refOf,
  slotsFor,
  UNIT_NAMES,
  UNSURE,
  type Mendable,
  type PlacingGiven,
  type Problem,
} from '@idle-tinker/core'
import { useDebounceFn } from '@vueuse/core'
import { theBooth } from '../../stage/Booth'
import { idOf, useProject } from '../../stores/project'
import { workshop } from '../../workers'
import type { SortedPack } from '../../workers/protocol'

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
const given = ref<PlacingGiven>({})
const name = ref(stemOf(props.files[0]?.name ?? ''))
const sorted = shallowRef<SortedPack | null>(null)
const problems = ref<Problem[]>([])
const busy = ref('')
/** What the person has chosen: piece to slot; empty for nothing. */
const chosen = ref(new Map<string, string>())
/** Piece to what of it is mended; to begin with all that can be. */
const mends = ref(new Map<string, Set<Mendable>>())
/** The piece whose health is looked at. */
const examined = ref<string | null>(null)
const pictures = ref(new Map<string, string>())
const standing = ref('')
/** Other guesses are offered from here on. */
const OFFERED = 0.02
const PICTURE = 64

function stemOf(file: string): string {
  const stem = file
    .replace(/\.[^.]*$/, '')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
  return (stem || 'My models').slice(0, 60)
}

let asked = 0
/** Sorts the pack; the files go along only the first time. */
async function sort(files: File[] | null): Promise<void> {
  const ask = ++asked
  busy.value = files ? 'Reading and sorting …' : 'Sorting …'
  try {
    const contents = files
      ? await Promise.all(files.map(async (f) => [pathOf(f), new Uint8Array(await f.arrayBuffer())] as const))
      : null
    const answer = await workshop('bench').sortPack({
      body: refOf(body.value, ''),
      files: contents,
      given: { ...given.value },
    })
    // another question has been asked meanwhile
    if (ask !== asked) return
    problems.value = answer.problems
    sorted.value = answer.sorted
    chosen.value = new Map()
    if (files) mendAll()
    takePictures()
  } catch (error) {
    if (ask === asked) problems.value = [problemOf(error)]
  } finally {
    if (ask === asked) busy.value = ''
  }
}

/** Of what was dropped in a folder: its path in it. */
const pathOf = (file: File & { relativePath?: string }): string =>
  (file.relativePath ?? (file.webkitRelativePath || file.name)).replace(/^[./]+/, '')
const problemOf = (error: unknown): Problem => ({
  code: 'pack-failed',
  severity: 'error',
  where: 'pack',
  message: error instanceof Error ? error.message : String(error),
  remedy: 'Bring it in again.',
})

/** All of it beside the body, to see whether it stands upright and is as large as it should be; then each piece. */
function takePictures(): void {
  const { pieces, beside } = sorted.value ?? { pieces: [], beside: null }
  pictures.value = new Map(
    pieces.flatMap(({ id, view }) => {
      const url = theBooth().take(view, PICTURE, PICTURE, { turn: 0.5 })?.toDataURL()
      return url ? [[id, url]] : []
    }),
  )
  const seen = beside && theBooth().take(beside, 300, 220, { turn: 0.35 })
  standing.value = seen?.toDataURL() ?? ''
}

const slots = computed(() => [
  { id: '', name: 'Leave it out' },
  ...slotsFor(project.library, refOf(body.value, '')).map(({ id, name: title }) => ({ id, name: title })),
])
const nameOf = (slot: string): string => slots.value.find((s) => s.id === slot)?.name ?? slot
/** Those a person should look at first. */
const rows = computed(() =>
  [...(sorted.value?.pieces ?? [])].sort((a, b) => a.guesses[0]!.confidence - b.guesses[0]!.confidence),
)
type Row = SortedPack['pieces'][number]
const slotOf = ({ id, guesses }: Row): string => chosen.value.get(id) ?? guesses[0]!.slot
const unsure = computed(() => rows.value.filter((r) => !chosen.value.has(r.id) && r.guesses[0]!.confidence < UNSURE))
const percent = (v: number): string => `${Math.round(v * 100)} %`

const mendableIn = ({ findings }: Row) => findings.map((f) => f.code).filter(isMendable)
const ill = computed(() => rows.value.filter((r) => r.findings.length > 0))
const mendsOf = (row: Row): ReadonlySet<Mendable> => mends.value.get(row.id) ?? new Set()
function mendAll(): void {
  examined.value = null
  mends.value = new Map(
    (sorted.value?.pieces ?? []).flatMap((row) => (mendableIn(row).length ? [[row.id, new Set(mendableIn(row))]] : [])),
  )
}
function setMend(row: Row, code: Mendable, on: boolean): void {
  const codes = new Set(mendsOf(row))
  if (on) codes.add(code)
  else codes.delete(code)
  mends.value = new Map(mends.value).set(row.id, codes)
}
/** What is told of a piece's health at a glance. */
function healthOf(row: Row): string {
  const left = row.findings.filter((f) => f.severity !== 'info' && !mendsOf(row).has(f.code as Mendable)).length
  if (row.findings.length === 0) return 'Sound'
  if (left) return left === 1 ? '1 fault' : `${left} faults`
  return mendsOf(row).size ? 'Mended' : 'Noted'
}

function choose(id: string, slot: string): void {
  chosen.value = new Map(chosen.value).set(id, slot)
}
const again = useDebounceFn(() => void sort(null), 50)
function give(more: PlacingGiven): void {
  given.value = { ...given.value, ...more }
  void again()
}

async function make(): Promise<void> {
  busy.value = 'Making the kit …'
  try {
    const title = name.value.trim() || 'My models'
    const order = rows.value.map((row) => [row.id, slotOf(row)] as const).filter(([, slot]) => slot !== '')
    const mend = [...mends.value].map(([piece, codes]) => [piece, [...codes]] as const)
    const { zip, problems: faults } = await workshop('bench').packKit({
      ...{ id: idOf(title), name: title, slots: order, mend },
    })
    problems.value = faults
    if (zip) emit('made', new File([new Uint8Array(zip)], `${idOf(title)}.zip`))
  } catch (error) {
    problems.value = [problemOf(error)]
  } finally {
    busy.value = ''
  }
}

watch(
  () => props.files,
  (files) => {
    given.value = {}
    name.value = stemOf(files[0]?.name ?? '')
    void sort(files)
  },
  { immediate: true },
)
watch(body, () => void again())
// it may be large
onBeforeUnmount(() => {
  workshop('bench')
    .closePack()
    .catch((error: unknown) => console.error('pack:', error))
})
</script>

<template>
  <div class="pack scroll" data-test="pack">
    <div class="top">
      <div class="words">
        <h2>Loose models, sorted</h2>
        <label class="field"
          >For the body<Select
            v-model="body"
            :options="bodies"
            option-label="name"
            option-value="id"
            size="small"
            data-test="pack-body"
        /></label>
        <template v-if="sorted">
          <p class="soft">
            They stand {{ sorted.placing.height.toFixed(2) }} m tall, beside the body and a rod of one metre. Is that
            how they should lie?
          </p>
          <div class="lying">
            <label v-for="key in ['up', 'front'] as const" :key="key" class="field"
              >{{ key === 'up' ? 'Up' : 'Front' }}
              <Select
                :model-value="sorted.placing[key]"
                :options="[...AXIS_NAMES]"
                size="small"
                :data-test="`pack-${key}`"
                @update:model-value="give({ [key]: $event })"
              />
              <i class="number" :class="{ care: sorted.placing.sure[key] < UNSURE }">{{
                percent(sorted.placing.sure[key])
              }}</i>
            </label>
            <label class="field"
              >Unit
              <Select
                :model-value="sorted.placing.unit"
                :options="[...UNIT_NAMES]"
                size="small"
                data-test="pack-unit"
                @update:model-value="give({ unit: $event })"
              />
              <i class="number" :class="{ care: sorted.placing.sure.unit < UNSURE }">{{
                percent(sorted.placing.sure.unit)
              }}</i>
            </label>
          </div>
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
    <p v-if="busy" role="status" data-test="pack-busy">{{ busy }}</p>
    <ul v-if="problems.length" class="problems" data-test="pack-problems">
      <li v-for="(p, i) in problems.slice(0, 30)" :key="i">
        <b>{{ p.where }}</b> {{ p.message }} {{ p.remedy }}
      </li>
    </ul>
    <template v-if="sorted">
      <p class="counts" data-test="pack-counts">
        <b>{{ rows.length }} {{ rows.length === 1 ? 'piece' : 'pieces' }}.</b>
        {{ unsure.length ? `${unsure.length} of them unsure, listed first.` : 'All of them sure.' }}
        <span data-test="pack-health">{{
          ill.length ? `${ill.length} with something to say of their health.` : 'All of them sound.'
        }}</span>
      </p>
      <table>
        <thead>
          <tr>
            <th colspan="2">Piece</th>
            <th class="figures">Triangles</th>
            <th>Goes to</th>
            <th class="figures">Sure</th>
            <th>Or</th>
            <th>Health</th>
          </tr>
        </thead>
        <tbody>
          <template v-for="row in rows" :key="row.id">
            <tr :class="{ out: slotOf(row) === '' }" data-test="pack-piece">
              <td class="picture">
                <img
                  v-if="pictures.get(row.id)"
                  :src="pictures.get(row.id)"
                  :width="PICTURE"
                  :height="PICTURE"
                  alt=""
                />
              </td>
              <td>
                <b>{{ row.names[0] ?? row.id }}</b><br /><span class="soft">{{ row.id.split('#')[0] }}</span>
              </td>
              <td class="figures number">{{ row.triangles.toLocaleString('en') }}</td>
              <td>
                <Select
                  :model-value="slotOf(row)"
                  :options="slots"
                  option-label="name"
                  option-value="id"
                  size="small"
                  :aria-label="`Slot of ${row.names[0] ?? row.id}`"
                  @update:model-value="choose(row.id, $event)"
                />
              </td>
              <td class="figures number" :class="{ care: !chosen.has(row.id) && row.guesses[0]!.confidence < UNSURE }">
                {{ chosen.has(row.id) ? 'chosen' : percent(row.guesses[0]!.confidence) }}
              </td>
              <td class="others">
                <template v-for="g in row.guesses" :key="g.slot">
                  <Button
                    v-if="g.slot !== slotOf(row) && g.confidence >= OFFERED"
                    size="small"
                    text
                    :label="`${nameOf(g.slot)} ${percent(g.confidence)}`"
                    @click="choose(row.id, g.slot)"
                  />
                </template>
              </td>
              <td>
                <Button
                  v-if="row.findings.length"
                  size="small"
                  text
                  :label="healthOf(row)"
                  :class="{ care: healthOf(row).includes('fault') }"
                  :aria-expanded="examined === row.id"
                  :aria-label="`Health of ${row.names[0] ?? row.id}: ${healthOf(row)}`"
                  data-test="health"
                  @click="examined = examined === row.id ? null : row.id"
                />
                <span v-else class="soft sound">{{ healthOf(row) }}</span>
              </td>
            </tr>
            <tr v-if="examined === row.id">
              <td colspan="7" class="opened">
                <PieceHealth :piece="row" :mend="mendsOf(row)" @mend="(code, on) => setMend(row, code, on)" />
              </td>
            </tr>
          </template>
        </tbody>
      </table>
    </template>
    <div class="make">
      <label class="field"
        >Name of the kit <InputText v-model="name" size="small" maxlength="60" data-test="pack-name"
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

.lying {
  display: flex;
  flex-wrap: wrap;
  gap: var(--s2);
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

table {
  width: 100%;
  border-collapse: collapse;
  font-size: 13px;
}

th {
  text-align: left;
  font-weight: 500;
  color: var(--ink-soft);
  padding: var(--s1) var(--s2);
}

td {
  border-top: 1px solid var(--rule);
  padding: 2px var(--s2);
}

td :deep(.p-select) {
  width: 160px;
}

h2 {
  margin-bottom: var(--s3);
}

.figures {
  text-align: right;
}

.picture {
  width: 64px;
  padding: 0;
}

.sound {
  padding: 0 var(--s3);
}

.opened {
  border-top: 0;
}

tr.out {
  opacity: 0.55;
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

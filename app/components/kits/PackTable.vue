<script setup lang="ts">
import { UNSURE, type Mendable } from '@idle-tinker/core'
import { theBooth } from '../../stage/Booth'
import type { usePack } from '../../composables/usePack'
import type { PackedPiece } from '../../workers/protocol'

/** The pieces that were brought in, the unsure ones first: where each goes, one by one or many at once, and its health. */
const props = defineProps<{ pack: ReturnType<typeof usePack>; slots: { id: string; name: string }[] }>()
const pieces = computed(() => props.pack.sorted.value?.pieces ?? [])

/** Those a person should look at first; what comes from one piece stays together where it is as sure. */
const rows = computed(() => [...pieces.value].sort((a, b) => sureAtFirst(a) - sureAtFirst(b)))
/** As it was guessed: a row does not leave from under the hand that chooses its slot. */
const sureAtFirst = (row: PackedPiece) => (props.pack.isBody(row) ? 1 : row.guesses[0]!.confidence)
const sureOf = (row: PackedPiece) => props.pack.sureOf(row)
const slotOf = (row: PackedPiece) => props.pack.slotOf(row)
const mendsOf = (row: PackedPiece) => props.pack.mendsOf(row)
const choose = (ids: Iterable<string>, slot: string) => props.pack.choose(ids, slot)
const nameOf = (row: PackedPiece) => props.pack.nameOf(row)
const slotName = (slot: string): string => props.slots.find((s) => s.id === slot)?.name ?? slot
const unsure = computed(() => rows.value.filter((r) => (sureOf(r) ?? 1) < UNSURE))
const percent = (v: number): string => `${Math.round(v * 100)} %`
/** Other guesses are offered from here on. */
const OFFERED = 0.02

/** Rows that are given a slot together. */
const marked = ref(new Set<string>())
function mark(some: readonly PackedPiece[], on: boolean): void {
  const next = new Set(marked.value)
  for (const { id } of some)
    if (on) next.add(id)
    else next.delete(id)
  marked.value = next
}
function chooseMarked(slot: string): void {
  choose(marked.value, slot)
  marked.value = new Set()
}

/** Whether a piece was taken apart, and is one thing all the same. */
const isApart = (row: PackedPiece) => props.pack.sorted.value?.apart.includes(row.id) ?? false
/** What was taken apart, and into how many. */
const takenApart = computed(() => {
  const bits = new Map<string, number>()
  for (const { bitOf } of pieces.value) if (bitOf) bits.set(bitOf.piece, (bits.get(bitOf.piece) ?? 0) + 1)
  return [...bits].map(([piece, count]) => ({ piece, count, file: piece.split('#')[0]! }))
})

/** Bits of one piece can be made one again. */
const joinable = computed(() => {
  const from = pieces.value.filter((p) => marked.value.has(p.id)).map((p) => p.bitOf?.piece)
  return from.length > 1 && from[0] !== undefined && from.every((f) => f === from[0])
})
function joinMarked(): void {
  props.pack.join(pieces.value.filter((p) => marked.value.has(p.id)).map((p) => p.id))
  marked.value = new Set()
}

/** The piece whose health is looked at. */
const examined = ref<string | null>(null)
/** What is told of a piece's health at a glance. */
function healthOf(row: PackedPiece): string {
  const left = row.findings.filter((f) => f.severity !== 'info' && !mendsOf(row).has(f.code as Mendable)).length
  if (row.findings.length === 0) return 'Sound'
  if (left) return left === 1 ? '1 fault' : `${left} faults`
  return mendsOf(row).size ? 'Mended' : 'Noted'
}
const healthSaid = computed(() => {
  const faulty = rows.value.filter((row) => row.findings.some((f) => f.severity !== 'info'))
  if (faulty.length === 0) return 'All of them sound.'
  const mended = faulty.filter((row) => healthOf(row) === 'Mended').length
  if (mended === 0) return faulty.length === 1 ? '1 has a fault.' : `${faulty.length} have faults.`
  return `${faulty.length} with faults, ${mended === faulty.length ? 'mended' : `${mended} of them mended`}.`
})

const PICTURE = 64
const pictures = shallowRef(new Map<string, string>())
watch(
  pieces,
  (list) => {
    examined.value = null
    marked.value = new Set()
    pictures.value = new Map(
      list.flatMap(({ id, view }) => {
        const url = theBooth().take(view, PICTURE, PICTURE, { turn: 0.5 })?.toDataURL()
        return url ? [[id, url]] : []
      }),
    )
  },
  { immediate: true },
)
</script>

<template>
  <p class="counts" data-test="pack-counts">
    <b>{{ rows.length }} {{ rows.length === 1 ? 'piece' : 'pieces' }}.</b>
    {{ unsure.length ? `${unsure.length} of them unsure, listed first.` : 'All of them sure.' }}
    <span data-test="pack-health">{{ healthSaid }}</span>
  </p>
  <p v-for="{ piece, count, file } in takenApart" :key="piece" class="apart" data-test="taken-apart">
    What is in {{ file }} was taken apart into {{ count }}. Mark those that belong together to make them one.
    <Button size="small" text label="Make it whole again" data-test="whole" @click="pack.setApart(piece, false)" />
  </p>
  <div v-if="marked.size" class="together" data-test="together">
    {{ marked.size }} marked:
    <Select
      :model-value="null"
      :options="slots"
      option-label="name"
      option-value="id"
      size="small"
      placeholder="All go to …"
      aria-label="Slot of all that are marked"
      data-test="marked-slot"
      @update:model-value="chooseMarked($event)"
    />
    <Button v-if="joinable" size="small" text label="Make them one" data-test="join" @click="joinMarked" />
    <Button size="small" text label="Unmark" @click="marked = new Set()" />
  </div>
  <table>
    <thead>
      <tr>
        <th class="mark">
          <Checkbox
            :model-value="marked.size > 0 && marked.size === rows.length"
            :indeterminate="marked.size > 0 && marked.size < rows.length"
            binary
            aria-label="Mark all pieces"
            data-test="mark-all"
            @update:model-value="mark(rows, $event)"
          />
        </th>
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
          <td class="mark">
            <Checkbox
              :model-value="marked.has(row.id)"
              binary
              :aria-label="`Mark ${nameOf(row)}`"
              data-test="mark"
              @update:model-value="mark([row], $event)"
            />
          </td>
          <td class="picture">
            <img v-if="pictures.get(row.id)" :src="pictures.get(row.id)" :width="PICTURE" :height="PICTURE" alt="" />
          </td>
          <td>
            <NameField
              :name="nameOf(row)"
              :noun="`piece ${nameOf(row)}`"
              test="rename-piece"
              @rename="pack.call(row, $event)"
            >
              <b>{{ nameOf(row) }}</b>
            </NameField>
            <br />
            <template v-if="row.bitOf">
              <span class="soft" data-test="why">{{ row.bitOf.why }}</span>
            </template>
            <template v-else>
              <span class="soft">{{ row.id.split('#')[0] }}</span>
              <span v-if="isApart(row)" class="soft"> It is one thing.</span>
              <Button
                v-else
                size="small"
                text
                label="Take apart"
                :aria-label="`Take apart ${nameOf(row)}`"
                data-test="apart"
                @click="pack.setApart(row.id, true)"
              />
            </template>
          </td>
          <td class="figures number">{{ row.triangles.toLocaleString('en') }}</td>
          <td>
            <Select
              :model-value="slotOf(row)"
              :options="slots"
              option-label="name"
              option-value="id"
              size="small"
              :aria-label="`Slot of ${nameOf(row)}`"
              @update:model-value="choose([row.id], $event)"
            />
          </td>
          <td class="figures number" :class="{ care: (sureOf(row) ?? 1) < UNSURE }">
            {{ sureOf(row) === null ? 'chosen' : percent(sureOf(row)!) }}
          </td>
          <td class="others">
            <template v-for="g in row.guesses" :key="g.slot">
              <Button
                v-if="g.slot !== slotOf(row) && g.confidence >= OFFERED"
                size="small"
                text
                :label="`${slotName(g.slot)} ${percent(g.confidence)}`"
                @click="choose([row.id], g.slot)"
              />
            </template>
          </td>
          <td>
            <Button
              size="small"
              text
              :label="healthOf(row)"
              :class="{ care: healthOf(row).includes('fault') }"
              :aria-expanded="examined === row.id"
              :aria-label="`Health of ${nameOf(row)}: ${healthOf(row)}`"
              data-test="health"
              @click="examined = examined === row.id ? null : row.id"
            />
          </td>
        </tr>
        <tr v-if="examined === row.id">
          <td colspan="8" class="opened">
            <PieceHealth :piece="row" :mend="mendsOf(row)" @mend="(code, on) => pack.setMend(row, code, on)" />
          </td>
        </tr>
      </template>
    </tbody>
  </table>
</template>

<style scoped>
.apart {
  margin: 0;
  font-size: 13px;
}

.together {
  position: sticky;
  top: 0;
  z-index: 1;
  display: flex;
  align-items: center;
  gap: var(--s2);
  padding: var(--s1) var(--s2);
  background: var(--act-soft);
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

.mark {
  width: 28px;
  padding-right: 0;
}

.care {
  color: var(--care);
}

.figures {
  text-align: right;
  white-space: nowrap;
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
</style>

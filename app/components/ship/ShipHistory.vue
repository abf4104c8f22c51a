<script setup lang="ts">
import { Download, RotateCw, Trash2, X } from 'lucide-vue-next'
import { useIntervalFn } from '@vueuse/core'
import { version } from '../../../package.json'
import { useProject } from '../../stores/project'
import { isBusy } from '../../stores/followJob'
import { useShip, type ShipJob } from '../../stores/ship'

/** What was shipped and what is about to be: how far it is, what came of it, what is different since. */
const ship = useShip()
const project = useProject()
/** Why something could not be done, and why the list may be old. */
const message = ref('')
const away = ref('')
/** The one that is looked into, and what came of it. */
const open = ref<string | null>(null)
const details = ref<ShipJob | null>(null)

/** Others than the one that is followed tell nothing by themselves. */
const LOOK_EVERY = 1500
const { resume, pause } = useIntervalFn(() => void load(), LOOK_EVERY, { immediate: false })
watch(
  () => ship.underWay,
  (busy) => (busy ? resume() : pause()),
  { immediate: true },
)
// how the one that is followed stands is known at once
watch(
  () => ship.job?.state,
  () => void load(),
)
onMounted(() => void load())

async function attempt(work: () => Promise<unknown>, told = message): Promise<void> {
  try {
    await work()
    told.value = ''
  } catch (error) {
    told.value = error instanceof Error ? error.message : String(error)
  }
}
const load = () => attempt(() => ship.load(), away)

const now = computed(() => ({
  documents: (kind: 'figure' | 'mix' | 'picks' | 'target') => project.documents[kind],
  kits: new Map(project.kits.map((k) => [k.manifest.id, { name: k.manifest.name, hash: k.hash }])),
  workshop: version,
}))
const changed = computed(
  () => new Map(ship.list.map((row) => [row.id, row.state === 'done' ? changedSince(row.about, now.value) : []])),
)

const look = (id: string) =>
  attempt(async () => {
    details.value = null
    open.value = open.value === id ? null : id
    if (!open.value) return
    const found = await ship.details(id)
    if (open.value === id) details.value = found
  })

/** What stayed comes first. */
const pieces = computed(() => {
  const all = details.value?.result?.pieces ?? []
  return [...all].sort((a, b) => Number(a.files > 0) - Number(b.files > 0))
})

const again = (id: string, insist?: boolean) => attempt(() => ship.again(id, insist))
const doneOf = (row: Shipped) => (row.id === ship.job?.id ? ship.job.done : row.done)
</script>

<template>
  <section data-test="shipments">
    <h2 class="title">Shipments</h2>
    <Message v-if="message || away" severity="error" size="small" data-test="shipments-message">{{
      message || away
    }}</Message>
    <p v-if="ship.list.length === 0 && !away" class="soft">What leaves is kept here, to be had and made again.</p>
    <article v-for="row in ship.list" :key="row.id" class="row" :data-test="`shipment-${row.state}`">
      <button class="name" :aria-expanded="open === row.id" data-test="shipment-name" @click="look(row.id)">
        <b>{{ row.about.name }}</b>
        <span class="soft">{{ shipmentWords(row.about) }}</span>
      </button>
      <span class="state" :class="row.state">
        <template v-if="isBusy(row)">
          {{ row.state === 'waiting' ? 'Waits' : `${doneOf(row)} of ${row.total}` }}
          <ProgressBar
            :value="Math.round((doneOf(row) / Math.max(1, row.total)) * 100)"
            :show-value="false"
            :aria-label="`How far ${row.about.name} is`"
          />
        </template>
        <template v-else>{{ stateWords(row) }}</template>
      </span>
      <span class="acts">
        <a
          v-if="row.state === 'done'"
          class="quiet"
          :href="`/api/jobs/${row.id}/file`"
          download
          :aria-label="`Download ${row.about.file}`"
          :title="`Download ${row.about.file}`"
          data-test="shipment-file"
          ><Download :size="16"
        /></a>
        <button
          v-if="isBusy(row)"
          class="quiet"
          :aria-label="`Cancel ${row.about.name}`"
          title="Cancel"
          data-test="shipment-cancel"
          @click="attempt(() => ship.cancelOne(row.id))"
        >
          <X :size="16" />
        </button>
        <template v-else>
          <button
            class="quiet"
            :aria-label="`Ship ${row.about.name} again, as it is now`"
            title="Ship it again, as it is now"
            data-test="shipment-again"
            @click="again(row.id)"
          >
            <RotateCw :size="16" />
          </button>
          <button
            class="quiet"
            :aria-label="`Forget ${row.about.name} of ${dayWords(row.createdAt)}`"
            title="Forget it, and its file"
            data-test="shipment-forget"
            @click="attempt(() => ship.forget(row.id))"
          >
            <Trash2 :size="16" />
          </button>
        </template>
      </span>
      <p class="soft when">
        {{ dayWords(row.createdAt) }}
        <span v-if="changed.get(row.id)?.length" class="changed" data-test="shipment-changed"
          >Different since: {{ changed.get(row.id)!.join('; ') }}.</span
        >
      </p>
      <div v-if="open === row.id && details" class="details" data-test="shipment-details">
        <ShipChecks
          v-if="details.error?.length"
          title="Why it stayed"
          :passed="[]"
          :problems="gathered(details.error)"
        />
        <ShipChecks
          v-for="(piece, i) in pieces"
          :key="i"
          :title="pieceWords(piece)"
          :passed="pieces.length === 1 ? piece.passed : goodWords(piece)"
          :problems="piece.problems"
        />
        <Button
          v-if="mayInsist(details)"
          text
          size="small"
          label="Ship it all the same"
          data-test="shipment-insist"
          @click="again(row.id, true)"
        />
      </div>
    </article>
  </section>
</template>

<style scoped>
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 160px 84px;
  gap: 2px var(--s3);
  align-items: center;
  padding: var(--s2) 0;
  border-bottom: 1px solid var(--rule);
}

.name {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  padding: 2px 0;
  cursor: pointer;
  display: grid;
  gap: 2px;
}

.name:hover b {
  color: var(--act);
}

.state {
  font-size: 13px;
  display: grid;
  gap: 4px;
}

.state.failed {
  color: var(--over);
}

.acts {
  display: flex;
  justify-content: flex-end;
  gap: 4px;
}

.acts .quiet {
  display: inline-grid;
  place-items: center;
  min-width: 24px;
  min-height: 24px;
}

.when {
  grid-column: 1 / -1;
  margin: 0;
  font-size: 12px;
}

.changed {
  color: var(--care);
  margin-left: var(--s2);
}

.details {
  grid-column: 1 / -1;
  margin: var(--s2) 0 var(--s3);
  padding-left: var(--s4);
  border-left: 3px solid var(--rule);
}
</style>

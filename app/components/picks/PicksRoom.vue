<script setup lang="ts">
import { ExternalLink } from 'lucide-vue-next'
import { keepLook, type PlayerLook } from '@idle-tinker/core'
import { markOf, usePackage } from '../../stores/package'
import { usePicks } from '../../stores/picks'
import { useView } from '../../stores/view'
import { plain } from '../../workers/plain'

/** The package as it is built: the player's screen, what was proved, and looks that players could make. */
const picks = usePicks()
const built = usePackage()
const view = useView()
const shown = ref<'mirror' | 'proof' | 'try'>('mirror')
const earned = ref(false)
/** Whether every three parts that lie on each other are tried on as well. */
const triples = ref(false)
const message = ref('')
/** What is worn in the mirror; it outlives another package. */
const look = ref<string>()
const begin = ref<string>()
const worn = shallowRef<PlayerLook>()
const stale = computed(
  () => Boolean(picks.now) && built.built?.from !== markOf(plain(picks.now!), plain(view.picksTarget)),
)
/** Whether what is built was tried on by threes. */
const withThrees = computed(() => built.report?.tried?.some((t) => t.triples !== undefined) ?? false)

watch(
  () => picks.id,
  async (id) => {
    message.value = ''
    look.value = begin.value = worn.value = undefined
    if (!id) return
    try {
      await built.resume(id)
    } catch (error) {
      message.value = error instanceof Error ? error.message : String(error)
    }
  },
  { immediate: true },
)
onBeforeUnmount(() => built.leave())

async function build(): Promise<void> {
  message.value = ''
  begin.value = look.value
  try {
    await built.build(plain(picks.now!), plain(view.picksTarget), triples.value)
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  }
}
async function cancel(): Promise<void> {
  try {
    if (picks.id) await built.cancel(picks.id)
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  }
}
function hold(text: string, whole: PlayerLook): void {
  look.value = text
  worn.value = whole
}
/** What is worn in the mirror becomes a look to begin with. */
function keep(): void {
  if (picks.now && worn.value) picks.change(keepLook(plain(picks.now), worn.value))
}
/** @param all it wears what has to be earned, whether it is or not */
function wear(text: string, all = false): void {
  if (all) earned.value = true
  look.value = begin.value = text
  shown.value = 'mirror'
}
const kilo = (bytes: number) => `${Math.ceil(bytes / 1024).toLocaleString('en')} KB`
</script>

<template>
  <div class="room">
    <div class="bar">
      <SelectButton
        v-model="shown"
        :options="[
          { id: 'mirror', name: 'Player’s mirror' },
          { id: 'proof', name: 'Proof' },
          { id: 'try', name: 'Try-on' },
        ]"
        option-label="name"
        option-value="id"
        :allow-empty="false"
        size="small"
        data-test="picks-shown"
      />
      <label class="line"
        ><ToggleSwitch v-model="earned" input-id="earned" data-test="earned" /> <span>All earned</span></label
      >
      <Button
        v-if="worn && shown === 'mirror'"
        text
        size="small"
        label="Keep as a ready look"
        data-test="keep-look"
        @click="keep"
      />
      <span class="grow" />
      <a v-if="built.address" :href="`/mirror/${built.built!.job.id}`" target="_blank" class="line" data-test="own-page"
        ><ExternalLink :size="15" /> As a page</a
      >
      <a
        v-if="built.address"
        :href="`/api/jobs/${built.built!.job.id}/file`"
        download="package.zip"
        data-test="package-zip"
        >Zip, {{ kilo(built.report?.bytes ?? 0) }}</a
      >
      <label
        v-if="!built.busy && (shown === 'proof' || !built.address)"
        class="line"
        title="Also try on every three parts that lie on each other: it takes some minutes more"
        ><ToggleSwitch v-model="triples" input-id="triples" data-test="triples" /> <span>Threes too</span></label
      >
      <Button
        v-if="!built.busy && (stale || !built.address || (triples && !withThrees))"
        size="small"
        :label="built.address ? 'Build anew' : 'Build the package'"
        :disabled="!picks.now"
        data-test="build-picks"
        @click="build"
      />
      <Button v-else-if="built.busy" size="small" outlined label="Cancel" data-test="cancel-picks" @click="cancel" />
    </div>
    <Message v-if="built.away" severity="warn" size="small" :closable="false"
      >The server is away; how far it is will be told as soon as it is back.</Message
    >
    <div v-if="built.job && built.busy" class="progress" role="status">
      <span>Cutting, fitting pairs, proving, trying on: {{ built.job.done }} %</span>
      <ProgressBar :value="built.job.done" :show-value="false" aria-label="How far the package is" />
    </div>
    <Message v-if="message" severity="error" size="small" data-test="picks-message">{{ message }}</Message>
    <Message v-if="built.job?.state === 'failed'" severity="error" size="small" data-test="picks-failed">
      <span v-for="p in built.job.error ?? []" :key="p.where + p.code" class="fault"
        ><b>{{ p.message }}</b> {{ p.remedy }}</span
      >
    </Message>
    <div v-if="built.address" class="view">
      <PlayerMirror v-if="shown === 'mirror'" :address="built.address" :look="begin" :earned="earned" @look="hold" />
      <ProofPanel
        v-else-if="shown === 'proof' && built.report"
        :report="built.report"
        :stale="stale"
        :address="built.address"
        @look="wear($event, true)"
      />
      <TryOn v-else-if="shown === 'try'" :address="built.address" :earned="earned" @look="wear" />
    </div>
    <div v-else-if="!built.busy" class="none soft">
      <p>
        Nothing is built of these picks yet. Building cuts body and parts into pieces, fits every pair of them, and
        proves what any look can cost; it takes a minute or two.
      </p>
    </div>
  </div>
</template>

<style scoped>
.room {
  height: 100%;
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--ground);
}

.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: var(--s2) var(--s3);
  padding: 6px var(--s3);
  border-bottom: 1px solid var(--rule);
  font-size: 13px;
}

.bar a {
  color: var(--act);
}

.line {
  display: inline-flex;
  align-items: center;
  gap: 5px;
}

.grow {
  flex: 1;
}

.progress {
  padding: var(--s3);
  display: grid;
  gap: 4px;
}

.view {
  flex: 1;
  min-height: 0;
  position: relative;
}

.fault {
  display: block;
}

.none {
  flex: 1;
  display: grid;
  place-content: center;
  max-width: 460px;
  margin: 0 auto;
  text-align: center;
}
</style>

<script setup lang="ts">
import { useDropZone } from '@vueuse/core'
import { fromEvent } from 'file-selector'
import { Download } from 'lucide-vue-next'
import { useKitDraft, zipOfKit } from '../stores/kitDraft'
import { useProject } from '../stores/project'
import { download } from '../composables/download'
import { nameUsers, useUsers } from '../composables/useUsers'
import { ask, Refused } from '../stores/api'
import type { KitRef, Problem } from '@idle-tinker/core'

const project = useProject()
const draft = useKitDraft()
const { usersOf } = useUsers()
/** The kit that is looked at; null for the parts of all. */
const chosen = ref<string | null>(project.kits[0]?.manifest.id ?? null)
const kit = computed(() => project.kits.find((k) => k.manifest.id === chosen.value))
/** What of it is shown. */
const side = ref<'parts' | 'bodies' | 'looks' | 'palettes' | 'text'>('parts')
const SIDES = [
  { id: 'parts', name: 'Parts' },
  { id: 'bodies', name: 'Bodies' },
  { id: 'looks', name: 'Looks' },
  { id: 'palettes', name: 'Palettes' },
  { id: 'text', name: 'kit.json' },
] as const
/** The part whose page is open. */
const part = ref<KitRef | null>(null)
/** The body it is being tried on. */
const tryOn = ref<KitRef | null>(null)
onMounted(() => void draft.open())
watch(chosen, () => (part.value = null))
// one that has been removed, or was never there
watch(
  () => project.kits,
  (kits) => {
    if (chosen.value !== null && !kits.some((k) => k.manifest.id === chosen.value))
      chosen.value = kits[0]?.manifest.id ?? null
  },
)
const message = ref('')
const problems = ref<Problem[]>([])
const failed = ref(false)
const confirm = useConfirm()
/** Loose models that are being sorted. */
const pack = ref<File[] | null>(null)

const page = ref<HTMLElement>()
// what is dropped may be folders: the files in them come with their paths
const { isOverDropZone } = useDropZone(page, { onDrop: (_files, event) => void take(event) })
async function take(event: DragEvent): Promise<void> {
  const files = (await fromEvent(event)).filter((file) => file instanceof File)
  if (files.length) leavePack(() => (pack.value = files))
}

/** Goes on to something else; where models lie open, once the person has said so: what was chosen for them is lost. */
function leavePack(then: () => void): void {
  const leave = () => {
    pack.value = null
    then()
  }
  if (!pack.value) {
    leave()
    return
  }
  confirm.require({
    header: 'Leave the models?',
    message: 'They have not been made a kit, and what you chose for them is not kept.',
    acceptProps: { label: 'Leave them', 'data-test': 'leave-pack' },
    rejectProps: { label: 'Stay', text: true },
    accept: leave,
  })
}

async function takeMade(file: File): Promise<void> {
  // it stays open where it was not taken, so that nothing that was chosen is lost
  if (await add(file)) pack.value = null
}

/** @returns whether it was taken; what stands in the way is told, or asked */
async function add(file: File, replace = false): Promise<boolean> {
  message.value = ''
  problems.value = []
  failed.value = false
  try {
    const answer = await project.addKit(file, replace)
    problems.value = answer.problems
    message.value = replace ? 'The kit has taken its place.' : 'The kit was added.'
    chosen.value = answer.id
    return true
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
    problems.value = (error as { problems?: Problem[] }).problems ?? []
    // only once the person has said so
    if (error instanceof Refused && error.status === 409) askToReplace(file, message.value)
    else failed.value = true
    return false
  }
}

function askToReplace(file: File, why: string): void {
  confirm.require({
    header: 'Put it in its place?',
    message: why,
    acceptProps: { label: 'Put it in its place', 'data-test': 'replace-kit' },
    rejectProps: { label: 'Leave it', text: true },
    accept: () => void add(file, true).then((taken) => taken && (pack.value = null)),
  })
}

function askToRemove(id: string, name: string): void {
  const names = nameUsers(usersOf(id))
  confirm.require({
    header: `Remove “${name}”?`,
    message: names
      ? `Made with it: ${names}. All of it stays, but without what is missing, which is said on it; with the kit it is whole again.`
      : 'Nothing in this project is made with it. It can be brought back.',
    acceptProps: { label: 'Remove it', severity: 'danger', 'data-test': 'remove-kit-sure' },
    rejectProps: { label: 'Keep it', text: true },
    accept: () => void remove(id),
  })
}
async function remove(id: string): Promise<void> {
  problems.value = []
  failed.value = false
  try {
    await ask(`/api/kits/${id}`, 'DELETE')
    message.value = 'The kit was removed. What was made from it stays, and is whole again when the kit comes back.'
    await project.load()
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
    failed.value = true
  }
}
async function save(): Promise<void> {
  if (!kit.value) return
  const { id, kitVersion } = kit.value.manifest
  failed.value = false
  try {
    download(new Blob([(await zipOfKit(id)) as BlobPart], { type: 'application/zip' }), `${id}-${kitVersion}.zip`)
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
    failed.value = true
  }
}

/** What was carried over is shown where it lies now. */
function showKept(ref: KitRef): void {
  chosen.value = ref.kit
  void nextTick(() => (part.value = ref))
}
async function bringBack(id: string): Promise<void> {
  // that it was removed is no more so
  message.value = ''
  await project.load()
  chosen.value = id
}
</script>

<template>
  <div ref="page" class="kits" :class="{ over: isOverDropZone, wide: part && !pack }">
    <aside class="list scroll">
      <h2>Kits</h2>
      <KitList :chosen="chosen" @choose="(id) => leavePack(() => (chosen = id))" @remove="remove" />
      <div class="add">
        <FilePick
          label="Add a kit …"
          accept=".zip"
          hint="A kit as a zip: kit.json and its GLB files"
          test="add-kit"
          @file="(file) => add(file)"
        />
        <FilePick
          label="Bring in models …"
          accept=".glb,.gltf,.bin,.obj,.mtl,.dae,.png,.jpg,.jpeg,.webp,.zip"
          hint="Loose models of your own, as files or in a zip, here or dropped on the page: they are sorted, and made a kit"
          test="add-pack"
          several
          @files="(files: File[]) => leavePack(() => (pack = files))"
        />
      </div>
      <Message v-if="message" :severity="failed ? 'error' : 'info'" size="small" data-test="kit-message">{{
        message
      }}</Message>
      <ul v-if="problems.length">
        <li v-for="p in problems" :key="p.where + p.code">
          <b>{{ p.where }}</b> {{ p.message }} {{ p.remedy }}
        </li>
      </ul>
      <RemovedKits @restored="bringBack" />
    </aside>
    <PackSorting v-if="pack" :files="pack" @made="takeMade" @close="pack = null" />
    <template v-else>
      <div class="middle">
        <div v-if="kit" class="head">
          <div class="named">
            <NameField
              :name="draft.manifestOf(kit.manifest.id)?.name ?? kit.manifest.name"
              noun="kit"
              test="rename-kit"
              @rename="(name: string) => draft.change(kit!.manifest.id, (k) => ({ ...k, name }))"
            >
              <h2 class="title">{{ draft.manifestOf(kit.manifest.id)?.name }}</h2>
            </NameField>
            <span class="soft"
              ><span class="number">{{ kit.manifest.kitVersion }}</span
              ><template v-if="kit.manifest.license"> · {{ kit.manifest.license }}</template></span
            >
          </div>
          <div class="acts">
            <Button size="small" text label="Download" data-test="download-kit" @click="save"
              ><template #icon><Download :size="15" /></template
            ></Button>
            <KitVersions :kit="kit.manifest.id" :now="kit.manifest.kitVersion" @restored="project.load()" />
            <Button
              size="small"
              text
              label="Remove this kit"
              data-test="remove-kit"
              @click="askToRemove(kit.manifest.id, kit.manifest.name)"
            />
          </div>
        </div>
        <h2 v-else class="title">All parts</h2>
        <SelectButton
          v-if="kit"
          v-model="side"
          :options="[...SIDES]"
          option-label="name"
          option-value="id"
          :allow-empty="false"
          size="small"
          aria-label="What of the kit"
          data-test="kit-side"
          class="sides"
        />
        <DraftBar v-if="kit" :kit="kit.manifest.id" />
        <div class="what">
          <PartShelf
            v-if="!kit || side === 'parts'"
            :kit="kit?.manifest.id ?? null"
            :chosen="part"
            @choose="part = $event"
          />
          <KitBodies v-else-if="side === 'bodies'" :kit="kit.manifest.id" />
          <KitLooks v-else-if="side === 'looks'" :kit="kit.manifest.id" />
          <KitPalettes v-else-if="side === 'palettes'" :kit="kit.manifest.id" />
          <KitText v-else :kit="kit.manifest.id" />
        </div>
      </div>
      <PartPage
        v-if="part"
        :key="`${part.kit}/${part.id}`"
        :part="part"
        @close="part = null"
        @try-on="tryOn = $event"
      />
    </template>
    <RefitDialog v-if="part && tryOn" :part="part" :to="tryOn" @close="tryOn = null" @kept="showKept" />
  </div>
</template>

<style scoped>
.kits {
  display: grid;
  grid-template-columns: min(280px, 32vw) minmax(0, 1fr);
  grid-template-rows: minmax(0, 1fr);
  height: 100%;
}

.kits.wide {
  grid-template-columns: min(280px, 24vw) minmax(0, 1fr) min(400px, 36vw);
}

.kits.over {
  outline: 3px dashed var(--act);
  outline-offset: -6px;
}

.list {
  background: var(--sheet);
  border-right: 1px solid var(--rule);
  padding: var(--s3);
}

.add {
  display: grid;
  justify-items: start;
  gap: var(--s2);
  padding: var(--s4) 0;
}

.middle {
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: var(--s3) var(--s4) 0 var(--s5);
}

.head {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: space-between;
  gap: 0 var(--s3);
}

.acts {
  display: flex;
  align-items: center;
}

.named {
  display: flex;
  align-items: baseline;
  gap: var(--s3);
}

.sides {
  margin: var(--s2) 0 var(--s3);
  align-self: start;
}

.what {
  flex: 1;
  min-height: 0;
}
</style>

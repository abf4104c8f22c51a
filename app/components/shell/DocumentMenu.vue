<script setup lang="ts">
import { ChevronDown, RotateCcw, Trash2 } from 'lucide-vue-next'
import { useProject, type Contents, type Kind } from '../../stores/project'
import type { Entry } from '../../documents/Keeper'

/** The documents of one kind: the open one by its name, the others to open, put away and bring back. */
const props = defineProps<{
  kind: Kind
  /** What one of them is called in a sentence. */
  noun: string
  /** Name and id of the one that is open, if one is. */
  name: string | null
  current: string | null
  pictures?: boolean
}>()
const emit = defineEmits<{
  open: [entry: Entry<Contents[Kind]>]
  rename: [name: string]
  /** The open one has just been deleted. */
  gone: []
}>()

const project = useProject()
const panel = ref<{ toggle(e: Event): void; hide(): void }>()
const message = ref('')
const entries = computed(() => project.documents[props.kind])
const deleted = computed(() => project.deleted[props.kind])

/** One thing at a time; what stands in its way is said in the list. */
async function attempt(work: () => Promise<unknown>): Promise<void> {
  try {
    message.value = ''
    await work()
  } catch (error) {
    message.value = error instanceof Error ? error.message : String(error)
  }
}
const hide = () => panel.value?.hide()
defineExpose({ attempt, hide })

function open(entry: Entry<Contents[Kind]>): void {
  emit('open', entry)
  hide()
}

const remove = (id: string) =>
  attempt(async () => {
    await project.remove(props.kind, id)
    if (props.current === id) emit('gone')
    await project.loadDeleted(props.kind)
  })

function toggle(event: Event): void {
  panel.value?.toggle(event)
  void attempt(() => project.loadDeleted(props.kind))
  if (props.pictures) void project.takeMissingPictures()
}
</script>

<template>
  <div class="document">
    <NameField :name="name" :noun="noun" test="rename" @rename="emit('rename', $event)">
      <button
        class="open"
        aria-haspopup="dialog"
        :data-test="`${kind}-name`"
        :disabled="project.state !== 'ready'"
        @click="toggle"
      >
        {{ name ?? (project.state === 'ready' ? `No ${noun}` : '…') }} <ChevronDown :size="15" />
      </button>
    </NameField>
    <Popover ref="panel" :aria-label="`All there is: ${noun}s`">
      <div class="list scroll" :data-test="`${kind}-list`">
        <div class="make"><slot /></div>
        <Message v-if="message" severity="error" size="small" :data-test="`${kind}-message`">{{ message }}</Message>
        <div v-for="f in entries" :key="f.id" class="row" :class="{ on: f.id === current }">
          <button class="pick" :aria-current="f.id === current" @click="open(f)">
            <template v-if="pictures">
              <img
                v-if="f.hasPicture"
                :src="`/api/documents/${kind}/${f.id}/picture?${f.savedAt}${project.pictureVersion}`"
                width="44"
                height="60"
                alt=""
              />
              <span v-else class="blank" />
            </template>
            {{ f.name }}
          </button>
          <button
            class="quiet"
            :aria-label="`Delete ${f.name}`"
            title="Delete"
            data-test="delete"
            @click="remove(f.id)"
          >
            <Trash2 :size="15" />
          </button>
        </div>
        <template v-if="deleted.length">
          <h3>Deleted</h3>
          <div v-for="f in deleted" :key="f.id" class="row soft">
            <span class="pick">{{ f.name }}</span>
            <button
              class="quiet"
              :aria-label="`Bring back ${f.name}`"
              title="Bring back"
              data-test="restore"
              @click="attempt(() => project.restore(kind, f.id))"
            >
              <RotateCcw :size="15" />
            </button>
          </div>
        </template>
      </div>
    </Popover>
  </div>
</template>

<style scoped>
.document {
  display: flex;
  align-items: center;
  gap: 2px;
}

.open {
  appearance: none;
  border: 0;
  background: none;
  color: var(--ink);
  font: 600 15px var(--text);
  display: flex;
  align-items: center;
  gap: 4px;
  cursor: pointer;
  padding: 6px 8px;
  border-radius: 4px;
  max-width: 240px;
  white-space: nowrap;
  overflow: hidden;
}

.open:hover {
  background: var(--act-soft);
}

.list {
  width: 330px;
  max-height: 70vh;
}

.make {
  display: flex;
  gap: var(--s2);
  flex-wrap: wrap;
  margin-bottom: var(--s3);
}

.row {
  display: flex;
  align-items: center;
  border-bottom: 1px solid var(--rule);
}

.row.on .pick {
  font-weight: 650;
}

.pick {
  appearance: none;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  flex: 1;
  display: flex;
  align-items: center;
  gap: var(--s3);
  padding: 4px;
  cursor: pointer;
}

.blank {
  width: 44px;
  height: 60px;
}

h3 {
  margin: var(--s4) 0 var(--s1);
}
</style>

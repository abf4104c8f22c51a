<script setup lang="ts">
import { History } from 'lucide-vue-next'
import { ask } from '../../stores/api'

/** What a kit was before, and the way back to it. */
const props = defineProps<{ kit: string; now: string }>()
const emit = defineEmits<{ restored: [] }>()
interface Version {
  number: number
  kitVersion: string
  keptAt: string
}
const panel = ref<{ toggle(e: Event): void; hide(): void }>()
const versions = ref<Version[]>([])
const said = ref('')
async function attempt(work: () => Promise<void>): Promise<void> {
  said.value = ''
  try {
    await work()
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
  }
}
const load = () => attempt(async () => void (versions.value = await ask(`/api/kit-versions/${props.kit}`)))
const restore = ({ number }: Version) =>
  attempt(async () => {
    await ask(`/api/kit-versions/${props.kit}/${number}/restore`, 'POST')
    panel.value?.hide()
    emit('restored')
  })
const when = (date: string) => new Date(date).toLocaleString([], { dateStyle: 'medium', timeStyle: 'short' })
</script>

<template>
  <Button
    size="small"
    text
    label="Versions"
    aria-haspopup="dialog"
    data-test="kit-versions"
    @click="
      (event: Event) => {
        panel?.toggle(event)
        void load()
      }
    "
    ><template #icon><History :size="15" /></template
  ></Button>
  <Popover ref="panel" aria-label="Versions of the kit">
    <div class="versions scroll" data-test="versions">
      <p v-if="said" role="alert">{{ said }}</p>
      <p class="now">
        <b>Now</b> <span class="number">{{ now }}</span>
      </p>
      <p v-for="v in versions" :key="v.number">
        <span class="number">{{ v.kitVersion }}</span> <span class="soft">until {{ when(v.keptAt) }}</span>
        <Button size="small" text label="Go back to it" :data-test="`restore-${v.number}`" @click="restore(v)" />
      </p>
      <p v-if="versions.length === 0 && !said" class="soft">It has not been changed here.</p>
    </div>
  </Popover>
</template>

<style scoped>
.versions {
  max-height: 50vh;
  min-width: 300px;
}

p {
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: var(--s3);
  margin: 0;
}

.now {
  justify-content: flex-start;
}
</style>

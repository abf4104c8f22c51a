<script setup lang="ts">
import { ask } from '../../stores/api'
import { useProject } from '../../stores/project'

/** Kits that were taken out: brought back whole, or forgotten for good. */
const emit = defineEmits<{ restored: [kit: string] }>()
const project = useProject()
const confirm = useConfirm()
interface Removed {
  id: string
  name: string
  kitVersion: string
}
const removed = ref<Removed[]>([])
const said = ref('')
async function attempt(work: () => Promise<void>): Promise<void> {
  said.value = ''
  try {
    await work()
    removed.value = await ask('/api/kit-versions')
  } catch (error) {
    said.value = error instanceof Error ? error.message : String(error)
  }
}
const bringBack = (id: string) =>
  attempt(async () => {
    const [latest] = await ask<{ number: number }[]>(`/api/kit-versions/${id}`)
    if (!latest) return
    await ask(`/api/kit-versions/${id}/${latest.number}/restore`, 'POST')
    emit('restored', id)
  })
function forget({ id, name }: Removed): void {
  confirm.require({
    header: `Forget “${name}” for good?`,
    message: 'Its files are deleted. What was made from it stays, and cannot be built unless you add it again.',
    acceptProps: { label: 'Forget it', severity: 'danger', 'data-test': 'forget-sure' },
    rejectProps: { label: 'Keep it', text: true },
    accept: () => void attempt(() => ask(`/api/kit-versions/${id}`, 'DELETE')),
  })
}
// whatever is loaded anew may have been removed or brought back
watch(
  () => project.kits,
  () => void attempt(() => Promise.resolve()),
  { immediate: true },
)
</script>

<template>
  <section v-if="removed.length || said" data-test="removed-kits">
    <h3>Removed</h3>
    <p v-if="said" role="alert">{{ said }}</p>
    <div v-for="k in removed" :key="k.id" class="kit">
      <span
        >{{ k.name }} <span class="number soft">{{ k.kitVersion }}</span></span
      >
      <Button size="small" text label="Bring it back" :data-test="`bring-back-${k.id}`" @click="bringBack(k.id)" />
      <Button size="small" text label="Forget it" :data-test="`forget-${k.id}`" @click="forget(k)" />
    </div>
  </section>
</template>

<style scoped>
section {
  margin-top: var(--s4);
  border-top: 1px solid var(--rule);
  padding-top: var(--s2);
}

.kit {
  font-size: 13px;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
}

.kit span:first-child {
  flex-basis: 100%;
}

.kit .number {
  flex-basis: auto;
}

.kit :deep(.p-button) {
  padding-left: 0;
}
</style>

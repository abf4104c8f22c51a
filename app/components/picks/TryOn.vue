<script setup lang="ts">
import { drawLooks, type DrawnLook } from '@idle-tinker/example'
import { shuffleLook, Wardrobe } from '@idle-tinker/runtime'

/** Looks that players could make, drawn by the runtime from seeds. */
const props = defineProps<{ address: string; earned: boolean }>()
const emit = defineEmits<{ look: [text: string] }>()
const COUNT = 60
const looks = ref<DrawnLook[]>([])
const first = ref(1)
const message = ref('')
const over = ref(false)
let run = 0

async function draw(): Promise<void> {
  const own = ++run
  looks.value = []
  message.value = ''
  over.value = false
  const { wardrobe, told } = await Wardrobe.open(new URL(props.address, location.href).href)
  if (own !== run) return
  if (!wardrobe) {
    message.value = told.map((t) => t.message).join(' ')
    return
  }
  const earned = () => props.earned
  const { bodies } = wardrobe.manifest
  // each body in turn
  const seeded = Array.from({ length: COUNT }, (_, i) =>
    shuffleLook(bodies[i % bodies.length]!, first.value + i, { earned }),
  )
  try {
    for await (const look of drawLooks(wardrobe, seeded, { width: 150, height: 230, earned })) {
      if (own !== run) return
      looks.value.push(look)
    }
    over.value = true
  } catch (error) {
    if (own === run) message.value = error instanceof Error ? error.message : String(error)
  }
}
const others = () => {
  first.value += COUNT
  void draw()
}
onMounted(draw)
watch(() => [props.address, props.earned], draw)
onBeforeUnmount(() => run++)
const most = computed(() => Math.max(0, ...looks.value.map((l) => l.triangles)))
</script>

<template>
  <div class="tryon scroll" data-test="try-on">
    <div class="line">
      <Button size="small" outlined label="Draw others" data-test="try-others" :disabled="!over" @click="others" />
      <span class="soft" role="status"
        >{{ looks.length }} of {{ COUNT }} looks; measured on these, the most has
        {{ most.toLocaleString('en') }} triangles.</span
      >
    </div>
    <Message v-if="message" severity="error" size="small">{{ message }}</Message>
    <div class="sheet">
      <button
        v-for="(l, i) in looks"
        :key="i"
        type="button"
        class="look"
        :title="`${l.text}: ${l.triangles.toLocaleString('en')} triangles`"
        :aria-label="`Look ${i + 1}, ${l.triangles} triangles: put it on in the mirror`"
        @click="emit('look', l.text)"
      >
        <img :src="l.picture" alt="" width="100" height="153" />
      </button>
    </div>
  </div>
</template>

<style scoped>
.tryon {
  height: 100%;
  padding: var(--s3);
}

.line {
  display: flex;
  align-items: center;
  gap: var(--s3);
  margin-bottom: var(--s2);
}

.sheet {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(100px, 1fr));
}

.look {
  all: unset;
  cursor: pointer;
  display: grid;
  justify-items: center;
}

.look:focus-visible {
  outline: 2px solid var(--act);
}

.look:hover {
  background: var(--act-soft);
}
</style>

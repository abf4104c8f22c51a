<script setup lang="ts">
/** Looks with what there is to see in each; each can be put on. */
defineProps<{
  looks: readonly { key: string; words: string; much: string; text: string }[]
  pictures: Readonly<Record<string, string>>
}>()
const emit = defineEmits<{ look: [text: string] }>()
</script>

<template>
  <p v-if="looks.length === 0" class="soft">Nothing, nowhere.</p>
  <div class="shelf">
    <button
      v-for="l in looks"
      :key="l.key"
      type="button"
      class="look"
      title="Put it on in the mirror"
      @click="emit('look', l.text)"
    >
      <img v-if="pictures[l.text]" :src="pictures[l.text]" alt="" width="90" height="138" />
      <span v-else class="blank" />
      <span>{{ l.words }}</span>
      <span class="number">{{ l.much }}</span>
    </button>
  </div>
</template>

<style scoped>
.shelf {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(138px, 1fr));
  gap: var(--s2);
}

.look {
  all: unset;
  cursor: pointer;
  display: grid;
  justify-items: center;
  align-content: start;
  text-align: center;
  font-size: 12.5px;
  line-height: 1.25;
  padding: 4px;
}

.look:hover {
  background: var(--act-soft);
}

.look:focus-visible {
  outline: 2px solid var(--act);
}

.blank {
  width: 90px;
  height: 138px;
}
</style>

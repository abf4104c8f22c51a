<script setup lang="ts">
definePageMeta({ bare: true })
const route = useRoute()
useHead({ title: 'The sail loft' })
const address = computed(() => `/api/jobs/${String(route.params.job)}/files`)
const look = computed(() => (typeof route.query.look === 'string' ? route.query.look : undefined))
</script>

<template>
  <main class="page">
    <h1 class="unseen">Dressing room</h1>
    <PlayerMirror :address="address" :look="look" />
  </main>
</template>

<style scoped>
.page {
  height: 100%;
}
</style>

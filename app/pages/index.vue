<script setup lang="ts">
definePageMeta({ redirect: '/bench' })
</script>

<template><div /></template>

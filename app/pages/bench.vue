<template>
  <div class="bench">
    <BuildSheet />
    <StageView tabs />
    <PartTray />
  </div>
</template>

<style scoped>
.bench {
  display: grid;
  grid-template-columns: 310px minmax(0, 1fr) 312px;
  height: 100%;
}

.bench > * {
  min-height: 0;
}
</style>

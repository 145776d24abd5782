<script setup lang="ts">
/** Of the learners, how many can read this page; nothing where its print was not measured. */
defineProps<{ reading: number; learners: number; known: boolean }>()
</script>

<template>
  <small v-if="known && learners" :class="reading === learners ? 'all' : 'some'"
    ><span aria-hidden="true">{{ reading === learners ? '●' : '◆' }}</span> {{ reading }} of
    {{ learners }} read it</small
  >
</template>

<style scoped>
small {
  display: block;
  font-size: 13px;
}
.all {
  color: var(--malachite);
}
.some {
  color: var(--ochre);
}
</style>

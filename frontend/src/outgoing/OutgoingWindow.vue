<script setup lang="ts">
import { onMounted } from 'vue'
import SurfaceView from '@/shared/SurfaceView.vue'

onMounted(() => (document.title = 'Cartouche outgoing'))
</script>

<template>
  <main class="window">
    <SurfaceView surface="outgoing" :width="1920" window label="The outgoing picture" waiting="One moment" />
  </main>
</template>

<style scoped>
.window {
  position: fixed;
  inset: 0;
  background: var(--paper);
}
.window :deep(.surface) {
  background: var(--paper);
}
</style>

<script setup lang="ts">
import { onMounted } from 'vue'
import { api } from '@/api/client'
import { useKeys } from '@/shared/keys'
import SurfaceView from '@/shared/SurfaceView.vue'

onMounted(() => (document.title = 'Cartouche outgoing'))

/** The lesson's keys work here too; nothing but the picture is ever shown, so what they cannot do is said on Teach alone. */
const plate = (body: { number: number } | { by: number }) =>
  void api.PUT('/api/teach/plate', { body: { by: 0, ...body } }).catch(() => {})
useKeys('outgoing', {
  next: () => plate({ by: 1 }),
  previous: () => plate({ by: -1 }),
  plate: (event) => plate({ number: Number(event.key) }),
  mute: () => void api.PUT('/api/sound/open', { body: { id: null } }).catch(() => {}),
})
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

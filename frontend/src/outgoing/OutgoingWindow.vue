<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { onMounted } from 'vue'
import { useRoute } from 'vue-router'
import { api } from '@/api/client'
import { useKeys } from '@/shared/keys'
import SurfaceView from '@/shared/SurfaceView.vue'
import { useTabSound } from './sound'

const board = 'board' in useRoute().query // on the room's second screen: silent, and full screen as soon as it may
const { on, toggle } = useTabSound()

/** A call page that captures this tab can tell what it has (W3C Capture Handle). */
function beKnown() {
  const media = navigator.mediaDevices as MediaDevices & { setCaptureHandleConfig?: (config: object) => void }
  media?.setCaptureHandleConfig?.({
    handle: 'cartouche-outgoing',
    exposeOrigin: true,
    permittedOrigins: ['*'],
  })
}
const whole = () => void document.documentElement.requestFullscreen().catch(() => {})

onMounted(() => {
  document.title = board ? 'Cartouche board' : 'Cartouche outgoing'
  if (board) whole()
  else beKnown()
})
if (board) useEventListener(document, 'click', whole)

/** The lesson's keys work here too; nothing but the picture is ever shown, so what they cannot do is said on Teach alone. */
const plate = (body: { number: number } | { by: number }) =>
  void api.PUT('/api/teach/plate', { body: { by: 0, ...body } }).catch(() => {})
useKeys('outgoing', {
  next: () => plate({ by: 1 }),
  previous: () => plate({ by: -1 }),
  plate: (event) => plate({ number: Number(event.key) }),
  mute: () => void api.PUT('/api/sound/open', { body: { id: null } }).catch(() => {}),
  sound: () => !board && toggle(),
  whole,
})
</script>

<template>
  <main class="window" :data-sound="on">
    <SurfaceView
      surface="outgoing"
      :width="1920"
      :window="!board"
      label="The outgoing picture"
      waiting="One moment"
    />
  </main>
</template>

<style scoped>
.window {
  position: fixed;
  inset: 0;
  background: var(--paper);
  cursor: none;
}
.window :deep(.surface) {
  background: var(--paper);
}
</style>

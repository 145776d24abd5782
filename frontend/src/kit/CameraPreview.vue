<script setup lang="ts">
import { ref, watchEffect } from 'vue'

const props = defineProps<{ stream: MediaStream; label: string }>()
const video = ref<HTMLVideoElement>()
watchEffect(() => {
  if (video.value) video.value.srcObject = props.stream
})
</script>

<template>
  <video ref="video" autoplay muted playsinline :aria-label="`Moving picture of ${label}`" />
</template>

<style scoped>
video {
  display: block;
  width: 100%;
  aspect-ratio: 16/9;
  background: #e9e2d3;
  object-fit: cover;
}
</style>

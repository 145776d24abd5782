<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue'

const EVERY_MS = 1100
const FLASH_MS = 120
const AHEAD_S = 0.08 // the click is set beforehand, so that it does not wait for a busy page
const bright = ref(false)
let context: AudioContext | null = null
let timer = 0
let frame = 0

/** Flash and click at one moment of the sound's own clock. */
function clap() {
  if (!context) return
  const at = context.currentTime + AHEAD_S
  const click = new OscillatorNode(context, { type: 'square', frequency: 1800 })
  const level = new GainNode(context, { gain: 0.4 })
  click.connect(level).connect(context.destination)
  click.start(at)
  click.stop(at + 0.01)
  const shown = () => {
    if (!context) return
    if (context.currentTime + (context.outputLatency || 0) < at) {
      frame = requestAnimationFrame(shown)
      return
    }
    bright.value = true
    window.setTimeout(() => (bright.value = false), FLASH_MS)
  }
  frame = requestAnimationFrame(shown)
}
onMounted(() => {
  context = new AudioContext()
  timer = window.setInterval(clap, EVERY_MS)
})
onBeforeUnmount(() => {
  window.clearInterval(timer)
  cancelAnimationFrame(frame)
  void context?.close()
  context = null
})
</script>

<template>
  <main :class="{ bright }">
    <p>Hold this before the camera, with the sound on.</p>
  </main>
</template>

<style scoped>
main {
  height: 100%;
  display: grid;
  place-content: end center;
  padding: 18px;
  background: #101521;
  color: #8a93a8;
}
main.bright {
  background: #fff;
}
</style>

<script setup lang="ts">
import { ref } from 'vue'
import { COLOURS, TOOLS } from '@/teach/inkLooks'
import { useHand } from '@/teach/useHand'
import { useDrawing, useEcho } from './drawing'

/** The outgoing picture on a tablet, to draw on. */
defineProps<{ picture: string | null }>()
const emit = defineEmits<{ say: [sentence: string]; ink: [work: 'undo' | 'clear']; done: [] }>()
const surface = ref<HTMLElement>()
const canvas = ref<HTMLCanvasElement>()
const hand = useDrawing((sentence) => emit('say', sentence))
const echo = useEcho(canvas)
useHand(surface, {
  on: true,
  get looks() {
    return hand.looks
  },
  send(said) {
    echo(said)
    hand.send(said)
  },
})
const OFFERED = TOOLS.filter(({ tool }) => tool !== 'line' && tool !== 'rubber')
</script>

<template>
  <div class="draw">
    <div ref="surface" class="surface" aria-label="Draw on the outgoing picture" role="application">
      <img v-if="picture" :src="picture" alt="The outgoing picture" draggable="false" />
      <canvas ref="canvas" aria-hidden="true" />
    </div>
    <div class="row" role="toolbar" aria-label="Ink">
      <button
        v-for="one in OFFERED"
        :key="one.tool"
        :aria-pressed="hand.tool === one.tool"
        @click="hand.tool = one.tool"
      >
        {{ one.word }}
      </button>
      <button
        v-for="one in COLOURS"
        :key="one.colour"
        class="dot"
        :aria-pressed="hand.colour === one.colour"
        :aria-label="`Colour: ${one.word}`"
        @click="hand.colour = one.colour"
      >
        <i :style="{ background: one.colour }" />
      </button>
      <button @click="emit('ink', 'undo')">Undo</button>
      <button @click="emit('ink', 'clear')">Clear</button>
      <button class="done" @click="emit('done')">Stop drawing</button>
    </div>
  </div>
</template>

<style scoped>
.draw {
  display: grid;
  gap: 10px;
}
.surface {
  position: relative;
  aspect-ratio: 16/9;
  border: 1px solid var(--line);
  border-radius: 10px;
  overflow: hidden;
  touch-action: none;
  cursor: crosshair;
}
img,
canvas {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
}
img {
  user-select: none;
  -webkit-user-drag: none;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 6px;
}
button {
  appearance: none;
  min-height: 48px;
  min-width: 48px;
  padding: 4px 12px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
button[aria-pressed='true'] {
  border-color: var(--lapis);
  background: var(--lapis-tint);
  color: var(--lapis);
}
.done {
  margin-left: auto;
}
.dot {
  display: grid;
  place-items: center;
}
i {
  width: 22px;
  height: 22px;
  border-radius: 50%;
}
</style>

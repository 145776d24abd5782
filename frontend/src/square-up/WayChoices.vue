<script setup lang="ts">
import { useIntervalFn } from '@vueuse/core'
import { ref } from 'vue'
import SurfaceView from '@/shared/SurfaceView.vue'

defineProps<{ surface: string }>()
const emit = defineEmits<{ choose: [quarters: number, flip: boolean] }>()

const WAYS = [
  { name: 'Turn left', quarters: 3, flip: false },
  { name: 'Turn right', quarters: 1, flip: false },
  { name: 'Half a turn', quarters: 2, flip: false },
  { name: 'Flip', quarters: 0, flip: true },
] as const
const EVERY_MS = 500
const SIDE_PX = 128
const source = ref<HTMLElement>()
const drawings = ref<HTMLCanvasElement[]>([])

/** The page as it is, drawn as each press would leave it. */
function draw() {
  const page = source.value?.querySelector('canvas')
  if (page?.dataset.shown !== 'true') return
  const scale = SIDE_PX / Math.max(page.width, page.height)
  WAYS.forEach((way, index) => {
    const pen = drawings.value[index]?.getContext('2d')
    if (!pen) return
    pen.setTransform(1, 0, 0, 1, 0, 0)
    pen.clearRect(0, 0, SIDE_PX, SIDE_PX)
    pen.translate(SIDE_PX / 2, SIDE_PX / 2)
    pen.rotate((way.quarters * Math.PI) / 2)
    pen.scale(way.flip ? -scale : scale, scale)
    pen.drawImage(page, -page.width / 2, -page.height / 2)
  })
}
useIntervalFn(draw, EVERY_MS)
</script>

<template>
  <div v-roving class="ways" role="toolbar" aria-label="Turn and flip the page">
    <button
      v-for="(way, index) in WAYS"
      :key="way.name"
      type="button"
      @click="emit('choose', way.quarters, way.flip)"
    >
      <canvas
        :ref="(element) => (drawings[index] = element as HTMLCanvasElement)"
        :width="SIDE_PX"
        :height="SIDE_PX"
        aria-hidden="true"
      />
      {{ way.name }}
    </button>
    <div ref="source" class="source" aria-hidden="true">
      <SurfaceView :surface="surface" :width="SIDE_PX" :fps="2" label="The page, small" />
    </div>
  </div>
</template>

<style scoped>
.ways {
  position: relative;
  display: grid;
  grid-template-columns: repeat(4, minmax(0, 1fr));
  gap: 8px;
}
button {
  display: grid;
  justify-items: center;
  gap: 4px;
  padding: 7px 4px 6px;
  border: 1px solid var(--line);
  border-radius: 10px;
  background: var(--sheet);
  color: var(--ink);
  font: inherit;
  font-size: 13.5px;
  cursor: pointer;
}
button:hover,
button:focus-visible {
  border-color: var(--lapis);
}
canvas {
  width: 84px;
  height: 84px;
}
.source {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  opacity: 0;
  pointer-events: none;
}
</style>

<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Chain } from '@/api/client'

type Corners = Chain['square']['corners']
const props = defineProps<{ corners: Corners; on: boolean; aspect: number }>()
const emit = defineEmits<{ move: [corners: Corners, settled: boolean] }>()

const NAMES = ['Upper left', 'Upper right', 'Lower right', 'Lower left']
const STEP = 0.002
const MARGIN = 0.06 // of the picture, on each side: a corner may lie outside it

const svg = ref<SVGSVGElement>()
const dragging = ref<number | null>(null)
const high = computed(() => 1 / props.aspect)
const points = computed(() => props.corners.map(([x, y]) => [x, y * high.value] as const))
const outline = computed(() => points.value.map((point) => point.join(',')).join(' '))

function moved(index: number, x: number, y: number): Corners {
  const limit = (value: number) => Math.min(1 + MARGIN * 3, Math.max(-MARGIN * 3, value))
  return props.corners.map((corner, at) => (at === index ? [limit(x), limit(y)] : corner)) as Corners
}
function drag(event: PointerEvent, settled = false) {
  const box = svg.value?.getBoundingClientRect()
  if (dragging.value === null || !box) return
  const x = (event.clientX - box.left) / box.width
  const y = (event.clientY - box.top) / box.height
  emit('move', moved(dragging.value, x, y), settled)
}
function take(event: PointerEvent, index: number) {
  dragging.value = index
  ;(event.target as Element).setPointerCapture(event.pointerId)
}
function drop(event: PointerEvent) {
  drag(event, true)
  dragging.value = null
}
function nudge(event: KeyboardEvent, index: number) {
  const ways: Record<string, [number, number]> = {
    ArrowLeft: [-1, 0],
    ArrowRight: [1, 0],
    ArrowUp: [0, -1],
    ArrowDown: [0, 1],
  }
  const way = ways[event.key]
  if (!way) return
  event.preventDefault()
  const step = STEP * (event.shiftKey ? 10 : 1)
  const [x, y] = props.corners[index] ?? [0, 0]
  emit('move', moved(index, x + way[0] * step, y + way[1] * step * props.aspect), true)
}
</script>

<template>
  <svg ref="svg" :viewBox="`0 0 1 ${high}`" class="corners" :class="{ off: !on }">
    <polygon :points="outline" />
    <circle
      v-for="(point, index) in points"
      :key="index"
      :cx="point[0]"
      :cy="point[1]"
      r="0.017"
      tabindex="0"
      role="button"
      :aria-label="`${NAMES[index]} corner, ${Math.round((corners[index]?.[0] ?? 0) * 100)}% across, ${Math.round((corners[index]?.[1] ?? 0) * 100)}% down. Arrow keys move it.`"
      @pointerdown.prevent="take($event, index)"
      @pointermove="drag($event)"
      @pointerup="drop"
      @keydown="nudge($event, index)"
    />
  </svg>
</template>

<style scoped>
.corners {
  position: absolute;
  inset: 0;
  width: 100%;
  height: 100%;
  overflow: visible;
  touch-action: none;
}
polygon {
  fill: none;
  stroke: var(--lapis);
  stroke-width: 0.0035;
  pointer-events: none;
}
.off polygon {
  stroke-dasharray: 0.012 0.01;
}
circle {
  fill: var(--sheet);
  stroke: var(--lapis);
  stroke-width: 0.0045;
  cursor: grab;
}
circle:focus-visible {
  outline: none;
  fill: var(--lapis);
  stroke: var(--sheet);
}
</style>

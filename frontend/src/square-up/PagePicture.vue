<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Chain, SquareUpView } from '@/api/client'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
import { useRules } from '@/shared/rules'
import SurfaceView from '@/shared/SurfaceView.vue'

const props = defineProps<{
  view: SquareUpView
  comparing: boolean
  roomWide: number
  roomHigh: number
  live: boolean
}>()
const emit = defineEmits<{ frame: [values: Partial<Chain['frame']>, settled: boolean] }>()

const ZOOM_STEP = 1.15
const aspect = computed(() => {
  if (props.comparing && props.view.feed_width && props.view.feed_height)
    return props.view.feed_width / props.view.feed_height
  const readings = props.view.readings
  return readings ? readings.canvas_width / readings.canvas_height : 0.707
})
const width = computed(() =>
  Math.max(160, Math.min(props.roomWide - 31, (props.roomHigh - 18) * aspect.value)),
)

const outline = computed(() => {
  const [left, top, right, bottom] = props.view.visible ?? [0, 0, 1, 1]
  if ((right - left) * (bottom - top) > 0.985) return null
  const share = (value: number) => `${(value * 100).toFixed(2)}%`
  return { left: share(left), top: share(top), width: share(right - left), height: share(bottom - top) }
})

/** Fingers and the mouse alike: one moves the frame over the page, two pinch it. */
const fingers = new Map<number, { x: number; y: number }>()
const from = ref<{
  x: number
  y: number
  apart: number
  frame: Chain['frame']
  wide: number
  high: number
} | null>(null)
const within = (value: number) => Math.min(1, Math.max(0, value))
const stored = useRules()
const zoomed = (value: number) => Math.min(stored.rules?.zoom_max ?? 1, Math.max(1, value))

function hold(element: HTMLElement) {
  const held = [...fingers.values()]
  const box = element.getBoundingClientRect()
  const x = held.reduce((sum, one) => sum + one.x, 0) / held.length
  const y = held.reduce((sum, one) => sum + one.y, 0) / held.length
  const [a, b] = held
  return { x, y, apart: a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0, wide: box.width, high: box.height }
}
function take(event: PointerEvent) {
  const element = event.currentTarget as HTMLElement
  fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
  element.setPointerCapture(event.pointerId)
  from.value = { ...hold(element), frame: props.view.chain.frame }
}
function drag(event: PointerEvent, settled: boolean) {
  const start = from.value
  if (!start || !fingers.has(event.pointerId)) return
  fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
  const now = hold(event.currentTarget as HTMLElement)
  const zoom =
    start.apart > 20 && now.apart > 20
      ? zoomed(start.frame.zoom * (now.apart / start.apart))
      : start.frame.zoom
  const moved = {
    zoom,
    x: within(start.frame.x + (now.x - start.x) / start.wide),
    y: within(start.frame.y + (now.y - start.y) / start.high),
  }
  if (settled) {
    fingers.delete(event.pointerId)
    from.value = fingers.size
      ? { ...hold(event.currentTarget as HTMLElement), frame: { ...start.frame, ...moved } }
      : null
  }
  emit('frame', { ...moved, on: true }, settled)
}
function wheel(event: WheelEvent) {
  const by = event.deltaY < 0 ? ZOOM_STEP : 1 / ZOOM_STEP
  emit('frame', { zoom: zoomed(props.view.chain.frame.zoom * by), on: true }, true)
}
</script>

<template>
  <CartoucheFrame :live="live" :style="{ width: `${width + 18}px` }">
    <div
      class="page"
      :style="{ aspectRatio: aspect }"
      @pointerdown="take"
      @pointermove="drag($event, false)"
      @pointerup="drag($event, true)"
      @pointercancel="drag($event, true)"
      @wheel.prevent="wheel"
    >
      <SurfaceView
        :surface="comparing ? `raw:${view.device.id}` : `page:${view.device.id}`"
        :width="width * 1.5"
        :fps="24"
        :label="comparing ? 'The raw picture' : 'The straightened page'"
      />
      <div v-if="outline && !comparing" class="outline" :style="outline" aria-hidden="true" />
      <span v-if="comparing" class="raw-mark">As it comes</span>
    </div>
  </CartoucheFrame>
</template>

<style scoped>
.page {
  position: relative;
  cursor: grab;
  touch-action: none;
}
.outline {
  position: absolute;
  border: 2px solid var(--lapis);
  box-shadow: 0 0 0 2000px rgb(243 238 227 / 62%);
  clip-path: none;
  pointer-events: none;
}
.page {
  overflow: hidden;
}
.raw-mark {
  position: absolute;
  top: 8px;
  left: 8px;
  padding: 2px 10px;
  border-radius: 7px;
  background: var(--ochre-tint);
  color: var(--ochre);
  font-weight: 650;
}
</style>

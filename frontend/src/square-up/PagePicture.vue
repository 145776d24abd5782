<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Chain, SquareUpView } from '@/api/client'
import CartoucheFrame from '@/shared/CartoucheFrame.vue'
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

const from = ref<{ x: number; y: number; frameX: number; frameY: number; wide: number; high: number } | null>(
  null,
)
const within = (value: number) => Math.min(1, Math.max(0, value))

function take(event: PointerEvent) {
  const box = (event.currentTarget as HTMLElement).getBoundingClientRect()
  const { x, y } = props.view.chain.frame
  from.value = { x: event.clientX, y: event.clientY, frameX: x, frameY: y, wide: box.width, high: box.height }
  ;(event.currentTarget as HTMLElement).setPointerCapture(event.pointerId)
}
function drag(event: PointerEvent, settled: boolean) {
  const start = from.value
  if (!start) return
  const zoom = props.view.chain.frame.zoom
  const x = within(start.frameX - (event.clientX - start.x) / start.wide / zoom)
  const y = within(start.frameY - (event.clientY - start.y) / start.high / zoom)
  emit('frame', { x, y, on: true }, settled)
  if (settled) from.value = null
}
function wheel(event: WheelEvent) {
  const by = event.deltaY < 0 ? ZOOM_STEP : 1 / ZOOM_STEP
  emit('frame', { zoom: Math.min(8, Math.max(1, props.view.chain.frame.zoom * by)), on: true }, true)
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
      @wheel.prevent="wheel"
    >
      <SurfaceView
        :surface="comparing ? `raw:${view.device.id}` : `page:${view.device.id}`"
        :width="width * 1.5"
        :frames-s="24"
        :label="comparing ? 'The raw picture' : 'The straightened page'"
      />
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

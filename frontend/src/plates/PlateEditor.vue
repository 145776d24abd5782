<script setup lang="ts">
import { useElementSize, useEventListener } from '@vueuse/core'
import { computed, nextTick, ref, watch } from 'vue'
import type { Device } from '@/api/client'
import SurfaceView from '@/shared/SurfaceView.vue'
import type { PlateView, Place } from './plates'
import { contentSays } from './says'
import { dragged, nudged, type Box, type Guide, type Handle } from './snap'

const props = defineProps<{
  view: PlateView
  at: number | null
  devices: Device[]
  surface: string
  inner: boolean
}>()
const emit = defineEmits<{
  choose: [at: number | null]
  lay: [at: number, box: Box, settled: boolean]
  focus: [at: number, focus: { x: number; y: number }, settled: boolean]
  hold: [at: number, deviceId: string]
}>()

const HANDLES: Handle[] = ['nw', 'n', 'ne', 'e', 'se', 's', 'sw', 'w']
const STEP = 0.01
const stage = ref<HTMLElement>()
const { width } = useElementSize(stage)
const drawnWidth = computed(() => Math.max(320, Math.ceil((width.value * window.devicePixelRatio) / 64) * 64))
const guides = ref<Guide[]>([])
const over = ref<number | null>(null)
const places = computed(() => props.view.plate.places)
const boxes = computed(() => places.value.map((place, at) => props.view.rects[at] ?? place.rect))
watch(
  () => [props.view.plate.id, places.value.length] as const,
  async ([id, count], [before, had]) => {
    if (id !== before || count !== had + 1 || props.at !== count - 1) return
    await nextTick()
    stage.value?.querySelectorAll<HTMLElement>('.place')[count - 1]?.focus()
  },
)
const says = (place: Place) => contentSays(place.content, props.devices)

interface Grip {
  at: number
  handle: Handle | 'focus'
  x: number
  y: number
  before: Box
  focus: { x: number; y: number }
  moved: boolean
}
let grip: Grip | null = null
let last: Box | { x: number; y: number } | null = null

const style = (box: Box) => ({
  left: `${box.x * 100}%`,
  top: `${box.y * 100}%`,
  width: `${box.width * 100}%`,
  height: `${box.height * 100}%`,
})
const cuts = (place: Place) =>
  place.fit === 'fill' && (place.content.kind === 'role' || place.content.kind === 'feed')

function take(event: PointerEvent, at: number, handle: Handle) {
  emit('choose', at)
  const place = places.value[at]
  const before = boxes.value[at]
  if (!place || !before || event.button !== 0) return
  const inner = handle === 'move' && (event.altKey || props.inner) && cuts(place)
  grip = { at, handle: inner ? 'focus' : handle, x: event.clientX, y: event.clientY, before, focus: place.focus, moved: false } // prettier-ignore
  last = null
  event.preventDefault()
  ;(event.currentTarget as HTMLElement).focus?.()
}
useEventListener(document, 'pointermove', (event) => {
  const area = stage.value?.getBoundingClientRect()
  if (!grip || !area) return
  const dx = (event.clientX - grip.x) / area.width
  const dy = (event.clientY - grip.y) / area.height
  if (!grip.moved && Math.hypot(event.clientX - grip.x, event.clientY - grip.y) < 3) return
  grip.moved = true
  if (grip.handle === 'focus') return pull(grip, dx, dy, false)
  const others = boxes.value.filter((_, at) => at !== grip?.at)
  const made = dragged(grip.before, grip.handle, dx, dy, others, event.ctrlKey || event.metaKey)
  guides.value = made.guides
  last = made.box
  emit('lay', grip.at, made.box, false)
})
function pull(held: Grip, dx: number, dy: number, settled: boolean) {
  const within = (value: number) => Math.min(1, Math.max(0, value))
  const next = {
    x: within(held.focus.x - dx / held.before.width),
    y: within(held.focus.y - dy / held.before.height),
  }
  last = next
  emit('focus', held.at, next, settled)
}
useEventListener(document, ['pointerup', 'pointercancel'], () => {
  if (grip?.moved && last) {
    if (grip.handle === 'focus') emit('focus', grip.at, last as { x: number; y: number }, true)
    else emit('lay', grip.at, last as Box, true)
  }
  grip = null
  guides.value = []
})
function key(event: KeyboardEvent, at: number) {
  const before = boxes.value[at]
  if (!event.key.startsWith('Arrow') || !before) return
  event.preventDefault()
  event.stopPropagation()
  const fine = event.altKey ? 0.1 : 1
  const place = places.value[at]
  if (props.inner && place && cuts(place)) {
    const to = nudged(
      { x: 1 - place.focus.x, y: 1 - place.focus.y, width: 0, height: 0 },
      event.key,
      5 * STEP * fine,
      false,
    )
    return emit('focus', at, { x: 1 - to.x, y: 1 - to.y }, true)
  }
  emit('lay', at, nudged(before, event.key, STEP * fine, event.shiftKey), true)
}
function drop(event: DragEvent, at: number) {
  over.value = null
  const id = event.dataTransfer?.getData('application/x-cartouche-device')
  if (id) emit('hold', at, id)
}
</script>

<template>
  <div ref="stage" class="stage" @pointerdown.self="emit('choose', null)">
    <SurfaceView
      v-if="width"
      :surface="surface"
      :width="drawnWidth"
      :fps="surface === 'outgoing' ? 30 : 15"
      :label="`The plate ${view.plate.name}, as it goes out`"
    />
    <div
      v-for="(place, number) in places"
      :key="number"
      class="place"
      :class="{ chosen: number === at, over: number === over, frame: place.content.kind === 'frame' }"
      :style="style(boxes[number]!)"
      tabindex="0"
      role="button"
      :aria-label="`Place ${number + 1}: ${says(place)}`"
      :aria-pressed="number === at"
      @pointerdown="take($event, number, 'move')"
      @focus="emit('choose', number)"
      @keydown="key($event, number)"
      @dragover.prevent="over = number"
      @dragleave="over = null"
      @drop.prevent="drop($event, number)"
    >
      <span v-if="place.content.kind !== 'caption'" class="tag">{{ says(place) }}</span>
      <template v-if="number === at">
        <i
          v-for="handle in HANDLES"
          :key="handle"
          :class="['handle', handle]"
          @pointerdown.stop="take($event, number, handle)"
        />
      </template>
    </div>
    <i
      v-for="guide in guides"
      :key="guide.axis"
      :class="['guide', guide.axis]"
      :style="guide.axis === 'x' ? { left: `${guide.at * 100}%` } : { top: `${guide.at * 100}%` }"
    />
  </div>
</template>

<style scoped>
.stage {
  position: relative;
  aspect-ratio: 16/9;
  touch-action: none;
  user-select: none;
}
.place {
  position: absolute;
  cursor: move;
  border: 1px dashed transparent;
  touch-action: none;
}
.place.frame {
  pointer-events: none;
}
.place:hover,
.place:focus-visible {
  border-color: var(--lapis);
}
.place.chosen {
  border: 2px solid var(--lapis);
  outline: 1px solid #fffdf8cc;
}
.place.over {
  background: #23459b33;
}
.tag {
  position: absolute;
  left: 4px;
  top: 4px;
  max-width: calc(100% - 8px);
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  padding: 1px 7px;
  border-radius: 6px;
  background: #fffdf8e8;
  font-size: 12.5px;
  pointer-events: none;
  opacity: 0;
}
.place:hover .tag,
.place.chosen .tag {
  opacity: 1;
}
.handle {
  position: absolute;
  width: 13px;
  height: 13px;
  margin: -7px;
  border: 2px solid var(--lapis);
  border-radius: 4px;
  background: var(--sheet);
  touch-action: none;
}
@media (pointer: coarse) {
  .handle {
    width: 24px;
    height: 24px;
    margin: -12px;
  }
}
.n,
.s {
  left: 50%;
  cursor: ns-resize;
}
.e,
.w {
  top: 50%;
  cursor: ew-resize;
}
.nw,
.n,
.ne {
  top: 0;
}
.sw,
.s,
.se {
  top: 100%;
}
.nw,
.w,
.sw {
  left: 0;
}
.ne,
.e,
.se {
  left: 100%;
}
.nw,
.se {
  cursor: nwse-resize;
}
.ne,
.sw {
  cursor: nesw-resize;
}
.guide {
  position: absolute;
  pointer-events: none;
  background: var(--carnelian);
}
.guide.x {
  top: 0;
  bottom: 0;
  width: 1px;
}
.guide.y {
  left: 0;
  right: 0;
  height: 1px;
}
</style>

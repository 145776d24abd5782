<script setup lang="ts">
import { onScopeDispose, ref, watch } from 'vue'
import { SurfacePlayer, type Drawn } from './surface'
import { tellOfWindow } from './windowState'

const props = withDefaults(
  defineProps<{
    surface: string
    width: number
    fps?: number
    label: string
    window?: boolean
    waiting?: string
  }>(),
  { fps: 30, window: false, waiting: 'One moment' },
)
const emit = defineEmits<{ drawn: [drawn: Drawn] }>()

const canvas = ref<HTMLCanvasElement>()
const shown = ref(false)
const trouble = ref<string | null>(null)
let player: SurfacePlayer | null = null

onScopeDispose(() => player?.close())
const tellNow = props.window ? tellOfWindow(canvas, (text) => player?.tell(text)) : null
watch(
  [canvas, () => props.surface, () => props.width, () => props.fps],
  ([element]) => {
    player?.close()
    shown.value = false
    if (!element) return
    const wide = Math.min(1920, Math.max(16, Math.round(props.width)))
    const path = `/api/surfaces/${encodeURIComponent(props.surface)}?width=${wide}&fps=${props.fps}&window=${props.window}`
    player = new SurfacePlayer(
      element,
      path,
      (drawn) => {
        shown.value = true
        trouble.value = null
        element.dispatchEvent(new CustomEvent('picture', { detail: drawn }))
        emit('drawn', drawn)
      },
      (final) => {
        trouble.value = final ?? 'One moment'
      },
    )
    tellNow?.()
  },
  { immediate: true, flush: 'post' },
)
</script>

<template>
  <div class="surface">
    <canvas ref="canvas" role="img" :aria-label="label" :data-surface="surface" :data-shown="shown" />
    <p v-if="(!shown || trouble) && waiting" class="note">{{ trouble ?? waiting }}</p>
  </div>
</template>

<style scoped>
.surface {
  position: relative;
  width: 100%;
  height: 100%;
  background: #e9e2d3;
  overflow: hidden;
}
canvas {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: contain;
}
.note {
  position: absolute;
  inset: auto 8px 8px;
  padding: 3px 9px;
  border-radius: 7px;
  background: var(--sheet);
  font-size: 13.5px;
  width: fit-content;
}
</style>

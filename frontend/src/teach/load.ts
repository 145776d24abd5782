import { computed, ref, watch, type Ref } from 'vue'

const SLOW_BELOW = 20 // frames/s: under it writing looks jerky
const SLOW_FOR_MS = 4000 // a passing dip needs no sentence

/** One sentence when the outgoing picture has been slow for a while, else null. */
export function useLoad(fps: Ref<number>, size: Ref<string | undefined>, now: () => number = Date.now) {
  const slowSince = ref<number | null>(null)
  const slow = ref(false)
  watch(fps, (frames) => {
    if (frames === 0 || frames >= SLOW_BELOW) slowSince.value = null
    else slowSince.value ??= now()
    slow.value = slowSince.value !== null && now() - slowSince.value >= SLOW_FOR_MS
  })
  return computed(() => {
    if (!slow.value) return null
    return size.value === '1080p'
      ? 'This computer is at its limit: 1280×720 asks less of it.'
      : 'This computer is at its limit: close other programs and tabs.'
  })
}

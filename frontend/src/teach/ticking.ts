import { computed, onScopeDispose, ref, type Ref } from 'vue'
import type { Schemas } from '@/api/client'
import { reads } from './reads'

const TICK_MS = 200
type Part = Pick<Schemas['ToolsView'], 'held' | 'timer' | 'recording'>

/** What counts on between two answers of the server: the timer, and how long the page has been held. told: each new answer. */
export function useTicking(view: Ref<Part | null | undefined>) {
  const at = ref(0)
  const now = ref(performance.now())
  const timer = window.setInterval(() => (now.value = performance.now()), TICK_MS)
  onScopeDispose(() => window.clearInterval(timer))
  const told = () => (at.value = now.value = performance.now())

  const sinceS = computed(() => (now.value - at.value) / 1000)
  const counting = computed(() => {
    const timer = view.value?.timer
    if (!timer) return null
    const more = timer.runs ? sinceS.value : 0
    return reads(timer.left_s === null ? timer.counted_s + more : (timer.left_s ?? 0) - more, timer.way)
  })
  const heldS = computed(() => (view.value?.held ? view.value.held.for_s + sinceS.value : null))
  const recordedS = computed(() => {
    const recording = view.value?.recording
    if (!recording) return 0
    return recording.length_s + (recording.state === 'recording' ? sinceS.value : 0)
  })
  return { told, counting, heldS, recordedS }
}

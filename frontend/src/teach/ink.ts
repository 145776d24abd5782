import { defineStore } from 'pinia'
import { computed, ref, shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import { handLine } from './handLine'
import { COLOURS, looksOf, type InkTool } from './inkLooks'

/** What the hand draws with, and the line on which its strokes go to the server. */
export const useInk = defineStore('ink', () => {
  const live = useLive()
  const sentences = useSentences()
  const on = ref(false)
  const tool = ref<InkTool>('pen')
  const colour = ref(COLOURS[0]!.colour)
  const width = ref(1)
  const view = shallowRef<Schemas['InkView'] | null>(null)
  let line: ReturnType<typeof handLine> | null = null

  const told = useFetched(
    () => (on.value ? live.signature('ink', 'teach', 'lesson') : null),
    () => live.state,
    () => answer(api.GET('/api/teach/ink')),
    (next) => (view.value = next),
  )
  async function act(work: Schemas['InkAsked']['do']) {
    const next = await sentences.attempt(() => answer(api.POST('/api/teach/ink', { body: { do: work } })))
    if (next) view.value = next
  }
  function toggle() {
    on.value = !on.value
    if (on.value) line ??= handLine('/api/teach/ink/hand', sentences.say)
    if (on.value) void told.again()
  }
  const send = (said: object) => line?.send(said)
  const looks = computed(() => looksOf(tool.value, colour.value, width.value))
  return { on, tool, colour, width, view, looks, act, toggle, send }
})

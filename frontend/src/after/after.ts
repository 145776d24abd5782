import { computed, ref, shallowRef, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { Commands } from '@/shared/commands'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'

export type After = Schemas['AfterView']
export type Held = Schemas['HeldLesson']
export type Sheet = Schemas['AfterSheet']
export type Recording = Schemas['RecordingView']

/** What is left of the lessons: looked for, changed, deleted. */
export function useAfter() {
  const live = useLive()
  const sentences = useSentences()
  const view = shallowRef<After | null>(null)
  const words = ref('')
  const chosen = ref<string | null>(null)
  const look = () => answer(api.GET('/api/after', { params: { query: { words: words.value } } }))
  const told = useFetched(
    () => live.signature('lesson', 'sheets', 'record', 'ink'),
    () => live.state,
    look,
    (next) => (view.value = next),
  )
  watch(words, () => void told.again())
  const commands = new Commands<After>(() => void told.again())
  const ask = (work: () => Promise<After>) => commands.press(() => sentences.attempt(work))
  const held = computed(
    () => view.value?.lessons.find((one) => one.lesson_id === chosen.value) ?? view.value?.lessons[0] ?? null,
  )
  return { view, words, chosen, held, ask }
}

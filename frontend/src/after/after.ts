import { computed, ref, shallowRef, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { Commands } from '@/shared/commands'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { reordered } from '@/shared/reordered'
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
    (next) => !commands.busy && (view.value = next),
  )
  watch(words, () => void told.again())
  const commands: Commands<After> = new Commands(
    () => {},
    () => void told.again(),
  )
  const ask = (work: () => Promise<After>) => commands.press(() => sentences.attempt(work))
  const held = computed(
    () => view.value?.lessons.find((one) => one.lesson_id === chosen.value) ?? view.value?.lessons[0] ?? null,
  )
  /** A sheet earlier or later. Shown at once: a press right after it moves it on from there. */
  function move(sheetId: string, by: 1 | -1) {
    const lesson = held.value
    const sheets = lesson && reordered(lesson.sheets, (one) => one.id === sheetId, by)
    if (!view.value || !sheets) return
    const lessons = view.value.lessons.map((one) => (one === lesson ? { ...one, sheets } : one))
    view.value = { ...view.value, lessons }
    told.outdate()
    const before = sheets[sheets.findIndex((one) => one.id === sheetId) + 1]?.id ?? ''
    const params = { path: { sheet_id: sheetId } }
    return ask(() =>
      answer(api.PUT('/api/after/sheets/{sheet_id}', { params, body: { turn: false, before } })),
    )
  }
  return { view, words, chosen, held, ask, move }
}

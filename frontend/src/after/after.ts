import { computed, ref, shallowRef, watch } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useChanging } from '@/shared/changing'
import { useLive } from '@/shared/live'
import { reordered } from '@/shared/reordered'

export type After = Schemas['AfterView']
export type Held = Schemas['HeldLesson']
export type Sheet = Schemas['AfterSheet']
export type Recording = Schemas['RecordingView']

/** What is left of the lessons: looked for, changed, deleted. */
export function useAfter() {
  const live = useLive()
  const view = shallowRef<After | null>(null)
  const words = ref('')
  const chosen = ref<string | null>(null)
  const kept = useChanging<After>({
    signature: () => live.signature('lesson', 'sheets', 'record', 'ink'),
    news: () => live.state,
    look: () => answer(api.GET('/api/after', { params: { query: { words: words.value } } })),
    take: (next) => (view.value = next),
    answered: () => {}, // of all lessons, not of those that were looked for
    looksAfter: true,
  })
  watch(words, () => void kept.again())
  const ask = kept.press
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
    const before = sheets[sheets.findIndex((one) => one.id === sheetId) + 1]?.id ?? ''
    const params = { path: { sheet_id: sheetId } }
    return ask(() =>
      answer(api.PUT('/api/after/sheets/{sheet_id}', { params, body: { turn: false, before } })),
    )
  }
  return { view, words, chosen, held, ask, move }
}

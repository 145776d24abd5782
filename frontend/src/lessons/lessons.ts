import { computed, ref, shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import type { Draft } from './LessonForm.vue'
import { at } from '@/shared/at'

export type Lesson = Schemas['Lesson']

/** The kept lessons, what takes place today, and what can be done with them. */
export function useLessons() {
  const live = useLive()
  const sentences = useSentences()
  const view = shallowRef<Schemas['LessonsView'] | null>(null)
  const deleted = ref<Lesson | null>(null)
  const looked = useFetched(
    () => live.signature('lesson', 'kit'),
    () => live.state,
    () => answer(api.GET('/api/lessons')),
    (next) => (view.value = next),
  )
  const byId = computed(() => new Map((view.value?.lessons ?? []).map((lesson) => [lesson.id, lesson])))
  const params = (lesson: Lesson) => ({ path: { lesson_id: lesson.id } })

  async function press<T>(work: () => Promise<T>): Promise<T | undefined> {
    const done = await sentences.attempt(work)
    await looked.again()
    return done
  }
  const open = (id: string) => press(() => answer(api.PUT('/api/lessons/open', { body: { lesson_id: id } })))
  const add = (body: Draft) => press(() => answer(api.POST('/api/lessons', { body })))
  const change = (lesson: Lesson, draft: Draft) =>
    press(() =>
      answer(
        api.PATCH('/api/lessons/{lesson_id}', {
          params: params(lesson),
          body: { ...draft, any_day: !draft.day },
        }),
      ),
    )
  const copy = (lesson: Lesson, class_name: string) =>
    press(() =>
      answer(api.POST('/api/lessons/{lesson_id}/copy', { params: params(lesson), body: { class_name } })),
    )
  const remove = (lesson: Lesson) =>
    press(async () => {
      await answer(api.DELETE('/api/lessons/{lesson_id}', { params: params(lesson) }))
      deleted.value = lesson
    })
  const bringBack = (lesson: Lesson) =>
    press(async () => {
      await answer(api.POST('/api/lessons/{lesson_id}/restore', { params: params(lesson) }))
      deleted.value = null
    })
  /** A timetable as its file is; what is wrong with it is said with its line. */
  const timetable = (file: File) =>
    press(async () => {
      const sent = await fetch(at('/api/lessons/calendar'), {
        method: 'POST',
        headers: { 'Content-Type': 'text/calendar' },
        body: file,
      })
      const told = await sent.json().catch(() => null)
      if (!sent.ok)
        throw new Error(told?.detail ?? 'This file could not be read. Choose a file that ends in .ics.')
      const { added, changed, left_out } = told as Schemas['TimetableView']
      const rest = left_out ? ` ${left_out} entries were no lessons.` : ''
      sentences.say(`Your timetable is in: ${added} lessons new, ${changed} brought up to date.${rest}`)
      return told
    })
  return { view, byId, deleted, open, add, change, copy, remove, bringBack, timetable }
}

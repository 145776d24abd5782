import { computed, nextTick, ref } from 'vue'
import type { Plate, Schemas } from '@/api/client'
import { api, answer } from '@/api/client'
import { useChanging } from '@/shared/changing'
import { focusOn } from '@/shared/keepFocus'
import { useLive } from '@/shared/live'
import { reordered } from '@/shared/reordered'
import { useSentences } from '@/shared/sentences'
import * as edit from './edit'
import type { Box } from './snap'

export type Place = Plate['places'][number]
export type Content = Place['content']
export type PlateView = Schemas['PlateView']
export type PlatesView = Schemas['PlatesView']

const MAX_BYTES = 1_000_000

/** openapi-fetch widens tuples on the way out. */
const post = (call: Promise<unknown>) => call as Promise<never>

/** The names of a file's plates; none where it is no such file, which the server then says better. */
function namesIn(text: string): string[] {
  try {
    const plates: unknown = JSON.parse(text).plates
    return Array.isArray(plates) ? plates.map((one) => String(one?.name)) : []
  } catch {
    return []
  }
}

/** The lesson's plates: shown at once, sent in order, kept when the hand lets go; what is refused does not stay. */
export function usePlates() {
  const live = useLive()
  const sentences = useSentences()
  const view = ref<PlatesView | null>(null)
  const chosenId = ref<string | null>(null)
  const placeAt = ref<number | null>(null)
  const asked = ref<{ body: string; doubled: string[] } | null>(null) // a file whose plates have names that are here

  const chosen = computed(
    () =>
      view.value?.plates.find((one) => one.plate.id === chosenId.value) ??
      view.value?.plates.find((one) => one.on) ??
      view.value?.plates[0] ??
      null,
  )
  const plate = computed(() => chosen.value?.plate ?? null)
  const place = computed(() => (placeAt.value === null ? null : (plate.value?.places[placeAt.value] ?? null)))

  const sizes = computed(() => [...live.feeds.values()].map((feed) => `${feed.width}x${feed.height}`).join())
  const kept = useChanging<PlatesView>({
    signature: () => {
      const signature = live.signature('lesson', 'plates', 'kit', 'chain:')
      return signature === null ? null : `${signature} ${sizes.value}`
    },
    news: () => live.state,
    look: async () => (await answer(api.GET('/api/plates'))) as PlatesView,
    take: (next) => (view.value = next),
  })
  const press = (call: () => Promise<unknown>) => kept.press(() => answer(post(call())))

  /** Shown at once; sent with the newest position first while a hand still moves it. */
  function change(next: Plate, settled = true) {
    if (!view.value) return
    const plates = view.value.plates.map((one) =>
      one.plate.id === next.id ? { ...one, plate: next, rects: edit.rects(one, next) } : one,
    )
    view.value = { ...view.value, plates }
    const body = { plate: next, settled }
    void kept.drag(next.id, settled, () =>
      answer(post(api.PUT('/api/plates/{plate_id}', { params: { path: { plate_id: next.id } }, body }))),
    )
  }
  const changed = (next: Plate | null, settled = true) => next && change(next, settled)

  const lay = (at: number, box: Box, settled: boolean) =>
    changed(chosen.value && edit.laid(chosen.value, at, box), settled)
  const changePlace = (at: number, more: Partial<Place>, settled = true) =>
    changed(plate.value && edit.withPlace(plate.value, at, more), settled)

  function addPlace(next: Place) {
    const base = plate.value
    if (!base) return
    change({ ...base, places: [...base.places, next] })
    placeAt.value = base.places.length
  }
  function removePlace(at: number) {
    changed(
      plate.value && { ...plate.value, places: plate.value.places.filter((_, number) => number !== at) },
    )
    placeAt.value = null
  }
  /** In front of the next one, or behind the one before. */
  function restack(at: number, by: 1 | -1) {
    const next = chosen.value && edit.restacked(chosen.value, at, by)
    if (!next) return
    placeAt.value = at + by
    change(next)
  }

  async function add(name: string, copyOf: string | null) {
    await press(() => api.POST('/api/plates', { body: { name, copy_of: copyOf } }))
    chosenId.value = view.value?.plates.at(-1)?.plate.id ?? null
    placeAt.value = null
    await nextTick()
    focusOn('[aria-label="Name of the plate"]')
  }
  const remove = (id: string) =>
    press(() => api.DELETE('/api/plates/{plate_id}', { params: { path: { plate_id: id } } }))
  const undo = () => press(() => api.POST('/api/plates/undo'))
  const redo = () => press(() => api.POST('/api/plates/redo'))
  const adorn = (on: boolean) => press(() => api.PUT('/api/plates/adorned', { body: { on } }))
  /** Shown at once: a press right after it moves it on from there. */
  function order(id: string, by: 1 | -1) {
    const plates = reordered(view.value?.plates ?? [], (one) => one.plate.id === id, by)
    if (!view.value || !plates) return
    view.value = { ...view.value, plates }
    const ids = plates.map((one) => one.plate.id)
    return press(() => api.PUT('/api/plates/order', { body: { ids } }))
  }
  /** Shown at once: a press right after it is judged by what was pressed, not by an older answer. */
  function putOn(id: string) {
    if (!view.value) return
    view.value = {
      ...view.value,
      plates: view.value.plates.map((one) => ({ ...one, on: one.plate.id === id })),
    }
    return press(async () => {
      await answer(api.PUT('/api/teach/plate', { body: { plate_id: id, by: 0 } }))
      return api.GET('/api/plates')
    })
  }
  async function importFile(file: File) {
    if (file.size > MAX_BYTES)
      return sentences.say('This file is too large to hold plates. Choose one that Cartouche has exported.')
    const body = await file.text()
    const known = new Set(view.value?.plates.map((one) => one.plate.name))
    const doubled = namesIn(body).filter((name) => known.has(name))
    if (doubled.length) asked.value = { body, doubled }
    else await bring(body, 'add')
  }
  async function bring(body: string, same: 'add' | 'replace') {
    asked.value = null
    const options = { body, params: { query: { same } }, bodySerializer: (text: unknown) => text as string, headers: { 'Content-Type': 'application/json' } } // prettier-ignore
    await press(() => api.POST('/api/plates/import', options as never))
  }
  function choose(id: string) {
    chosenId.value = id
    placeAt.value = null
  }

  return {
    view, chosen, plate, place, placeAt, choose, change, lay, changePlace, addPlace, removePlace, restack,
    add, remove, undo, redo, adorn, order, putOn, importFile, asked, bring,
  } // prettier-ignore
}

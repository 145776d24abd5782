import { computed, ref, watch } from 'vue'
import { api, answer, type Plate, type Schemas } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import type { Box } from './snap'

export type Place = Plate['places'][number]
export type Content = Place['content']
export type PlateView = Schemas['PlateView']
export type PlatesView = Schemas['PlatesView']
type Send = () => Promise<PlatesView>

const MAX_BYTES = 1_000_000
const rounded = (value: number) => Math.round(value * 1e5) / 1e5

/** The lesson's plates: shown at once, sent newest-first, one request at a time, kept when the hand lets go. */
export function usePlates() {
  const live = useLive()
  const sentences = useSentences()
  const view = ref<PlatesView | null>(null)
  const chosenId = ref<string | null>(null)
  const placeAt = ref<number | null>(null)
  let waiting: Send | null = null
  let busy = false
  let turn = 0

  const chosen = computed(
    () =>
      view.value?.plates.find((one) => one.plate.id === chosenId.value) ??
      view.value?.plates.find((one) => one.on) ??
      view.value?.plates[0] ??
      null,
  )
  const plate = computed(() => chosen.value?.plate ?? null)
  const place = computed(() => (placeAt.value === null ? null : (plate.value?.places[placeAt.value] ?? null)))

  async function load() {
    if (busy) return
    const mine = turn
    const next = await answer(api.GET('/api/plates')).catch(() => null)
    if (!busy && mine === turn && next) view.value = next as PlatesView
  }
  const sizes = computed(() => [...live.feeds.values()].map((feed) => `${feed.width}x${feed.height}`).join())
  watch([() => live.state?.version, sizes], load, { immediate: true })

  async function send(work: Send) {
    waiting = work
    turn++
    if (busy) return
    busy = true
    while (waiting) {
      const next: Send = waiting
      waiting = null
      const done = await sentences.attempt(next)
      if (done && !waiting) view.value = done
    }
    busy = false
  }
  const post = (call: Promise<unknown>) => call as Promise<never>

  function change(next: Plate, settled = true) {
    if (!view.value) return
    view.value = {
      ...view.value,
      plates: view.value.plates.map((one) => (one.plate.id === next.id ? { ...one, plate: next } : one)),
    }
    const path = { plate_id: next.id }
    void send(() =>
      answer(post(api.PUT('/api/plates/{plate_id}', { params: { path }, body: { plate: next, settled } }))),
    )
  }

  /** The plate as it is laid now, as if by hand: what a hand moves stays where it is put. */
  function byHand(): Plate | null {
    const one = chosen.value
    if (!one) return null
    if (!one.plate.layout) return one.plate
    const places = one.plate.places.map((place, at) => ({ ...place, rect: one.laid[at] ?? place.rect }))
    return { ...one.plate, places, layout: null }
  }

  function lay(at: number, box: Box, settled: boolean) {
    const base = byHand()
    if (!base || !chosen.value) return
    const rect = {
      x: rounded(box.x),
      y: rounded(box.y),
      width: rounded(box.width),
      height: rounded(box.height),
    }
    const places = base.places.map((place, number) => (number === at ? { ...place, rect } : place))
    chosen.value.laid = places.map((place) => place.rect)
    change({ ...base, places }, settled)
  }

  function changePlace(at: number, more: Partial<Place>, settled = true) {
    if (!plate.value) return
    const places = plate.value.places.map((one, number) => (number === at ? { ...one, ...more } : one))
    change({ ...plate.value, places }, settled)
  }

  function addPlace(next: Place) {
    const base = plate.value
    if (!base) return
    change({ ...base, places: [...base.places, next] })
    placeAt.value = base.places.length
  }

  function removePlace(at: number) {
    if (!plate.value) return
    change({ ...plate.value, places: plate.value.places.filter((_, number) => number !== at) })
    placeAt.value = null
  }

  /** In front of the next one, or behind the one before. */
  function restack(at: number, by: 1 | -1) {
    const base = byHand()
    const to = at + by
    if (!base || to < 0 || to >= base.places.length) return
    const places = [...base.places]
    places.splice(to, 0, ...places.splice(at, 1))
    placeAt.value = to
    change({ ...base, places })
  }

  async function add(name: string, copyOf: string | null) {
    await send(() => answer(post(api.POST('/api/plates', { body: { name, copy_of: copyOf } }))))
    chosenId.value = view.value?.plates.at(-1)?.plate.id ?? null
    placeAt.value = null
  }
  const remove = (id: string) =>
    send(() => answer(post(api.DELETE('/api/plates/{plate_id}', { params: { path: { plate_id: id } } }))))
  const undo = () => send(() => answer(post(api.POST('/api/plates/undo'))))
  const redo = () => send(() => answer(post(api.POST('/api/plates/redo'))))
  const adorn = (on: boolean) => send(() => answer(post(api.PUT('/api/plates/adorned', { body: { on } }))))
  function order(id: string, by: 1 | -1) {
    const ids = (view.value?.plates ?? []).map((one) => one.plate.id)
    const at = ids.indexOf(id)
    if (at + by < 0 || at + by >= ids.length) return
    ids.splice(at + by, 0, ...ids.splice(at, 1))
    return send(() => answer(post(api.PUT('/api/plates/order', { body: { ids } }))))
  }
  async function putOn(id: string) {
    await sentences.attempt(() => answer(api.PUT('/api/teach/plate', { body: { plate_id: id } })))
  }
  async function importFile(file: File) {
    if (file.size > MAX_BYTES)
      return sentences.say('This file is too large to hold plates. Choose one that Cartouche has exported.')
    const body = await file.text()
    await send(() =>
      answer(
        post(
          api.POST('/api/plates/import', {
            body: body as never,
            bodySerializer: (text: unknown) => text as string,
            headers: { 'Content-Type': 'application/json' },
          } as never),
        ),
      ),
    )
  }
  function choose(id: string) {
    chosenId.value = id
    placeAt.value = null
  }

  return {
    view, chosen, plate, place, placeAt, choose, change, lay, changePlace, addPlace, removePlace, restack,
    add, remove, undo, redo, adorn, order, putOn, importFile,
  } // prettier-ignore
}

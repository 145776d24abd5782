import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, answer, type Chain, type SquareUpView } from '@/api/client'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'

export type Framing = 'whole' | 'upper' | 'lower' | 'band' | 'next' | 'previous'

type Send = () => Promise<SquareUpView>

type Answered = Parameters<typeof answer<unknown>>[0]

/** openapi-fetch widens tuples on the way out; the document says four corners. */
const seen = (call: Answered) => answer(call) as Promise<SquareUpView>

/** How sure the finder was, and what the card told, stays said for as long as its corners stand. */
function stillSure(next: SquareUpView, before: SquareUpView | null): SquareUpView {
  const same = JSON.stringify(next.chain.square) === JSON.stringify(before?.chain.square)
  if (!same || !before) return next
  return { ...next, confidence: next.confidence ?? before.confidence, card: next.card ?? before.card }
}

/** The chain of one device: shown at once, sent newest-first, one request at a time, settled when the hand lets go. */
export function useChain(deviceId: Ref<string | undefined>) {
  const live = useLive()
  const sentences = useSentences()
  const view = ref<SquareUpView | null>(null)
  const chain = computed(() => view.value?.chain ?? null)
  let waiting: Send | null = null
  let busy = false
  let turn = 0 // of the newest change: what was asked for before it tells of an older chain
  let asked = 0 // of the newest look, and of the newest that was answered: an older answer that comes late tells nothing
  let told = 0
  let closed = false
  onScopeDispose(() => (closed = true))

  const path = () => ({ params: { path: { device_id: deviceId.value ?? '' } } })

  async function load() {
    const id = deviceId.value
    if (!id || busy) return
    const mine = turn
    const look = ++asked
    const next = await seen(api.GET('/api/square-up/{device_id}', path())).catch(() => null)
    if (busy || mine !== turn || !next || id !== deviceId.value || look < told) return
    told = look
    view.value = stillSure(next, view.value)
  }
  watch(deviceId, () => (view.value = null))
  watch([deviceId, () => live.state?.version, () => live.feeds.get(deviceId.value ?? '')?.width], load, {
    immediate: true,
  })

  async function send(work: Send) {
    waiting = work
    turn++
    if (busy) return
    busy = true
    while (waiting && !closed) {
      const next: Send = waiting
      waiting = null
      const id = deviceId.value
      const done = await sentences.attempt(next)
      if (id === deviceId.value && done && !waiting) view.value = stillSure(done, view.value)
    }
    busy = false
    void load()
  }

  function change(next: Chain, settled = true) {
    if (!view.value) return
    view.value = { ...view.value, chain: next }
    void send(() =>
      seen(api.PUT('/api/square-up/{device_id}/chain', { ...path(), body: { chain: next, settled } })),
    )
  }
  function part<Name extends keyof Chain>(name: Name, values: Partial<Chain[Name]>, settled = true) {
    if (chain.value) change({ ...chain.value, [name]: { ...chain.value[name], ...values } }, settled)
  }
  const keystone = (vertical: number, horizontal: number, settled: boolean) =>
    send(() =>
      seen(
        api.PUT('/api/square-up/{device_id}/keystone', {
          ...path(),
          body: { vertical, horizontal, settled },
        }),
      ),
    )
  const find = () => send(() => seen(api.POST('/api/square-up/{device_id}/find', path())))
  const post = (path_: '/card' | '/unbend' | '/last-time') =>
    send(() => seen(api.POST(`/api/square-up/{device_id}${path_}`, path())))
  const framing = (name: Framing) =>
    send(() => seen(api.PUT('/api/square-up/{device_id}/frame', { ...path(), body: { framing: name } })))
  const advice = (way: 'closer' | 'band' | 'sharp') =>
    send(() => seen(api.POST('/api/square-up/{device_id}/advice', { ...path(), body: { way } })))
  const board = (fedBy: 'call' | 'window') =>
    send(() => seen(api.PUT('/api/square-up/{device_id}/board', { ...path(), body: { fed_by: fedBy } })))
  const undo = () => send(() => seen(api.POST('/api/square-up/{device_id}/undo', path())))
  const redo = () => send(() => seen(api.POST('/api/square-up/{device_id}/redo', path())))
  const paper = (name: string | null, lying: boolean) =>
    send(() =>
      seen(
        api.PUT('/api/square-up/{device_id}/paper', {
          ...path(),
          body: { paper: name as 'A4' | null, lying },
        }),
      ),
    )

  return { view, chain, change, part, keystone, find, undo, redo, paper, post, framing, advice, board }
}

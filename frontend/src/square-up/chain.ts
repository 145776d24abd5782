import { computed, onScopeDispose, ref, watch, type Ref } from 'vue'
import { api, answer, type Chain, type SquareUpView } from '@/api/client'
import { useChanging } from '@/shared/changing'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'

export type Framing = 'whole' | 'upper' | 'lower' | 'band' | 'next' | 'previous'

type Answered = Parameters<typeof answer<unknown>>[0]

/** openapi-fetch widens tuples on the way out; the document says four corners. */
const viewOf = (call: Answered) => answer(call) as Promise<SquareUpView>

/** What the card told holds for as long as its corners stand. */
function withCard(next: SquareUpView, before: SquareUpView | null): SquareUpView {
  const same = JSON.stringify(next.chain.square) === JSON.stringify(before?.chain.square)
  if (!same || !before) return next
  return { ...next, card: next.card ?? before.card }
}

/** The chain of one device: shown at once, sent in order, kept when the hand lets go; what is refused does not stay. */
export function useChain(deviceId: Ref<string | undefined>) {
  const live = useLive()
  const sentences = useSentences()
  const view = ref<SquareUpView | null>(null)
  const chain = computed(() => view.value?.chain ?? null)
  const path = (id = deviceId.value ?? '') => ({ params: { path: { device_id: id } } })
  const take = (next: SquareUpView) => {
    if (next.device.id === deviceId.value) view.value = withCard(next, view.value)
  }

  const kept = useChanging<SquareUpView>({
    signature: () => {
      const id = deviceId.value
      const signature = id ? live.signature('kit', 'lesson', 'plates', `chain:${id}`, `page:${id}`) : null
      return signature === null ? null : `${id}:${signature}`
    },
    news: () => live.state,
    look: () => viewOf(api.GET('/api/square-up/{device_id}', path())),
    take,
    looksAfter: true, // what is measured of the page comes later than the answer
  })
  onScopeDispose(kept.close)
  watch(deviceId, () => (view.value = null))

  /** Each command is for the device that it was pressed for, however late its turn comes. */
  function press(call: (id: string) => Answered, done: (found: SquareUpView) => void = () => {}) {
    const id = deviceId.value ?? ''
    return kept.press(async () => {
      const found = await viewOf(call(id))
      done(found)
      return found
    })
  }

  function part<Name extends keyof Chain>(link: Name, values: Partial<Chain[Name]>, settled = true) {
    if (!view.value || !chain.value) return
    const id = deviceId.value ?? ''
    const next = { ...chain.value, [link]: { ...chain.value[link], ...values } }
    view.value = { ...view.value, chain: next }
    const body = { link, values: values as Record<string, unknown>, settled }
    void kept.drag(link, settled, () =>
      viewOf(api.PATCH('/api/square-up/{device_id}/chain', { ...path(id), body })),
    )
  }

  function keystone(vertical: number, horizontal: number, settled: boolean) {
    const id = deviceId.value ?? ''
    const body = { vertical, horizontal, settled }
    return kept.drag('keystone', settled, () =>
      viewOf(api.PUT('/api/square-up/{device_id}/keystone', { ...path(id), body })),
    )
  }

  const find = () => press((id) => api.POST('/api/square-up/{device_id}/find', path(id)), sayWay)
  function sayWay(found: SquareUpView) {
    if (found.way_says) sentences.say(`${found.way_says} Z takes it back.`)
    else if (found.way_told === false)
      sentences.say('Its print cannot tell which way round it stands: press the small picture that is right.')
  }
  const wayUp = (quarters: number, flip: boolean) =>
    press((id) => api.PUT('/api/square-up/{device_id}/way-up', { ...path(id), body: { quarters, flip } }))
  const undo = () => press((id) => api.POST('/api/square-up/{device_id}/undo', path(id)))
  const redo = () => press((id) => api.POST('/api/square-up/{device_id}/redo', path(id)))
  const post = (way: '/card' | '/unbend' | '/last-time') =>
    press((id) => api.POST(`/api/square-up/{device_id}${way}`, path(id)))
  const framing = (name: Framing) =>
    press((id) => api.PUT('/api/square-up/{device_id}/frame', { ...path(id), body: { framing: name } }))
  const advice = (way: 'closer' | 'band' | 'sharp') =>
    press((id) => api.POST('/api/square-up/{device_id}/advice', { ...path(id), body: { way } }))
  const board = (fedBy: 'nothing' | 'call' | 'window') =>
    press((id) => api.PUT('/api/square-up/{device_id}/board', { ...path(id), body: { fed_by: fedBy } }))
  const paper = (name: string | null, lying: boolean) => {
    const body = { paper: name as 'A4' | null, lying }
    return press((id) => api.PUT('/api/square-up/{device_id}/paper', { ...path(id), body }))
  }

  return { view, chain, part, keystone, find, wayUp, undo, redo, paper, post, framing, advice, board }
}

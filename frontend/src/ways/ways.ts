import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useChanging } from '@/shared/changing'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'

export type Way = Schemas['WayView']
export type Viewers = Schemas['Viewers']
export type CallKind = Schemas['CallKind']
type WaysView = Schemas['WaysView']

const EVERY_MS = 2000 // delays and rates move on without a version of their own

/** The ways into the call with what each gives; looked at only while the screen is open. */
export const useWays = defineStore('ways', () => {
  const live = useLive()
  const sentences = useSentences()
  const view = shallowRef<WaysView | null>(null)
  const kept = useChanging<WaysView>({
    signature: () => live.signature('ways', 'call', 'plates', 'lesson', 'kit', 'chain:', 'page:'),
    news: () => live.state,
    look: () => answer(api.GET('/api/ways')),
    take: (next) => (view.value = next),
  })
  /** Shown at once: what is changed right after it starts from there. */
  function change(part: Partial<WaysView>, call: () => Promise<WaysView>) {
    if (view.value) view.value = { ...view.value, ...part }
    return kept.press(call)
  }
  async function press(call: () => Promise<unknown>): Promise<boolean> {
    const done = await sentences.attempt(async () => {
      await call()
      return true
    })
    await kept.again()
    return done ?? false
  }

  return {
    view,
    again: kept.again,
    EVERY_MS,
    viewers: (viewers: Viewers[]) =>
      change({ viewers }, () => answer(api.PUT('/api/ways/viewers', { body: { viewers } }))),
    call: (call: CallKind) => change({ call }, () => answer(api.PUT('/api/ways/call', { body: call }))),
    paired: (code: string) => press(() => answer(api.POST('/api/ways/pairing', { body: { code } }))),
    refused: () => press(() => answer(api.DELETE('/api/ways/pairing'))),
    unpair: () => press(() => answer(api.DELETE('/api/ways/extension'))),
    invite: () => press(() => answer(api.POST('/api/ways/invitation', { body: {} }))),
    withdraw: () => press(() => answer(api.DELETE('/api/ways/invitation'))),
    forget: (id: string) =>
      press(() =>
        answer(api.DELETE('/api/ways/watchers/{watcher_id}', { params: { path: { watcher_id: id } } })),
      ),
    networkCamera: (on: boolean) =>
      press(() => answer(api.PUT('/api/ways/network-camera', { body: { on } }))),
    device: (path: string | null) => press(() => answer(api.PUT('/api/ways/device', { body: { path } }))),
    server: (body: Schemas['ServerAddress']) => press(() => answer(api.PUT('/api/ways/server', { body }))),
    stopServer: () => press(() => answer(api.DELETE('/api/ways/server'))),
  }
})

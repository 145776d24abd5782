import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useChanging } from '@/shared/changing'
import { useLive } from '@/shared/live'
import { useSentences } from '@/shared/sentences'
import type { ActionName } from './actions'
import { useTicking } from './ticking'

export type Tools = Schemas['ToolsView']

/** The lesson's tools: what they are set to, and every action by its one name. */
export const useTools = defineStore('tools', () => {
  const live = useLive()
  const sentences = useSentences()
  const view = shallowRef<Tools | null>(null)
  const { told: heard, counting, heldS, recordedS } = useTicking(view)

  function take(next: Tools) {
    view.value = next
    heard()
  }
  const kept = useChanging<Tools>({
    signature: () => live.signature('lesson', 'kit', 'plates', 'teach', 'sheets', 'record', 'chain:'),
    news: () => live.state,
    look: () => answer(api.GET('/api/teach/tools')),
    take,
    answered: (next) => {
      take(next)
      if (next.said) sentences.say(next.said)
    },
  })
  const ask = kept.press
  /** Shown at once: what is pressed right after it starts from there. */
  function change(part: Partial<Tools>, work: () => Promise<Tools>) {
    if (view.value) view.value = { ...view.value, ...part }
    return ask(work)
  }
  const act = (action: ActionName, number?: number) =>
    ask(() => answer(api.POST('/api/teach/actions', { body: { action, number: number ?? null, press: '' } })))
  const look = (body: Schemas['LookAsked']) => ask(() => answer(api.PUT('/api/teach/look', { body })))

  const keyOf = (name: ActionName) => view.value?.actions.find((one) => one.name === name)?.shown ?? ''
  return { view, ask, change, act, look, counting, heldS, recordedS, keyOf, refresh: kept.again }
})

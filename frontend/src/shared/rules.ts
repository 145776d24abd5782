import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useFetched } from './fetched'
import { useLive } from './live'

/** Limits and lists that stand in the server's core; null until it has told them. */
export const useRules = defineStore('rules', () => {
  const rules = shallowRef<Schemas['RulesView'] | null>(null)
  const live = useLive()
  useFetched(
    () => (live.connected ? 'rules' : null),
    () => live.state,
    () => answer(api.GET('/api/rules')),
    (next) => (rules.value = next),
  )
  return { rules }
})

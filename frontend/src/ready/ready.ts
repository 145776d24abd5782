import { defineStore } from 'pinia'
import { shallowRef } from 'vue'
import { api, answer, type Schemas } from '@/api/client'
import { useFetched } from '@/shared/fetched'
import { useLive } from '@/shared/live'
import { PRESSES as OF_A_PAGE } from '@/square-up/presses'

export type Check = Schemas['CheckView']
export type Press = Exclude<Check['press'], ''>

export const EVERY_MS = 1000 // what is measured for the check moves on without a version of its own

/** The check before the lesson; asked for only while somebody looks. */
export const useReady = defineStore('ready', () => {
  const live = useLive()
  const view = shallowRef<Schemas['ReadyView'] | null>(null)
  const look = useFetched(
    () => live.signature('lesson', 'kit', 'plates', 'chain:', 'call', 'ways', 'sound'),
    () => live.state,
    () => answer(api.GET('/api/ready')),
    (next) => (view.value = next),
  )
  return { view, again: look.again }
})

export const WORDS = {
  wrong: 'Mend this',
  look: 'Look at this',
  unknown: 'Not measured',
  holds: 'Good',
} as const

export const PRESSES: Record<Press, string> = {
  ...OF_A_PAGE,
  kit: 'Open Kit',
  first: 'Choose a camera',
  restart: 'Bring it back',
  swap: 'Exchange them',
  lens: 'Use the rear lens',
  plates: 'Open Plates',
  'open-microphone': 'Open it',
  sound: 'Open Sound',
  'end-finding': 'End it',
  'way-in': 'Choose a way in',
  'front-window': 'Bring it to the front',
  'open-lesson': 'Choose a lesson',
}

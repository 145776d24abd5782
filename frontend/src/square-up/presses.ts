import { useRouter } from 'vue-router'
import type { Schemas } from '@/api/client'
import { useOutgoing } from '@/shared/outgoing'
import { useSentences } from '@/shared/sentences'
import type { useChain } from './chain'

export type Press = Exclude<Schemas['FirstLookView']['press'], ''>

export const PRESSES: Record<Press, string> = {
  square: 'Square it up',
  mirror: 'Flip it',
  turn: 'Turn it',
  refocus: 'Refocus',
  closer: 'Zoom in',
  band: 'Show a band',
  sharp: 'Send more detail',
  window: 'Open the window',
  beforehand: 'Add a file',
}

/** What each press does, wherever it stands. */
export function usePresses(chain: ReturnType<typeof useChain>, refocus: () => void) {
  const router = useRouter()
  const outgoing = useOutgoing()
  const sentences = useSentences()
  return (press: Press) => {
    if (press === 'square') void chain.find()
    else if (press === 'mirror') void chain.wayUp(0, true)
    else if (press === 'turn') void chain.wayUp(chain.view.value?.agreement?.quarters ?? 0, false)
    else if (press === 'refocus') refocus()
    else if (press === 'window') {
      outgoing.open()
      sentences.say('Share this window in your call.')
    } else if (press === 'beforehand') void router.push('/kit')
    else void chain.advice(press)
  }
}

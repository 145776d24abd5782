import { onScopeDispose } from 'vue'
import type { ActionName } from './actions'
import { useTools } from './tools'

const KEYS: [MediaSessionAction, ActionName][] = [
  ['nexttrack', 'forward'],
  ['previoustrack', 'back'],
  ['play', 'hold'],
  ['pause', 'hold'],
]

/** A headset's or keyboard's media keys, where the browser hands them on: it does so while this tab sounds. */
export function useMediaKeys() {
  const session = navigator.mediaSession as MediaSession | undefined
  if (!session) return
  const tools = useTools()
  for (const [key, action] of KEYS) session.setActionHandler(key, () => void tools.act(action))
  onScopeDispose(() => KEYS.forEach(([key]) => session.setActionHandler(key, null)))
}

import { useEventListener } from '@vueuse/core'
import { onScopeDispose, shallowReactive } from 'vue'
import { KEYMAP, type Action, type Key, type Keyed } from './keymap'

export const TYPING =
  'input:not([type=checkbox]):not([type=radio]), textarea, [contenteditable], .ant-modal, .ant-select'

/** Whose keys work just now, in the order they came. */
export const heard = shallowReactive<Keyed[]>([])

/**
 * Single keys for actions, quiet while somebody types or a dialog is open. On a list a shortcut works as everywhere and never
 * picks from it; the list's other keys stay its own.
 */
export function useKeys<Screen extends Keyed>(
  screen: Screen,
  actions: Record<Action<Screen>, (event: KeyboardEvent) => void>,
) {
  const byKey = new Map(
    KEYMAP[screen].flatMap((entry: Key) =>
      entry.keys.map((key) => [key, actions[entry.do as Action<Screen>]] as const),
    ),
  )
  heard.push(screen)
  onScopeDispose(() => heard.splice(heard.lastIndexOf(screen), 1))
  useEventListener(document, 'keydown', (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
    const target = event.target as HTMLElement | null
    if (target?.closest?.(TYPING) || document.querySelector('.ant-modal-wrap:not([style*="display: none"])'))
      return
    if (target?.closest?.('select') && event.key.length > 1) return // arrows, Enter, Escape are the list's
    const action = byKey.get(event.key.length === 1 ? event.key.toLowerCase() : event.key)
    if (action) {
      event.preventDefault()
      action(event)
    }
  })
}

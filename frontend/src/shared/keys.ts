import { useEventListener } from '@vueuse/core'

const TYPING =
  'input:not([type=checkbox]):not([type=radio]), textarea, [contenteditable], .ant-modal, .ant-select'

/**
 * Single keys for actions, quiet while somebody types or a dialog is open. On a list a shortcut works as everywhere and never
 * picks from it; the list's other keys stay its own.
 */
export function useKeys(keys: Record<string, (event: KeyboardEvent) => void>) {
  useEventListener(document, 'keydown', (event) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.repeat) return
    const target = event.target as HTMLElement | null
    if (target?.closest?.(TYPING) || document.querySelector('.ant-modal-wrap:not([style*="display: none"])'))
      return
    if (target?.closest?.('select') && event.key.length > 1) return // arrows, Enter, Escape are the list's
    const action = keys[event.key.length === 1 ? event.key.toLowerCase() : event.key]
    if (action) {
      event.preventDefault()
      action(event)
    }
  })
}

import { useEventListener } from '@vueuse/core'
import { TYPING } from '@/shared/keys'
import { actionOf } from './actions'
import { useTools } from './tools'

/** Every action of the lesson by its key, wherever this window is looked at; quiet while somebody types or a dialog is open. */
export function useActionKeys(on: () => Window | null | undefined = () => window) {
  const tools = useTools()
  useEventListener(on, 'keydown', (event: KeyboardEvent) => {
    if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return
    const target = event.target as HTMLElement | null
    const there = target?.ownerDocument ?? document
    if (target?.closest?.(TYPING) || there.querySelector('.ant-modal-wrap:not([style*="display: none"])'))
      return
    if (target?.closest?.('select') && event.key.length > 1) return // arrows are the list's
    if (!tools.view) {
      const { key } = event // a press is not lost to a table that is still on its way
      void tools.refresh().then(() => {
        const late = actionOf(tools.view, key)
        if (late) void tools.act(late.name, late.number)
      })
      return
    }
    const action = actionOf(tools.view, event.key)
    if (!action) return
    event.preventDefault()
    if (event.repeat && !REPEATS.has(action.name)) return
    void tools.act(action.name, action.number)
  })
}
const REPEATS = new Set<string>(['closer', 'wider', 'left', 'right', 'up', 'down'])

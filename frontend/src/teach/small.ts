import { createApp, type App } from 'vue'
import { getActivePinia } from 'pinia'
import { useSentences } from '@/shared/sentences'
import SmallWindow from './SmallWindow.vue'
import { at } from '@/shared/at'

interface PictureInPicture {
  requestWindow(wish: { width: number; height: number }): Promise<Window>
}
const WIDE = 400
const HIGH = 560
let open: Window | null = null
let app: App | null = null

/** The small window that stays on top of the call; where the browser has none, a small window of its own. */
export async function openSmallWindow() {
  if (open && !open.closed) return open.focus()
  const onTop = (window as { documentPictureInPicture?: PictureInPicture }).documentPictureInPicture
  const there = onTop ? await onTop.requestWindow({ width: WIDE, height: HIGH }).catch(() => null) : null
  if (there) return fill(there)
  open = window.open(at('/small'), 'cartouche-small', `popup,width=${WIDE},height=${HIGH}`)
  if (!open)
    useSentences().say('The browser blocked the small window. Allow windows of this page, then press again.')
}

function fill(there: Window) {
  open = there
  for (const style of document.querySelectorAll('style, link[rel=stylesheet]'))
    there.document.head.append(style.cloneNode(true))
  there.document.title = 'Cartouche'
  const root = there.document.createElement('div')
  there.document.body.append(root)
  app = createApp(SmallWindow).use(getActivePinia()!)
  app.mount(root)
  there.addEventListener('pagehide', () => {
    app?.unmount()
    app = null
    open = null
  })
}

import { at } from '@/shared/at'
/** The outgoing window on the board's screen (Window Management): placed there, then full screen by itself where it may. */
interface ScreenDetailed {
  availLeft: number
  availTop: number
  availWidth: number
  availHeight: number
  isPrimary: boolean
}
interface Screens {
  screens: ScreenDetailed[]
  currentScreen: ScreenDetailed
}
declare global {
  interface Window {
    getScreenDetails?: () => Promise<Screens>
  }
}

/** What stands in the way, in a sentence; null when it is shown. */
export async function showOnBoard(): Promise<string | null> {
  if (!window.getScreenDetails)
    return 'This browser cannot choose a screen. Open the outgoing window, drag it onto the board, then press F11 there.'
  let screens
  try {
    screens = await window.getScreenDetails()
  } catch {
    return 'The browser was not allowed to see the screens. Click the icon by the address and allow it, then press again.'
  }
  const board = screens.screens.find((one) => one !== screens.currentScreen)
  if (!board)
    return 'This computer has one screen only. Plug the board in and let the computer extend its screen, not copy it.'
  const place = `left=${board.availLeft},top=${board.availTop},width=${board.availWidth},height=${board.availHeight}`
  const opened = window.open(at('/outgoing?board'), 'cartouche-board', `popup,fullscreen,${place}`)
  return opened
    ? null
    : 'The browser has blocked the window. Allow pop-ups by the icon in the address bar, then press again.'
}

import { useEventListener, useResizeObserver } from '@vueuse/core'
import type { Ref } from 'vue'

/** Tells whether this window can be seen, sleeps, and how large its picture is drawn: whoever it is shared with gets no more.
    What is returned tells it anew. */
export function tellOfWindow(picture: Ref<HTMLElement | undefined>, tell: (text: string) => void) {
  let frozen = false
  const look = () => {
    const state = frozen ? 'frozen' : document.visibilityState === 'visible' ? 'visible' : 'hidden'
    if (!picture.value) return
    const [width, height] = drawnSize(picture.value)
    tell(`window ${state} ${width} ${height}`)
  }
  useEventListener(document, 'visibilitychange', look)
  useEventListener(document, 'freeze', () => {
    frozen = true
    look()
  })
  useEventListener(document, 'resume', () => {
    frozen = false
    look()
  })
  useResizeObserver(picture, look)
  return look
}

/** Of a 16:9 picture that is fitted into its room, in device pixels. */
export function drawnSize(picture: HTMLElement): [number, number] {
  const wide = Math.min(picture.clientWidth, (picture.clientHeight * 16) / 9) * window.devicePixelRatio
  return [Math.round(wide), Math.round((wide * 9) / 16)]
}

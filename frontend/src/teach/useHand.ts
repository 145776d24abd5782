import { useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'

export interface Hand {
  on: boolean
  looks: object
  send: (said: object) => void
}
/** A pointer over the outgoing picture draws while ink is on: mouse, finger or pen, with its pressure. */
export function useHand(element: Ref<HTMLElement | undefined>, ink: Hand) {
  let drawing: number | null = null

  const spot = (event: PointerEvent) => {
    const box = element.value!.getBoundingClientRect()
    const pressure = event.pointerType === 'pen' ? event.pressure : 1
    return [
      (event.clientX - box.left) / box.width,
      (event.clientY - box.top) / box.height,
      Math.min(1, Math.max(0, pressure)),
      event.timeStamp / 1000,
    ] as const
  }
  const within = (value: number) => Math.min(1.5, Math.max(-0.5, value))
  useEventListener(
    element,
    'pointerdown',
    (event: PointerEvent) => {
      if (!ink.on || event.button !== 0 || drawing !== null) return
      event.stopImmediatePropagation()
      event.preventDefault()
      drawing = event.pointerId
      element.value!.setPointerCapture(event.pointerId)
      const [x, y, p, t] = spot(event)
      ink.send({ do: 'begin', ...ink.looks, x: within(x), y: within(y), p, t })
    },
    { capture: true },
  )
  useEventListener(
    element,
    'pointermove',
    (event: PointerEvent) => {
      if (drawing !== event.pointerId) return
      event.stopImmediatePropagation()
      const all = event.getCoalescedEvents?.() ?? []
      const points = (all.length ? all : [event]).map((one) => {
        const [x, y, p, t] = spot(one)
        return [within(x), within(y), p, t]
      })
      ink.send({ do: 'move', points })
    },
    { capture: true },
  )
  const end = (event: PointerEvent) => {
    if (drawing !== event.pointerId) return
    drawing = null
    ink.send({ do: 'end' })
  }
  useEventListener(element, 'pointerup', end)
  useEventListener(element, 'pointercancel', end)
}

import { useEventListener } from '@vueuse/core'
import type { Ref } from 'vue'
import { useTools } from './tools'

const WHEEL_DOUBLES = 400 // px of wheel for twice as close
const SETTLES_MS = 250

/** A closer look by wheel, by two fingers, and moved by a drag, over the outgoing picture. */
export function useLook(element: Ref<HTMLElement | undefined>) {
  const tools = useTools()
  const fingers = new Map<number, { x: number; y: number }>()
  let waits = { by: 1, right: 0, down: 0 }
  let moving = false

  /** What the hand does while one movement is on its way is sent together with the next; where it rests is kept. */
  async function move(by: number, right = 0, down = 0) {
    waits = { by: waits.by * by, right: waits.right + right, down: waits.down + down }
    if (moving) return
    moving = true
    while (waits.by !== 1 || waits.right || waits.down) {
      const sent = waits
      waits = { by: 1, right: 0, down: 0 }
      await tools.look({ ...sent, x: null, y: null, settled: false })
    }
    moving = false
    window.clearTimeout(settle)
    settle = window.setTimeout(
      () => void tools.look({ by: 1, x: null, y: null, right: 0, down: 0, settled: true }),
      SETTLES_MS,
    )
  }
  let settle = 0
  const apart = () => {
    const [a, b] = [...fingers.values()]
    return a && b ? Math.hypot(a.x - b.x, a.y - b.y) : 0
  }
  useEventListener(
    element,
    'wheel',
    (event: WheelEvent) => {
      event.preventDefault()
      void move(Math.min(2, Math.max(0.5, 2 ** (-event.deltaY / WHEEL_DOUBLES))))
    },
    { passive: false },
  )
  useEventListener(element, 'pointerdown', (event: PointerEvent) => {
    if (event.button !== 0) return
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
    element.value?.setPointerCapture(event.pointerId)
  })
  useEventListener(element, 'pointermove', (event: PointerEvent) => {
    const before = fingers.get(event.pointerId)
    if (!before || !element.value) return
    const wide = apart()
    const [dx, dy] = [event.clientX - before.x, event.clientY - before.y]
    fingers.set(event.pointerId, { x: event.clientX, y: event.clientY })
    if (fingers.size === 2 && wide > 0) return void move(Math.min(2, Math.max(0.5, apart() / wide)))
    const box = element.value.getBoundingClientRect()
    if (fingers.size === 1 && (dx || dy) && (tools.view?.frame.zoom ?? 1) > 1)
      void move(1, -dx / box.width, -dy / box.height)
  })
  const up = (event: PointerEvent) => fingers.delete(event.pointerId)
  useEventListener(element, 'pointerup', up)
  useEventListener(element, 'pointercancel', up)
}

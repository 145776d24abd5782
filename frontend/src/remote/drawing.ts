/** A tablet's hand: what it draws with, its line to the teacher's computer, and its strokes drawn here until the picture shows them. */
import { computed, onBeforeUnmount, reactive, ref, type Ref } from 'vue'
import { handLine } from '@/teach/handLine'
import { COLOURS, looksOf, type InkTool } from '@/teach/inkLooks'
import { token } from './remote'

const SHOWN_MS = 900 // until the picture that shows a stroke has come
const DRAWN: InkTool[] = ['pen', 'marker', 'line', 'arrow']

export function useDrawing(said: (sentence: string) => void) {
  const tool = ref<InkTool>('pen')
  const colour = ref(COLOURS[1]!.colour)
  const line = handLine('/api/remote/hand', said, () => token.get() ?? '')
  onBeforeUnmount(line.close)
  const looks = computed(() => looksOf(tool.value, colour.value, 1))
  return reactive({ tool, colour, looks, send: line.send })
}

type Said =
  | { do: 'begin'; tool: InkTool; colour: string; x: number; y: number }
  | { do: 'move'; points: [number, number, number, number][] }
  | { do: 'end' }

/** The stroke under the hand, drawn at once: the picture comes a moment later. */
export function useEcho(canvas: Ref<HTMLCanvasElement | undefined>) {
  let at: [number, number] | null = null
  let timer = 0
  function see(said: object) {
    const one = said as Said
    const pen = canvas.value?.getContext('2d')
    if (!canvas.value || !pen) return
    if (one.do === 'begin') begin(one, canvas.value, pen)
    else if (one.do === 'move' && at) for (const [x, y] of one.points) go(x, y, canvas.value, pen)
    else if (one.do === 'end') {
      at = null
      timer = window.setTimeout(() => pen.clearRect(0, 0, pen.canvas.width, pen.canvas.height), SHOWN_MS)
    }
  }
  function begin(
    one: Extract<Said, { do: 'begin' }>,
    canvas: HTMLCanvasElement,
    pen: CanvasRenderingContext2D,
  ) {
    window.clearTimeout(timer)
    canvas.width = canvas.clientWidth
    canvas.height = canvas.clientHeight
    at = DRAWN.includes(one.tool) ? [one.x, one.y] : null
    pen.strokeStyle = one.colour
    pen.lineCap = 'round'
    pen.globalAlpha = one.tool === 'marker' ? 0.35 : 1
    pen.lineWidth = canvas.width / (one.tool === 'marker' ? 60 : 300)
  }
  function go(x: number, y: number, canvas: HTMLCanvasElement, pen: CanvasRenderingContext2D) {
    pen.beginPath()
    pen.moveTo(at![0] * canvas.width, at![1] * canvas.height)
    pen.lineTo(x * canvas.width, y * canvas.height)
    pen.stroke()
    at = [x, y]
  }
  onBeforeUnmount(() => window.clearTimeout(timer))
  return see
}

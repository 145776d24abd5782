import { reconnecting, socketUrl, type Reconnecting } from './reconnecting'

const HEADER_BYTES = 16
const CLOCK_EVERY_MS = 5000

export interface Drawn {
  width: number
  height: number
  delayMs: number | null
}

/** Draws one surface's pictures onto a canvas, newest wins, and measures captured-to-drawn by the server's clock. */
export class SurfacePlayer {
  private readonly painter: ImageBitmapRenderingContext | null
  private readonly line: Reconnecting
  private readonly clockTimer: number
  private offsetS: number | null = null // server's clock minus ours
  private bestTripS = Infinity
  private stopped = false
  private told: string | null = null

  constructor(
    private readonly canvas: HTMLCanvasElement,
    path: string,
    private readonly onDrawn: (drawn: Drawn) => void,
    private readonly onDown: (final: string | null) => void,
  ) {
    this.painter = canvas.getContext('bitmaprenderer')
    this.line = reconnecting(
      () => socketUrl(path),
      () => {
        this.askClock()
        if (this.told) this.line.socket()?.send(this.told)
      },
      (data) => (typeof data === 'string' ? this.hearClock(data) : void this.draw(data)),
      (final) => this.onDown(final),
    )
    this.clockTimer = window.setInterval(() => this.askClock(), CLOCK_EVERY_MS)
  }

  /** What the server should know of this window; the newest again on each new connection. */
  tell(text: string) {
    this.told = text
    this.line.socket()?.send(text)
  }

  close() {
    this.stopped = true
    window.clearInterval(this.clockTimer)
    this.line.close()
  }

  private askClock() {
    this.line.socket()?.send(`clock ${performance.now()}`)
  }

  private hearClock(text: string) {
    const [, asked, server] = text.split(' ').map(Number)
    if (asked === undefined || server === undefined) return
    const now = performance.now()
    const tripS = (now - asked) / 1000
    if (tripS > this.bestTripS * 1.5) return
    this.bestTripS = Math.min(tripS, this.bestTripS)
    this.offsetS = server - (now + asked) / 2000
  }

  private async draw(message: ArrayBuffer) {
    const header = new DataView(message, 0, HEADER_BYTES)
    const capturedS = header.getFloat64(4, true)
    try {
      const bitmap = await createImageBitmap(
        new Blob([new Uint8Array(message, HEADER_BYTES)], { type: 'image/jpeg' }),
      )
      if (this.stopped) return bitmap.close()
      if (this.canvas.width !== bitmap.width) this.canvas.width = bitmap.width
      if (this.canvas.height !== bitmap.height) this.canvas.height = bitmap.height
      this.painter?.transferFromImageBitmap(bitmap)
      const delayMs = this.offsetS === null ? null : performance.now() + 1000 * (this.offsetS - capturedS)
      this.onDrawn({ width: this.canvas.width, height: this.canvas.height, delayMs })
    } finally {
      this.line.socket()?.send('drawn')
    }
  }
}

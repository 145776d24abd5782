import { type Capability, fitted, type Settings } from './constraints'
import type { LineState } from './shared'
import type { Line, Listener } from './line'

const CARD_EVERY_MS = 200
const EARLY = 2 // pictures that may come sooner after a late one
const SAYS: Record<LineState, string> = {
  live: '',
  absent: 'One moment: Cartouche is not running yet',
  unpaired: 'One moment: press Pair in the Cartouche extension',
  refused: 'This site was not chosen in the Cartouche extension',
}

/** One video track: the outgoing picture at its own size and rate, or a calm card while none comes. */
export class VideoSource implements Listener {
  readonly track: MediaStreamTrackGenerator<VideoFrame>
  settings: Settings
  private readonly writer: WritableStreamDefaultWriter<VideoFrame>
  private shown: LineState = 'absent'
  private lastAt = -Infinity
  private due = -Infinity
  private canvas: OffscreenCanvas | null = null
  private readonly timer: number

  constructor(
    private readonly line: Line,
    readonly has: Capability,
    settings: Settings,
    public constraints: MediaTrackConstraints,
  ) {
    this.settings = settings
    this.track = new MediaStreamTrackGenerator<VideoFrame>({ kind: 'video' })
    this.track.contentHint = 'detail' // calls then send print at its full size from the first picture
    this.writer = this.track.writable.getWriter()
    this.writer.closed.catch(() => {})
    this.timer = window.setInterval(() => this.card(), CARD_EVERY_MS)
    line.add(this)
    this.card()
  }

  want() {
    return {
      width: this.settings.width,
      height: this.settings.height,
      sound: false,
    }
  }

  state(state: LineState) {
    this.shown = state
  }

  resize(settings: Settings) {
    this.settings = settings
    this.line.settle()
  }

  stop() {
    window.clearInterval(this.timer)
    this.line.remove(this)
    this.writer.close().catch(() => {})
  }

  picture(frame: VideoFrame) {
    const now = performance.now()
    if (now < this.due || (this.writer.desiredSize ?? 0) <= 0) return
    const period = 1000 / this.settings.frameRate
    this.due = Math.max(this.due + period, now - EARLY * period) // pictures come unevenly: the rate is kept, not the gap
    this.lastAt = now
    const { width, height } = this.settings
    const same = frame.displayWidth === width && frame.displayHeight === height
    this.write(
      same
        ? frame.clone()
        : this.drawn(frame.timestamp, (context) =>
            context.drawImage(
              frame,
              ...fitted({ width: frame.displayWidth, height: frame.displayHeight }, this.settings),
            ),
          ),
    )
  }

  sound() {}

  private card() {
    if (this.shown === 'live' && performance.now() - this.lastAt < 2000) return
    if ((this.writer.desiredSize ?? 0) <= 0) return
    const { width, height } = this.settings
    this.write(
      this.drawn(Math.round(performance.now() * 1000), (context) => {
        context.fillStyle = '#f3f0e8'
        context.fillRect(0, 0, width, height)
        context.fillStyle = '#22304a'
        context.textAlign = 'center'
        context.font = `600 ${Math.round(height / 9)}px sans-serif`
        context.fillText('Cartouche', width / 2, height * 0.47)
        context.font = `${Math.round(height / 22)}px sans-serif`
        context.fillText(SAYS[this.shown] || 'One moment', width / 2, height * 0.6)
      }),
    )
  }

  private drawn(timestamp: number, draw: (context: OffscreenCanvasRenderingContext2D) => void): VideoFrame {
    const { width, height } = this.settings
    if (this.canvas?.width !== width || this.canvas.height !== height)
      this.canvas = new OffscreenCanvas(width, height)
    const context = this.canvas.getContext('2d', { alpha: false })!
    context.fillStyle = '#000'
    context.fillRect(0, 0, width, height)
    draw(context)
    return new VideoFrame(this.canvas, { timestamp })
  }

  private write(frame: VideoFrame) {
    this.writer.write(frame).catch(() => frame.close())
  }
}

export const RATE = 48000

/** One audio track: the outgoing sound; silence while none comes. */
export class AudioSource implements Listener {
  readonly track: MediaStreamTrackGenerator<AudioData>
  private readonly writer: WritableStreamDefaultWriter<AudioData>
  private first: { captured: number; timestamp: number } | null = null

  constructor(
    private readonly line: Line,
    public constraints: MediaTrackConstraints,
  ) {
    this.track = new MediaStreamTrackGenerator<AudioData>({ kind: 'audio' })
    this.writer = this.track.writable.getWriter()
    this.writer.closed.catch(() => {})
    line.add(this)
  }

  want() {
    return { width: 0, height: 0, sound: true }
  }

  state() {
    this.first = null
  }

  picture() {}

  sound(samples: Int16Array<ArrayBuffer>, captured: number) {
    if ((this.writer.desiredSize ?? 0) <= -10) return
    this.first ??= { captured, timestamp: performance.now() * 1000 }
    const timestamp = Math.round(this.first.timestamp + (captured - this.first.captured) * 1000)
    const data = new AudioData({
      format: 's16',
      sampleRate: RATE,
      numberOfFrames: samples.length,
      numberOfChannels: 1,
      timestamp,
      data: samples,
    })
    this.writer.write(data).catch(() => data.close())
  }

  stop() {
    this.line.remove(this)
    this.writer.close().catch(() => {})
  }
}

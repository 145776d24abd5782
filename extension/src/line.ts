import type { FromFrame, LineState, ToFrame, Want } from './shared'

/** This page's one line to Cartouche: open while a track lives, at the size of the largest. */
export interface Listener {
  want(): Pick<Want, 'width' | 'height' | 'sound'>
  state(state: LineState): void
  picture(frame: VideoFrame): void // not its own: closed once all have looked
  sound(samples: Int16Array<ArrayBuffer>, captured: number): void
}
const MAX_WAITING = 6 // undecoded pictures: a page that is farther behind goes on from the next key picture
const REPORT_MS = 1000
const CODEC: VideoDecoderConfig = { codec: 'avc1.42e028', optimizeForLatency: true }

export class Line {
  private listeners = new Set<Listener>()
  private port: MessagePort | null = null
  private decoder: VideoDecoder | null = null
  private state: LineState = 'absent'
  private wanted = ''
  private skipping = true
  private captured = new Map<number, number>() // by timestamp, of pictures in the decoder
  private arrived = { count: 0, since: 0, ms: 0 }
  private soundAge: number | null = null // ms from capture to the track, of the newest block
  private number = 0
  private jpeg = false
  private asked = 0 // the newest line that was asked for: ports of those before are of frames that are gone
  private pending = false // it was asked for and is not there yet

  /** open: asks for a line to Cartouche, which comes as a port with the same number.  shut: nobody wants it any more. */
  constructor(
    private readonly open: (number: number) => void,
    private readonly shut: () => void,
  ) {}

  add(listener: Listener) {
    this.listeners.add(listener)
    listener.state(this.state)
    this.settle()
  }

  remove(listener: Listener) {
    this.listeners.delete(listener)
    this.settle()
  }

  /** Somebody wants something else. */
  settle() {
    if (!this.listeners.size) return this.close()
    const wants = [...this.listeners].map((listener) => listener.want())
    const want: Want = {
      width: Math.max(...wants.map((one) => one.width)),
      height: Math.max(...wants.map((one) => one.height)),
      sound: wants.some((one) => one.sound),
      jpeg: this.jpeg,
    }
    const text = JSON.stringify(want)
    if (!this.port) {
      this.wanted = text
      if (!this.pending) void this.reach()
    } else if (text !== this.wanted) {
      this.wanted = text
      this.say({ do: 'want', want })
    }
  }

  private async reach() {
    const number = ++this.asked
    this.pending = true
    const can = await VideoDecoder.isConfigSupported(CODEC).catch(() => null)
    this.jpeg = !can?.supported
    this.wanted = JSON.stringify({ ...(JSON.parse(this.wanted) as Want), jpeg: this.jpeg })
    if (number === this.asked) this.open(number)
  }

  /** The port that was asked for. It comes again where the page took our frame away. */
  take(port: MessagePort, number: number) {
    if (number !== this.asked) return port.close()
    this.port?.close()
    this.port = port
    this.pending = false
    this.skipping = true
    port.onmessage = ({ data }: MessageEvent<FromFrame>) => this.hear(data)
    this.say({ do: 'want', want: JSON.parse(this.wanted) as Want })
  }

  private close() {
    this.asked += 1
    this.pending = false
    this.shut()
    this.port?.close()
    this.port = null
    this.decoder?.close()
    this.decoder = null
    this.skipping = true
    this.captured.clear()
    this.tell('absent')
  }

  private say(message: ToFrame) {
    this.port?.postMessage(message)
  }

  private tell(state: LineState) {
    this.state = state
    for (const listener of this.listeners) listener.state(state)
  }

  private hear(told: FromFrame) {
    if (told.tell === 'state') this.tell(told.state)
    else if (told.tell === 'picture') this.decode(told.data, told.key, told.captured)
    else if (told.tell === 'jpeg') void this.draw(told.data, told.captured)
    else {
      this.soundAge = Date.now() - told.captured
      for (const listener of this.listeners) listener.sound(new Int16Array(told.data), told.captured)
    }
  }

  private decode(data: ArrayBuffer, key: boolean, captured: number) {
    if (!this.decoder || this.decoder.state === 'closed') {
      this.decoder = this.newDecoder()
      this.skipping = true
    }
    if (this.decoder.decodeQueueSize > MAX_WAITING) this.skipping = true
    if (this.skipping && !key) {
      this.say({ do: 'key' })
      return
    }
    this.skipping = false
    this.number += 1
    this.captured.set(this.number, captured)
    this.decoder.decode(
      new EncodedVideoChunk({
        type: key ? 'key' : 'delta',
        timestamp: this.number,
        data,
      }),
    )
  }

  private newDecoder(): VideoDecoder {
    const decoder = new VideoDecoder({
      output: (frame) => {
        const captured = this.captured.get(frame.timestamp) ?? null
        for (const [number] of this.captured) if (number <= frame.timestamp) this.captured.delete(number)
        this.show(frame, captured)
        frame.close()
      },
      error: () => (this.skipping = true), // it is closed now: a new one goes on from the next key picture
    })
    decoder.configure(CODEC)
    return decoder
  }

  private async draw(data: ArrayBuffer, captured: number) {
    const bitmap = await createImageBitmap(new Blob([data], { type: 'image/jpeg' }))
    this.show(bitmap, captured)
    bitmap.close()
  }

  private show(picture: VideoFrame | ImageBitmap, captured: number | null) {
    const frame = new VideoFrame(picture, { timestamp: Math.round(performance.now() * 1000) })
    if (this.state !== 'live') this.tell('live')
    for (const listener of this.listeners) listener.picture(frame)
    this.report(frame, captured)
    frame.close()
  }

  private report(frame: VideoFrame, captured: number | null) {
    const { arrived } = this
    const now = performance.now()
    arrived.count += 1
    arrived.since ||= now
    if (captured !== null) arrived.ms = Math.max(0, Date.now() - captured)
    if (now - arrived.since < REPORT_MS) return
    const fps = (arrived.count * 1000) / (now - arrived.since)
    this.say({
      do: 'arrives',
      width: frame.displayWidth,
      height: frame.displayHeight,
      fps,
      delay_ms: captured === null ? null : arrived.ms,
      lips_ms: captured === null || this.soundAge === null ? null : arrived.ms - this.soundAge,
    })
    arrived.count = 0
    arrived.since = now
  }
}

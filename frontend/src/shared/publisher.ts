import { Pace, heed, type Prefers } from './pace'
import { reconnecting, socketUrl, type Reconnecting } from './reconnecting'
import { SocketMeter } from './socketMeter'

const KEY_EVERY_FRAMES = 60
const BITS_PER_PIXEL = 0.11 // at 30 frames/s: 6.8 Mb/s at 1080p, 10-point print still reads
const MAX_WAITING_FRAMES = 3
interface Way {
  codec: string
  avc?: { format: 'annexb' }
  mark: number
}
/** Sharp ones first: constrained baseline, level 4, which every H.264 decoder takes; else VP8. mark: in the first byte. */
const WAYS: Way[] = [
  { codec: 'avc1.42E028', avc: { format: 'annexb' }, mark: 0 },
  { codec: 'vp8', mark: 2 },
]

const HEADER_BYTES = 3
/** Codecs whose encoder was silent here: the next sender does not wait for it again. */
const silent = new Set<string>()
const MAX_REMEMBERED = 64
const MAX_FAILED = 3 // in a row: a busy computer's encoder comes back, one that cannot does not
const AGAIN_MS = 700
const SILENT_MS = 3000 // an encoder that takes pictures and gives none for so long never will: some do, and say nothing
const MIN_WAITING = 8
const CLOCK = 'clock ' // a question that comes back as it was sent
const CANNOT = 'This browser cannot send this camera’s picture. Use a current browser.'
const CANNOT_AT_SIZE = 'This browser cannot send this camera’s picture at this size.'

export interface Line {
  /** Where the pictures go. */
  path: string
  /** The first message, before any picture: a guest's token. */
  hello?: string
  prefers: Prefers
  onDown: (final: string | null) => void
  onBroken: (sentence: string) => void
}

/**
 * Sends one camera's pictures: WebCodecs H.264 (Annex B) or VP8 over a socket. Before each stand one byte (key or not, and
 * which of both) and two with the milliseconds since it was taken. The other end says `rest` while nobody looks, else `go` and how
 * many pictures a second it takes; a text that begins with `clock` comes back as it was sent.
 */
export class Publisher {
  private encoder: VideoEncoder | null = null
  private sinceKey = 0
  private stopped = false
  private resting = false
  private size = ''
  /** What this browser says that it can; the first is in use. */
  private ways: Way[] = []
  private bits = 1
  private failed = 0
  private restsUntil = 0
  /** Pictures that the encoder has taken since it last gave one, and since when. */
  private waiting = 0
  private waitingMs = 0
  private readonly taken = new Map<number, number>()
  private readonly pace: Pace
  private readonly line: Reconnecting
  private readonly meter = new SocketMeter()
  /** How long encoding takes, smoothed. */
  encodeMs = 0

  constructor(
    private readonly track: MediaStreamTrack,
    private readonly to: Line,
  ) {
    this.pace = new Pace(to.prefers)
    this.line = reconnecting(
      () => socketUrl(to.path),
      (socket) => {
        if (to.hello) socket.send(to.hello)
        this.sinceKey = KEY_EVERY_FRAMES
      },
      (data) => this.hear(String(data)),
      to.onDown,
    )
    void this.run()
  }

  rest(resting: boolean) {
    if (this.resting && !resting) this.sinceKey = KEY_EVERY_FRAMES
    this.resting = resting
    this.waiting = 0
  }

  private hear(text: string) {
    const now = performance.now()
    if (text.startsWith(CLOCK)) this.meter.trip(now, now - Number(text.slice(CLOCK.length)))
    else heed(text, this)
  }

  /** No more pictures a second than these: what comes between is not encoded. */
  limit(fps: number) {
    this.pace.most = fps
  }

  /** What was measured of the way; each time it is asked for, it is measured once more. */
  measured() {
    const now = performance.now()
    if (!this.resting) this.line.socket()?.send(CLOCK + now.toFixed(1))
    return this.meter.at(now)
  }

  prefer(prefers: Prefers) {
    this.pace.prefers = prefers
  }

  close() {
    this.stopped = true
    this.line.close()
    if (this.encoder?.state !== 'closed') this.encoder?.close()
  }

  private async run() {
    while (!this.stopped) {
      try {
        this.ways = await usable()
        return await this.sendAll()
      } catch (error) {
        this.fail(error, CANNOT)
        await new Promise((done) => setTimeout(done, AGAIN_MS))
      }
    }
  }

  private async sendAll() {
    for await (const frame of frames(this.track, () => this.stopped)) {
      try {
        if (!this.stopped) this.encode(frame)
      } catch (error) {
        this.fail(error, CANNOT_AT_SIZE)
      } finally {
        frame.close()
      }
      if (this.stopped) return
    }
  }

  /** Tried again after a moment; where it has failed too often in a row, the next way: some say that they can and cannot. */
  private fail(error: unknown, sentence: string) {
    if (this.stopped) return
    this.waiting = 0
    console.warn(error) // for whoever looks for the cause: the sentence is the teacher's
    this.restsUntil = performance.now() + AGAIN_MS
    if (++this.failed < MAX_FAILED) return
    if (this.ways.length > 1) return this.passOn()
    this.close()
    this.to.onBroken(sentence)
  }

  private passOn() {
    this.ways.shift()
    this.failed = 0
    this.size = '' // its encoder is taken anew
  }

  private encode(frame: VideoFrame) {
    if (this.resting || performance.now() < this.restsUntil) return
    const socket = this.line.socket()
    if (!socket) {
      this.sinceKey = KEY_EVERY_FRAMES
      return
    }
    const now = performance.now()
    if (!this.pace.isDue(now)) return
    if (!this.pace.sends(socket.bufferedAmount, this.bits, now)) return this.meter.picture(now, 0)
    const encoder = this.encoderFor(frame)
    if (encoder.encodeQueueSize > MAX_WAITING_FRAMES) return
    const keyFrame = this.sinceKey >= KEY_EVERY_FRAMES
    this.sinceKey = keyFrame ? 1 : this.sinceKey + 1
    if (this.taken.size > MAX_REMEMBERED) this.taken.clear()
    this.taken.set(frame.timestamp, now)
    encoder.encode(frame, { keyFrame })
    this.await(now)
  }

  private await(now: number) {
    if (!this.waiting++) this.waitingMs = now
    if (this.waiting < MIN_WAITING || now - this.waitingMs < SILENT_MS) return
    silent.add(this.ways[0]!.codec)
    this.failed = MAX_FAILED // it would be as silent again
    this.fail(new Error('the encoder gives nothing'), CANNOT_AT_SIZE)
  }

  private encoderFor(frame: VideoFrame): VideoEncoder {
    const even = (length: number) => Math.max(2, Math.round((length * this.pace.scale) / 2) * 2)
    const width = even(frame.displayWidth)
    const height = even(frame.displayHeight)
    const size = `${width}x${height}`
    if (this.encoder && this.size === size && this.encoder.state === 'configured') return this.encoder
    if (this.encoder?.state !== 'closed') this.encoder?.close()
    this.size = size
    this.sinceKey = KEY_EVERY_FRAMES
    this.encoder = new VideoEncoder({
      output: (chunk) => this.send(chunk),
      error: (error) => this.fail(error, CANNOT_AT_SIZE),
    })
    this.bits = Math.round(width * height * 30 * BITS_PER_PIXEL)
    this.encoder.configure({
      ...configured(this.ways[0]!),
      width,
      height,
      bitrate: this.bits,
    })
    return this.encoder
  }

  private send(chunk: EncodedVideoChunk) {
    this.failed = this.waiting = 0
    const takenMs = this.taken.get(chunk.timestamp)
    this.taken.delete(chunk.timestamp)
    const age = takenMs === undefined ? 0 : performance.now() - takenMs
    this.encodeMs += 0.1 * (age - this.encodeMs)
    const message = new Uint8Array(chunk.byteLength + HEADER_BYTES)
    message[0] = (chunk.type === 'key' ? 1 : 0) | this.ways[0]!.mark
    new DataView(message.buffer).setUint16(1, Math.min(65535, Math.round(age)), true)
    chunk.copyTo(message.subarray(HEADER_BYTES))
    this.meter.picture(performance.now(), message.byteLength)
    this.line.socket()?.send(message)
  }
}

function configured({ codec, avc }: Way) {
  return { codec, framerate: 30, latencyMode: 'realtime' as const, ...(avc ? { avc } : {}) }
}

/** The ways that this browser says it can encode; throws where there are none. */
async function usable(): Promise<Way[]> {
  const said = await Promise.all(
    WAYS.map((way) =>
      VideoEncoder.isConfigSupported({ ...configured(way), width: 1280, height: 720, bitrate: 3_000_000 }),
    ),
  )
  const ways = WAYS.filter((_, at) => said[at]!.supported)
  const heard = ways.filter((way) => !silent.has(way.codec))
  if (ways.length) return heard.length ? heard : ways
  throw new Error('nothing that we take')
}

/** Frames of a track: straight from it where the browser can (that goes on in a hidden tab), else by way of a video element. */
async function* frames(track: MediaStreamTrack, stopped: () => boolean): AsyncGenerator<VideoFrame> {
  const Processor = (
    globalThis as {
      MediaStreamTrackProcessor?: new (init: object) => { readable: ReadableStream<VideoFrame> }
    }
  ).MediaStreamTrackProcessor
  if (Processor) {
    const reader = new Processor({ track, maxBufferSize: 2 }).readable.getReader()
    try {
      for (;;) {
        const { value, done } = await reader.read()
        if (done || stopped()) return value?.close()
        yield value
      }
    } finally {
      void reader.cancel().catch(() => {})
    }
  }
  const video = document.createElement('video')
  video.muted = true
  video.srcObject = new MediaStream([track])
  await video.play()
  while (!stopped() && track.readyState === 'live') {
    await new Promise((next) => video.requestVideoFrameCallback(next))
    yield new VideoFrame(video)
  }
}

import { reconnecting, socketUrl, type Reconnecting } from '@/shared/reconnecting'

const KEY_EVERY_FRAMES = 60
const BITS_PER_PIXEL = 0.11 // at 30 frames/s: 6.8 Mb/s at 1080p, 10-point print still reads
const MOST_WAITING_FRAMES = 3
const MOST_WAITING_BYTES = 1_000_000
const CODEC = 'avc1.42E028' // constrained baseline, level 4: every H.264 decoder takes it

/** Sends one camera's pictures: WebCodecs H.264 (Annex B) over a socket; one byte before each says key or not. */
export class Publisher {
  private encoder: VideoEncoder | null = null
  private sinceKey = 0
  private stopped = false
  private size = ''
  private readonly line: Reconnecting

  constructor(
    deviceId: string,
    private readonly track: MediaStreamTrack,
    onDown: (final: string | null) => void,
    private readonly onBroken: (sentence: string) => void,
  ) {
    this.line = reconnecting(
      () => socketUrl(`/api/cameras/${encodeURIComponent(deviceId)}`),
      () => (this.sinceKey = KEY_EVERY_FRAMES),
      () => {},
      onDown,
    )
    this.run().catch(() =>
      onBroken(
        'This browser cannot send this camera’s picture. Use a current Chromium, Edge, Chrome or Safari.',
      ),
    )
  }

  close() {
    this.stopped = true
    this.line.close()
    if (this.encoder?.state !== 'closed') this.encoder?.close()
  }

  private async run() {
    for await (const frame of frames(this.track, () => this.stopped)) {
      try {
        if (!this.stopped) this.encode(frame)
      } finally {
        frame.close()
      }
      if (this.stopped) return
    }
  }

  private encode(frame: VideoFrame) {
    const socket = this.line.socket()
    if (!socket || socket.bufferedAmount > MOST_WAITING_BYTES) {
      this.sinceKey = KEY_EVERY_FRAMES
      return
    }
    const encoder = this.encoderFor(frame)
    if (encoder.encodeQueueSize > MOST_WAITING_FRAMES) return
    const keyFrame = this.sinceKey >= KEY_EVERY_FRAMES
    this.sinceKey = keyFrame ? 1 : this.sinceKey + 1
    encoder.encode(frame, { keyFrame })
  }

  private encoderFor(frame: VideoFrame): VideoEncoder {
    const size = `${frame.displayWidth}x${frame.displayHeight}`
    if (this.encoder && this.size === size && this.encoder.state === 'configured') return this.encoder
    this.encoder?.close()
    this.size = size
    this.sinceKey = KEY_EVERY_FRAMES
    this.encoder = new VideoEncoder({
      output: (chunk) => this.send(chunk),
      error: () => this.onBroken('This browser cannot send this camera’s picture at this size.'),
    })
    const width = frame.displayWidth - (frame.displayWidth % 2)
    const height = frame.displayHeight - (frame.displayHeight % 2)
    this.encoder.configure({
      codec: CODEC,
      width,
      height,
      framerate: 30,
      bitrate: Math.round(width * height * 30 * BITS_PER_PIXEL),
      latencyMode: 'realtime',
      avc: { format: 'annexb' },
    })
    return this.encoder
  }

  private send(chunk: EncodedVideoChunk) {
    const message = new Uint8Array(chunk.byteLength + 1)
    message[0] = chunk.type === 'key' ? 1 : 0
    chunk.copyTo(message.subarray(1))
    this.line.socket()?.send(message)
  }
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
    for (;;) {
      const { value, done } = await reader.read()
      if (done || stopped()) return value?.close()
      yield value
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

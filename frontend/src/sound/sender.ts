import { socketUrl } from '@/shared/reconnecting'
import type { Processing } from './microphones'
import { at } from '@/shared/at'

const RATE = 48_000
const MAX_WAITING = 48_000 // bytes: half a second; what a stalled network does not take is dropped, never kept

/** hello: the first message, for a door that asks who it is. */
export interface SoundLine {
  path: string
  hello?: string
}

/** One microphone on its way to Cartouche. Stopping it stops the track: then no sample leaves the browser. */
export class SoundSender {
  private context: AudioContext | null = null
  private socket: WebSocket | null = null
  private stopped = false

  constructor(
    readonly id: string,
    readonly label: string,
    private readonly stream: MediaStream,
    private readonly ended: (sender: SoundSender) => void,
    private readonly to: SoundLine = { path: `/api/sound/${id}?label=${encodeURIComponent(label)}` },
  ) {
    for (const track of stream.getAudioTracks()) track.addEventListener('ended', () => this.stop())
  }

  /** What the browser really does to the sound, whatever was asked. */
  get processing(): Processing {
    const real = this.stream.getAudioTracks()[0]?.getSettings() ?? {}
    const on = (value: unknown) => value === true || typeof value === 'string'
    return {
      echo: on(real.echoCancellation),
      noise: on(real.noiseSuppression),
      gain: on(real.autoGainControl),
    }
  }

  /** Resolves once sound is on its way, or it was stopped. */
  async start() {
    this.context = new AudioContext({ sampleRate: RATE })
    await this.context.audioWorklet.addModule(at('/assets/sound-worklet.js'))
    if (this.stopped) return
    this.socket = new WebSocket(socketUrl(this.to.path))
    this.socket.addEventListener('open', () => this.to.hello && this.socket?.send(this.to.hello))
    this.socket.addEventListener('close', () => this.stop())
    const blocks = new AudioWorkletNode(this.context, 'cartouche-blocks', { numberOfOutputs: 0 })
    const begun = new Promise<void>((resolve) => {
      this.socket?.addEventListener('close', () => resolve())
      blocks.port.onmessage = (event: MessageEvent<ArrayBuffer>) => {
        const socket = this.socket
        if (socket?.readyState !== WebSocket.OPEN || socket.bufferedAmount >= MAX_WAITING) return
        socket.send(event.data)
        resolve()
      }
    })
    this.context.createMediaStreamSource(this.stream).connect(blocks)
    await this.context.resume()
    await begun
  }

  stop() {
    for (const track of this.stream.getTracks()) track.stop()
    this.leave()
  }

  /** The line ends and the track goes on: it is somebody else's. */
  leave() {
    if (this.stopped) return
    this.stopped = true
    this.socket?.close()
    void this.context?.close()
    this.ended(this)
  }
}

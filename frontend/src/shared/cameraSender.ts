import { Publisher, type Line } from './publisher'
import { reconnecting, socketUrl, type Reconnecting } from './reconnecting'
import { byWebRtc, type RtcSender } from './rtc'
import { LineMeter } from './rtcLine'
import { heed, type Prefers } from './pace'

const ANSWERS_WITHIN_MS = 5000
const LOOKS_EVERY_MS = 2000
const MOST_FPS = 60 // until it is said

/** What sends one camera's picture, whichever way this browser can. */
export interface CameraSender {
  rest: (resting: boolean) => void
  prefer: (prefers: Prefers) => void
  limit: (fps: number) => void
  close: () => void
}

/** Frames of a track, also while the tab is hidden, are not given by every browser: WebRTC goes on there too. */
export function sendCamera(track: MediaStreamTrack, to: Line): CameraSender {
  return 'MediaStreamTrackProcessor' in globalThis ? new Publisher(track, to) : new RtcCamera(track, to)
}

/** By WebRTC to Cartouche itself, offered over the camera's own socket; where that does not come through, by the socket. */
class RtcCamera implements CameraSender {
  private readonly line: Reconnecting
  private sender: RtcSender | null = null
  private instead: Publisher | null = null
  private meter = new LineMeter()
  private answered: (sdp: string) => void = () => {}
  private resting = false
  private most = MOST_FPS
  private prefers: Prefers
  private readonly timer: number

  constructor(
    private readonly track: MediaStreamTrack,
    private readonly to: Line,
  ) {
    this.prefers = to.prefers
    this.line = reconnecting(
      () => socketUrl(to.path),
      () => void this.begin(),
      (data) => this.hear(String(data)),
      to.onDown,
    )
    this.timer = window.setInterval(() => void this.look(), LOOKS_EVERY_MS)
  }

  rest(resting: boolean) {
    this.resting = resting
    this.sender?.rest(resting)
    this.instead?.rest(resting)
  }

  prefer(prefers: Prefers) {
    this.prefers = prefers
    this.sender?.prefer(prefers)
    this.instead?.prefer(prefers)
  }

  limit(fps: number) {
    this.most = fps
    this.sender?.limit(fps)
    this.instead?.limit(fps)
  }

  close() {
    window.clearInterval(this.timer)
    this.line.close()
    this.sender?.close()
    this.instead?.close()
  }

  /** Begins anew where it broke off; else tells how long a picture's way is: what comes by WebRTC says no time of its own. */
  private async look() {
    const sender = this.sender
    if (sender?.broken()) return this.begin()
    const stats = await sender?.stats().catch(() => null)
    const path = (stats && this.meter.from(stats.values()).path_ms) ?? null
    if (path !== null && sender === this.sender) this.line.socket()?.send(`path ${Math.round(path)}`)
  }

  private hear(text: string) {
    if (text.startsWith('answer:')) this.answered(text.slice('answer:'.length))
    else heed(text, this)
  }

  private async begin() {
    this.sender?.close()
    this.sender = null
    this.meter = new LineMeter()
    try {
      const made = await byWebRtc(new MediaStream([this.track]), this.prefers, (sdp) => this.ask(sdp))
      if (this.line.socket()) this.sender = made
      else made.close() // the socket went meanwhile: it begins again
      this.sender?.rest(this.resting)
      this.sender?.limit(this.most)
    } catch {
      if (!this.line.socket()) return
      this.close()
      this.instead = new Publisher(this.track, { ...this.to, prefers: this.prefers })
    }
  }

  private ask(sdp: string): Promise<string> {
    return new Promise((done, fail) => {
      this.answered = done
      setTimeout(() => fail(new Error('no answer')), ANSWERS_WITHIN_MS)
      this.line.socket()?.send(`offer:${sdp}`)
    })
  }
}

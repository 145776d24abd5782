import { CallDelay } from './delay'

/** Two participants of a real call (WebRTC) in one page: the teacher's end sends, a learner's end receives and says what arrives. */
export type CodecName = 'VP8' | 'H264'
export interface Arrived {
  width: number
  height: number
  fps: number
  codec: string
  sound: boolean
  delayMs: number | null // what the call itself adds, one way
}
const KBIT = { webcam: 1500, share: 2500 } // at most, as usual calls send it

export class TwoPeers {
  private readonly teacher = new RTCPeerConnection()
  private readonly learner = new RTCPeerConnection()
  private senders = new Map<string, RTCRtpSender>()
  private last = new Map<string, { frames: number; at: number }>()
  private readonly delay = new CallDelay()
  onTrack: (kind: string, stream: MediaStream) => void = () => {}

  constructor(
    private readonly codec: CodecName,
    private readonly kbit: number | null,
    private readonly scale: number,
  ) {
    this.teacher.onicecandidate = ({ candidate }) => void this.learner.addIceCandidate(candidate ?? undefined)
    this.learner.onicecandidate = ({ candidate }) => void this.teacher.addIceCandidate(candidate ?? undefined)
    this.learner.ontrack = ({ track, streams }) => this.onTrack(track.kind, streams[0]!)
  }

  get state() {
    return this.learner.connectionState
  }

  /** A track takes its place in the call, or the place of the one before. what: `camera`, `second`, `share`, `microphone`. */
  async send(what: string, track: MediaStreamTrack | null) {
    const known = this.senders.get(what)
    if (known) return known.replaceTrack(track)
    if (!track) return
    const stream = new MediaStream([track])
    const sender = this.teacher.addTrack(track, stream)
    this.senders.set(what, sender)
    if (track.kind === 'video') {
      const transceiver = this.teacher.getTransceivers().find((one) => one.sender === sender)
      const codecs = RTCRtpSender.getCapabilities('video')?.codecs ?? []
      const wanted = codecs.filter((one) => one.mimeType === `video/${this.codec}`)
      transceiver?.setCodecPreferences([
        ...wanted,
        ...codecs.filter((one) => /rtx|red|ulpfec/.test(one.mimeType)),
      ])
    }
    await this.agree()
    if (track.kind === 'video')
      await limit(sender, this.kbit ?? KBIT[what === 'share' ? 'share' : 'webcam'], this.scale)
  }

  private async agree() {
    await this.teacher.setLocalDescription(await this.teacher.createOffer())
    await this.learner.setRemoteDescription(this.teacher.localDescription!)
    await this.learner.setLocalDescription(await this.learner.createAnswer())
    await this.teacher.setRemoteDescription(this.learner.localDescription!)
  }

  /** What arrives at the learner's end, for each picture that does. */
  async arrived(): Promise<Arrived[]> {
    const [stats, sent] = await Promise.all([this.learner.getStats(), this.teacher.getStats()])
    const delays = this.delay.look([...sent.values()], [...stats.values()])
    const found: Arrived[] = []
    let sound = false
    const codecs = new Map<string, string>()
    for (const one of stats.values()) if (one.type === 'codec') codecs.set(one.id, one.mimeType)
    for (const one of stats.values())
      if (one.type === 'inbound-rtp' && one.kind === 'audio') sound ||= (one.audioLevel ?? 0) > 0.001
    for (const one of stats.values()) {
      if (one.type !== 'inbound-rtp' || one.kind !== 'video' || !one.frameWidth) continue
      const before = this.last.get(one.id)
      const now = { frames: one.framesDecoded as number, at: one.timestamp as number }
      this.last.set(one.id, now)
      const fps =
        before && now.at > before.at ? ((now.frames - before.frames) * 1000) / (now.at - before.at) : 0
      const codec = (codecs.get(one.codecId) ?? '').replace('video/', '')
      const delayMs = delays.get(one.ssrc as number) ?? null
      found.push({ width: one.frameWidth, height: one.frameHeight, fps, codec, sound, delayMs })
    }
    return found
  }

  close() {
    this.teacher.close()
    this.learner.close()
  }
}

async function limit(sender: RTCRtpSender, kbit: number, scale: number) {
  const parameters = sender.getParameters()
  for (const encoding of parameters.encodings ?? [])
    Object.assign(encoding, { maxBitrate: kbit * 1000, scaleResolutionDownBy: scale })
  await sender.setParameters(parameters).catch(() => {})
}

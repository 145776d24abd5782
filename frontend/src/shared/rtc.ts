import type { Prefers } from './pace'

const CONNECTS_WITHIN_MS = 4000
const GATHERS_WITHIN_MS = 1500
const MAX_BITS = 8_000_000
const USUAL_FPS = 30 // what cameras are asked for
const TAKEN = ['video/h264', 'video/vp8'] // the better one first

/** What to say where a browser has none of it; else null. */
export function withoutRtc(): string | null {
  if ('RTCPeerConnection' in globalThis) return null
  return 'This browser has no WebRTC, which this needs. Open the same address in another browser.'
}

/** A camera's picture, and sound if it has any, by WebRTC. offer: takes ours and gives the other end's answer. */
export async function byWebRtc(
  stream: MediaStream,
  prefers: Prefers,
  offer: (sdp: string) => Promise<string>,
): Promise<RtcSender> {
  const line = new RTCPeerConnection({ iceServers: [] })
  try {
    const track = stream.getVideoTracks()[0]!
    const video = line.addTransceiver(track, {
      direction: 'sendonly',
      sendEncodings: [{ maxBitrate: MAX_BITS }],
    })
    for (const sound of stream.getAudioTracks()) line.addTransceiver(sound, { direction: 'sendonly' })
    const codecs = RTCRtpSender.getCapabilities('video')?.codecs ?? []
    const taken = TAKEN.flatMap((kind) => codecs.filter((codec) => codec.mimeType.toLowerCase() === kind))
    if (taken.length) video.setCodecPreferences?.(taken)
    await line.setLocalDescription()
    await gathered(line)
    await line.setRemoteDescription({ type: 'answer', sdp: await offer(line.localDescription!.sdp) })
    await connected(line)
    const sender = new RtcSender(line, video.sender, track)
    sender.prefer(prefers)
    return sender
  } catch (error) {
    line.close()
    throw error
  }
}

function gathered(line: RTCPeerConnection): Promise<void> {
  return new Promise((done) => {
    const look = () => line.iceGatheringState === 'complete' && done()
    line.onicegatheringstatechange = look
    setTimeout(done, GATHERS_WITHIN_MS)
    look()
  })
}

function connected(line: RTCPeerConnection): Promise<void> {
  return new Promise((done, fail) => {
    const look = () => {
      if (line.connectionState === 'connected') done()
      if (line.connectionState === 'failed') fail(new Error('no way through'))
    }
    line.onconnectionstatechange = look
    setTimeout(() => fail(new Error('no way through')), CONNECTS_WITHIN_MS)
    look()
  })
}

export class RtcSender {
  private resting = false
  private prefers: Prefers = 'sharp'
  private most = USUAL_FPS
  private applied: Promise<void> = Promise.resolve()

  constructor(
    private readonly connection: RTCPeerConnection,
    private readonly sender: RTCRtpSender,
    private readonly track: MediaStreamTrack,
  ) {}

  rest(resting: boolean) {
    this.resting = resting
    this.apply()
  }

  prefer(prefers: Prefers) {
    this.prefers = prefers
    this.apply()
  }

  /** No more pictures a second than these. */
  limit(fps: number) {
    this.most = fps
    this.apply()
  }

  /** One after the other: the browser refuses a second change while the first is under way. */
  private apply() {
    this.track.contentHint = this.prefers === 'sharp' ? 'detail' : 'motion'
    this.applied = this.applied
      .then(() => {
        const asked = this.sender.getParameters() as RTCRtpSendParameters & { degradationPreference?: string }
        asked.degradationPreference = this.prefers === 'sharp' ? 'maintain-resolution' : 'maintain-framerate'
        for (const encoding of asked.encodings) {
          encoding.active = !this.resting
          if (this.most < USUAL_FPS) encoding.maxFramerate = this.most
          else delete encoding.maxFramerate
        }
        return this.sender.setParameters(asked)
      })
      .catch(() => {})
  }

  stats(): Promise<RTCStatsReport> {
    return this.connection.getStats()
  }

  broken() {
    return ['failed', 'disconnected', 'closed'].includes(this.connection.connectionState)
  }

  close() {
    this.connection.close()
  }
}

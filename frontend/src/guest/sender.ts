import { Publisher } from '@/shared/publisher'
import type { Prefers } from '@/shared/pace'
import { SoundSender } from '@/sound/sender'
import { Refused, offer, token } from './client'
import { LineMeter, NOT_TOLD, type Line } from './line'

const CONNECTS_WITHIN_MS = 4000
const GATHERS_WITHIN_MS = 1500
const MAX_BITS = 8_000_000

export interface Sender {
  transport: 'webrtc' | 'websocket'
  rest: (resting: boolean) => void
  prefer: (prefers: Prefers) => void
  line: () => Promise<Line>
  broken: () => boolean
  close: () => void
}

/** Send a camera's pictures: by WebRTC, or where that does not come through within a few seconds by a socket. */
export async function send(stream: MediaStream, prefers: Prefers, tryWebRtc = true): Promise<Sender> {
  try {
    if (!tryWebRtc) throw new Error('not again')
    return await byWebRtc(stream, prefers)
  } catch (error) {
    if (error instanceof Refused) throw error
    return bySocket(stream, prefers)
  }
}

async function byWebRtc(stream: MediaStream, prefers: Prefers): Promise<Sender> {
  const line = new RTCPeerConnection({ iceServers: [] })
  try {
    const track = stream.getVideoTracks()[0]!
    const video = line.addTransceiver(track, {
      direction: 'sendonly',
      sendEncodings: [{ maxBitrate: MAX_BITS }],
    })
    for (const sound of stream.getAudioTracks()) line.addTransceiver(sound, { direction: 'sendonly' })
    const codecs = RTCRtpSender.getCapabilities('video')?.codecs ?? []
    const h264 = codecs.filter((codec) => codec.mimeType.toLowerCase() === 'video/h264')
    if (h264.length) video.setCodecPreferences(h264)
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

class RtcSender implements Sender {
  readonly transport = 'webrtc'
  private resting = false
  private prefers: Prefers = 'sharp'
  private applied: Promise<void> = Promise.resolve()
  private readonly measured = new LineMeter()

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

  /** One after the other: the browser refuses a second change while the first is under way. */
  private apply() {
    this.track.contentHint = this.prefers === 'sharp' ? 'detail' : 'motion'
    this.applied = this.applied
      .then(() => {
        const asked = this.sender.getParameters() as RTCRtpSendParameters & { degradationPreference?: string }
        asked.degradationPreference = this.prefers === 'sharp' ? 'maintain-resolution' : 'maintain-framerate'
        for (const encoding of asked.encodings) encoding.active = !this.resting
        return this.sender.setParameters(asked)
      })
      .catch(() => {})
  }

  async line() {
    return this.measured.from((await this.connection.getStats()).values())
  }

  broken() {
    return ['failed', 'disconnected', 'closed'].includes(this.connection.connectionState)
  }

  close() {
    this.connection.close()
  }
}

function bySocket(stream: MediaStream, prefers: Prefers): Sender {
  let broken = false
  const track = stream.getVideoTracks()[0]!
  const sounds = stream.getAudioTracks().map((sound) => {
    const line = { path: '/api/guest/sound', hello: token.get() ?? '' }
    const sender = new SoundSender('phone', 'phone', new MediaStream([sound]), () => {}, line)
    void sender.start().catch(() => sender.stop())
    return sender
  })
  const publisher = new Publisher(track, {
    path: '/api/guest/pictures',
    hello: token.get() ?? '',
    prefers,
    onDown: (final) => (broken = broken || final !== null),
    onBroken: () => (broken = true),
  })
  return {
    transport: 'websocket',
    rest: (resting) => publisher.rest(resting),
    prefer: (next) => publisher.prefer(next),
    line: async () => NOT_TOLD, // each picture carries its own age
    broken: () => broken,
    close: () => {
      for (const sound of sounds) sound.leave()
      publisher.close()
    },
  }
}

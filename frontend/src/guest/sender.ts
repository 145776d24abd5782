import { Publisher } from '@/shared/publisher'
import { byWebRtc } from '@/shared/rtc'
import type { Prefers } from '@/shared/pace'
import { SoundSender } from '@/sound/sender'
import { Refused, offer, token } from './client'
import { LineMeter, type Line } from '@/shared/rtcLine'

export interface Sender {
  transport: 'webrtc' | 'websocket'
  rest: (resting: boolean) => void
  prefer: (prefers: Prefers) => void
  limit: (fps: number) => void
  line: () => Promise<Line>
  broken: () => boolean
  /** This browser cannot encode what the camera gives. */
  unable: () => boolean
  close: () => void
}

/** Send a camera's pictures: by WebRTC, or where that does not come through within a few seconds by a socket. */
export async function send(stream: MediaStream, prefers: Prefers, tryWebRtc = true): Promise<Sender> {
  try {
    if (!tryWebRtc) throw new Error('not again')
    return await rtc(stream, prefers)
  } catch (error) {
    if (error instanceof Refused) throw error
    return bySocket(stream, prefers)
  }
}

async function rtc(stream: MediaStream, prefers: Prefers): Promise<Sender> {
  const sender = await byWebRtc(stream, prefers, offer)
  const measured = new LineMeter()
  return {
    transport: 'webrtc',
    rest: (resting) => sender.rest(resting),
    prefer: (next) => sender.prefer(next),
    limit: (fps) => sender.limit(fps),
    line: async () => measured.from((await sender.stats()).values()),
    broken: () => sender.broken(),
    unable: () => false,
    close: () => sender.close(),
  }
}

function bySocket(stream: MediaStream, prefers: Prefers): Sender {
  let broken = false
  let unable = false
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
    onBroken: () => (broken = unable = true),
  })
  return {
    transport: 'websocket',
    rest: (resting) => publisher.rest(resting),
    prefer: (next) => publisher.prefer(next),
    limit: (fps) => publisher.limit(fps),
    line: async () => ({ ...publisher.measured(), lost: null }), // nothing is lost on a socket; each picture carries its age besides
    broken: () => broken,
    unable: () => unable,
    close: () => {
      for (const sound of sounds) sound.leave()
      publisher.close()
    },
  }
}

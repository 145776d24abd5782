import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { sendCamera } from '@/shared/cameraSender'

const { byWebRtc } = vi.hoisted(() => ({ byWebRtc: vi.fn() }))
vi.mock('@/shared/rtc', () => ({ byWebRtc }))

class Socket {
  static last: Socket
  sent: string[] = []
  onopen: () => void = () => {}
  constructor(readonly url: string) {
    Socket.last = this
    queueMicrotask(() => this.onopen())
  }
  send(data: string) {
    this.sent.push(data)
  }
  close() {}
}

/** A connection whose counters grow: 10 ms to encode, 20 ms there and back. */
function connection() {
  let seconds = 0
  return {
    isBroken: false,
    rest: vi.fn(),
    limit: vi.fn(),
    close: vi.fn(),
    broken() {
      return this.isBroken
    },
    async stats() {
      seconds++
      const video = { type: 'outbound-rtp', kind: 'video', id: 'a', timestamp: 1000 * seconds }
      const counts = {
        packetsSent: 50 * seconds,
        framesEncoded: 30 * seconds,
        totalEncodeTime: 0.3 * seconds,
      }
      const pair = { type: 'candidate-pair', nominated: true, id: 'b', currentRoundTripTime: 0.02 }
      return new Map(Object.entries({ a: { ...video, ...counts }, b: pair }))
    },
  }
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('WebSocket', Socket)
  vi.stubGlobal('MediaStream', class {})
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('tells how long a picture’s way by WebRTC is, and begins anew where it broke off', async () => {
  const first = connection()
  const second = connection()
  byWebRtc.mockResolvedValueOnce(first).mockResolvedValueOnce(second)
  const track = {} as MediaStreamTrack
  const sender = sendCamera(track, {
    path: '/api/cameras/a',
    prefers: 'sharp',
    onDown: () => {},
    onBroken: () => {},
  })
  await vi.advanceTimersByTimeAsync(4000)
  expect(Socket.last.sent).toEqual(['path 20', 'path 20'])
  first.isBroken = true
  await vi.advanceTimersByTimeAsync(2000)
  expect(first.close).toHaveBeenCalled()
  expect(byWebRtc).toHaveBeenCalledTimes(2)
  await vi.advanceTimersByTimeAsync(2000)
  expect(Socket.last.sent).toHaveLength(3)
  sender.close()
  expect(second.close).toHaveBeenCalled()
})

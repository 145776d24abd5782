import { describe, expect, it } from 'vitest'
import { LineMeter, NOT_TOLD } from '@/shared/rtcLine'
import { SocketMeter } from '@/shared/socketMeter'

/** What a browser counts after so many seconds at 50 packets and 60 kB a second. */
const counted = (s: number, lost: number, more: object = {}) =>
  [
    {
      ...{
        type: 'outbound-rtp',
        kind: 'video',
        id: 'a',
        timestamp: 1000 * s,
        packetsSent: 50 * s,
        bytesSent: 60_000 * s,
      },
      ...{ framesEncoded: 30 * s, totalEncodeTime: 0.3 * s, totalPacketSendDelay: 0.1 * s },
      ...more,
    },
    { type: 'remote-inbound-rtp', kind: 'video', id: 'b', timestamp: 1000 * s, packetsLost: lost },
    { type: 'candidate-pair', nominated: true, id: 'c', timestamp: 1000 * s, currentRoundTripTime: 0.02 },
  ] as RTCStats[]

describe('a phone’s line', () => {
  it('is not told before anything is sent', () => {
    expect(new LineMeter().from([])).toEqual(NOT_TOLD)
  })
  it('tells the way at once, loss and rate once there is enough to count', () => {
    const meter = new LineMeter()
    expect(meter.from(counted(1, 0))).toEqual({ path_ms: 22, lost: null, kbit_s: null, starved: false })
    meter.from(counted(2, 0))
    expect(meter.from(counted(7, 15))).toEqual({ path_ms: 22, lost: 0.05, kbit_s: 480, starved: false })
  })
  it('tells the way of those that come, not of the large one that came first', () => {
    const meter = new LineMeter()
    const after = (s: number) =>
      counted(s, 0, { totalEncodeTime: 2 + 0.3 * s, totalPacketSendDelay: 5 + 0.1 * s })
    expect(meter.from(after(1)).path_ms).toBeGreaterThan(100)
    expect(meter.from(after(2)).path_ms).toBeCloseTo(22)
    expect(meter.from(after(9)).path_ms).toBeCloseTo(22)
  })
  it('forgets what was long ago', () => {
    const meter = new LineMeter()
    for (let s = 1; s < 20; s++) meter.from(counted(s, Math.min(s, 5) * 10))
    expect(meter.from(counted(20, 50)).lost).toBe(0)
  })
  it('says when the network holds the encoder back', () => {
    expect(new LineMeter().from(counted(1, 0, { qualityLimitationReason: 'bandwidth' })).starved).toBe(true)
    expect(new LineMeter().from(counted(1, 0, { qualityLimitationReason: 'cpu' })).starved).toBe(false)
  })
})

describe('the line of a socket', () => {
  const sending = (seconds: number, bytes: (picture: number) => number) => {
    const meter = new SocketMeter()
    for (let one = 0; one < 10 * seconds; one++) meter.picture(100 * one, bytes(one))
    return meter
  }
  it('is not told before anything came back', () => {
    expect(new SocketMeter().at(0)).toEqual({ path_ms: null, kbit_s: null, starved: false })
  })
  it('tells its rate once there is enough to count, and forgets what was long ago', () => {
    expect(sending(4, () => 12_500).at(4000).kbit_s).toBeNull()
    expect(sending(10, () => 12_500).at(10_000).kbit_s).toBe(1000)
    expect(sending(30, (one) => (one < 190 ? 125_000 : 12_500)).at(30_000).kbit_s).toBeLessThan(1100)
  })
  it('tells the way there: what waits before it counts, the way back does not', () => {
    const meter = new SocketMeter()
    meter.trip(0, 20)
    expect(meter.at(0).path_ms).toBe(10)
    meter.trip(1000, 220)
    expect(meter.at(1000).path_ms).toBe(210)
  })
  it('says when so much waits that pictures are left out', () => {
    expect(sending(10, (one) => (one % 2 ? 0 : 12_500)).at(10_000).starved).toBe(true)
    expect(sending(10, (one) => (one % 5 ? 12_500 : 0)).at(10_000).starved).toBe(false)
  })
})

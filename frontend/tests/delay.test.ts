import { describe, expect, it } from 'vitest'
import { CallDelay } from '@/call/delay'

const sender = (encoded: number, encodeS: number, sentS = 0, ssrc = 7) => [
  { type: 'candidate-pair', nominated: true, currentRoundTripTime: 0.02 },
  { type: 'candidate-pair', nominated: false, currentRoundTripTime: 5 },
  {
    type: 'outbound-rtp',
    ssrc,
    framesEncoded: encoded,
    totalEncodeTime: encodeS,
    packetsSent: 10 * encoded,
    totalPacketSendDelay: sentS,
  },
]
const receiver = (decoded: number, processingS: number, ssrc = 7) => [
  { type: 'inbound-rtp', kind: 'audio', ssrc: 1, framesDecoded: 0, totalProcessingDelay: 9 },
  { type: 'inbound-rtp', kind: 'video', ssrc, framesDecoded: decoded, totalProcessingDelay: processingS },
]

describe('what a call adds', () => {
  it('is encoding, sending, half of the way there and back, and all of the far end', () => {
    const delay = new CallDelay()
    const found = delay.look(sender(30, 0.3, 0.6), receiver(30, 0.9)) // 10, 2, 30 ms each
    expect([...found.keys()]).toEqual([7])
    expect(found.get(7)).toBeCloseTo(10 + 2 + 30 + 10)
  })
  it('is of the pictures since the last look, smoothed', () => {
    const delay = new CallDelay()
    delay.look(sender(30, 0.3, 0.6), receiver(30, 0.9))
    const found = delay.look(sender(60, 0.6, 1.2), receiver(60, 3.9)) // 100 ms at the far end
    expect(found.get(7)).toBeCloseTo(52 + 0.4 * 70)
  })
  it('stays as it was while no picture comes, and is not told before one came', () => {
    const delay = new CallDelay()
    expect(delay.look(sender(0, 0), receiver(0, 0)).size).toBe(0)
    delay.look(sender(30, 0.3), receiver(30, 0.9))
    expect(delay.look(sender(30, 0.3), receiver(30, 0.9)).get(7)).toBeCloseTo(50)
  })
  it('is told for each picture of the call', () => {
    const found = new CallDelay().look(
      [...sender(10, 0.1), ...sender(10, 0.4, 0, 8)],
      [...receiver(10, 0.2), ...receiver(10, 0.2, 8)],
    )
    expect(found.get(8)! - found.get(7)!).toBeCloseTo(30)
  })
})

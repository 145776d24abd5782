import type { components } from '@/api/guest-schema'

export type Line = Pick<components['schemas']['Report'], 'path_ms' | 'lost' | 'kbit_s' | 'starved'>

export const NOT_TOLD: Line = { path_ms: null, lost: null, kbit_s: null, starved: false }
const OVER_MS = 5000 // a share of fewer packets says nothing
const KEPT_MS = 10_000

interface Counted {
  at: number
  bytes: number
  packets: number
  lost: number | null
  /** Pictures, and the seconds that they took to encode; the seconds that packets waited to leave. */
  pictures: number
  encodeS: number
  waitS: number
}

/** A connection's counters, which only grow, as what holds just now. Terms: W3C, Identifiers for WebRTC's Statistics API. */
export class LineMeter {
  private counted: Counted[] = []

  from(stats: Iterable<RTCStats>): Line {
    const all = [...stats] as (RTCStats & Record<string, never>)[]
    const video = all.find((one) => one.type === 'outbound-rtp' && one.kind === 'video')
    const there = all.find((one) => one.type === 'remote-inbound-rtp' && one.kind === 'video')
    const pair = all.find((one) => one.type === 'candidate-pair' && one.nominated)
    if (!video) return NOT_TOLD
    const now = {
      at: video.timestamp,
      bytes: video.bytesSent ?? 0,
      packets: video.packetsSent ?? 0,
      lost: there?.packetsLost ?? null,
      pictures: video.framesEncoded ?? 0,
      encodeS: video.totalEncodeTime ?? 0,
      waitS: video.totalPacketSendDelay ?? 0,
    }
    this.counted = [...this.counted.filter((one) => now.at - one.at <= KEPT_MS), now]
    const trip: number | undefined = pair?.currentRoundTripTime
    return {
      path_ms: trip === undefined ? null : this.sendingMs(now) + 500 * trip,
      starved: video.qualityLimitationReason === 'bandwidth',
      ...this.lately(now),
    }
  }

  /** Encoding and leaving: the first picture, which is large, says nothing of those that follow. */
  private sendingMs(now: Counted): number {
    const before =
      this.counted.length > 1 ? this.counted[0]! : { pictures: 0, encodeS: 0, packets: 0, waitS: 0 }
    const encode = (now.encodeS - before.encodeS) / Math.max(1, now.pictures - before.pictures)
    const wait = (now.waitS - before.waitS) / Math.max(1, now.packets - before.packets)
    return 1000 * (encode + wait)
  }

  private lately(now: Counted): Pick<Line, 'lost' | 'kbit_s'> {
    const before = this.counted[0]!
    if (now.at - before.at < OVER_MS) return { lost: null, kbit_s: null }
    const packets = now.packets - before.packets
    const lost = now.lost === null || before.lost === null ? null : now.lost - before.lost
    return {
      lost: lost === null || !packets ? null : Math.min(1, Math.max(0, lost / packets)),
      kbit_s: (8 * (now.bytes - before.bytes)) / (now.at - before.at),
    }
  }
}

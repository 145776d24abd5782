/** What of a W3C webrtc-stats report is read here: sums since the beginning, in seconds. */
interface Report {
  type: string
  kind?: string
  ssrc?: number
  nominated?: boolean
  currentRoundTripTime?: number
  framesEncoded?: number
  totalEncodeTime?: number
  packetsSent?: number
  totalPacketSendDelay?: number
  framesDecoded?: number
  totalProcessingDelay?: number
}
const NEWEST = 0.4 // share of the newest look, as single ones jump

/** What a call adds to each picture: encoding, waiting to be sent, the way, and at the far end all from the first packet until it is decoded. */
export class CallDelay {
  private before = new Map<string, number[]>()
  private smoothed = new Map<number, number>()

  /** From what both ends tell: ms by the picture's SSRC, of pictures since the last look. */
  look(sender: Report[], receiver: Report[]): Map<number, number> {
    const wayS =
      (sender.find((one) => one.type === 'candidate-pair' && one.nominated)?.currentRoundTripTime ?? 0) / 2
    for (const far of receiver) {
      if (far.type !== 'inbound-rtp' || far.kind !== 'video' || far.ssrc === undefined) continue
      const near = sender.find((one) => one.type === 'outbound-rtp' && one.ssrc === far.ssrc)
      const parts = [
        this.each(`encode ${far.ssrc}`, near?.totalEncodeTime, near?.framesEncoded),
        this.each(`send ${far.ssrc}`, near?.totalPacketSendDelay, near?.packetsSent),
        this.each(`far ${far.ssrc}`, far.totalProcessingDelay, far.framesDecoded),
      ]
      if (parts.some((part) => part === null)) continue
      const ms = 1000 * (wayS + parts.reduce<number>((sum, part) => sum + (part ?? 0), 0))
      const known = this.smoothed.get(far.ssrc) ?? ms
      this.smoothed.set(far.ssrc, known + NEWEST * (ms - known))
    }
    return this.smoothed
  }

  /** Of a sum and a count, the newest part for each; null where none came. */
  private each(name: string, sum = 0, count = 0): number | null {
    const [sumBefore = 0, countBefore = 0] = this.before.get(name) ?? []
    this.before.set(name, [sum, count])
    return count > countBefore ? (sum - sumBefore) / (count - countBefore) : null
  }
}

const OVER_MS = 5000 // a rate of less time says nothing
const KEPT_MS = 10_000
const MAX_LEFT_OUT = 1 / 3 // of the pictures, for want of room on the way

interface Measured {
  /** The way of what is sent now, ms: what waits before it counts. */
  path_ms: number | null
  kbit_s: number | null
  /** The network carries too little. */
  starved: boolean
}

/** What a socket carries just now, from what is told of each picture and how long a question takes to come back. */
export class SocketMeter {
  private pictures: { at: number; bytes: number }[] = []
  private trips: { at: number; ms: number }[] = []

  /** bytes: 0 where a picture was left out, because too much waits already. */
  picture(at: number, bytes: number) {
    this.pictures.push({ at, bytes })
    while (at - this.pictures[0]!.at > KEPT_MS) this.pictures.shift()
  }

  trip(at: number, ms: number) {
    this.trips.push({ at, ms })
    while (at - this.trips[0]!.at > KEPT_MS) this.trips.shift()
  }

  at(now: number): Measured {
    const last = this.trips.at(-1)
    const back = Math.min(...this.trips.map((one) => one.ms)) / 2 // nothing waits on the way back
    const lately = this.pictures.filter((one) => now - one.at <= KEPT_MS)
    const first = lately[0]
    const enough = first !== undefined && now - first.at >= OVER_MS
    const bytes = lately.reduce((sum, one) => sum + one.bytes, 0)
    const left = lately.filter((one) => one.bytes === 0).length
    return {
      path_ms: last ? last.ms - back : null,
      kbit_s: enough ? (8 * bytes) / (now - first.at) : null,
      starved: enough && left > MAX_LEFT_OUT * lately.length,
    }
  }
}

export type Prefers = 'sharp' | 'smooth'

/** What the other end says that it takes: `rest` for nothing, else `go` and how many pictures a second. */
export function heed(text: string, sender: { rest(resting: boolean): void; limit(fps: number): void }) {
  const [word, fps] = text.split(' ')
  sender.rest(word === 'rest')
  if (fps) sender.limit(Number(fps))
}

const SHARP_WAITS_S = 0.15 // more on its way than this: leave frames out
const SMOOTH_WAITS_S = 0.5
const SMALLER_AFTER_MS = 1000
const LARGER_AFTER_MS = 6000
const STEP = 0.75
const MIN_SCALE = 0.4

/** What to give up on a slow network: for paper frames first and sharpness last, for a face the other way round. */
export class Pace {
  scale = 1
  /** Pictures a second. */
  most = Infinity
  private dueMs = 0
  private slowSince: number | null = null
  private fastSince: number | null = null

  constructor(public prefers: Prefers) {}

  /** Whether a frame that comes now is one of the most. */
  isDue(nowMs: number): boolean {
    const every = 1000 / this.most
    if (nowMs < this.dueMs - every / 2) return false // so that no jitter of a camera costs a picture
    this.dueMs = Math.max(this.dueMs + every, nowMs + every / 2)
    return true
  }

  /** Whether to send a frame now, while so many bytes still wait to leave at so many bits a second. */
  sends(waitingBytes: number, bitsPerSecond: number, nowMs: number): boolean {
    const waits = (8 * waitingBytes) / Math.max(bitsPerSecond, 1)
    if (this.prefers === 'sharp') {
      this.scale = 1
      return waits <= SHARP_WAITS_S
    }
    this.rescale(waits, nowMs)
    return waits <= SMOOTH_WAITS_S
  }

  private rescale(waits: number, nowMs: number) {
    this.slowSince = waits > SHARP_WAITS_S ? (this.slowSince ?? nowMs) : null
    this.fastSince = waits === 0 ? (this.fastSince ?? nowMs) : null
    if (this.slowSince !== null && nowMs - this.slowSince >= SMALLER_AFTER_MS) {
      this.scale = Math.max(MIN_SCALE, this.scale * STEP)
      this.slowSince = nowMs
    } else if (this.fastSince !== null && nowMs - this.fastSince >= LARGER_AFTER_MS) {
      this.scale = Math.min(1, this.scale / STEP)
      this.fastSince = nowMs
    }
  }
}

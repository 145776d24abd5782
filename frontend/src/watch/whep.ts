import { at } from '@/shared/at'
/** The lesson's picture by WHEP: asked for once, and again by itself whenever it breaks off. */
const KEPT = 'cartouche-watcher'
const AGAIN_MS = 1500
const REFUSED_AGAIN_MS = 10_000 // time to read why
const STILL_MS = 4000 // no new picture for so long: ask anew

export class NotInvited extends Error {}
/** With a sentence of the teacher’s computer. */
class Refused extends Error {}
export type WatchState = 'asking' | 'watching' | 'waiting' | 'code'

export const token = {
  get: () => localStorage.getItem(KEPT),
  keep: (value: string) => localStorage.setItem(KEPT, value),
  forget: () => localStorage.removeItem(KEPT),
}

async function detail(response: Response): Promise<string> {
  const body = (await response.json().catch(() => null)) as { detail?: unknown } | null
  return typeof body?.detail === 'string' ? body.detail : 'The teacher’s computer could not answer.'
}

export async function enter(code: string, name: string): Promise<void> {
  const response = await fetch(at('/api/watch/enter'), {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify({ code, name }),
  })
  if (!response.ok) throw new Error(await detail(response))
  token.keep(((await response.json()) as { token: string }).token)
}

export class Watching {
  private connection: RTCPeerConnection | null = null
  private resource: string | null = null
  private timer = 0
  private pictures = 0
  private seenAt = 0
  private ended = false

  constructor(
    private readonly video: HTMLVideoElement,
    private readonly say: (state: WatchState, sentence?: string) => void,
  ) {
    window.addEventListener('pagehide', () => this.leave())
  }

  async start() {
    window.clearTimeout(this.timer)
    this.drop()
    this.say('asking')
    try {
      await this.ask()
      this.seenAt = performance.now()
      this.look()
    } catch (error) {
      this.drop()
      if (error instanceof NotInvited) {
        token.forget()
        return this.say('code', error.message)
      }
      this.again(error instanceof Refused ? error.message : undefined)
    }
  }

  stop() {
    this.ended = true
    window.clearTimeout(this.timer)
    this.leave()
    this.drop()
  }

  private async ask() {
    const connection = new RTCPeerConnection()
    this.connection = connection
    this.pictures = 0 // each connection counts anew
    const stream = new MediaStream()
    this.video.srcObject = stream
    connection.ontrack = ({ track }) => stream.addTrack(track)
    connection.addTransceiver('video', { direction: 'recvonly' })
    connection.addTransceiver('audio', { direction: 'recvonly' })
    await connection.setLocalDescription()
    await gathered(connection)
    const response = await fetch(at('/whep'), {
      method: 'POST',
      headers: { 'Content-Type': 'application/sdp', Authorization: `Bearer ${token.get() ?? ''}` },
      body: connection.localDescription!.sdp,
    })
    if (response.status === 401) throw new NotInvited(await detail(response))
    if (!response.ok) throw new Refused(await detail(response))
    this.resource = response.headers.get('Location')
    await connection.setRemoteDescription({ type: 'answer', sdp: await response.text() })
  }

  private look() {
    this.timer = window.setTimeout(async () => {
      const connection = this.connection
      const shown = await decoded(connection)
      if (connection !== this.connection || this.ended) return
      const now = performance.now()
      if (shown !== this.pictures) {
        this.pictures = shown
        this.seenAt = now
        this.say('watching')
      }
      if (connection?.connectionState === 'failed' || now - this.seenAt > STILL_MS) this.again()
      else this.look()
    }, 300)
  }

  private again(said?: string) {
    if (this.ended) return
    this.say('waiting', said)
    this.timer = window.setTimeout(() => void this.start(), said ? REFUSED_AGAIN_MS : AGAIN_MS)
  }

  private leave() {
    if (this.resource) navigator.sendBeacon(`${this.resource}/end`, token.get() ?? '')
    this.resource = null
  }

  private drop() {
    this.leave()
    this.connection?.close()
    this.connection = null
  }
}

/** How many pictures have come; of a video element some browsers tell none for a call's picture. */
async function decoded(connection: RTCPeerConnection | null): Promise<number> {
  let pictures = 0
  const stats = await connection?.getStats().catch(() => null)
  stats?.forEach((one) => {
    if (one.type === 'inbound-rtp' && one.kind === 'video') pictures = one.framesDecoded ?? 0
  })
  return pictures
}

function gathered(connection: RTCPeerConnection): Promise<void> {
  if (connection.iceGatheringState === 'complete') return Promise.resolve()
  return new Promise((done) => {
    const timer = window.setTimeout(done, 2000)
    connection.addEventListener('icegatheringstatechange', () => {
      if (connection.iceGatheringState !== 'complete') return
      window.clearTimeout(timer)
      done()
    })
  })
}

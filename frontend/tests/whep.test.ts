import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { Watching } from '@/watch/whep'

let pictures: number[] // decoded by each connection in turn
const answers = vi.fn()

class Connection extends EventTarget {
  iceGatheringState = 'complete'
  connectionState = 'connected'
  localDescription = { sdp: 'v=0' }
  private readonly decoded = pictures.shift() ?? 0
  addTransceiver() {}
  async setLocalDescription() {}
  async setRemoteDescription() {}
  async getStats() {
    return new Map([['a', { type: 'inbound-rtp', kind: 'video', framesDecoded: this.decoded }]])
  }
  close() {}
}

function watch() {
  const said: string[] = []
  const watching = new Watching(document.createElement('video'), (state, why) => said.push(why ?? state))
  void watching.start()
  return { said, watching }
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.stubGlobal('RTCPeerConnection', Connection)
  vi.stubGlobal('fetch', answers)
  answers.mockReset().mockImplementation(async () => new Response('v=0', { status: 201 }))
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('watches once a picture has come, and a connection that brings none is no picture', async () => {
  pictures = [7, 0]
  const { said, watching } = watch()
  await vi.advanceTimersByTimeAsync(4000)
  expect(said).toEqual(['asking', 'watching'])
  await vi.advanceTimersByTimeAsync(4000) // the first stands still: asked anew
  expect(said).toEqual(['asking', 'watching', 'waiting', 'asking'])
  watching.stop()
})

it('says why it is refused, and asks again once that was read', async () => {
  pictures = []
  answers.mockImplementation(async () =>
    Response.json({ detail: 'Another browser, please.' }, { status: 422 }),
  )
  const { said, watching } = watch()
  await vi.advanceTimersByTimeAsync(5000)
  expect(said).toEqual(['asking', 'Another browser, please.'])
  await vi.advanceTimersByTimeAsync(6000)
  expect(answers).toHaveBeenCalledTimes(2)
  watching.stop()
})

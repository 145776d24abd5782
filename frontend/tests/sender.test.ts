import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { SoundSender } from '@/sound/sender'

class Socket {
  static OPEN = 1
  static last: Socket
  readyState = 1
  bufferedAmount = 0
  sent: unknown[] = []
  private on = new Map<string, () => void>()
  constructor(readonly url: string) {
    Socket.last = this
  }
  addEventListener(name: string, work: () => void) {
    this.on.set(name, work)
    if (name === 'open') queueMicrotask(work)
  }
  send(data: unknown) {
    this.sent.push(data)
  }
  close() {
    this.readyState = 3
  }
}
let port: { onmessage: ((event: { data: ArrayBuffer }) => void) | null }
const track = { stop: vi.fn(), addEventListener: vi.fn(), getSettings: () => ({ echoCancellation: true }) }
const stream = { getTracks: () => [track], getAudioTracks: () => [track] } as unknown as MediaStream

beforeEach(() => {
  port = { onmessage: null }
  track.stop.mockClear()
  vi.stubGlobal('WebSocket', Socket)
  vi.stubGlobal(
    'AudioContext',
    class {
      audioWorklet = { addModule: async () => {} }
      createMediaStreamSource = () => ({ connect: () => {} })
      resume = async () => {}
      close = async () => {}
    },
  )
  vi.stubGlobal(
    'AudioWorkletNode',
    class {
      port = port
    },
  )
})
afterEach(() => vi.unstubAllGlobals())

async function started(to?: { path: string; hello?: string }) {
  const ended = vi.fn()
  const sender = new SoundSender('a', 'Lapel', stream, ended, to)
  void sender.start()
  await vi.waitFor(() => expect(port.onmessage).not.toBeNull())
  return { sender, ended }
}
const block = () => port.onmessage!({ data: new ArrayBuffer(1928) })

it('drops what a stalled network does not take and never keeps it', async () => {
  await started()
  block()
  Socket.last.bufferedAmount = 48_000
  for (let at = 0; at < 100; at++) block()
  expect(Socket.last.sent.length).toBe(1)
  Socket.last.bufferedAmount = 0
  block()
  expect(Socket.last.sent.length).toBe(2)
})

it('says who it is first where the door asks for it', async () => {
  await started({ path: '/api/guest/sound', hello: 'token' })
  block()
  expect(Socket.last.sent[0]).toBe('token')
  expect(Socket.last.url).toContain('/api/guest/sound')
})

it('stops the track when it is stopped, leaves it when it only leaves, and ends once', async () => {
  const one = await started()
  one.sender.leave()
  one.sender.leave()
  expect(track.stop).not.toHaveBeenCalled()
  expect(one.ended).toHaveBeenCalledTimes(1)
  const two = await started()
  two.sender.stop()
  expect(track.stop).toHaveBeenCalled()
  block()
  expect(Socket.last.sent.length).toBe(0)
})

it('tells what the browser really does to the sound', () => {
  const sender = new SoundSender('a', 'Lapel', stream, () => {})
  expect(sender.processing).toEqual({ echo: true, noise: false, gain: false })
})

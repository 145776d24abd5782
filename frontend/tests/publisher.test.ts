import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { heed } from '@/shared/pace'
import { Publisher } from '@/shared/publisher'

let failing: number // so many times from now on what is asked of the encoder fails
let cannot: string[] // codecs that fail whenever they are asked
let silent: string[] // codecs that take all and give nothing
let marks: Set<number>
let supported: boolean[] // what the browser says next; true after that
let offered: ((frame: object) => void) | null
let broken: string[]
const closed = vi.fn()

class Encoder {
  static isConfigSupported = async () => ({ supported: supported.shift() ?? true })
  state = 'unconfigured'
  encodeQueueSize = 0
  constructor(private readonly to: { output: (chunk: object) => void; error: (error: Error) => void }) {}
  private codec = ''
  configure({ codec }: { codec: string }) {
    this.codec = codec
    this.state = 'configured'
  }
  close() {
    this.state = 'closed'
  }
  encode(frame: { timestamp: number }) {
    if (failing-- > 0 || cannot.includes(this.codec)) {
      this.state = 'closed'
      return this.to.error(new Error('the encoder ended'))
    }
    if (silent.includes(this.codec)) return
    const copyTo = () => {}
    this.to.output({ timestamp: frame.timestamp, type: 'key', byteLength: 5, copyTo })
  }
}
class Socket {
  static OPEN = 1
  static sent = 0
  readyState = 1
  bufferedAmount = 0
  addEventListener(name: string, work: () => void) {
    if (name === 'open') queueMicrotask(work)
  }
  send(message: Uint8Array) {
    Socket.sent++
    marks.add(message[0]! & 2)
  }
  close() {}
}
class Processor {
  readable = {
    getReader: () => ({
      read: () => new Promise((done) => (offered = (value) => done({ value, done: false }))),
      cancel: async () => {},
    }),
  }
}

beforeEach(() => {
  vi.useFakeTimers()
  vi.spyOn(console, 'warn').mockImplementation(() => {})
  silent = []
  ;[failing, cannot, supported, offered, broken, Socket.sent] = [0, [], [], null, [], 0]
  marks = new Set()
  closed.mockClear()
  vi.stubGlobal('VideoEncoder', Encoder)
  vi.stubGlobal('WebSocket', Socket)
  vi.stubGlobal('MediaStreamTrackProcessor', Processor)
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
  vi.restoreAllMocks()
})

function sending() {
  return new Publisher({} as MediaStreamTrack, {
    path: '/api/cameras/a',
    prefers: 'sharp',
    onDown: () => {},
    onBroken: (sentence) => broken.push(sentence),
  })
}
let time = 0
async function frame() {
  await vi.advanceTimersByTimeAsync(50)
  const give = offered
  offered = null
  give?.({ displayWidth: 1280, displayHeight: 720, timestamp: time++, close: closed })
  await vi.advanceTimersByTimeAsync(50)
}
async function frames(count: number) {
  for (let at = 0; at < count; at++) await frame()
}

it('an encoder that ends is taken anew after a moment, without a word', async () => {
  const one = sending()
  await frames(3)
  expect(Socket.sent).toBe(3)
  failing = 1
  await frames(20)
  expect(broken).toEqual([])
  expect(Socket.sent).toBeGreaterThan(10)
  expect(closed).toHaveBeenCalledTimes(23)
  one.close()
})

it('sends as many pictures a second as it is told, and rests', async () => {
  const one = sending()
  await frames(10) // of ten a second
  expect(Socket.sent).toBe(10)
  heed('go 5', one)
  await frames(20)
  expect(Socket.sent).toBeGreaterThanOrEqual(19)
  expect(Socket.sent).toBeLessThanOrEqual(21)
  const before = Socket.sent
  heed('rest', one)
  await frames(5)
  expect(Socket.sent).toBe(before)
  one.close()
})

it('a browser that says no while it is busy is asked again', async () => {
  supported = [false, false] // both ways
  const one = sending()
  await frames(20)
  expect(broken).toEqual([])
  expect(Socket.sent).toBeGreaterThan(5)
  one.close()
})

it('one that cannot is told once, and nothing goes on behind it', async () => {
  supported = Array(6).fill(false)
  sending()
  await frames(60)
  expect(broken).toEqual(['This browser cannot send this camera’s picture. Use a current browser.'])
  expect(Socket.sent).toBe(0)
})

it('where what the browser says it can encode never comes, the next way is taken', async () => {
  cannot = ['avc1.42E028']
  const one = sending()
  await frames(60)
  expect(broken).toEqual([])
  expect(Socket.sent).toBeGreaterThan(20)
  expect([...marks]).toEqual([2])
  one.close()
})

it('an encoder that takes pictures and gives none is left for the other', async () => {
  silent = ['avc1.42E028']
  const one = sending()
  await frames(60)
  expect(broken).toEqual([])
  expect(Socket.sent).toBeGreaterThan(10)
  expect([...marks]).toEqual([2])
  one.close()
  const next = sending()
  await frames(3)
  expect([...marks]).toEqual([2])
  expect(Socket.sent).toBeGreaterThan(13)
  silent.push('vp8')
  await frames(60)
  expect(broken).toEqual(['This browser cannot send this camera’s picture at this size.'])
  next.close()
})

it('a size that no encoder takes is told once', async () => {
  failing = 1e9
  sending()
  await frames(60)
  expect(broken).toEqual(['This browser cannot send this camera’s picture at this size.'])
})

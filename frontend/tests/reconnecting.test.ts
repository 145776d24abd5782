import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { reconnecting } from '@/shared/reconnecting'

class FakeSocket {
  static all: FakeSocket[] = []
  static OPEN = 1
  readyState = 0
  binaryType = ''
  onopen?: () => void
  onmessage?: (event: { data: unknown }) => void
  onclose?: (event: { code: number; reason: string }) => void
  constructor(readonly url: string) {
    FakeSocket.all.push(this)
  }
  open() {
    this.readyState = 1
    this.onopen?.()
  }
  drop(code = 1006, reason = '') {
    this.readyState = 3
    this.onclose?.({ code, reason })
  }
  close() {
    this.drop(1000)
  }
}

beforeEach(() => {
  FakeSocket.all = []
  vi.stubGlobal('WebSocket', FakeSocket)
  vi.useFakeTimers()
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

describe('a socket that comes back by itself', () => {
  it('tries again, slower each time, and fast again once it was open', () => {
    reconnecting(
      () => 'ws://x',
      () => {},
      () => {},
    )
    const waits = []
    for (let turn = 0; turn < 6; turn++) {
      FakeSocket.all.at(-1)!.drop()
      let waited = 0
      const before = FakeSocket.all.length
      while (FakeSocket.all.length === before) {
        vi.advanceTimersByTime(50)
        waited += 50
      }
      waits.push(waited)
    }
    expect(waits).toEqual([250, 500, 1000, 2000, 3000, 3000])
    FakeSocket.all.at(-1)!.open()
    FakeSocket.all.at(-1)!.drop()
    const before = FakeSocket.all.length
    vi.advanceTimersByTime(250)
    expect(FakeSocket.all.length).toBe(before + 1)
  })

  it.each([1003, 1008, 4404, 4409])('takes %d as the last word', (code) => {
    const down = vi.fn()
    reconnecting(
      () => 'ws://x',
      () => {},
      () => {},
      down,
    )
    FakeSocket.all[0]!.drop(code, 'No.')
    vi.advanceTimersByTime(60_000)
    expect(FakeSocket.all).toHaveLength(1)
    expect(down).toHaveBeenCalledWith('No.')
  })

  it('stays closed once it was closed', () => {
    const line = reconnecting(
      () => 'ws://x',
      () => {},
      () => {},
    )
    FakeSocket.all[0]!.open()
    expect(line.socket()).not.toBeNull()
    line.close()
    vi.advanceTimersByTime(60_000)
    expect(FakeSocket.all).toHaveLength(1)
    expect(line.socket()).toBeNull()
  })
})

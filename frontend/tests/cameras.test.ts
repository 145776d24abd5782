import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { api, type Device } from '@/api/client'
import { useCameras } from '@/kit/cameras'
import * as capture from '@/kit/capture'
import * as sender from '@/shared/cameraSender'

const DESK = { id: 'desk', kind: 'camera', source: 'a', serves: 'page' } as Device
const track = { stop: vi.fn() }
const stream = { getTracks: () => [track], getVideoTracks: () => [track] } as unknown as MediaStream
const busy = new DOMException('in use', 'NotReadableError')
const open = vi.fn<typeof capture.openCamera>()
let broken: (sentence: string) => void
const sends = { rest: () => {}, prefer: () => {}, limit: () => {}, close: vi.fn() }

beforeEach(() => {
  vi.useFakeTimers()
  setActivePinia(createPinia())
  track.stop.mockClear()
  open.mockReset()
  vi.spyOn(capture, 'openCamera').mockImplementation(open)
  vi.spyOn(api, 'PUT').mockResolvedValue({ response: new Response() } as never)
  vi.spyOn(sender, 'sendCamera').mockImplementation((_, to) => {
    broken = to.onBroken
    return sends
  })
})
afterEach(() => {
  vi.restoreAllMocks()
  vi.useRealTimers()
})
const phase = () => useCameras().status.get('desk')?.phase
const after = (seconds: number) => vi.advanceTimersByTimeAsync(1000 * seconds)

it('a camera that another program uses comes back by itself, and its trouble stays said until then', async () => {
  open.mockRejectedValue(busy)
  await useCameras().bring(DESK)
  await after(4)
  expect(useCameras().status.get('desk')).toMatchObject({ phase: 'trouble', trouble: 'busy' })
  await after(7)
  expect(phase()).toBe('trouble')
  expect(open).toHaveBeenCalledTimes(3)
  open.mockResolvedValue(stream)
  await after(5)
  expect(phase()).toBe('sending')
  await after(60)
  expect(open).toHaveBeenCalledTimes(4)
})

it('one whose sender broke is opened again', async () => {
  open.mockResolvedValue(stream)
  await useCameras().bring(DESK)
  broken('It cannot.')
  expect(useCameras().status.get('desk')).toMatchObject({ phase: 'trouble', sentence: 'It cannot.' })
  expect(track.stop).toHaveBeenCalled()
  await after(5)
  expect(phase()).toBe('sending')
})

it('one that was let go of meanwhile is not opened, and one that came too late is let go of', async () => {
  open.mockRejectedValue(busy)
  await useCameras().bring(DESK)
  useCameras().letGo('desk')
  await after(60)
  expect(open).toHaveBeenCalledTimes(1)
  await useCameras().bring(DESK)
  let give: (opened: MediaStream) => void = () => {}
  open.mockImplementation(() => new Promise((done) => (give = done)))
  await after(5)
  useCameras().letGo('desk')
  give(stream)
  await after(0)
  expect(track.stop).toHaveBeenCalled()
  expect(phase()).toBeUndefined()
})

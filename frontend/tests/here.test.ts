import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { api } from '@/api/client'
import { useCameras } from '@/kit/cameras'
import * as capture from '@/kit/capture'
import { useHere } from '@/kit/here'
import { useLive } from '@/shared/live'

const CAMERA = { source: 'a', label: 'Desk camera', max_width: 1920, max_height: 1080 }
type Asked = (value: unknown) => void

describe('which cameras are here', () => {
  let asked: Asked[] = []
  const answers = (turn: number, name: string) =>
    asked[turn]!({ data: { name, sources: {}, moved: [] }, response: new Response() })
  const fails = (turn: number) =>
    asked[turn]!({ error: { detail: 'Not now.' }, response: new Response(null, { status: 503 }) })
  const settled = () => vi.advanceTimersByTimeAsync(0)
  const look = () => {
    void useHere().look()
    return settled()
  }
  const name = () => (useHere().found as { name?: string } | null)?.name

  beforeEach(() => {
    vi.useFakeTimers()
    setActivePinia(createPinia())
    asked = []
    vi.spyOn(capture, 'camerasHere').mockResolvedValue([CAMERA] as never)
    vi.spyOn(api, 'POST').mockImplementation(() => new Promise((told) => asked.push(told as Asked)) as never)
  })
  afterEach(() => {
    vi.restoreAllMocks()
    vi.useRealTimers()
  })

  it('are told by the newest look that was answered, in whatever order answers come', async () => {
    await look()
    await look()
    answers(1, 'new')
    await settled()
    answers(0, 'old')
    await settled()
    expect(name()).toBe('new')
  })
  it('are brought from where they moved to, also by an answer that comes after a later one', async () => {
    useLive().kit = { devices: [{ id: 'desk', kind: 'camera', source: 'yesterday' }] } as never
    const bring = vi.spyOn(useCameras(), 'bring').mockResolvedValue()
    await look()
    await look()
    answers(1, 'new')
    asked[0]!({ data: { sources: { desk: 'a' }, moved: ['desk'] }, response: new Response() })
    await settled()
    expect(bring).toHaveBeenCalledWith({ id: 'desk', kind: 'camera', source: 'a' })
    expect(name()).toBe('new')
  })
  it('are told by the look before where the newest fails', async () => {
    await look()
    await look()
    fails(1)
    answers(0, 'old')
    await settled()
    expect(name()).toBe('old')
  })
  it('are asked for again after a failure, ever more rarely, until they are told', async () => {
    await look()
    fails(0)
    await vi.advanceTimersByTimeAsync(1000)
    expect(asked).toHaveLength(2)
    fails(1)
    await vi.advanceTimersByTimeAsync(1000)
    expect(asked).toHaveLength(2)
    await vi.advanceTimersByTimeAsync(1000)
    answers(2, 'at last')
    await vi.advanceTimersByTimeAsync(60_000)
    expect(name()).toBe('at last')
    expect(asked).toHaveLength(3)
  })
  it('are asked for by one at a time: a look begun since takes over', async () => {
    await look()
    fails(0)
    await settled()
    await look()
    answers(1, 'since')
    await vi.advanceTimersByTimeAsync(60_000)
    expect(asked).toHaveLength(2)
  })
})

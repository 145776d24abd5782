import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it, vi } from 'vitest'
import { nextTick } from 'vue'
import { useLive } from '@/shared/live'
import { useMicrophones } from '@/sound/microphones'

const { PUT } = vi.hoisted(() => ({ PUT: vi.fn() }))
vi.mock('@/api/client', () => ({
  api: { PUT },
  answer: async (asked: Promise<unknown>) => (await asked) ?? {},
}))

const PHONE = 'phone-1'
const news = (id: string | null, version: number) => {
  const live = useLive()
  live.state = { microphone: id ? { id } : null, versions: { sound: version } } as unknown as NonNullable<
    typeof live.state
  >
}
const asked = () => PUT.mock.calls.map(([, sent]) => (sent as { body: { id: string | null } }).body.id)

beforeEach(() => {
  setActivePinia(createPinia())
  PUT.mockReset()
  let version = 1
  PUT.mockImplementation(async () => ({ version: ++version }))
})

it('holds the key against the last press, not against older news', async () => {
  const microphones = useMicrophones()
  news(PHONE, 1)
  await microphones.open(PHONE)
  await microphones.open(null) // M
  news(PHONE, 2) // late news of the press before
  await nextTick()
  await microphones.hold(true)
  expect(asked()).toEqual([PHONE, null, PHONE])
  await microphones.hold(false)
  expect(asked()).toEqual([PHONE, null, PHONE, null])
})

it('believes news that are newer, and the news alone when a press was refused', async () => {
  const microphones = useMicrophones()
  news(null, 1)
  await microphones.open(PHONE)
  expect(microphones.openNow()).toBe(PHONE)
  news(PHONE, 2)
  await nextTick()
  news(null, 3) // another tab closed it
  await nextTick()
  expect(microphones.openNow()).toBe(null)
  PUT.mockRejectedValue(new Error('refused'))
  await microphones.open(PHONE)
  expect(microphones.openNow()).toBe(null)
})

it('a microphone that the browser gives no name has one by which it can be told', async () => {
  const found = [
    { kind: 'audioinput', deviceId: 'a', label: 'Lapel', groupId: '1' },
    { kind: 'audioinput', deviceId: 'b', label: '', groupId: '2' },
  ]
  const getUserMedia = vi.fn(async () => ({ getTracks: () => [] }))
  const mediaDevices = { getUserMedia, enumerateDevices: async () => found, addEventListener: () => {} }
  vi.stubGlobal('navigator', { mediaDevices })
  const microphones = useMicrophones()
  await microphones.look()
  expect(microphones.here.map((one) => one.label)).toEqual(['Lapel', 'Microphone 2'])
  vi.unstubAllGlobals()
})

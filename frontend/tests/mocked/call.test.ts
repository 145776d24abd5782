import { flushPromises, mount } from '@vue/test-utils'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import CallPage from '@/call/CallPage.vue'

const { arrived } = vi.hoisted(() => ({ arrived: vi.fn() }))
vi.mock('vue-router', () => ({ useRoute: () => ({ query: {} }) }))
vi.mock('@/call/peers', () => ({
  TwoPeers: class {
    arrived = arrived
    async send() {}
    close() {}
  },
}))

const FIGURES = [{ width: 640, height: 480, fps: 30, codec: 'VP8', sound: false, delayMs: null }]

beforeEach(() => {
  vi.useFakeTimers()
  const mediaDevices = Object.assign(new EventTarget(), {
    enumerateDevices: async () => [],
    getUserMedia: async () => Object.assign(new MediaStream(), { getTracks: () => [] }),
  })
  vi.stubGlobal('navigator', { mediaDevices })
  vi.stubGlobal('RTCPeerConnection', class {})
})
afterEach(() => {
  vi.useRealTimers()
  vi.unstubAllGlobals()
})

it('once it is left neither the picture stays nor do figures come', async () => {
  let come: (figures: unknown) => void = () => {}
  arrived.mockResolvedValueOnce(FIGURES).mockReturnValueOnce(new Promise((resolve) => (come = resolve)))
  const page = mount(CallPage, { global: { stubs: { Segmented: true } } })
  const press = async (name: string) => {
    await page.findAll('button').find((one) => one.text() === name)!.trigger('click') // prettier-ignore
    await flushPromises()
  }
  await press('Join')
  const own = page.get('video').element
  expect(own.srcObject).not.toBeNull()
  await vi.advanceTimersByTimeAsync(1000)
  expect(page.get('[role=status]').text()).toContain('30 pictures a second')
  await vi.advanceTimersByTimeAsync(1000)
  await press('Leave')
  come(FIGURES)
  await flushPromises()
  expect(page.get('[role=status]').text()).toBe('')
  expect(own.srcObject).toBeNull()
  page.unmount()
})

it('without WebRTC it says so and opens no camera', async () => {
  Reflect.deleteProperty(globalThis, 'RTCPeerConnection')
  const camera = vi.spyOn(navigator.mediaDevices, 'getUserMedia')
  const page = mount(CallPage, { global: { stubs: { Segmented: true } } })
  await page.findAll('button').find((one) => one.text() === 'Join')!.trigger('click') // prettier-ignore
  await flushPromises()
  expect(page.text()).toContain('no WebRTC')
  expect(camera).not.toHaveBeenCalled()
  page.unmount()
})

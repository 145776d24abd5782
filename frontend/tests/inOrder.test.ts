import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { inOrder } from '@/shared/inOrder'

let sent: { text: string; answer: (ok: boolean) => void }[]

beforeEach(() => {
  sent = []
  vi.stubGlobal('fetch', (request: Request) => {
    const text = `${request.method} ${new URL(request.url).pathname}`
    return new Promise((done, fail) =>
      sent.push({ text, answer: (ok) => (ok ? done(new Response()) : fail(new TypeError('no line'))) }),
    )
  })
})
afterEach(() => vi.unstubAllGlobals())

const put = (path: string) => inOrder(new Request(`http://here${path}`, { method: 'PUT', body: '{}' }))
const texts = () => sent.map((one) => one.text)
const settle = () => new Promise((done) => setTimeout(done))

it('sends the second change of one address only once the first is answered', async () => {
  const [first, second] = [put('/api/sound/kit'), put('/api/sound/kit')]
  await settle()
  expect(texts()).toEqual(['PUT /api/sound/kit'])
  sent[0]!.answer(true)
  await first
  await settle()
  expect(texts()).toEqual(['PUT /api/sound/kit', 'PUT /api/sound/kit'])
  sent[1]!.answer(true)
  expect((await second).ok).toBe(true)
})

it('is held up by no other address and by no look', async () => {
  void put('/api/sound/kit')
  void put('/api/teach/plate')
  void inOrder(new Request('http://here/api/sound/kit'))
  await settle()
  expect(texts().sort()).toEqual(['GET /api/sound/kit', 'PUT /api/sound/kit', 'PUT /api/teach/plate'])
  sent.forEach((one) => one.answer(true))
})

it('goes on after one that never came through', async () => {
  const [first, second] = [put('/a'), put('/a')]
  await settle()
  sent[0]!.answer(false)
  await expect(first).rejects.toThrow('no line')
  await settle()
  sent[1]!.answer(true)
  expect((await second).ok).toBe(true)
  const third = put('/a')
  await settle()
  expect(sent.length).toBe(3)
  sent[2]!.answer(true)
  await third
})

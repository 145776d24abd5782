import { effectScope, nextTick, reactive, ref } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { api } from '@/api/client'
import { useChain } from '@/square-up/chain'

const live = reactive({ state: { version: 1 }, feeds: new Map(), signature: () => `${live.state.version}` })
vi.mock('@/shared/live', () => ({ useLive: () => live }))
vi.mock('@/shared/sentences', () => ({
  useSentences: () => ({
    attempt: async (work: () => Promise<unknown>) => {
      try {
        return await work()
      } catch {
        return undefined
      }
    },
  }),
}))

type Answered = (value: unknown) => void
let asked: Answered[] = []
let sent: { body: unknown; done: Answered }[] = []
const settle = () => new Promise((done) => setTimeout(done))
const view = (mirrored: boolean) => ({
  data: { device: { id: 'desk' }, chain: { square: {}, mirror: { left_right: mirrored } } },
  response: new Response(),
})
const refused = () => ({ error: { detail: 'No.' }, response: new Response(null, { status: 422 }) })

beforeEach(() => {
  asked = []
  sent = []
  vi.spyOn(api, 'GET').mockImplementation(() => new Promise((done) => asked.push(done as Answered)) as never)
  vi.spyOn(api, 'PATCH').mockImplementation(
    ((_: string, options: { body: unknown }) =>
      new Promise((done) => sent.push({ body: options.body, done: done as Answered }))) as never,
  )
})
afterEach(() => vi.restoreAllMocks())

it('an older look that is answered late does not bring an older chain back', async () => {
  const scope = effectScope()
  const { chain } = scope.run(() => useChain(ref('desk')))!
  live.state.version++
  await nextTick()
  expect(asked).toHaveLength(2)
  asked[1]!(view(false))
  await settle()
  expect(chain.value?.mirror.left_right).toBe(false)
  asked[0]!(view(true))
  await settle()
  expect(chain.value?.mirror.left_right).toBe(false)
  scope.stop()
})

it('where the newest look has no answer, the one before it counts', async () => {
  const scope = effectScope()
  const { chain } = scope.run(() => useChain(ref('desk')))!
  live.state.version++
  await nextTick()
  asked[1]!({ error: {}, response: new Response(null, { status: 503 }) })
  asked[0]!(view(true))
  await settle()
  expect(chain.value?.mirror.left_right).toBe(true)
  scope.stop()
})

it('a change is shown at once, and one that is refused does not stay', async () => {
  const scope = effectScope()
  const { chain, part } = scope.run(() => useChain(ref('desk')))!
  asked[0]!(view(false))
  await settle()
  part('mirror', { left_right: true })
  expect(chain.value?.mirror.left_right).toBe(true)
  expect(sent[0]!.body).toEqual({ link: 'mirror', values: { left_right: true }, settled: true })
  sent[0]!.done(refused())
  await settle()
  asked.at(-1)!(view(false))
  await settle()
  expect(chain.value?.mirror.left_right).toBe(false)
  scope.stop()
})

it('a look that was asked for before a press does not take the press back', async () => {
  const scope = effectScope()
  const { chain, part } = scope.run(() => useChain(ref('desk')))!
  asked[0]!(view(false))
  await settle()
  live.state.version++
  await nextTick()
  part('mirror', { left_right: true })
  asked[1]!(view(false))
  await settle()
  expect(chain.value?.mirror.left_right).toBe(true)
  sent[0]!.done(view(true))
  await settle()
  expect(chain.value?.mirror.left_right).toBe(true)
  scope.stop()
})

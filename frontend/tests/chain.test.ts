import { effectScope, nextTick, reactive, ref } from 'vue'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { api } from '@/api/client'
import { useChain } from '@/square-up/chain'

const live = reactive({ state: { version: 1 }, feeds: new Map() })
vi.mock('@/shared/live', () => ({ useLive: () => live }))
vi.mock('@/shared/sentences', () => ({ useSentences: () => ({ attempt: (work: () => unknown) => work() }) }))

type Told = (value: unknown) => void
let asked: Told[] = []
const answers = async (look: number, mirrored: boolean) => {
  asked[look]!({
    data: { chain: { square: {}, mirror: { left_right: mirrored } } },
    response: new Response(),
  })
  await new Promise((done) => setTimeout(done))
}

beforeEach(() => {
  asked = []
  vi.spyOn(api, 'GET').mockImplementation(() => new Promise((told) => asked.push(told as Told)) as never)
})
afterEach(() => vi.restoreAllMocks())

it('an older look that is answered late does not bring an older chain back', async () => {
  const scope = effectScope()
  const { chain } = scope.run(() => useChain(ref('desk')))!
  live.state.version++
  await nextTick()
  expect(asked).toHaveLength(2)
  await answers(1, false)
  expect(chain.value?.mirror.left_right).toBe(false)
  await answers(0, true)
  expect(chain.value?.mirror.left_right).toBe(false)
  scope.stop()
})

it('where the newest look has no answer, the one before it counts', async () => {
  const scope = effectScope()
  const { chain } = scope.run(() => useChain(ref('desk')))!
  live.state.version++
  await nextTick()
  asked[1]!({ error: {}, response: new Response(null, { status: 503 }) })
  await answers(0, true)
  expect(chain.value?.mirror.left_right).toBe(true)
  scope.stop()
})

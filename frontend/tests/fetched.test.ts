import { effectScope, nextTick, ref } from 'vue'
import { expect, it } from 'vitest'
import { useFetched, versionsOf } from '@/shared/fetched'

const settle = async () => {
  await nextTick()
  await new Promise((later) => setTimeout(later))
}

function looking() {
  const signature = ref<string | null>('1')
  const news = ref(0)
  const asked: ((value: string | undefined) => void)[] = []
  const taken: string[] = []
  const scope = effectScope()
  const fetched = scope.run(() =>
    useFetched(
      () => signature.value,
      news,
      () => new Promise<string | undefined>((done) => asked.push(done)),
      (value) => taken.push(value),
    ),
  )!
  return { signature, news, asked, taken, fetched, scope }
}

it('news alone asks nothing again', async () => {
  const { news, asked, taken, scope } = looking()
  asked[0]!('one')
  await settle()
  for (let n = 0; n < 5; n++) {
    news.value++
    await settle()
  }
  expect([asked.length, taken]).toEqual([1, ['one']])
  scope.stop()
})

it('a look that failed is tried again with the next news', async () => {
  const { news, asked, taken, scope } = looking()
  asked[0]!(undefined)
  await settle()
  expect(asked).toHaveLength(1)
  news.value++
  await settle()
  asked[1]!('at last')
  await settle()
  expect(taken).toEqual(['at last'])
  scope.stop()
})

it('an older answer that comes late tells nothing', async () => {
  const { signature, asked, taken, scope } = looking()
  signature.value = '2'
  await settle()
  asked[1]!('newer')
  await settle()
  asked[0]!('older')
  await settle()
  expect(taken).toEqual(['newer'])
  scope.stop()
})

it('what was asked before a change is passed over and asked again', async () => {
  const { news, asked, taken, fetched, scope } = looking()
  fetched.outdate()
  asked[0]!('before the change')
  await settle()
  news.value++
  await settle()
  asked[1]!('after it')
  await settle()
  expect(taken).toEqual(['after it'])
  scope.stop()
})

it('a signature is of the topics that were asked for', () => {
  const versions = { kit: 2, plates: 1, 'chain:a': 5, 'chain:b': 6 }
  expect(versionsOf(versions, 'kit', 'chain:a')).toBe('chain:a=5,kit=2')
  expect(versionsOf(versions, 'chain:')).toBe('chain:a=5,chain:b=6')
  expect(versionsOf(undefined, 'kit')).toBeNull()
})

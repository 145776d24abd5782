import { createPinia, setActivePinia } from 'pinia'
import { beforeEach, expect, it } from 'vitest'
import { effectScope, nextTick, ref } from 'vue'
import { useChanging } from '@/shared/changing'

beforeEach(() => setActivePinia(createPinia()))
const settle = async () => {
  await nextTick()
  await new Promise((later) => setTimeout(later))
}

/** A server that answers looks and commands only when it is let. */
function kept(more: { looksAfter?: boolean } = {}) {
  const signature = ref('1')
  const looks: ((answer: string) => void)[] = []
  const commands: ((answer: string | Error) => void)[] = []
  const shown: string[] = []
  const scope = effectScope()
  const changing = scope.run(() =>
    useChanging<string>({
      signature: () => signature.value,
      news: signature,
      look: () => new Promise((done) => looks.push(done)),
      take: (next) => shown.push(next),
      ...more,
    }),
  )!
  const run = () =>
    new Promise<string>((done, refused) =>
      commands.push((answer) => (answer instanceof Error ? refused(answer) : done(answer))),
    )
  return { signature, looks, commands, shown, changing, run, scope }
}

it('what was looked for before a change is not shown after it', async () => {
  const { looks, commands, shown, changing, run, scope } = kept()
  void changing.press(run)
  looks[0]!('older')
  await settle()
  commands[0]!('changed')
  await settle()
  expect(shown).toEqual(['changed'])
  scope.stop()
})

it('nothing is looked for while a command is under way, and news of that time are looked at with the next', async () => {
  const { signature, looks, commands, shown, changing, run, scope } = kept()
  looks[0]!('first')
  await settle()
  void changing.press(run)
  signature.value = '2'
  await settle()
  expect(looks).toHaveLength(1)
  commands[0]!('changed')
  await settle()
  signature.value = '3'
  await settle()
  looks[1]!('newest')
  await settle()
  expect(shown).toEqual(['first', 'changed', 'newest'])
  scope.stop()
})

it('what is refused is looked at again, what goes well only where its answer is not the whole', async () => {
  const { looks, commands, changing, run, scope } = kept()
  void changing.press(run)
  commands[0]!('changed')
  await settle()
  expect(looks).toHaveLength(1)
  void changing.drag('corner', true, run)
  commands[1]!(new Error('No.'))
  await settle()
  expect(looks).toHaveLength(2)
  scope.stop()

  const whole = kept({ looksAfter: true })
  void whole.changing.press(whole.run)
  whole.commands[0]!('changed')
  await settle()
  expect(whole.looks).toHaveLength(2)
  whole.scope.stop()
})

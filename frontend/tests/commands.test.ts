import { expect, it } from 'vitest'
import { Commands } from '@/shared/commands'

type Done = () => void

/** A server that answers only when it is let. */
function slow() {
  const waits: Done[] = []
  const ran: string[] = []
  const command =
    (name: string, fails = false) =>
    () =>
      new Promise<string | undefined>((done) => {
        ran.push(name)
        waits.push(() => done(fails ? undefined : name))
      })
  const answer = async () => {
    waits.shift()?.()
    await new Promise((later) => setTimeout(later))
  }
  return { command, ran, answer, waits }
}

it('two presses in a row both run, in order', async () => {
  const { command, ran, answer } = slow()
  const commands = new Commands<string>(() => {})
  void commands.press(command('up'))
  void commands.press(command('up again'))
  void commands.press(command('flip'))
  expect(ran).toEqual(['up'])
  for (let n = 0; n < 3; n++) await answer()
  expect(ran).toEqual(['up', 'up again', 'flip'])
})

it('positions of a drag take each other’s place, and the last one always arrives', async () => {
  const { command, ran, answer } = slow()
  const commands = new Commands<string>(() => {})
  for (const at of ['1', '2', '3', '4']) void commands.drag('corner', false, command(at))
  void commands.drag('corner', true, command('let go'))
  expect(ran).toEqual(['1'])
  await answer()
  await answer()
  expect(ran).toEqual(['1', 'let go'])
})

it('a drag takes no press’s place, nor another drag’s, nor one that was let go', async () => {
  const { command, ran, answer, waits } = slow()
  const commands = new Commands<string>(() => {})
  void commands.press(command('first'))
  void commands.drag('a', false, command('a 1'))
  void commands.press(command('press'))
  void commands.drag('a', true, command('a let go'))
  void commands.drag('a', false, command('a again'))
  void commands.drag('b', false, command('b'))
  while (waits.length) await answer()
  expect(ran).toEqual(['first', 'a 1', 'press', 'a let go', 'a again', 'b'])
})

it('only an answer that nothing waits behind is shown; after the last it says whether anything was refused', async () => {
  const { command, answer } = slow()
  const shown: string[] = []
  const ends: boolean[] = []
  const commands = new Commands<string>(
    (result) => shown.push(result),
    (failed) => ends.push(failed),
  )
  void commands.press(command('one'))
  void commands.press(command('refused', true))
  void commands.press(command('three'))
  for (let n = 0; n < 3; n++) await answer()
  expect(shown).toEqual(['three'])
  expect(ends).toEqual([true])
  void commands.press(command('four'))
  await answer()
  expect(ends).toEqual([true, false])
})

it('a command that throws is a refusal and the next one runs', async () => {
  const commands = new Commands<string>(() => {})
  const ran: string[] = []
  void commands.press(() => Promise.reject(new Error('gone')))
  await commands.press(async () => {
    ran.push('next')
    return 'next'
  })
  await new Promise((later) => setTimeout(later))
  expect(ran).toEqual(['next'])
})

it('once closed nothing more is sent', async () => {
  const { command, ran, answer } = slow()
  const commands = new Commands<string>(() => {})
  void commands.press(command('one'))
  void commands.press(command('two'))
  commands.close()
  await answer()
  void commands.press(command('three'))
  expect(ran).toEqual(['one'])
})

import { createPinia, setActivePinia } from 'pinia'
import { afterEach, beforeEach, expect, it, vi } from 'vitest'
import { api } from '@/api/client'
import { useAfter } from '@/after/after'
import { reordered } from '@/shared/reordered'
import { useSoundLook } from '@/sound/look'
import { useTools } from '@/teach/tools'
import { useWays } from '@/ways/ways'

type Sent = { path: string; body: Record<string, unknown>; answer: (data?: unknown) => void }
let sent: Sent[]
let looks: number

beforeEach(() => {
  setActivePinia(createPinia())
  sent = []
  looks = 0
  vi.spyOn(api, 'PUT').mockImplementation(((path: string, { body }: { body: Sent['body'] }) => {
    return new Promise((done) => {
      const refused = { error: { detail: 'No.' }, response: new Response(null, { status: 422 }) }
      const answer = (data?: unknown) => done(data ? { data, response: new Response() } : refused)
      sent.push({ path, body, answer })
    })
  }) as never)
  vi.spyOn(api, 'GET').mockImplementation((async () => {
    looks++
    return { data: {}, response: new Response() }
  }) as never)
})
afterEach(() => vi.restoreAllMocks())
const given = <T>(value: object) => value as T
const settle = () => new Promise((done) => setTimeout(done))
const ids = (all: unknown) => (all as { id: string }[]).map((one) => one.id).join('')

it('one is a place earlier or later, and nowhere beyond the ends', () => {
  const all = [{ id: 'a' }, { id: 'b' }, { id: 'c' }]
  const is = (id: string) => (one: { id: string }) => one.id === id
  expect(ids(reordered(all, is('a'), 1))).toBe('bac')
  expect(ids(reordered(all, is('c'), -1))).toBe('acb')
  expect([reordered(all, is('a'), -1), reordered(all, is('c'), 1), reordered(all, is('d'), 1)]).toEqual([
    null,
    null,
    null,
  ])
})

it('two quick changes of who watches are two', async () => {
  const ways = useWays()
  const viewers = [{ id: 'laptops', name: 'Laptops', count: 20 }]
  ways.view = given({ viewers, call: { id: 'usual', pins: true } })
  void ways.viewers(ways.view!.viewers.map((one) => ({ ...one, name: 'At home' })))
  void ways.viewers(ways.view!.viewers.map((one) => ({ ...one, count: 12 })))
  await settle()
  expect(sent).toHaveLength(1)
  sent[0]!.answer({ viewers: [{ id: 'laptops', name: 'At home', count: 20 }] })
  await settle()
  expect(sent[1]!.body).toEqual({ viewers: [{ id: 'laptops', name: 'At home', count: 12 }] })
  expect(ways.view!.viewers[0]!.count).toBe(12)
})

it('what is refused does not stay', async () => {
  const ways = useWays()
  ways.view = given({ viewers: [], call: { id: 'usual' } })
  void ways.call({ id: 'odd' } as never)
  expect(ways.view!.call.id).toBe('odd')
  await settle()
  const before = looks
  sent[0]!.answer()
  await settle()
  expect(looks).toBe(before + 1)
})

it('a tool’s second press starts from its first', async () => {
  const tools = useTools()
  tools.view = given({ recording: { piece_minutes: 0, by_step: false } })
  const plan = (part: object) => {
    const recording = { ...tools.view!.recording, ...part }
    void tools.change({ recording }, () => api.PUT('/api/after/plan', { body: recording as never }) as never)
  }
  plan({ piece_minutes: 10 })
  plan({ by_step: true })
  await settle()
  sent[0]!.answer({ recording: { piece_minutes: 10, by_step: false } })
  await settle()
  expect(sent[1]!.body).toEqual({ piece_minutes: 10, by_step: true })
})

it('a sheet that is moved twice is moved by two', async () => {
  const after = useAfter()
  const sheets = ['a', 'b', 'c', 'd'].map((id) => ({ id }))
  after.view.value = { lessons: [{ lesson_id: 'one', sheets }] } as never
  void after.move('a', 1)
  void after.move('a', 1)
  expect(ids(after.held.value!.sheets)).toBe('bcad')
  await settle()
  sent[0]!.answer({})
  await settle()
  expect(sent.map((one) => one.body.before)).toEqual(['c', 'd'])
})

const lapel = (worn: boolean) => ({ id: 'lapel', name: 'Lapel', worn })
const heard = (known: object[], worn: boolean) => ({
  declared: { microphones: known, stations: [] },
  microphones: [{ id: 'lapel', declared: lapel(worn) }],
})

it('a microphone’s tick that is pressed twice is as before', async () => {
  const look = useSoundLook()
  look.take(heard([], false) as never)
  const press = () => {
    const { declared } = look.sound!.microphones[0]!
    void look.declareMicrophone(declared, { worn: !declared.worn })
  }
  press()
  press()
  sent[0]!.answer(heard([lapel(true)], true))
  await settle()
  const last = sent.at(-1)!.body as { microphones: { worn: boolean }[] }
  expect(sent).toHaveLength(2)
  expect(last.microphones.map((known) => known.worn)).toEqual([false])
})

it('a look that was answered while a second change was on its way does not take its tick back', async () => {
  const look = useSoundLook()
  look.take(heard([lapel(false)], false) as never)
  const declared = () => look.sound!.microphones[0]!.declared
  void look.declareMicrophone(declared(), { name: 'Lapel, left' })
  await settle()
  void look.declareMicrophone(declared(), { worn: true })
  sent[0]!.answer(heard([lapel(false)], false))
  await settle()
  vi.mocked(api.GET).mockResolvedValue({
    data: heard([lapel(false)], false),
    response: new Response(),
  } as never)
  await look.look()
  expect(declared().worn).toBe(true)
})
